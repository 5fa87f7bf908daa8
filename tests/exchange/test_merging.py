"""Rows as they were made, taken into another store: a backup of the other laptop, a motor that changes hands."""

import json
import shutil
from datetime import timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import select

from made import NOW
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Event, Reading
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.exchange import documents, motor_file
from waldhorn.exchange.backup import backup
from waldhorn.pit.files import bringing_in
from waldhorn.pit.judging import judging
from waldhorn.pit.motors import facts
from waldhorn.store import cached_verdicts, changes, pit, readings, rigs
from waldhorn.store import motors as motor_store
from waldhorn.store.engine import open_store
from waldhorn.store.models import ChangeKind, CheckRow, PictureRow, ReadingRow, SignedRow, SoundRow

OWN = ("pit", "change", "check_draft", "form_draft", "motor_revision", "check_revision", "reading_revision")


def tables(store):
    with store.reading() as session:
        found = backup(session)["tables"]
    return {name: sorted(json.dumps(r, sort_keys=True) for r in rows) for name, rows in found.items()}


def work_of(store):
    return {name: rows for name, rows in tables(store).items() if name not in OWN}


def written(store, file, tag=None):
    with store.reading() as session:
        whole = motor_file.write(session, motor_store.find(session, tag).id, NOW) if tag else backup(session)
    file.write_text(json.dumps(whole))
    return file


def take(store, file):
    with store.writing() as session:
        return documents.take_in(session, file, NOW)


def event(store, tag, kind=EventKind.RUN, **more):
    with store.writing() as session:
        row = motor_store.find(session, tag)
        change_id = changes.record(session, ChangeKind.EVENT, NOW, row.id)
        motor_store.add_events(session, [(row.id, Event(kind, NOW, **more))], change_id)


def read_again(store, tag, value, minutes=0):
    """Another check of a motor, with one reading."""
    at = NOW + timedelta(minutes=minutes)
    with store.writing() as session:
        row = motor_store.find(session, tag)
        known = readings.history(session, row.id)
        like = next(r for c in known.checks for r in c.readings if r.measure == "noise_avg")
        ids = readings.check_ids(session, [(row.id, f"again {minutes}", at, like.conditions)])
        check_id = ids[row.id, f"again {minutes}"]
        readings.add(session, [(check_id, Reading("noise_avg", value, at, conditions=like.conditions))])
        return check_id


@pytest.fixture
def two(few_file, tmp_path):
    """One pit's store on two machines."""
    found = [open_store(shutil.copy(few_file, tmp_path / f"{name}.db")) for name in ("home", "lake")]
    yield found
    for store in found:
        store.close()


@pytest.fixture
def elsewhere(tmp_path):
    """The store of another pit."""
    other = open_store(tmp_path / "elsewhere.db")
    with other.writing() as session:
        pit.change_settings(session, name="Alder")
    yield other
    other.close()


@pytest.mark.long
def test_pictures_and_sounds_come_back_byte_by_byte(few_store, tmp_path):
    image, flac = b"RIFF\x00\xff..WEBP", b"fLaC\x00\xff"
    with few_store.writing() as session:
        check = readings.last_check(session, motor_store.find(session, "VS-07").id)
        session.add(PictureRow(check_id=check.id, item="shaft", at=NOW, width=1, height=1, image=image))
        session.add(SoundRow(check_id=check.id, step="noise", note="half", at=NOW, flac=flac))
    for name, tag in (("backup.json", None), ("VS-07.json", "VS-07")):
        fresh = open_store(tmp_path / f"{name}.db")
        take(fresh, written(few_store, tmp_path / name, tag))
        with fresh.reading() as session:
            assert session.scalars(select(PictureRow.image)).all() == [image]
            assert session.scalars(select(SoundRow.flac)).all() == [flac]
        fresh.close()


def test_a_backup_of_itself_brings_nothing(few_store, tmp_path):
    before = tables(few_store)
    merged = take(few_store, written(few_store, tmp_path / "b.json"))
    assert set(merged.stored.values()) == {0}
    assert (merged.conflicts, merged.touched) == ([], set())
    after = tables(few_store)
    before.pop("change"), after.pop("change")
    assert before == after


