"""Files staged, looked at, brought in as one act, and taken back."""

import io
import zipfile
from datetime import datetime
from pathlib import Path

import numpy as np
import openpyxl
import pytest
from sqlalchemy import select

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.exchange import exporting
from waldhorn.exchange.attachments import ATTACHMENTS
from waldhorn.pit.bench import pictures, sounds
from waldhorn.pit.files import bringing_in, upload_staging
from waldhorn.pit.judging import judging
from waldhorn.pit.writing import Writing
from waldhorn.store import backups, cached_verdicts, motors, readings
from waldhorn.store.engine import copy_to
from waldhorn.store.models import PictureRow, SoundRow

PICTURE = Path(__file__).parents[2] / "docs/screenshots/rack.png"
HUM = sounds.as_flac(0.1 * np.sin(np.arange(16_000)), 16_000)
SAMPLE = Path(__file__).parents[2] / "src/waldhorn/web/static/sample-sheet.csv"


@pytest.fixture
def now():
    return datetime.now().astimezone()


def staged(store, now, *files):
    token = upload_staging.lay_aside(files)
    with store.reading() as session:
        return bringing_in.look(session, token, now)


def tags(store):
    with store.reading() as session:
        return motors.all_tags(session)


def test_the_sample_sheet_is_understood_brought_in_and_taken_back(store, now):
    found = staged(store, now, ("sample.csv", SAMPLE.read_bytes()))
    [one] = found.foreign
    assert (one.problems, one.bad, one.good) == ([], [], 4)
    assert [c.means for c in one.mapping.columns] == [
        "tag",
        "model",
        "owner",
        "at",
        "supply_volts",
        "no_load_current",
        "rpm",
        "noise_avg",
        "temperature",
    ]
    brought = bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    assert (brought.stored["motors"], brought.stored["readings"], brought.wrong) == (2, 20, [])
    assert tags(store) == ["A-01", "A-02"]
    judging.settle_apart(store, now)
    with store.reading() as session:
        history = next(iter(readings.histories(session).values()))
        assert {r.run for c in history.checks for r in c.readings} == {1, 2}
        [act] = bringing_in.lately(session)
    with store.writing() as session:
        assert bringing_in.undo(session, act.id, now) == "sample.csv"
    judging.settle_apart(store, now)
    with store.reading() as session:
        assert (motors.all_tags(session), readings.count(session)) == ([], 0)
        assert all(not s.pairs for s in cached_verdicts.rig_spreads(session).values())
        assert bringing_in.lately(session) == []
    with store.writing() as session, pytest.raises(InputError, match="taken back already"):
        bringing_in.undo(session, act.id, now)


def test_the_same_again_brings_nothing_twice_and_the_mapping_is_remembered(store, now):
    sheet = b"motor;date;something\nA;2026-05-02;81\n"
    found = staged(store, now, ("s.csv", sheet))
    assert found.foreign[0].mapping.columns[2].means == ""
    chosen = found.foreign[0].mapping.model_copy(deep=True)
    chosen.columns[2].means = "noise_avg"
    bringing_in.remap(found.token, found.foreign[0].key, chosen)
    assert bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False).stored["readings"] == 1
    again = staged(store, now, ("other.csv", sheet))
    assert again.foreign[0].mapping.columns[2].means == "noise_avg"
    brought = bringing_in.bring_in(store, Writing(now), again.token, skip_bad=False)
    assert (brought.stored["readings"], brought.ignored["readings"], brought.ignored["motors"]) == (0, 1, 1)


def test_a_motor_that_was_there_or_was_worked_on_stays_when_it_is_taken_back(store, now):
    first = staged(store, now, ("a.csv", b"motor;date;KV\nA;2026-05-02;3400\n"))
    bringing_in.bring_in(store, Writing(now), first.token, skip_bad=False)
    second = staged(store, now, ("b.csv", b"motor;date;KV\nA;2026-06-02;3410\nB;2026-06-02;3390\n"))
    bringing_in.bring_in(store, Writing(now), second.token, skip_bad=False)
    with store.writing() as session:
        act = bringing_in.lately(session)[0]
        assert act.detail == "b.csv"
        bringing_in.undo(session, act.id, now)
    assert tags(store) == ["A"]
    with store.reading() as session:
        assert readings.count(session) == 1


