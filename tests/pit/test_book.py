"""The book of a motor: all that was read is in it, and each reading can be put right there."""

import io

import numpy as np
import pytest
import soundfile
from PIL import Image

from made import day, full
from waldhorn.core.base.conditions import CONDITIONS, Conditions
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Check, Motor, Reading
from waldhorn.core.base.units import AS_STORED
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.exchange import exporting
from waldhorn.exchange.importing import import_tables
from waldhorn.pit.bench import checks, pictures, sounds, undoing
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.motors import book, corrections, facts
from waldhorn.pit.motors.book import Asked
from waldhorn.pit.motors.last_read import last_read
from waldhorn.pit.writing import Writing
from waldhorn.store import findings, motors, readings

NOW = day(40)
BY = Writing(NOW)


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


@pytest.mark.parametrize("purpose", [Purpose.STANDARD, Purpose.LOAD, Purpose.COAST_DOWN, Purpose.TIMING_PULL])
def test_every_measure_alone_is_in_sight(store, hang, purpose):
    read = {n: (m.low + min(m.high, 50)) / 2 + 0.125 for n, m in MEASURES.items()}
    hang(*(only(name, value, purpose) for name, value in read.items()))
    pages = [book.look(store, "B-1", NOW, Asked(skip=skip)) for skip in range(0, len(read), book.CHECKS_A_PAGE)]
    assert {e.row.measure: e.row.value for page in pages for e in entries(page)} == read
    assert sum(len(entries(page)) for page in pages) == len(read)


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
    before = corrections.put_right(store, BY, "B-1", wrong.row.id, {"value": "2.0 A"})
    assert "decimal point" in before
    corrections.put_right(store, BY, "B-1", again.row.id, {"value": "2000 mA"})
    found = book.look(store, "B-1", NOW, Asked(measure="no_load_current"))
    mended = next(e for e in entries(found) if e.row.id == wrong.row.id)
    assert (mended.row.value, mended.before) == (2.0, [20.0])
    assert "decimal point" not in found.seen.judgement.headline
    with store.writing() as session:
        assert undoing.undo(session, motor_id, NOW) == "no-load current 20 corrected to 2 A"
    back = next(e for e in entries(book.look(store, "B-1", NOW, Asked())) if e.row.id == again.row.id)
    assert (back.row.value, list(back.before)) == (20.0, [])


def test_a_corrected_reading_that_comes_back_in_an_export_is_known(store, hang, tmp_path):
    motor_id = hang(full(0), full(14))

    def comes_back():
        with store.writing() as session:
            exporting.export_tables(session, tmp_path)
            before = readings.count(session)
            import_tables(session, [tmp_path / "motors.csv", tmp_path / "readings.csv"], lambda *_: None)
            return readings.count(session) - before

    one = entries(book.look(store, "B-1", NOW, Asked(measure="no_load_current")))[0]
    corrections.put_right(store, BY, "B-1", one.row.id, {"value": "2.71 A"})
    assert comes_back() == 0
    with store.writing() as session:
        undoing.undo(session, motor_id, NOW)
    assert comes_back() == 0


def test_set_aside_with_a_reason_and_counted_again(store, hang):
    hang(full(0), full(14))
    one = entries(book.look(store, "B-1", NOW, Asked(measure="noise_avg")))[0]
    with pytest.raises(InputError, match="say why"):
        corrections.put_right(store, BY, "B-1", one.row.id, {"do": "aside"})
    corrections.put_right(store, BY, "B-1", one.row.id, {"do": "aside", "reason": "somebody shouted"})
    found = next(e for e in entries(book.look(store, "B-1", NOW, Asked())) if e.row.id == one.row.id)
    assert (found.row.accepted, found.row.aside_reason) == (False, "somebody shouted")
    corrections.put_right(store, BY, "B-1", one.row.id, {"do": "back"})
    found = next(e for e in entries(book.look(store, "B-1", NOW, Asked())) if e.row.id == one.row.id)
    assert found.row.accepted


