"""What the technician does: take in, check, set aside, sign, undo."""

import importlib
import pkgutil
from dataclasses import asdict, is_dataclass
from datetime import timedelta

import pytest

import waldhorn.pit
from made import NOW
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import TRIALS
from waldhorn.pit.bench import checks, signing, stepper, undoing, view
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import facts, rack
from waldhorn.store import motors as motor_store
from waldhorn.store import readings
from waldhorn.store.models import ReadingRow

FACTS = {"tag": "VS-01", "model": "Skerry 36", "label_kv": "3450", "poles": "4", "slots": "12", "mass_g": "178 g"}
RIG = {"rig": "green bench", "method": "loaded-supply", "motor_c": "24", "ambient_c": "72F"}


@pytest.fixture
def check(session):
    facts.take_in(session, FACTS, NOW)
    found = checks.open_check(session, motor_store.find(session, "VS-01"), NOW, "only:pull")
    take(session, found, "setup", **RIG)
    return found


def ctx_of(session, check, minutes=0):
    return load(session, check.id, NOW + timedelta(minutes=minutes))


def take(session, check, name, minutes=0, **typed):
    checks.take_step(session, ctx_of(session, check, minutes), STEPS[name], typed)


def run(session, check, volts="7,40", amps="2.00", rpm="25 160", minutes=0):
    take(session, check, "pull", minutes, volts=volts, amps=amps, rpm=rpm, p2p="50", throttle_pct="100")


def look(session, check, step=""):
    ctx = ctx_of(session, check)
    chosen = stepper.next_step(ctx, step)
    return view.view(ctx, checks.typed_so_far(session, ctx, chosen), chosen.name)


def test_taking_in_reads_what_was_typed(session):
    assert facts.take_in(session, FACTS, NOW) == ["VS-01"]
    assert motor_store.find(session, "VS-01").mass_g == 178
    with pytest.raises(InputErrors) as refused:
        facts.take_in(session, FACTS | {"tag": "vs-01", "poles": "7", "label_kv": "0", "slots": "1.5"}, NOW)
    wrong = refused.value.by_field
    assert "next free is VS-02" in wrong["tag"]
    assert set(wrong) == {"tag", "poles", "label_kv", "slots"}


def test_a_check_goes_on_where_it_was_left(session, check):
    assert checks.open_check(session, motor_store.find(session, "VS-01"), NOW).id == check.id
    assert look(session, check).step.name == "pull"
    run(session, check)
    assert look(session, check).step.name == "pull"
    run(session, check)
    assert look(session, check).step.name == "answer"


def test_a_run_that_is_typed_has_a_meaning_before_it_is_taken(session, check):
    run(session, check)
    checks.keep_draft(session, check.id, "pull", {"volts": "7.4", "amps": "2.1"})
    found = look(session, check)
    typed = found.view.rows[1]
    assert (typed.amps, typed.kv, typed.typed) == (2.1, None, True)
    assert found.run == 2
    checks.keep_draft(session, check.id, "pull", {"volts": "7.4", "amps": "2.1", "rpm": "25 ooo"})
    assert "is not a" in look(session, check).wrong["rpm"]
    assert readings.of_check(session, check.id)[0].value == 7.4


def test_missing_numbers_are_asked_for(session, check):
    with pytest.raises(InputErrors) as refused:
        take(session, check, "pull", volts="7.4", rpm="-5", step="8")
    assert refused.value.by_field == {"amps": "amps is still to come", "rpm": "rpm -5 rpm is below 0: look again"}


def test_the_odd_one_of_three_is_set_aside_and_undo_brings_it_back(session, check):
    run(session, check)
    run(session, check, rpm="26500")
    assert look(session, check).view.agreement["kv"].ask_again
    run(session, check)
    assert look(session, check).step.name == "answer"
    found = look(session, check, "pull")
    assert [bool(p.aside) for p in found.view.rows] == [False, True, False]
    assert found.view.rows[1].aside.startswith("odd one out: KV")
    assert undoing.undo(session, check.motor_id, NOW) == "full throttle, run 3 taken"
    found = look(session, check, "pull")
    assert [bool(p.aside) for p in found.view.rows] == [False, False, False]
    assert found.view.rows[2].typed
    assert found.typed["rpm"] == "25 160"