def test_two_stores_of_one_pit_become_one(two, tmp_path):
    home, lake = two
    read_again(home, "VS-07", 82.0)
    event(home, "VS-04", detail="at home")
    read_again(lake, "VS-07", 83.0, minutes=5)
    with lake.writing() as session:
        facts.take_in(session, {"tag": "NEW-1", "model": "Skerry 36"}, NOW)
        cached_verdicts.add_signed(
            session,
            SignedRow(
                motor_id=motor_store.find(session, "VS-11").id,
                check_id=None,
                at=NOW,
                verdict="watch",
                reason="it hums",
                tool_verdict="keep",
                signed_by="I. Moor",
                judgement={"evidence": []},
            ),
        )
    merged = take(home, written(lake, tmp_path / "lake.json"))
    assert (merged.stored["motor"], merged.stored["reading"], merged.stored["signed_verdict"]) == (1, 1, 1)
    again = take(lake, written(home, tmp_path / "home.json"))
    assert (again.stored["motor"], again.stored["reading"], again.stored["event"]) == (0, 1, 1)
    assert merged.conflicts == again.conflicts == []
    assert work_of(home) == work_of(lake)
    with home.reading() as session:
        assert {motor_store.get(session, i).tag for i in merged.touched} == {"VS-07", "VS-11", "NEW-1"}


def test_the_same_motor_made_twice_apart_is_one_and_its_checks_too(two, tmp_path):
    home, lake = two
    for store in (home, lake):
        with store.writing() as session:
            facts.take_in(session, {"tag": "TWIN", "owner": "Oda"}, NOW)
            row = motor_store.find(session, "TWIN")
            ids = readings.check_ids(session, [(row.id, "a", NOW, readings.Conditions())])
            readings.add(session, [(ids[row.id, "a"], Reading("noise_avg", 80.0, NOW))])
    take(home, written(lake, tmp_path / "lake.json"))
    with home.reading() as session:
        row = motor_store.find(session, "TWIN")
        assert [len(c.readings) for c in readings.history(session, row.id).checks] == [1]


def test_the_later_change_stands_is_named_and_can_be_looked_up(two, tmp_path):
    home, lake = two
    for store, owner in ((home, "Ann"), (lake, "Bea")):
        with store.writing() as session:
            row = motor_store.find(session, "VS-07")
            changes.revise(session, changes.record(session, ChangeKind.AMEND, NOW, row.id), [(row, {"owner": owner})])
    merged = take(home, written(lake, tmp_path / "lake.json"))
    assert merged.conflicts == ["VS-07: owner Ann here, Bea there: that one was changed later and stands"]
    with home.reading() as session:
        assert motor_store.find(session, "VS-07").owner == "Bea"
        revisions = {r["owner"] for r in backup(session)["tables"]["motor_revision"]}
        assert {"Ann", "Bea"} <= revisions
    back = take(lake, written(home, tmp_path / "home.json"))
    assert back.conflicts == []


def test_what_was_undone_there_is_undone_here(two, tmp_path):
    home, lake = two
    event(home, "VS-04", detail="by mistake")
    take(lake, written(home, tmp_path / "home.json"))
    with home.writing() as session:
        row = motor_store.find(session, "VS-04")
        changes.undo(session, changes.last(session, row.id), NOW)
    take(lake, written(home, tmp_path / "home.json"))
    for store in (home, lake):
        with store.reading() as session:
            told = motor_store.events_of(session, [motor_store.find(session, "VS-04").id])
            assert "by mistake" not in {e.detail for _, e in told}