def test_what_was_typed_on_the_wrong_motor_is_moved_whole_and_comes_back_by_undo(store, hang):
    motor_id = hang(full(0), full(14))
    with store.writing() as session:
        facts.take_in(session, {"tag": "B-2"}, NOW)
    newest = book.look(store, "B-1", NOW, Asked()).visits[0]
    count = sum(len(cell) for s in newest.steps for line in s.lines for cell in line.cells.values())
    one = entries(book.look(store, "B-1", NOW, Asked()))[0]
    corrections.put_right(store, BY, "B-1", one.row.id, {"do": "move", "to": "b-2", "which": "check"})
    there = entries(book.look(store, "B-2", NOW, Asked()))
    assert (len(there), {e.row.accepted for e in there}) == (count, {True})
    here = [e for e in entries(book.look(store, "B-1", NOW, Asked())) if not e.row.accepted]
    assert (len(here), {e.row.aside_reason for e in here}) == (count, {"belongs to B-2"})
    with store.writing() as session:
        assert undoing.undo(session, motor_id, NOW) == "moved to B-2"
    assert entries(book.look(store, "B-2", NOW, Asked())) == []
    assert all(e.row.accepted for e in entries(book.look(store, "B-1", NOW, Asked())))


@pytest.fixture
def looked(store):
    """A motor whose bearings were felt gritty, in a check that is still open."""
    with store.writing() as session:
        facts.take_in(session, {"tag": "B-1"}, NOW)
        row = motors.find(session, "B-1")
        check = checks.open_check(session, row, NOW, "full")
        for step, typed in (
            ("setup", {"rig": "bench", "method": "loaded-supply"}),
            ("look", {"bearings": "bad", "bearings_note": "front one", "shaft": "ok"}),
            ("first_spin", {"heard": "rough"}),
        ):
            checks.take_step(session, load(session, check.id, NOW), STEPS[step], typed)
        return row.id


def found_of(store, tag="B-1"):
    return [f for v in book.look(store, tag, NOW, Asked()).visits for f in v.found]


def test_a_finding_is_put_right_or_taken_back_and_comes_again_by_undo(store, looked):
    bad = next(f for f in found_of(store) if f.words == "bearings by hand: bad, front one")
    before = corrections.put_found_right(store, BY, "B-1", bad.kind, bad.id, {"state": "doubt"})
    assert "gritty" in before or "bearings" in before
    doubt = next(f for f in found_of(store) if "bearings" in f.words)
    assert doubt.words == "bearings by hand: doubt, front one"
    corrections.put_found_right(store, BY, "B-1", doubt.kind, doubt.id, {})
    rough = next(f for f in found_of(store) if f.kind == "first_spin")
    corrections.put_found_right(store, BY, "B-1", rough.kind, rough.id, {})
    assert [f.words for f in found_of(store) if "bearings" in f.words or f.kind == "first_spin"] == []
    with store.writing() as session:
        assert undoing.undo(session, looked, NOW) == "first_spin taken back"
        assert undoing.undo(session, looked, NOW) == "bearings by hand: doubt, front one taken back"
    assert {"bearings by hand: doubt, front one", "first spin: rough"} <= {f.words for f in found_of(store)}
    with pytest.raises(InputError, match="there no more"):
        corrections.put_found_right(store, BY, "B-1", bad.kind, bad.id, {})
    with pytest.raises(InputError, match="none of"):
        corrections.put_found_right(store, BY, "B-1", doubt.kind, doubt.id, {"state": "terrible"})


