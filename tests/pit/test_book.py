"""The book of a motor: all that was read is in it, and each reading can be put right there."""

import pytest

from made import day, full
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Check, Motor, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.pit.bench import undoing
from waldhorn.pit.motors import book
from waldhorn.pit.motors.book import Asked
from waldhorn.store import motors, readings

NOW = day(40)


@pytest.fixture
def hang(store):
    """Hangs a motor with readings of its checks on the rack; returns its id."""

    def put(*checks):
        with store.writing() as session:
            [motor_id] = motors.add(session, [Motor("B-1", label_kv=3450, poles=4, poles_known_by="counted")])
            for check in checks:
                ids = readings.check_ids(session, [(motor_id, check.id, check.at, check.readings[0].conditions)])
                readings.add(session, ((ids[motor_id, check.id], r) for r in check.readings))
            motors.touch(session, [motor_id])
        return motor_id

    return put


def only(measure, value, purpose=Purpose.STANDARD, **under):
    """A check in which one measure alone was read."""
    return full(
        1, leave=("volts", "amps", "kv", "wander", "timing", "noise", "surface", "peaks"), name=measure
    ).__class__(measure, day(1), (Reading(measure, value, day(1), 1, Conditions(rig="bench", **under), purpose),))


def entries(found):
    return [e for v in found.visits for s in v.steps for line in s.lines for row in line.cells.values() for e in row]


@pytest.mark.parametrize("measure", MEASURES)
@pytest.mark.parametrize("purpose", [Purpose.STANDARD, Purpose.LOAD, Purpose.COAST_DOWN, Purpose.TIMING_PULL])
def test_every_measure_alone_is_in_sight(store, hang, measure, purpose):
    value = (MEASURES[measure].low + min(MEASURES[measure].high, 50)) / 2 + 0.125
    hang(only(measure, value, purpose))
    [entry] = entries(book.look(store, "B-1", NOW, Asked()))
    assert (entry.row.measure, entry.row.value) == (measure, value)


def test_newest_first_and_narrowed_by_measure_step_and_rig(store, hang):
    hang(full(0, gaps=(0.6,) * 4), full(14), full(30, under={"rig": "other"}))
    found = book.look(store, "B-1", NOW, Asked())
    assert [v.check.at for v in found.visits] == [day(30), day(14), day(0)]
    assert set(found.rigs) == {"bench", "other"}
    noise = book.look(store, "B-1", NOW, Asked(measure="noise_avg"))
    assert {e.row.measure for e in entries(noise)} == {"noise_avg"}
    assert noise.checks == 3
    assert [v.check.at for v in book.look(store, "B-1", NOW, Asked(step="gap")).visits] == [day(0)]
    assert [v.check.at for v in book.look(store, "B-1", NOW, Asked(rig="other")).visits] == [day(30)]


def test_a_load_row_says_its_watts_and_grams_per_watt(store, hang):
    row = Check(
        "l",
        day(1),
        tuple(
            Reading(m, v, day(1), 1, Conditions(rig="bench", on_shaft="6x4", throttle_pct=100.0), Purpose.LOAD)
            for m, v in (("load_volts", 10.0), ("load_current", 12.0), ("thrust", 600.0))
        ),
    )
    hang(row)
    [line] = book.look(store, "B-1", NOW, Asked()).visits[0].steps[0].lines
    assert line.worked_out == {"V·A, W": 120.0, "g/W": 5.0}
    assert line.under[:2] == ["6x4", "100 %"]


def test_a_reading_put_right_is_judged_anew_keeps_what_it_was_and_can_be_undone(store, hang):
    motor_id = hang(full(0), full(14), full(30, amps=20.0))
    [wrong, again] = [
        e for e in entries(book.look(store, "B-1", NOW, Asked(measure="no_load_current"))) if e.row.value == 20.0
    ]
    before = book.put_right(store, "B-1", NOW, wrong.row.id, {"value": "2.0 A"})
    assert "decimal point" in before
    book.put_right(store, "B-1", NOW, again.row.id, {"value": "2000 mA"})
    found = book.look(store, "B-1", NOW, Asked(measure="no_load_current"))
    mended = next(e for e in entries(found) if e.row.id == wrong.row.id)
    assert (mended.row.value, mended.before) == (2.0, [20.0])
    assert "decimal point" not in found.seen.judgement.headline
    with store.writing() as session:
        assert undoing.undo_last(session, motor_id, NOW) == "no-load current 20 corrected to 2 A"
    back = next(e for e in entries(book.look(store, "B-1", NOW, Asked())) if e.row.id == again.row.id)
    assert (back.row.value, list(back.before)) == (20.0, [])


def test_set_aside_with_a_reason_and_counted_again(store, hang):
    hang(full(0), full(14))
    one = entries(book.look(store, "B-1", NOW, Asked(measure="noise_avg")))[0]
    with pytest.raises(InputError, match="say why"):
        book.put_right(store, "B-1", NOW, one.row.id, {"do": "aside"})
    book.put_right(store, "B-1", NOW, one.row.id, {"do": "aside", "reason": "somebody shouted"})
    found = next(e for e in entries(book.look(store, "B-1", NOW, Asked())) if e.row.id == one.row.id)
    assert (found.row.accepted, found.row.aside_reason) == (False, "somebody shouted")
    book.put_right(store, "B-1", NOW, one.row.id, {"do": "back"})
    found = next(e for e in entries(book.look(store, "B-1", NOW, Asked())) if e.row.id == one.row.id)
    assert found.row.accepted


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"value": "loud"}, "is not a number"),
        ({"value": "9000"}, "look again"),
        ({"value": "81"}, "already"),
        ({"do": "burn"}, "none of"),
    ],
)
def test_nonsense_is_refused_in_words_and_changes_nothing(store, hang, typed, says):
    hang(full(0))
    one = entries(book.look(store, "B-1", NOW, Asked(measure="noise_avg")))[0]
    with pytest.raises(InputError, match=says):
        book.put_right(store, "B-1", NOW, one.row.id, typed)
    assert entries(book.look(store, "B-1", NOW, Asked(measure="noise_avg")))[0].row.value == one.row.value


def test_a_reading_of_another_motor_is_not_put_right(store, hang):
    hang(full(0))
    with pytest.raises(InputError, match="there no more"):
        book.put_right(store, "B-1", NOW, "nobody", {"value": "1"})