def test_a_motor_changes_hands_with_all_that_is_known(few_store, elsewhere, tmp_path):
    with few_store.writing() as session:
        pit.change_settings(session, name="Heron", pit_id="heron")
        mine = motor_store.find(session, "VS-07")
        facts.hand_over(session, mine, {"to": "Alder"}, NOW)
        ours = readings.history(session, mine.id)
    file = written(few_store, tmp_path / "VS-07.waldhorn.json", "VS-07")
    take(elsewhere, file)
    judging.settle_apart(elsewhere, NOW)
    with elsewhere.reading() as session:
        theirs = readings.history(session, motor_store.find(session, "VS-07").id)
        assert theirs.motor == ours.motor
        assert [len(c.readings) for c in theirs.checks] == [len(c.readings) for c in ours.checks]
        assert theirs.inspected == ours.inspected
        assert {r.conditions.rig for c in theirs.checks for r in c.readings} == {
            f"{rig} of Heron" for rig in {r.conditions.rig for c in ours.checks for r in c.readings}
        }
        handed = [e.detail for e in theirs.events if e.event is EventKind.HANDED_OVER]
        assert handed == ["Alder", "taken in from Heron"]
        assert judging.off_the_rack(theirs) == ""
        assert judging.off_the_rack(ours) == "Handed over to Alder."
        signed = cached_verdicts.all_signed(session)
    with few_store.reading() as session:
        assert [s.id for s in signed] == [s.id for s in cached_verdicts.all_signed(session, [mine.id])]


def test_the_same_file_twice_brings_nothing_and_a_later_one_what_is_new(few_store, elsewhere, tmp_path):
    with few_store.writing() as session:
        pit.change_settings(session, name="Heron", pit_id="heron")
    take(elsewhere, written(few_store, tmp_path / "VS-07.json", "VS-07"))
    before = work_of(elsewhere)
    merged = take(elsewhere, written(few_store, tmp_path / "VS-07.json", "VS-07"))
    assert set(merged.stored.values()) == {0}
    assert work_of(elsewhere) == before
    read_again(few_store, "VS-07", 84.0)
    merged = take(elsewhere, written(few_store, tmp_path / "VS-07.json", "VS-07"))
    assert {n: c for n, c in merged.stored.items() if c} == {"bench_check": 1, "reading": 1}


def test_a_motor_comes_home_and_its_rigs_are_ones_own_again(few_store, elsewhere, tmp_path):
    with few_store.writing() as session:
        pit.change_settings(session, name="Heron", pit_id="heron")
        facts.hand_over(session, motor_store.find(session, "VS-07"), {"to": "Alder"}, NOW)
    take(elsewhere, written(few_store, tmp_path / "VS-07.json", "VS-07"))
    check_id = read_again(elsewhere, "VS-07", 84.0)
    later = NOW + timedelta(hours=1)
    with elsewhere.writing() as session:
        session.get(CheckRow, check_id).rig = "slipway"
        for row in readings.of_check(session, check_id):
            row.rig = "slipway"
        facts.hand_over(session, motor_store.find(session, "VS-07"), {"to": "Heron"}, later)
    file = written(elsewhere, tmp_path / "back.json", "VS-07")
    with few_store.writing() as session:
        documents.take_in(session, file, later + timedelta(hours=1))
    with few_store.reading() as session:
        known = readings.history(session, motor_store.find(session, "VS-07").id)
        rigs = {r.conditions.rig for c in known.checks for r in c.readings}
        assert "slipway of Alder" in rigs
        assert not [rig for rig in rigs if rig.endswith("of Heron")]
        assert judging.off_the_rack(known) == ""


def test_what_a_motor_is_called_and_who_has_it_is_kept_when_it_comes_home(few_store, elsewhere, tmp_path):
    own = ("tag", "owner", "machine", "position")
    with few_store.writing() as session:
        pit.change_settings(session, name="Heron", pit_id="heron")
        mine = motor_store.find(session, "VS-07")
        before = {n: getattr(mine, n) for n in own}
        facts.hand_over(session, mine, {"to": "Alder"}, NOW)
    take(elsewhere, written(few_store, tmp_path / "VS-07.json", "VS-07"))
    later = NOW + timedelta(hours=1)
    with elsewhere.writing() as session:
        row = motor_store.find(session, "VS-07")
        theirs = {"owner": "Alder", "machine": "skiff", "position": "mid"}
        changes.revise(session, changes.record(session, ChangeKind.AMEND, later, row.id), [(row, theirs)])
        facts.hand_over(session, row, {"to": "Heron"}, later)
    file = written(elsewhere, tmp_path / "back.json", "VS-07")
    with few_store.writing() as session:
        documents.take_in(session, file, later + timedelta(hours=1))
    with few_store.reading() as session:
        home = motor_store.find(session, "VS-07")
        assert {n: getattr(home, n) for n in own} == before
        assert before["owner"] not in ("", "Alder")