def test_a_run_is_set_aside_with_a_reason_and_counts_again(session, check):
    run(session, check)
    with pytest.raises(InputError, match="say why"):
        checks.set_aside(session, ctx_of(session, check), STEPS["pull"], 1, " ")
    with pytest.raises(InputError, match="no run 4"):
        checks.set_aside(session, ctx_of(session, check), STEPS["pull"], 4, "why")
    checks.set_aside(session, ctx_of(session, check), STEPS["pull"], 1, "clip slipped")
    assert {r.aside_reason for r in session.query(ReadingRow)} == {"clip slipped"}
    checks.bring_back(session, ctx_of(session, check), STEPS["pull"], 1)
    assert all(r.accepted for r in session.query(ReadingRow))


def test_differing_from_the_tool_asks_for_a_reason_and_both_stand(session, check):
    run(session, check)
    run(session, check)
    judged = look(session, check).judgement
    assert judged.verdict == "unproven"
    with pytest.raises(InputErrors) as refused:
        signing.sign(session, ctx_of(session, check), judged, {"verdict": "retire", "signed_by": ""})
    assert set(refused.value.by_field) == {"signed_by", "reason"}
    signing.sign(
        session, ctx_of(session, check), judged, {"verdict": "retire", "signed_by": "Ines", "reason": "rattles"}
    )
    judging.settle(session, NOW)
    standing = rack.view(session, "", NOW).hooks[0].shown
    assert (standing.verdict, standing.tool_verdict, standing.overruled_by) == ("retire", "unproven", "Ines")
    assert standing.reason == "rattles Waldhorn: Unproven: a first look, with too little to compare with."
    with pytest.raises(InputErrors, match="closed") as closed:
        run(session, check)
    assert list(closed.value.by_field) == [list(STEPS["pull"].fields.asks())[-1]]  # where the buttons are


def test_undo_goes_back_step_by_step_to_nothing(session, check):
    before = asdict(motor_store.to_motor(motor_store.find(session, "VS-01")))
    run(session, check)
    facts.amend(session, motor_store.find(session, "VS-01"), FACTS | {"owner": "Oda", "tag": "VS-09"}, NOW)
    facts.add_event(session, motor_store.find(session, "VS-09"), {"event": "crash"}, NOW)
    motor_id = check.motor_id
    words = [undoing.undo(session, motor_id, NOW) for _ in range(5)]
    assert words == [
        "crash logged",
        "facts corrected",
        "full throttle, run 1 taken",
        "rig and warmth noted",
        "check opened",
    ]
    assert asdict(motor_store.to_motor(motor_store.find(session, "VS-01"))) == before
    assert readings.count(session) == 0
    assert undoing.undo(session, motor_id, NOW) == "VS-01 taken in"
    assert motor_store.find(session, "VS-01") is None
    with pytest.raises(InputError, match="nothing to undo"):
        undoing.undo(session, motor_id, NOW)


def test_events_are_checked_in_place(session, check):
    row = motor_store.find(session, "VS-01")
    for typed, field in (
        ({"event": "lost"}, "event"),
        ({"event": "run", "count": "0"}, "count"),
        ({"event": "run", "count": "x"}, "count"),
        ({"event": "crash", "at": "soon"}, "at"),
        ({"event": "crash", "at": "2031-01-01 10:00"}, "at"),
    ):
        with pytest.raises(InputErrors) as refused:
            facts.add_event(session, row, typed, NOW)
        assert set(refused.value.by_field) == {field}


def test_the_rack_hangs_worst_first_and_finds_any_part(demo_store):
    with demo_store.reading() as session:
        found = rack.view(session, "", NOW)
        ranks = [h.shown.rank for h in found.hooks if not h.shown.retired]
        assert ranks == sorted(ranks)
        assert found.hooks[-1].shown.tag == "VS-30"
        assert {h.shown.machine for h in rack.view(session, "DRONE front", NOW).hooks} == {"camera drone"}
        assert rack.view(session, "100%_", NOW).hooks == []


