"""The pit's propellers and packs: one name each, however they were written; and every change of a name is undone."""

import pytest

from made import NOW, day
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.pit.bench import undoing
from waldhorn.pit.between import loads
from waldhorn.pit.motors import corrections
from waldhorn.pit.rigs import load_names
from waldhorn.pit.writing import Writing, write
from waldhorn.store import motors, readings

BY = Writing(NOW)


@pytest.fixture
def driven(store):
    """Two motors that drove propellers, written as here."""

    def put(**written):
        with store.writing() as session:
            ids = dict(zip(written, motors.add(session, [Motor(t) for t in written]), strict=True))
            for tag, names in written.items():
                key = (ids[tag], "load")
                check_id = readings.check_ids(session, [(*key, day(1), Conditions(rig="stand"))])[key]
                rows = [
                    Reading(m, v, day(1), run, Conditions(on_shaft=name, pack=pack), Purpose.LOAD)
                    for run, (name, pack) in enumerate(names, 1)
                    for m, v in (("load_volts", 11.1), ("load_current", 20.0 + run), ("thrust", 800.0 + run))
                ]
                readings.add(session, [(check_id, r) for r in rows])

    return put


def listed(store):
    with store.reading() as session:
        return {p.name: p for p in load_names.view(session).propellers}


def do(store, command, **typed):
    write(store, Writing(NOW), command, typed, NOW)


def undo_last(store):
    with store.reading() as session:
        last = load_names.view(session).last
    do(store, load_names.undo, change=last.id)


def lines(store):
    with store.reading() as session:
        return [(line.propeller, line.pack, sorted(line.cells)) for line in loads.sheet(session, ["A", "B"]).lines]


def test_spellings_of_one_are_one_and_a_nickname_is_too(store, driven):
    driven(A=[("5045x3", "3S"), ("gremlin", "3S")], B=[("5 x 4.5 three-blade", "3S")])
    assert {n: p.readings for n, p in listed(store).items()} == {"5 x 4.5 x 3": 6, "gremlin": 3}
    do(store, load_names.save, was="5 x 4.5 x 3", name="5 x 4.5 x 3", nickname="gremlin")
    [one] = listed(store).values()
    assert (one.name, one.readings, one.kept, one.blades) == ("5 x 4.5 x 3", 9, True, 3)
    undo_last(store)
    assert set(listed(store)) == {"5 x 4.5 x 3", "gremlin"}


def test_a_name_that_can_be_read_two_ways_is_asked_once(store, driven):
    driven(A=[("1045", "3S")], B=[("10x4.5", "3S")])
    assert not listed(store)["10 x 4.5"].sure
    with store.reading() as session:
        assert any("“1045” is read as" in words for words in loads.sheet(session, ["A", "B"]).rests_on)
    do(store, load_names.save, was="10 x 4.5", name="10 x 4.5", also="1045; 10x4.5")
    assert listed(store)["10 x 4.5"].sure
    with store.reading() as session:
        assert not any("1045" in words for words in loads.sheet(session, ["A", "B"]).rests_on)


def test_two_that_are_one_are_compared_as_one_and_that_is_undone(store, driven):
    driven(A=[("green", "3S")], B=[("otter no 3", "3S")])
    assert [t for _, _, t in lines(store)] == [["A"], ["B"]]
    do(store, load_names.join, one="otter no 3", into="green")
    assert lines(store) == [("green", "3S", ["A", "B"])]
    assert listed(store)["green"].readings == 6
    undo_last(store)
    assert [t for _, _, t in lines(store)] == [["A"], ["B"]]


def test_a_pack_that_has_a_name_says_its_cells(store, driven):
    driven(A=[("6 x 4.5", "blue")], B=[("6 x 4.5", "3S")])
    assert [(p, t) for _, p, t in lines(store)] == [("3S", ["B"]), ("blue", ["A"])]
    do(store, load_names.save_pack, name="blue", cells="3", capacity_mah="1500", pack_mohm="12")
    assert [(p, t) for _, p, t in lines(store)] == [("3S", ["A", "B"])]
    undo_last(store)
    assert len(lines(store)) == 2


def test_nonsense_in_the_lists_is_said_by_field(store, driven):
    driven(A=[("green", "3S")], B=[("5045", "3S")])
    for typed, fields in (
        ({"name": ""}, {"name"}),
        ({"name": "x", "diameter": "big", "blades": "2.5", "unit": "feet"}, {"diameter", "blades", "unit"}),
    ):
        with pytest.raises(InputErrors) as refused:
            do(store, load_names.save, **typed)
        assert set(refused.value.by_field) == fields
    do(store, load_names.save, was="green", name="green", nickname="g")
    with pytest.raises(InputErrors, match="is how green is called"):
        do(store, load_names.save, was="5 x 4.5", name="5 x 4.5", nickname="G")
    with pytest.raises(InputErrors, match="two different"):
        do(store, load_names.join, one="green", into="green")
    with pytest.raises(InputErrors, match="changed since"):
        do(store, load_names.undo, change="another")


def test_rows_without_a_pack_are_named_beside_those_it_is_said_of_and_one_press_says_it_for_all(store, driven):
    driven(A=[("5045", "3S"), ("5045", "3S")], B=[("5045", ""), ("5x4.5", "")])
    with store.reading() as session:
        [bare] = loads.sheet(session, ["A", "B"]).unsaid
    assert (bare.motor, bare.rows, bare.source) == ("B", 2, "3S")
    write(store, BY, corrections.say_pack, "B", "3S", NOW)
    with store.reading() as session:
        sheet = loads.sheet(session, ["A", "B"])
    assert (list(sheet.unsaid), {r.source for r in sheet.rows}) == ([], {"3S"})
    with pytest.raises(InputError, match="no load row of it lacks its pack"):
        write(store, BY, corrections.say_pack, "B", "3S", NOW)
    write(store, BY, lambda session: undoing.undo(session, motors.on_rack(session, "B").id, NOW))
    with store.reading() as session:
        assert [u.motor for u in loads.sheet(session, ["A", "B"]).unsaid] == ["B"]