def test_a_tag_that_another_motor_has_is_told_apart(few_store, elsewhere, tmp_path):
    with elsewhere.writing() as session:
        facts.take_in(session, {"tag": "VS-07", "owner": "Una"}, NOW)
    merged = take(elsewhere, written(few_store, tmp_path / "VS-07.json", "VS-07"))
    assert merged.conflicts == [
        "VS-07 is another motor on this rack: the one that came is called VS-07 other pit, until you name it"
    ]
    with elsewhere.reading() as session:
        assert motor_store.find(session, "VS-07").owner == "Una"
        assert motor_store.find(session, "VS-07 other pit").model == "Skerry 36"


def test_a_motor_that_was_taken_in_is_taken_back_and_comes_again(few_store, elsewhere, tmp_path):
    file = written(few_store, tmp_path / "VS-07.json", "VS-07")
    take(elsewhere, file)
    read_again(elsewhere, "VS-07", 84.0)  # so that the motor stays, with what was read here
    with elsewhere.writing() as session:
        [act] = bringing_in.lately(session)
        bringing_in.undo(session, act.id, NOW)
    with elsewhere.reading() as session:
        assert readings.count(session) == 1
    merged = take(elsewhere, file)
    assert merged.stored["reading"] > 100
    with elsewhere.reading() as session:
        assert readings.count(session) == merged.stored["reading"] + 1


MOTOR_PARTS = ("motor", "pit", "rigs", "events", "checks", "findings", "signed", "pictures", "sounds")
ODD = st.none() | st.booleans() | st.integers() | st.text(max_size=8) | st.lists(st.integers(), max_size=2)


@pytest.fixture(scope="module")
def whole(few_file, tmp_path_factory):
    store = open_store(shutil.copy(few_file, tmp_path_factory.mktemp("whole") / "demo.db"))
    file = written(store, tmp_path_factory.mktemp("file") / "VS-07.json", "VS-07")
    store.close()
    return file


@pytest.mark.long
@settings(max_examples=60)
@given(part=st.sampled_from(MOTOR_PARTS), odd=ODD, at=st.none() | st.integers(0, 9999), field=st.integers(0, 99))
def test_no_file_of_a_motor_can_make_it_fail_or_be_stored_by_half(whole, elsewhere, tmp_path, part, odd, at, field):
    document = json.loads(whole.read_text())
    rows = document[part] if isinstance(document[part], list) else [document[part]]
    if rows and at is not None:
        row = rows[at % len(rows)]
        row[sorted(row)[field % len(row)]] = odd
    else:
        document[part] = odd
    file = tmp_path / "odd.json"
    file.write_text(json.dumps(document))
    before = tables(elsewhere)
    said = "odd.json: taken in"
    try:
        with elsewhere.writing() as session:
            documents.take_in(session, file, NOW)
            judging.settle(session, NOW)
            session.rollback()
    except InputError as refused:
        said = refused.sentence
    assert said.startswith("odd.json: ")
    assert tables(elsewhere) == before


@pytest.mark.parametrize(("part", "column", "odd"), [("motor", "id", "\x1f"), ("events", "count", 2**63)])
def test_an_identifier_and_a_count_that_no_column_holds_are_refused(whole, elsewhere, tmp_path, part, column, odd):
    document = json.loads(whole.read_text())
    row = document[part][0] if isinstance(document[part], list) else document[part]
    row[column] = odd
    file = tmp_path / "odd.json"
    file.write_text(json.dumps(document))
    with pytest.raises(InputError, match=f"^odd.json: {part}: row 1: {column}: "), elsewhere.writing() as session:
        documents.take_in(session, file, NOW)


