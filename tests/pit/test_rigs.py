"""What a rig is worth, from what is stored."""

from dataclasses import replace
from datetime import timedelta

import pytest
from sqlalchemy import update

from made import NOW, PULL, day, full, pulls
from waldhorn.core.base.errors import InputError, InputErrors, NotThere
from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import NoteKind
from waldhorn.core.judging.sentences import note_words
from waldhorn.pit.judging import judging
from waldhorn.pit.rigs import rigs, studies
from waldhorn.store import cached_verdicts, motors, readings
from waldhorn.store import rigs as store_rigs
from waldhorn.store.models import CheckRow

AMPS = (1.0, 1.4, 1.9, 2.4, 2.9, 3.3)


def read_on_both(session, days_apart=3.0):
    """Motors of one model that were read on the bench and on another rig, which shows a fifth more current."""
    ids = motors.add(session, [Motor(f"VS-{i}", "Skerry 36", label_kv=3450, poles=4) for i in range(len(AMPS))])
    for motor, amps in zip(ids, AMPS, strict=True):
        for at, rig, share in ((0, "bench", 1.0), (1, "bench", 1.01), (days_apart, "other", 1.2)):
            pulled(session, motor, at, rig, amps * share)
    motors.touch(session, ids)
    judging.settle(session, NOW)


def test_a_rig_shows_what_rests_on_it_and_how_well_it_repeats(session):
    read_on_both(session)
    found = rigs.view(session, "bench", NOW)
    assert (found.use.motors, found.use.checks, found.use.methods) == (6, 12, ("loaded-supply",))
    kv = next(r for r in found.repeats if r.quantity.name == "kv")
    assert (kv.sums.pairs, kv.sums.visit_pairs) == (12, 6)
    assert kv.shown.run < kv.usual.run
    with pytest.raises(NotThere, match="No reading names a rig nowhere"):
        rigs.view(session, "nowhere", NOW)
    every = {line.use.name: line for line in rigs.every(session, NOW)}
    assert every.keys() == {"bench", "other"}
    assert every["bench"].repeats["kv"] == kv.shown
    assert "kv" not in every["other"].repeats or every["other"].repeats["kv"] != kv.shown
    assert every["bench"].out == []
    assert [u.name for u in store_rigs.uses(session)] == ["bench", "other"]


def test_the_same_motors_on_both_rigs_give_the_line_between_them(session):
    read_on_both(session)
    current = next(b for b in rigs.view(session, "bench", NOW).beside if b.quantity.name == "no_load_current")
    assert (current.other, current.motors) == ("other", 6)
    assert current.fitted.k == pytest.approx(1.2 / 1.01)
    assert current.agreement.ratio == pytest.approx(1.2 / 1.01)
    speed = next(b for b in rigs.view(session, "bench", NOW).beside if b.quantity.name == "kv")
    assert (speed.fitted, "too close together" in speed.refused) == (None, True)


def test_what_was_read_months_apart_is_no_pair(session):
    read_on_both(session, days_apart=45)
    assert rigs.view(session, "bench", NOW).beside == []


def studied(session, **typed):
    motors.add(session, [Motor(t, poles=4) for t in ("A", "B", "C")])
    given = {"measure": "noise_avg", "visits": "2", "runs": "2"} | typed
    return studies.start(session, "bench", ticked(given.pop("motors", "A b C")) | given, NOW)


def ticked(tags):
    return {f"motor-{tag}": tag for tag in tags.split()}


def test_a_study_says_what_to_clamp_takes_it_and_teaches_the_rig(session):
    study_id = studied(session)
    for place in range(1, 7):
        found = studies.view(session, study_id)
        assert (found.following.place, found.result) == (place, None)
        level = {"A": 80, "B": 84, "C": 90}[found.following.tag] + place % 2
        studies.take_readings(
            session,
            study_id,
            {"run-1": str(level), "run-2": f"{level},3", "place": str(place)},
            NOW + timedelta(minutes=place),
        )
    done = studies.view(session, study_id)
    assert done.following is None
    assert done.result.run == pytest.approx(0.3 / 2**0.5)
    assert done.result.categories >= 2
    judging.settle(session, NOW + timedelta(hours=1))
    sums = cached_verdicts.rig_spreads(session)["bench", "noise_avg"]
    assert (sums.pairs, sums.visit_pairs) == (6, 3)
    history = readings.histories(session)
    assert all(not h.checks and len(h.studied) == 2 for h in history.values())


def test_a_study_is_offered_the_motors_that_lie_furthest_apart_on_its_rig(session):
    read_on_both(session)
    motors.add(session, [Motor("NEW", poles=4)])
    found = studies.choice(session, "other", "no_load_current")
    assert sorted(found.tags) == ["NEW", *(f"VS-{i}" for i in range(6))]
    assert (len(found.proposed), found.proposed[0], found.proposed[-1]) == (5, "VS-0", "VS-5")
    assert found.tags[:5] == found.proposed
    assert sorted(studies.choice(session, "nowhere", "kv").tags) == sorted(
        found.tags
    )  # a rig of its own begins with a study
    assert studies.choice(session, "bench", "detent_peak").proposed == []