def test_bad_cells_are_named_before_and_after_and_cost_no_more_than_themselves(store, now):
    sheet = b"motor;date;KV\nA;2026-05-02;3400\nB;someday;3400\nC;2026-05-02;fast\n"
    found = staged(store, now, ("s.csv", sheet))
    assert found.foreign[0].mapping.columns[2].means == ""  # too few of its values are numbers of KV
    chosen = found.foreign[0].mapping.model_copy(deep=True)
    chosen.columns[2].means = "kv"
    bringing_in.remap(found.token, found.foreign[0].key, chosen)
    with store.reading() as session:
        laid = bringing_in.foreign(session, found.token, found.foreign[0].key, now)
    assert [(b.number, laid.cell(b.number, place)) for b in laid.bad for place, _, _ in b.wrong] == [
        (3, "someday"),
        (4, "fast"),
    ]
    kept = bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    assert (kept.stored["motors"], kept.stored["readings"], tags(store)) == (3, 1, ["A", "B", "C"])
    assert [w.partition(": ")[0] for w in kept.wrong] == ["s.csv, row 3", "s.csv, row 4"]


def test_waldhorns_own_tables_come_as_they_are_or_packed(few_store, store, now, tmp_path):
    with few_store.reading() as session:
        exporting.export_tables(session, tmp_path)
        there = readings.count(session)
    package = tmp_path / "package.zip"
    with zipfile.ZipFile(package, "w") as packed:
        for name in ("motors.csv", "events.csv", "readings.csv", "findings.csv", "datapackage.json"):
            packed.write(tmp_path / name, f"data/{name}")
    found = staged(store, now, ("package.zip", package.read_bytes()))
    assert (found.own, found.foreign) == (["events.csv", "findings.csv", "motors.csv", "readings.csv"], [])
    assert bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False).stored["readings"] == there


def everything(store):
    with store.reading() as session:
        return {name: list(rows) for name, rows in exporting._sources(session).items()}


@pytest.mark.long
@pytest.mark.parametrize(("name", "write"), [("all.zip", exporting.package), ("all.xlsx", exporting.workbook)])
def test_what_is_taken_out_gives_the_same_store_again(few_store, store, now, tmp_path, name, write):
    with few_store.writing() as session:
        row = motors.find(session, "VS-01")
        row.note, row.owner = "=HYPERLINK(1)", "'@Ines"
        check = readings.last_check(session, row.id)
        width, height, image = pictures.plain(PICTURE.read_bytes())
        session.add(PictureRow(check_id=check.id, item="shaft", at=now, width=width, height=height, image=image))
        session.add(SoundRow(check_id=check.id, step="noise", note="half", at=now, flac=HUM))
        session.flush()
        write(session, tmp_path / name)
    found = staged(store, now, (name, (tmp_path / name).read_bytes()))
    with_rows = {"all.zip": 6, "all.xlsx": 4}  # a sheet without rows is none
    assert (len(found.own), found.foreign, found.wrong) == (with_rows[name], [], [])
    bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    before, after = everything(few_store), everything(store)
    assert before["motors"] == after["motors"]
    attached = name.endswith(".zip")  # a cell holds no picture and no sound
    for table in ("events", "readings", "findings"):
        ours, theirs = (
            [r for r in found[table] if attached or r.get("finding") not in ATTACHMENTS] for found in (before, after)
        )
        assert sorted(map(str, ours)) == sorted(map(str, theirs))