@pytest.mark.long
def test_the_demo_tells_its_faults(demo_store):
    with demo_store.reading() as session:
        judged = {j.motor: j for j in judging.judge_all(session, NOW.replace(year=2100)).values()}
    named = {t: (judged[t].verdict, judged[t].faults[0].fault) for t in ("VS-02", "VS-11", "VS-19", "VS-23", "VS-26")}
    assert named == {
        "VS-02": ("repair", "timing_moved"),
        "VS-11": ("repair", "worn_bearing"),
        "VS-19": ("retire", "demagnetised_rotor"),
        "VS-23": ("repair", "bent_shaft"),
        "VS-26": ("retire", "shorted_turn"),
    }
    assert judged["VS-21"].headline == "Unproven: is the instrument set to its poles?"
    assert {judged[t].verdict for t in ("VS-01", "VS-04", "VS-15", "VS-28")} == {"keep"}
    assert "look at the machine" in judged["VS-15"].headline


@pytest.mark.long
def test_the_rack_and_the_command_line_give_the_same_answer(demo_store):
    now = NOW.replace(year=2100)
    with demo_store.reading() as session:
        kept = {h.shown.tag: h.shown for h in rack.view(session, "", now).hooks}
        fresh = {j.motor: j for j in judging.judge_all(session, now).values()}
        single = {t: judging.judge_motor(session, motor_store.find(session, t).id, now)[1] for t in kept}
    assert all(kept[t].tool_verdict == fresh[t].verdict for t in kept)
    assert single == fresh


def test_a_swap_is_kept_told_and_undone(session, check):
    asked = {"own_machine": "poorly", "own_bench": "well", "known_machine": "poorly"}
    take(session, check, "swap", 1, **asked, known_bench="not tried", other_cable="not tried")
    ctx = ctx_of(session, check, 2)
    assert STEPS["swap"].habits(ctx) == asked
    assert STEPS["swap"].summary(ctx) == "controller"
    take(session, check, "swap", 3, **asked, known_bench="not tried", other_cable="well")
    found = STEPS["swap"].summary(ctx_of(session, check, 4))
    assert found == "cable"
    undoing.undo(session, ctx.motor_id, NOW + timedelta(minutes=5))
    assert STEPS["swap"].summary(ctx_of(session, check, 6)) == "controller"


def test_a_swap_of_which_nothing_was_tried_is_refused(session, check):
    with pytest.raises(InputErrors) as refused:
        take(session, check, "swap", 1, **dict.fromkeys(TRIALS, "not tried"))
    assert refused.value.by_field == {"own_machine": "say how one of them ran"}


def test_values_that_travel_are_frozen():
    thawed = {
        f"{module.name}.{name}"
        for module in pkgutil.walk_packages(waldhorn.pit.__path__, "waldhorn.pit.")
        for name, kind in vars(importlib.import_module(module.name)).items()
        if isinstance(kind, type) and kind.__module__ == module.name
        if is_dataclass(kind) and not kind.__dataclass_params__.frozen
    }
    assert thawed == set()


def test_what_is_typed_and_arrives_after_its_motor_was_taken_in_is_let_go(session):
    facts.keep_draft(session, FACTS, "one")
    assert facts.draft(session)["tag"] == "VS-01"
    facts.take_in(session, FACTS, NOW, "one")
    facts.keep_draft(session, FACTS, "one")
    assert facts.draft(session) == {}
    facts.keep_draft(session, FACTS | {"tag": "VS-02"}, "two")
    assert facts.draft(session)["tag"] == "VS-02"


@pytest.mark.parametrize(
    ("typed", "field", "says"),
    [
        ({"event": "run", "count": "2.5"}, "count", "count 2.5 must be a whole number"),
        ({"event": "run", "count": "0"}, "count", "0 runs cannot be: 1 to 10000"),
        ({"event": "run", "count": "10001"}, "count", "10001 runs cannot be: 1 to 10000"),
        ({"event": "exploded"}, "event", "“exploded” is not an event: choose one of the list"),
        ({"event": "mended"}, "item", "what was mended? A mending lifts the ban of the item it names, and of no other"),
    ],
)
def test_an_event_that_cannot_be_is_refused_with_its_field(session, check, typed, field, says):
    with pytest.raises(InputErrors) as refused:
        facts.add_event(session, motor_store.find(session, "VS-01"), typed, NOW)
    assert refused.value.by_field == {field: says}