def test_a_recording_is_said_to_be_something_else_and_is_taken_back_like_a_picture(store, looked):
    picture = io.BytesIO()
    Image.new("RGB", (8, 6), "teal").save(picture, "PNG")
    hum = np.sin(np.arange(48_000) / 9).astype("<f4").tobytes()
    with store.writing() as session:
        check = readings.history(session, looked).checks[0].id
        sounds.attach(session, load(session, check, NOW), "noise", hum, 48_000, "full")
        pictures.attach(session, load(session, check, NOW), "shaft", picture.getvalue())

    def kept():
        [visit] = book.look(store, "B-1", NOW, Asked()).visits
        return [r.note for r in visit.recordings], len(visit.pictures)

    def first():
        [visit] = book.look(store, "B-1", NOW, Asked()).visits
        return visit.recordings[0].id, visit.pictures[0]

    assert kept() == (["full"], 1)
    sound, shaft = first()
    with pytest.raises(InputError, match="longer than 80"):
        corrections.put_found_right(store, BY, "B-1", "sound", sound, {"note": "x" * 81})
    corrections.put_found_right(store, BY, "B-1", "sound", sound, {"note": " half, 10 cm "})
    assert kept() == (["half, 10 cm"], 1)
    with store.reading() as session:
        assert findings.sound(session, sound) is None
        assert len(soundfile.read(io.BytesIO(findings.sound(session, first()[0]).flac))[0]) == 48_000
    corrections.put_found_right(store, BY, "B-1", "sound", first()[0], {})
    corrections.put_found_right(store, BY, "B-1", "picture", shaft, {})
    assert kept() == ([], 0)
    with store.writing() as session:
        assert undoing.undo(session, looked, NOW) == "picture, shaft taken back"
        assert undoing.undo(session, looked, NOW) == "recording, half, 10 cm taken back"
        assert undoing.undo(session, looked, NOW) == "recording, full: now half, 10 cm"
    assert kept() == (["full"], 1)


def test_an_event_is_taken_back_and_can_be_logged_again(store, looked):
    event = {"event": "crash", "at": NOW.isoformat()}
    with store.writing() as session:
        facts.add_event(session, motors.find(session, "B-1"), event, NOW)
    [crash] = book.look(store, "B-1", NOW, Asked()).events
    corrections.put_found_right(store, BY, "B-1", "event", crash.id, {})
    assert book.look(store, "B-1", NOW, Asked()).events == []
    with store.writing() as session:
        assert motors.events_of(session, [looked]) == []
        facts.add_event(session, motors.find(session, "B-1"), event, NOW)
    assert [e.event for e in book.look(store, "B-1", NOW, Asked()).events] == ["crash"]


def test_an_event_is_put_right_without_being_logged_twice(store, hang):
    hang(full(0))
    with store.writing() as session:
        row = motors.find(session, "B-1")
        facts.add_event(session, row, {"event": "run", "count": "3", "at": "2026-05-20 10:00"}, NOW)
        facts.add_event(session, row, {"event": "fitted", "machine": "Heron", "at": "2026-05-19"}, NOW)
    fitted, run = sorted(book.look(store, "B-1", NOW, Asked()).events, key=lambda e: e.event)
    typed = {"event": "run", "count": "2", "at": f"{run.at:%Y-%m-%d %H:%M}", "detail": "choppy"}
    corrections.put_found_right(store, BY, "B-1", "event", run.id, typed)
    with pytest.raises(InputErrors, match="count"):
        corrections.put_found_right(
            store, BY, "B-1", "event", fitted.id, {"event": "fitted", "at": "", "count": "none"}
        )
    with pytest.raises(InputError, match="take this back, then log it anew"):
        corrections.put_found_right(store, BY, "B-1", "event", fitted.id, {"event": "crash", "at": ""})
    with pytest.raises(InputError, match="there no more"):
        corrections.put_found_right(store, BY, "B-1", "event", run.id, typed)
    stands = [(e.event, e.count, e.detail, e.machine, e.at) for e in book.look(store, "B-1", NOW, Asked()).events]
    assert sorted(stands)[1] == ("run", 2, "choppy", "", run.at)
    assert sorted(stands)[0][:4] == ("fitted", 1, "", "Heron")
    assert len(stands) == 2
    with store.writing() as session:
        undoing.undo(session, row.id, NOW)
    back = next(e for e in book.look(store, "B-1", NOW, Asked()).events if e.event == "run")
    assert (back.count, back.detail) == (3, "")