def test_no_cell_of_what_is_taken_out_is_a_formula(store, now, tmp_path):
    found = staged(store, now, ("s.csv", b"motor;note;KV\nA;=1+1;3400\nB;-2;3400\n"))
    bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    with store.reading() as session:
        exporting.export_tables(session, tmp_path)
        exporting.workbook(session, tmp_path / "all.xlsx")
    lines = (tmp_path / "motors.csv").read_text(encoding="utf-8")
    assert "'=1+1" in lines
    assert ",=1+1" not in lines
    sheet = openpyxl.load_workbook(tmp_path / "all.xlsx")["motors"]
    assert {cell.data_type for row in sheet.iter_rows() for cell in row} <= {"s", "n", "inlineStr"}


def test_a_cell_of_several_lines_is_one_line_and_rows_are_named_rightly(store, now):
    sheet = b'motor;note;KV\nA;"loud\nand\r\nhot";3400\nB;;3410\nC;;fast\n'
    found = staged(store, now, ("s.csv", sheet))
    chosen = found.foreign[0].mapping.model_copy(deep=True)
    chosen.columns[2].means = "label_kv"
    bringing_in.remap(found.token, found.foreign[0].key, chosen)
    refused = bringing_in.bring_in(store, Writing(now), found.token, skip_bad=True)
    assert [w.partition(": ")[0] for w in refused.wrong] == ["s.csv, row 4"]
    with store.reading() as session:
        assert motors.find(session, "A").note == "loud and hot"


def test_a_package_brings_its_pictures_and_sounds(few_store, store, now, tmp_path):
    width, height, image = pictures.plain(PICTURE.read_bytes())
    with few_store.writing() as session:
        check = readings.last_check(session, motors.find(session, "VS-01").id)
        session.add(PictureRow(check_id=check.id, item="shaft", at=now, width=width, height=height, image=image))
        session.add(SoundRow(check_id=check.id, step="noise", note="half", at=now, flac=HUM))
        session.flush()
        exporting.package(session, tmp_path / "all.zip")
    found = staged(store, now, ("all.zip", (tmp_path / "all.zip").read_bytes()))
    bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    with store.reading() as session:
        assert [p.image for p in session.scalars(select(PictureRow))] == [image]
        assert [(s.step, s.note, s.flac) for s in session.scalars(select(SoundRow))] == [("noise", "half", HUM)]


def test_a_backup_goes_into_an_empty_store(few_store, store, now, tmp_path):
    with few_store.reading() as session:
        exporting.export_tables(session, tmp_path)
    found = staged(store, now, ("backup.json", (tmp_path / "backup.json").read_bytes()))
    assert found.documents["backup.json"].startswith("a backup: 6 motors, ")
    assert bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False).stored["motors"] == len(
        tags(few_store)
    )
    assert tags(store) == tags(few_store)


@pytest.mark.long
def test_a_store_itself_is_a_backup_too_and_comes_with_a_table_or_not_at_all(few_store, store, now, tmp_path):
    copy_to(few_store, tmp_path / "kept.db")
    kept = ("kept.db", (tmp_path / "kept.db").read_bytes())
    bad = staged(store, now, kept, ("readings.csv", b"motor,at,measure,value\nNOBODY,2026-05-02T10:00:00Z,kv,3400\n"))
    brought = bringing_in.bring_in(store, Writing(now), bad.token, skip_bad=False)
    assert brought.wrong == ["readings.csv, row 2: motor: no motor “NOBODY” in the store or in these files"]
    assert tags(store) == []
    good = staged(store, now, kept, ("readings.csv", b"motor,at,measure,value\nVS-01,2026-05-02T10:00:00Z,kv,3400\n"))
    assert bringing_in.bring_in(store, Writing(now), good.token, skip_bad=False).stored["motors"] == 6
    assert backups.copies(store)  # as it was before
    assert tags(store) == tags(few_store)


@pytest.mark.parametrize(
    ("files", "says"),
    [
        ([], "choose a file"),
        ([("empty.csv", b"")], "choose a file"),
        ([(f"{i}.csv", b"a;b") for i in range(13)], "13 files: 12 at once"),
    ],
)
def test_nothing_and_too_much_are_refused(files, says):
    with pytest.raises(InputError, match=says):
        upload_staging.lay_aside(files)


