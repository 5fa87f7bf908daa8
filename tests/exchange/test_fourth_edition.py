"""The fourth edition of the files: propellers and packs go out and come in, and so does every condition."""

import json

import pytest

from made import NOW
from waldhorn.core.base.conditions import CONDITIONS
from waldhorn.core.base.history import Motor
from waldhorn.exchange import exporting
from waldhorn.exchange.backup import backup
from waldhorn.exchange.documents import take_in
from waldhorn.exchange.importing import import_tables
from waldhorn.exchange.rows import TABLES, column_names
from waldhorn.exchange.staging import import_staged
from waldhorn.pit.files import bringing_in
from waldhorn.pit.motors import book, corrections
from waldhorn.pit.motors.book import Asked
from waldhorn.pit.writing import Writing
from waldhorn.store import imports, load_names, motors
from waldhorn.store.engine import open_store
from waldhorn.store.models import PackRow, PropellerRow

PROPELLERS = """name,diameter,pitch,blades,unit,nickname,also
5 x 4.5 x 3,5,4.5,3,in,gremlin,5045-3; tri green
rubber wheel,65,,,mm,,
"""
PACKS = "name,cells,capacity_mah,pack_mohm,note\nblue,3,1500,12.5,last year's\n"


def bring_in(store, folder, **tables):
    folder.mkdir(exist_ok=True)
    for name, text in tables.items():
        (folder / f"{name}.csv").write_text(text, encoding="utf-8")
    with store.writing() as session:
        return import_tables(session, [folder / f"{t}.csv" for t in tables], lambda *_: None)


def lists(store):
    with store.reading() as session:
        return [
            {n: getattr(row, n) for n in column_names(table)}
            for table, model in (("propellers", PropellerRow), ("packs", PackRow))
            for row in load_names.standing(session, model)
        ]


def test_propellers_and_packs_go_out_and_come_in_the_same(store, tmp_path):
    outcome = bring_in(store, tmp_path / "in", propellers=PROPELLERS, packs=PACKS)
    assert (outcome.stored["propellers"], outcome.stored["packs"], outcome.rejected) == (2, 1, [])
    assert lists(store)[0]["also"] == ["5045-3", "tri green"]
    with store.reading() as session:
        assert load_names.known_propellers(session)["gremlin"].name == "5 x 4.5 x 3"
        exporting.export_tables(session, tmp_path / "out")
    fresh = open_store(tmp_path / "fresh.db")
    with fresh.writing() as session:
        import_tables(session, [tmp_path / "out" / f"{t}.csv" for t in TABLES], lambda *_: None)
    assert lists(fresh) == lists(store)
    fresh.close()
    again = bring_in(store, tmp_path / "in", propellers=PROPELLERS.replace("gremlin", "imp"), packs=PACKS)
    assert (again.ignored["propellers"], again.ignored["packs"]) == (2, 1)
    assert any("stays as it is (nickname differ)" in w for w in again.warnings)


def test_a_bad_propeller_is_named_by_line_and_column(store, tmp_path):
    outcome = bring_in(store, tmp_path / "in", propellers="name,diameter,unit\ngreen,big,in\nred,5,feet\n")
    said = [s.split(":", 1)[1] for r in outcome.rejected for s in r.sentences()]
    assert [s.split(":")[:2] for s in said] == [["2", " diameter"], ["3", " unit"]]


@pytest.mark.parametrize("way", ["tables", "backup"])
def test_every_condition_comes_back_as_it_went_out(store, tmp_path, way):
    values = {n: (c.choices[0] if c.choices else "12.5" if c.dimension else f"my {n}") for n, c in CONDITIONS.items()}
    header = "motor,check,at,measure,value," + ",".join(values)
    row = "T-1,c,2026-05-02T10:00:00Z,noise_peak,88.5," + ",".join(values.values())
    bring_in(store, tmp_path / "in", motors="tag\nT-1\n", readings=f"{header}\n{row}\n")
    [line] = _lines(store)
    corrections.put_right(store, Writing(NOW), "T-1", line.first.id, {"do": "under", "under_pack": "blue"})
    fresh = open_store(tmp_path / "fresh.db")
    with store.reading() as session:
        exporting.export_tables(session, tmp_path / "out")
        (tmp_path / "backup.json").write_text(json.dumps(backup(session)), encoding="utf-8")
    with fresh.writing() as session:
        if way == "tables":
            import_tables(session, [tmp_path / "out" / f"{t}.csv" for t in TABLES], lambda *_: None)
        else:
            take_in(session, tmp_path / "backup.json", NOW)
    [mine], [theirs] = _lines(store), _lines(fresh)
    assert {n: getattr(theirs.first, n) for n in CONDITIONS} == {n: getattr(mine.first, n) for n in CONDITIONS}
    assert theirs.first.pack == "blue"
    fresh.close()


def _lines(store):
    return [line for v in book.look(store, "T-1", NOW, Asked()).visits for s in v.steps for line in s.lines]


def test_a_sheet_of_facts_fills_what_is_empty_and_tells_both_where_they_differ(store, tmp_path):
    with store.writing() as session:
        motors.add(
            session,
            [Motor("GR-1", "Skerry 36", kind="", poles=4, sensored=None), Motor("GR-2", "Skerry 36", sensored=False)],
        )
    file = tmp_path / "facts.csv"
    file.write_text("tag,sensored,kind,poles\ngr-1,yes,outrunner,14\nGR-2,no,,\n", encoding="utf-8")
    outcome = import_staged(store, Writing(NOW), [file], lambda *_: None, False, False, "facts.csv")
    assert (outcome.stored["motors"], outcome.ignored["motors"], outcome.rejected) == (1, 1, [])
    assert [w.partition(": ")[2] for w in outcome.warnings] == [
        "GR-1 is there already and stays as it is: poles 4 here, 14 there"
    ]
    with store.reading() as session:
        assert [(m.sensored, m.kind, m.poles) for m in motors.every(session)] == [
            (True, "outrunner", 4),
            (False, "inrunner", None),
        ]
        [change] = imports.changes_of_bringing_in(session)
    with store.writing() as session:
        bringing_in.undo(session, change.id, NOW)
    with store.reading() as session:
        assert [(m.sensored, m.kind, m.poles) for m in motors.every(session)] == [
            (None, "", 4),
            (False, "inrunner", None),
        ]