def test_a_whole_check_of_the_wrong_motor_takes_its_findings_along(store, looked):
    with store.writing() as session:
        facts.take_in(session, {"tag": "B-2"}, NOW)
        check = readings.last_check(session, looked)
        checks.take_step(session, load(session, check.id, NOW), STEPS["other"], {"measure": "gap", "value": "0.3"})
    [one] = entries(book.look(store, "B-1", NOW, Asked()))
    corrections.put_right(store, BY, "B-1", one.row.id, {"do": "move", "to": "B-2", "which": "check"})
    assert "bearings by hand: bad, front one" in {f.words for f in found_of(store, "B-2")}
    assert "bearings by hand: bad, front one" not in {f.words for f in found_of(store)}


def test_a_reading_of_another_rig_is_moved_there(store, hang):
    hang(full(0))
    one = entries(book.look(store, "B-1", NOW, Asked(measure="noise_avg")))[0]
    corrections.put_right(store, BY, "B-1", one.row.id, {"do": "move", "to_rig": "kitchen table", "which": "reading"})
    found = entries(book.look(store, "B-1", NOW, Asked(rig="kitchen table")))
    assert [(e.row.value, e.row.measure, e.row.accepted) for e in found] == [(one.row.value, "noise_avg", True)]


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ({"do": "move", "to": "B-99"}, "B-99 is no motor of this rack"),
        ({"do": "move"}, "which motor, or which rig"),
        ({"do": "move", "to_rig": "x" * 61}, "60 characters at most"),
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
        corrections.put_right(store, BY, "B-1", one.row.id, typed)
    assert entries(book.look(store, "B-1", NOW, Asked(measure="noise_avg")))[0].row.value == one.row.value


def test_a_reading_of_another_motor_is_not_put_right(store, hang):
    hang(full(0))
    with pytest.raises(InputError, match="there no more"):
        corrections.put_right(store, BY, "B-1", "nobody", {"value": "1"})


def test_what_stands_on_a_strip_is_not_told_twice(store, hang):
    motor_id = hang(full(0), full(14))
    with store.reading() as session:
        known = readings.history(session, motor_id)
    seen = book.look(store, "B-1", NOW, Asked()).seen
    assert {one.measure for one in last_read(known, seen.judgement.evidence)} <= {"noise_background"}


def lines(store, **asked):
    return [line for v in book.look(store, "B-1", NOW, Asked(**asked)).visits for s in v.steps for line in s.lines]


@pytest.mark.parametrize("name", CONDITIONS)
def test_every_condition_is_put_right_and_undone(store, hang, name):
    hang(only("noise_avg", 81.5, throttle_pct=100.0))
    [line] = lines(store)
    condition = CONDITIONS[name]
    new = condition.choices[-1] if condition.choices else "12.5" if condition.dimension else "otter"
    corrections.put_right(store, BY, "B-1", line.first.id, {"do": "under", f"under_{name}": new})
    [line] = lines(store)
    assert getattr(line.first, name) == (12.5 if condition.dimension else new)
    change = book.look(store, "B-1", NOW, Asked()).last
    assert f"{condition.title} " in change.detail
    assert "corrected to" in change.detail
    corrections.put_right(store, BY, "B-1", line.first.id, {"do": "under", f"under_{name}": ""})
    assert getattr(lines(store)[0].first, name) == (None if condition.dimension else "")
    corrections.undo(store, BY, "B-1", change.id)  # the first of the two: what came after it stands
    assert getattr(lines(store)[0].first, name) == (None if condition.dimension else "")
    corrections.undo(store, BY, "B-1", book.look(store, "B-1", NOW, Asked()).last.id)
    was = Conditions(rig="bench", throttle_pct=100.0)
    assert getattr(lines(store)[0].first, name) == getattr(was, name)