def test_what_is_no_sheet_is_said_and_a_way_out_of_the_folder_is_none(store, now):
    found = staged(store, now, ("../../picture.csv", b"\x89PNG\0\0"), ("notes.csv", b"one line"))
    assert len(found.wrong) == 2
    with pytest.raises(InputError):
        bringing_in.bring_in(store, Writing(now), found.token, skip_bad=True)
    with store.reading() as session:
        assert bringing_in.look(session, "../..", now) is None
        assert bringing_in.look(session, "", now) is None


def test_files_of_one_name_are_two_and_no_name_leads_out_of_the_folder(store, now):
    one, two = b"motor;KV\nA;3400\n", b"motor;KV\nB;3400\n"
    found = staged(store, now, ("a/runs.csv", one), ("b\\runs.csv", two), ("..", b"motor;KV\nC;3400\n"))
    assert sorted(b.motor["tag"] for f in found.foreign for b in f.preview) == ["A", "B", "C"]
    assert staged(store, now, ("x" * 400 + "\0.csv", one)).foreign[0].file.endswith("_.csv")


def packed(**files):
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as package:
        for name, content in files.items():
            package.writestr(f"{name}.csv", content)
    return bytearray(made.getvalue())


@pytest.mark.parametrize("torn", [False, True])
def test_a_package_without_tables_or_torn_is_refused(torn):
    package = packed(readings="tag,KV\n" * 400) if torn else packed(notes="nothing")
    if torn:
        package[60:70] = b"0123456789"
    with pytest.raises(InputError, match="in it that can be read"):
        upload_staging.lay_aside([("all.zip", bytes(package))])


def test_a_tag_that_is_nearly_a_motors_is_asked_about_before_it_is_a_new_one(store, now):
    with store.writing() as session:
        motors.add(session, [Motor("GR-06")])
    sheet = ("s.csv", b"motor,KV,date\nGR 6,3400,2026-05-01\nGR 7,3410,2026-05-01\n")
    found = staged(store, now, sheet)
    [one] = found.foreign
    assert one.problems == ["is GR 6 the motor GR-06?"]
    with pytest.raises(InputError, match="is GR 6 the motor GR-06"):
        bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    bringing_in.remap(found.token, one.key, one.mapping.model_copy(update={"motors": {"gr 6": "GR-06"}}))
    bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    assert tags(store) == ["GR-06", "GR 7"]


def test_a_fact_said_otherwise_is_taken_where_it_is_ticked_and_the_tick_survives(store, now):
    with store.writing() as session:
        motors.add(session, [Motor("GR-06", mass_g=184.0, poles=4), Motor("GR-07", mass_g=180.0)])
    sheet = ("s.csv", b"motor,mass g,poles\nGR-06,186.5,2\nGR-07,181,\n")
    found = staged(store, now, sheet)
    [one] = found.foreign
    assert [(d.tag, d.fact, d.here, d.there) for d in one.differ] == [
        ("GR-06", "poles", "4", "2"), ("GR-06", "mass_g", "184", "186.5"), ("GR-07", "mass_g", "180", "181"),
    ]  # fmt: skip
    bringing_in.remap(found.token, one.key, one.mapping.model_copy(update={"taken": ["GR-06:mass_g"]}))
    bringing_in.bring_in(store, Writing(now), found.token, skip_bad=False)
    assert facts(store) == {"GR-06": (186.5, 4), "GR-07": (180.0, None)}
    with store.writing() as session:
        [change] = bringing_in.lately(session)
        bringing_in.undo(session, change.id, now)
    assert facts(store) == {"GR-06": (184.0, 4), "GR-07": (180.0, None)}


def facts(store):
    with store.reading() as session:
        return {m.tag: (m.mass_g, m.poles) for m in motors.every(session)}