def test_a_visit_of_a_study_is_taken_back(session):
    study_id = studied(session)
    first = studies.view(session, study_id)
    studies.take_readings(session, study_id, {"run-1": "80", "run-2": "80.4"}, NOW)
    assert studies.undo(session, study_id, NOW) == first.following.tag
    again = studies.view(session, study_id)
    assert again.following == first.following
    with pytest.raises(InputError, match="nothing was read"):
        studies.undo(session, study_id, NOW)


def test_a_visit_that_came_in_from_a_file_is_not_taken_back(session):
    study_id = studied(session)
    studies.take_readings(session, study_id, {"run-1": "80", "run-2": "80.4"}, NOW)
    session.execute(update(CheckRow).values(change_id=None))
    with pytest.raises(InputError, match="came in from a file"):
        studies.undo(session, study_id, NOW)


@pytest.mark.parametrize(
    ("typed", "field", "says"),
    [
        ({"motors": "A"}, "motors", "1 motors: tick 2 to 20"),
        ({"motors": "A Z"}, "motors", "no motor Z"),
        ({"visits": "1"}, "visits", "1 visits cannot be"),
        ({"runs": "many"}, "runs", "many runs cannot be"),
        ({"measure": "colour"}, "measure", "is none of"),
    ],
)
def test_a_study_that_cannot_be_is_refused_beside_its_field(session, typed, field, says):
    with pytest.raises(InputErrors) as refused:
        studied(session, **typed)
    assert says in refused.value.by_field[field]


def test_a_visit_wants_all_its_runs_and_the_motor_whose_turn_it_is(session):
    found = studies.view(session, studied(session))
    with pytest.raises(InputErrors) as refused:
        studies.take_readings(session, found.row.id, {"run-1": "80", "run-2": ""}, NOW)
    assert "run 2 is missing" in refused.value.by_field["run-2"]
    with pytest.raises(InputError, match="taken meanwhile"):
        studies.take_readings(session, found.row.id, {"run-1": "80", "run-2": "81", "place": "4"}, NOW)


def test_a_rig_typed_twice_becomes_one_and_its_file_still_brings_nothing_twice(session):
    read_on_both(session)
    with pytest.raises(InputError, match="other is there already, with"):
        rigs.rename(session, "bench", {"name": " Other "})
    assert rigs.rename(session, "bench", {"name": "Other", "sure": "other"}) == "other"
    judging.settle(session, NOW)
    assert [u.name for u in store_rigs.uses(session)] == ["other"]
    assert store_rigs.names(session) == {"bench": "other"}
    assert store_rigs.meant(session, "Bench ") == "other"
    before = readings.count(session)
    motor = motors.ids_by_tag(session)["vs-0"]
    made = pulls(0, *((7.4, AMPS[0], 25160.0),) * 2, conditions=replace(PULL, rig="other"), name="0")
    keys = readings.check_ids(session, [(motor, "0", made.at, made.readings[0].conditions)])
    assert readings.add(session, [(keys[motor, "0"], r) for r in made.readings]) == 0
    assert readings.count(session) == before


def test_a_rig_is_found_however_it_is_cased_or_spaced(session):
    read_on_both(session)
    session.query(CheckRow).update({"rig": "bench"})
    assert store_rigs.meant(session, "  BENCH ") == "bench"
    assert store_rigs.meant(session, "green  table") == "green table"


def test_what_is_said_of_a_rig_is_kept_and_too_much_is_refused(session):
    read_on_both(session)
    rigs.describe(session, "bench", {"what": "a stand", "measures": "supply amps"})
    assert rigs.view(session, "bench", NOW).said.measures == "supply amps"
    with pytest.raises(InputErrors) as refused:
        rigs.describe(session, "bench", {"what": "x" * 501, "measures": "volts"})
    assert set(refused.value.by_field) == {"what", "measures"}


def noisy(session, tag, levels, **facts):
    """A motor that was checked on the bench once a day, as loud as given."""
    [motor] = motors.add(session, [Motor(tag, "Skerry 36", label_kv=3450, poles=4, poles_known_by="counted", **facts)])
    for at, level in enumerate(levels):
        made = full(100 + at, noise=level, name=f"day {at}")
        keys = readings.check_ids(session, [(motor, made.id, made.at, made.readings[0].conditions)])
        readings.add(session, [(keys[motor, made.id], r) for r in made.readings])
    motors.touch(session, [motor])
    judging.settle(session, NOW)
    return motor