def test_what_has_a_name_stays_as_it_is_here_and_what_differs_is_listed(two, tmp_path):
    home, lake = two
    for store, what in ((home, "at home"), (lake, "at the lake")):
        with store.writing() as session:
            rigs.describe(session, "green bench", rigs.Described(what=what))
    with lake.writing() as session:
        rigs.describe(session, "shed", rigs.Described(what="a vice"))
    merged = take(home, written(lake, tmp_path / "lake.json"))
    assert merged.conflicts == ["rig green bench: differs there; what stands here stays"]
    with home.reading() as session:
        assert rigs.described(session, "green bench").what == "at home"
        assert rigs.described(session, "shed").what == "a vice"


def test_a_store_that_became_one_with_this_is_known_as_this_pit(two, elsewhere, tmp_path):
    home, _ = two
    with elsewhere.reading() as session:
        other = pit.load(session).pit_id
    take(home, written(elsewhere, tmp_path / "other.json"))
    take(home, written(elsewhere, tmp_path / "other.json"))
    with home.reading() as session:
        here = pit.load(session)
    assert here.also == [other]
    assert here.pit_id != other


def test_an_empty_store_becomes_the_other_with_its_name(two, tmp_path):
    home, _ = two
    with home.writing() as session:
        pit.change_settings(session, name="Heron", signer="Ines")
    fresh = open_store(tmp_path / "fresh.db")
    take(fresh, written(home, tmp_path / "home.json"))
    with fresh.reading() as there, home.reading() as here:
        assert pit.load(there) == pit.load(here)
    fresh.close()


def test_only_where_both_had_a_say_something_is_listed(two, tmp_path):
    home, lake = two
    with home.writing() as session:
        row = session.scalars(select(ReadingRow).limit(1)).one()
        changes.revise(
            session, changes.record(session, ChangeKind.REBASE, NOW, None), [(row, {"value": row.value * 2})]
        )
        told = f"reading of {row.at:%Y-%m-%d %H:%M}: {row.measure.replace('_', ' ')}"
    merged = take(lake, written(home, tmp_path / "home.json"))
    assert [c.partition(": that one")[0].startswith(told) for c in merged.conflicts] == [True]
    again = take(home, written(lake, tmp_path / "lake.json"))
    assert (again.conflicts, again.stored["reading"]) == ([], 0)


@pytest.mark.long
@pytest.mark.parametrize(
    ("table", "row", "says"),
    [
        ("reading", {"measure": "loudness"}, "reading: row 1: measure"),
        ("event", {"event": "party"}, "event: row 1: event"),
        ("motor", {"kind": "sideways"}, "motor: row 1: kind"),
        ("inspection", {"state": "splendid"}, "inspection: row 1: state"),
        ("motor", {"surprise": 1}, "surprise: extra inputs"),
    ],
)
def test_words_that_no_list_holds_are_refused_before_they_are_stored(few_store, elsewhere, tmp_path, table, row, says):
    with few_store.reading() as session:
        whole = backup(session)
    whole["tables"][table][0] |= row
    file = tmp_path / "odd.json"
    file.write_text(json.dumps(whole))
    with pytest.raises(InputError) as refused, elsewhere.writing() as session:
        documents.take_in(session, file, NOW)
    assert says in refused.value.sentence
    with elsewhere.reading() as session:
        assert motor_store.all_tags(session) == []


def test_a_row_that_hangs_on_nothing_is_refused(few_store, elsewhere, tmp_path):
    with few_store.reading() as session:
        whole = backup(session)
    whole["tables"]["event"][0]["motor_id"] = "nobody"
    file = tmp_path / "odd.json"
    file.write_text(json.dumps(whole))
    with pytest.raises(InputError, match="rows do not fit together"), elsewhere.writing() as session:
        documents.take_in(session, file, NOW)