def test_a_condition_of_the_whole_check_is_that_of_all_who_said_the_same(store, hang):
    hang(full(0), full(14))
    newest = book.look(store, "B-1", NOW, Asked()).visits[0]
    one = newest.steps[0].lines[0].first
    corrections.put_right(
        store, BY, "B-1", one.id, {"do": "under", "which": "check", "under_rig": "kitchen table", "under_motor_c": "31"}
    )
    there, before = book.look(store, "B-1", NOW, Asked()).visits
    assert {e.row.rig for s in there.steps for line in s.lines for row in line.cells.values() for e in row} == {
        "kitchen table"
    }
    assert (there.check.rig, there.check.motor_c) == ("kitchen table", 31.0)
    assert before.check.rig == "bench"


def test_nonsense_under_what_says_what_is_wrong_by_field_and_stores_nothing(store, hang):
    hang(only("noise_avg", 81.5))
    [line] = lines(store)
    typed = {"do": "under", "under_throttle_pct": "loud", "under_placement": "moon", "under_pack": "x" * 61}
    with pytest.raises(InputErrors) as refused:
        corrections.put_right(store, BY, "B-1", line.first.id, typed)
    assert set(refused.value.by_field) == {"under_throttle_pct", "under_placement", "under_pack"}
    with pytest.raises(InputErrors, match="already"):
        corrections.put_right(store, BY, "B-1", line.first.id, {"do": "under", "under_rig": "bench"})
    assert book.look(store, "B-1", NOW, Asked()).last is None


def test_poles_that_rested_on_a_frequency_are_counted_anew_and_undone(store, hang):
    motor_id = hang()
    with store.writing() as session:
        check = checks.open_check(session, motors.get(session, motor_id), NOW, "full")
        typed = {"frequency_hz": "128.8", "reference_hz": "77.3", "reference_poles": "6"}
        checks.take_step(session, load(session, check.id, NOW), STEPS["poles"], typed)
    own = next(line for line in lines(store) if line.first.purpose == Purpose.STANDARD).first

    def known():
        with store.reading() as session:
            row = motors.find(session, "B-1")
            return row.poles, row.poles_known_by

    assert known() == (10, "electrical")
    corrections.put_right(store, BY, "B-1", own.id, {"value": "154.6"})
    assert known() == (12, "electrical")
    last = book.look(store, "B-1", NOW, Asked()).last
    assert last.detail.endswith("10 poles rested on it, 12 now")
    corrections.undo(store, BY, "B-1", last.id)
    assert known() == (10, "electrical")


def test_a_lever_that_is_measured_later_makes_its_grams_torque_and_is_undone(store, hang):
    hang(only("detent_force", 62.5, lever="short arm"), only("gap", 0.6))
    one = next(e for e in entries(book.look(store, "B-1", NOW, Asked())) if e.row.measure == "detent_force")
    with pytest.raises(InputError, match="lever"):
        corrections.put_right(store, BY, "B-1", one.row.id, {"do": "lever", "lever_mm": "long"})
    corrections.put_right(store, BY, "B-1", one.row.id, {"do": "lever", "lever_mm": "30"})
    there = {e.row.measure: e.row for e in entries(book.look(store, "B-1", NOW, Asked()))}
    assert there["detent_peak"].value == pytest.approx(62.5e-3 * 9.80665 * 30)
    assert (there["detent_force"].accepted, there["detent_force"].aside_reason) == (
        False,
        "torque now: “short arm” is 30 mm long",
    )
    corrections.undo(store, BY, "B-1", book.look(store, "B-1", NOW, Asked()).last.id)
    there = {e.row.measure: e.row for e in entries(book.look(store, "B-1", NOW, Asked()))}
    assert "detent_peak" not in there
    assert there["detent_force"].accepted


def test_a_frozen_motor_was_noted_and_is_not_corrected_by_itself(store, hang):
    hang(only("noise_avg", 81.5, motor_c=0.0))
    [line] = lines(store)
    shown = {f"under_{f.name}": f.typed for f in corrections.under_fields(line.first, AS_STORED)}
    assert shown["under_motor_c"] == "0"
    corrections.put_right(store, BY, "B-1", line.first.id, {"do": "under"} | shown | {"under_meter": "phone"})
    assert book.look(store, "B-1", NOW, Asked()).last.detail == "meter not noted corrected to phone"
    assert lines(store)[0].first.motor_c == 0.0