def test_a_rig_that_its_reference_motor_shows_to_be_out_marks_the_checks_of_the_day(session):
    raced = noisy(session, "VS-1", [81.0] * 4 + [90.0])
    assert judging.judge_motor(session, raced, NOW)[1].verdict == "unproven"
    assert "was out" not in judging.judge_motor(session, raced, NOW)[1].headline
    reference = noisy(session, "REF", [80.0] * 4 + [89.0], reference=True)
    assert [d.quantity for d in store_rigs.said_of_rigs(session)[0]] == ["noise_avg"]
    said = judging.judge_motor(session, raced, NOW)[1].headline
    assert said == "Unproven: bench was out when this was read. Read the reference motor, then this one again."
    [chart] = [c for c in rigs.view(session, "bench", NOW).charts if c.chart.quantity.name == "noise_avg"]
    assert (chart.tag, chart.chart.is_out) == ("REF", True)
    rigs.put_right(session, "bench", NOW)
    judging.settle(session, NOW)
    assert store_rigs.said_of_rigs(session)[0][0].until == NOW
    row = motors.get(session, reference)
    row.reference = False
    motors.touch(session, [reference])
    judging.settle(session, NOW)
    assert store_rigs.said_of_rigs(session)[0] == []
    assert "was out" not in judging.judge_motor(session, raced, NOW)[1].headline


def test_the_lines_between_rigs_are_kept_and_bring_a_past_from_one_to_the_other(session):
    read_on_both(session)
    assert store_rigs.said_of_rigs(session)[1]["bench", "other", "no_load_current"].k == pytest.approx(1.2 / 1.01)
    assert store_rigs.said_of_rigs(session, day(0)) == ([], {}, [])
    [moved] = motors.add(session, [Motor("NEW", label_kv=3450, poles=4)])
    for at, rig, amps in ((0, "bench", 2.0), (5, "bench", 2.0), (60, "other", 3.0)):
        pulled(session, moved, at, rig, amps)
    motors.touch(session, [moved])
    judging.settle(session, NOW)
    evidence = {e.quantity.name: e for e in judging.judge_motor(session, moved, NOW)[1].evidence}
    current = evidence["no_load_current"]
    assert (current.reference.source, current.change.value) == ("translated", pytest.approx(26, abs=1))
    assert evidence["kv"].has(NoteKind.NO_LINE)


def test_rigs_pair_by_the_readings_nearest_in_time_not_by_baselines_of_another_year(session):
    ids = motors.add(session, [Motor(f"VS-{i}", "Skerry 36", label_kv=3450, poles=4) for i in range(len(AMPS))])
    for motor, amps in zip(ids, AMPS, strict=True):
        for at, rig, share in ((-360, "bench", 1.0), (0, "bench", 1.1), (0.02, "other", 1.1 * 1.2)):
            pulled(session, motor, at, rig, amps * share)
    motors.touch(session, ids)
    judging.settle(session, NOW)
    current = next(b for b in rigs.view(session, "bench", NOW).beside if b.quantity.name == "no_load_current")
    assert (current.motors, current.fitted.k) == (6, pytest.approx(1.2))


def test_the_motor_that_is_judged_is_no_pair_of_its_own_line(session):
    read_on_both(session)
    motor = store_rigs.pairs(session, NOW)["bench", "other", "no_load_current"]
    [worn] = [i for i, (here, _) in motor.items() if here == pytest.approx(AMPS[0] * 1.01)]
    pulled(session, worn, 4, "other", AMPS[0] * 1.2 * 1.6)
    lines = judging.judging_contexts(session, {worn: Motor("VS-0", "Skerry 36")}, NOW)[worn].lines
    assert lines["bench", "other", "no_load_current"].pairs == len(AMPS) - 1
    of_all = store_rigs.said_of_rigs(session)[1]
    assert of_all["bench", "other", "no_load_current"].pairs == len(AMPS)
    assert set(lines) == set(of_all)


def test_a_second_rig_with_no_line_yet_undoes_no_keep_and_says_what_to_read_first(session):
    [motor] = motors.add(session, [Motor("VS-1", label_kv=3450, poles=4)])
    for at in (0, 5, 10):
        pulled(session, motor, at, "bench", 2.0)
    before = judging.judge_motor(session, motor, day(11))[1]
    pulled(session, motor, 12, "other", 2.9)
    after = judging.judge_motor(session, motor, day(13))[1]
    assert (after.verdict, after.headline) == (before.verdict, before.headline)
    current = next(e for e in after.evidence if e.quantity.name == "no_load_current")
    assert (current.now, current.reference.source) == (2.0, "own")
    said = [note_words(note, current.quantity) for note in current.notes]
    assert said == ["as read on bench: what other read has no line to it yet, and says nothing either way"]
    assert any(q.says == "Read on bench before, other now: read five motors on both first" for q in after.asks)


def pulled(session, motor, at, rig, amps):
    made = pulls(at, *((7.4, amps, 25160.0),) * 2, conditions=replace(PULL, rig=rig), name=f"{at}")
    keys = readings.check_ids(session, [(motor, made.id, made.at, made.readings[0].conditions)])
    readings.add(session, [(keys[motor, made.id], r) for r in made.readings])


def test_a_motor_that_goes_out_of_sight_is_a_pair_no_more(session):
    read_on_both(session)
    place = ("bench", "other", "no_load_current")
    gone = next(iter(store_rigs.pairs(session, NOW)[place]))
    judging.put_out_of_sight(session, [gone])
    assert gone not in store_rigs.pairs(session, NOW)[place]
