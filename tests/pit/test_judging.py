"""Judging what is stored: runs since, what repeats say of a rig, and when a verdict is judged again."""

from dataclasses import replace
from datetime import datetime, timedelta

import pytest

from made import NOW, PULL, day, history, pulls
from waldhorn.core.base.history import Event, Motor
from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs import learning
from waldhorn.core.rigs.repeatability import Spread
from waldhorn.pit.bench import checks, context, undoing
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.judging import figures, judging, view_cache
from waldhorn.pit.settings import limits_and_prices
from waldhorn.pit.writing import Writing, changing
from waldhorn.store import cached_verdicts, motors, pit, readings, rigs


def test_only_runs_after_a_time_are_counted():
    known = history(events=((1, "run"), (2, "crash"), (3, "run")))
    many = replace(known, events=(*known.events, Event(EventKind.RUN, day(4), 7)))
    assert judging.runs_since(many, None) == 9
    assert judging.runs_since(many, day(1)) == 8
    assert judging.runs_since(many, day(4)) == 0


def test_what_repeats_say_of_a_rig_is_pooled_within_a_check():
    other = replace(PULL, timing_set_deg=20.0)
    runs = pulls(0, (7.4, 2.0, 25160), (7.4, 2.2, 25160), name="c")
    more = pulls(0, (7.4, 3.0, 25160), (7.4, 3.3, 25160), conditions=other, name="c")
    both = replace(runs, readings=(*runs.readings, *(replace(r, run=r.run + 2) for r in more.readings)))
    apart = replace(
        both,
        readings=tuple(
            replace(r, conditions=replace(PULL, timing_set_deg=5.0)) if r.run < 3 else r for r in both.readings
        ),
    )
    spread = {s.quantity: s for s in learning.of_motor(all_groups(history(apart)), ())}["no_load_current"]
    assert (spread.check, spread.rig, spread.sums.pairs) == ("c", "bench", 2)
    assert spread.sums.squares == pytest.approx((0.2 / 2.1 * 100) ** 2 / 2 + (0.3 / 3.15 * 100) ** 2 / 2)


def test_the_totals_of_a_rig_follow_its_checks(session):
    (motor,) = motors.add(session, [Motor("VS-01", label_kv=3450, poles=4)])
    for number in range(3):
        made = pulls(number, (7.4, 2.0, 25160), (7.4, 2.2, 25200), name=str(number))
        ids = readings.check_ids(session, [(motor, made.id, made.at, PULL)])
        readings.add(session, [(ids[motor, made.id], r) for r in made.readings])
        motors.touch(session, [motor])
        judging.settle(session, NOW)
        for name in ("kv", "no_load_current"):
            kept = cached_verdicts.rig_spreads(session)["bench", name]
            slow = cached_verdicts.rig_spreads(session, day(number + 0.5))["bench", name]
            assert (kept.pairs, kept.visit_pairs) == (number + 1, min(number, 1))
            assert (kept.squares, kept.visit_squares) == (
                pytest.approx(slow.squares),
                pytest.approx(slow.visit_squares),
            )
    before = figures.repeatability(cached_verdicts.rig_spreads(session, day(-1)))
    assert before("bench", "kv") == Spread(*[QUANTITIES["kv"].repeatability] * 2)


def test_a_look_is_kept_until_the_store_changes_or_something_to_come_has_come(demo_store, monkeypatch):
    judged = []
    monkeypatch.setattr(view_cache, "judge_motor", lambda *given: judged.append(given) or judging.judge_motor(*given))
    now = datetime.now().astimezone()
    with demo_store.reading() as session:
        motor_id = motors.find(session, "VS-02").id
        first = view_cache.look_at(session, motor_id, now)
        assert view_cache.look_at(session, motor_id, now) == first
        view_cache.look_at(session, motor_id, now + timedelta(days=1))
    assert len(judged) == 2
    with changing(demo_store, Writing(now)) as session:
        motors.touch(session, [motor_id])
    with demo_store.reading() as session:
        view_cache.look_at(session, motor_id, now)
        assert len(view_cache.kept[session.get_bind()]) == 1  # what nobody can ask for again takes no memory
    assert len(judged) == 3
    with changing(demo_store, Writing(now)) as session:
        later = Event(EventKind.CRASH, now + timedelta(minutes=1))
        motors.add_events(session, [(motor_id, later)])
        motors.touch(session, [motor_id])
    with demo_store.reading() as session:
        crashed = [view_cache.look_at(session, motor_id, now + timedelta(minutes=m)).judgement.evidence for m in (0, 2)]
    assert crashed[0] != crashed[1]


def test_what_the_bench_reads_is_kept_while_one_types_and_read_anew_after_any_change(demo_store, monkeypatch):
    loaded = []
    really = context.load
    monkeypatch.setattr(context, "load", lambda *given, **more: loaded.append(given) or really(*given, **more))
    now = datetime.now().astimezone()
    with demo_store.reading() as session:
        [(motor_id, check_id)] = cached_verdicts.open_checks(session, None).items()
        assert context.at_bench(session, "nowhere", now) is None

    def at_bench(minutes=0):
        with demo_store.reading() as session:
            found = context.at_bench(session, check_id, now + timedelta(minutes=minutes))
            fresh = really(session, check_id, now + timedelta(minutes=minutes))
        assert found == replace(fresh, judging_context=found.judging_context)
        return found

    first, second = at_bench(), at_bench(1)
    assert (second.now - first.now, second.history is first.history) == (timedelta(minutes=1), True)
    with demo_store.writing() as session:
        checks.keep_draft(session, check_id, "pull", {"volts": "7.4"})
    at_bench()
    assert len(loaded) == 2  # that of no check, and this one once
    for change in (
        lambda session: rigs.describe(session, first.check.rig, rigs.Described(measures="supply amps")),
        lambda session: pit.change_settings(session, rig="another"),
        lambda session: checks.skip(session, really(session, check_id, now), STEPS["noise"]),
        lambda session: undoing.undo(session, motor_id, now),
        lambda session: limits_and_prices.save_prices(
            session, {"owner": "Ines", "new": "90", "repair": "5", "failure": "9"}
        ),
    ):
        loaded.clear()
        with demo_store.writing() as session:
            change(session)
        at_bench()
        assert len(loaded) == 1


def test_the_rack_hangs_the_worst_news_first():
    assert judging.RANK == {"retire": 0, "repair": 1, "unproven": 2, "watch": 3, "keep": 4}


def test_what_others_touch_meanwhile_is_theirs_to_judge(demo_store):
    now = datetime.now().astimezone()
    with demo_store.writing() as session:
        ids = motors.ids_by_tag(session)
        mine, theirs = (ids[key_of(tag)] for tag in ("VS-20", "VS-11"))
        since = cached_verdicts.revision(session)
        motors.touch(session, [mine])
        until = cached_verdicts.revision(session)
    with demo_store.writing() as session:
        motors.touch(session, [theirs])
    judging.settle_apart(demo_store, now, since=since, until=until)
    with demo_store.reading() as session:
        assert cached_verdicts.stale_ids(session, judging.JUDGE_VERSION) == [theirs]
        assert cached_verdicts.stale_ids(session, judging.JUDGE_VERSION, since, until) == []
