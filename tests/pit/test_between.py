"""Motors of the store beside each other, and as JSON."""

import json
from datetime import datetime
from itertools import combinations

import pytest

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.comparing.sets import Chosen
from waldhorn.exchange.matching import MatchJson, to_json
from waldhorn.pit.between import uses
from waldhorn.pit.between.comparison import between
from waldhorn.store import motors


@pytest.fixture
def now():
    return datetime.now().astimezone()


def test_the_most_alike_pair_of_the_demo_as_the_format_names_it(demo_store, now):
    with demo_store.reading() as session:
        found = between(session, ["VS-01", "vs-03", "VS-04", "VS-08"], now)
    partition = found.partition
    chosen = Chosen(partition.sets[0], partition.runners_up, partition.left_over)
    written = json.loads(json.dumps(to_json(chosen, partition.alike, found.compared.rows)))
    shaped = MatchJson.model_validate(written)
    assert set(written) == {
        "set",
        "score",
        "alike",
        "runners_up",
        "left_over",
        "differences",
        "not_comparable",
    }
    assert set(shaped.set) | set(shaped.left_over) == {"VS-01", "VS-03", "VS-04", "VS-08"}
    assert shaped.alike == (shaped.score < 1)
    assert [r.score for r in shaped.runners_up] == sorted(r.score for r in shaped.runners_up)
    kv = [d for d in shaped.differences if d.measure == "kv"]
    assert len(kv) == 6
    assert {d.unit for d in kv} == {"rpm/V"}


def test_of_two_windings_of_a_model_none_is_better_for_speed_by_its_kv(demo_store, now):
    def compared():
        with demo_store.reading() as session:
            return between(session, ["VS-01", "VS-03"], now).compared

    before = compared()
    assert not before.windings
    assert "speed" in {b.use for b in before.better}
    with demo_store.writing() as session:
        motors.find(session, "VS-03").label_kv = 4600
    after = compared()
    assert after.windings
    assert "kv" not in {b.mostly for b in after.better}


def test_motors_that_were_never_read_have_no_rows_and_no_set(demo_store, now):
    with demo_store.reading() as session:
        found = between(session, ["VS-18", "VS-01"], now)
    assert (found.compared.rows, found.partition.sets, found.compared.better) == ([], (), [])
    assert "a set of 2 out of 0" in found.partition.refused


@pytest.mark.parametrize(
    ("tags", "words"),
    [
        (["VS-01"], "1 to compare"),
        (["VS-01", "VS-99"], "no motor VS-99"),
        (["VS-01", "vs-01 "], "the same motor twice"),
    ],
)
def test_what_cannot_be_compared_is_refused(demo_store, now, tags, words):
    with demo_store.reading() as session, pytest.raises(InputError, match=words):
        between(session, tags, now)


GANNETS = ["VS-02", "VS-12", "VS-13", "VS-14", "VS-16", "PB-3"]


def test_the_best_pair_of_the_hydroplanes_is_not_one_that_sits_in_one_boat_nor_the_nearest_in_speed(demo_store, now):
    with demo_store.reading() as session:
        found = between(session, GANNETS, now)
    best = set(found.partition.sets[0].motors)
    assert best not in ({"VS-12", "VS-13"}, {"VS-14", "VS-16"})
    speeds = next(r for r in found.compared.rows if r.quantity.name == "kv").values
    nearest = min(combinations(speeds, 2), key=lambda two: abs(two[0].value - two[1].value))
    assert best != {s.tag for s in nearest}


def test_motors_are_parted_into_several_machines_at_once(demo_store, now):
    with demo_store.reading() as session:
        partition = between(session, GANNETS, now, 2, 3).partition
        every = between(session, motors.all_tags(session)[:19], now, 4, 3).partition
    assert [len(s.motors) for s in partition.sets] == [2, 2, 2]
    assert len({t for s in partition.sets for t in s.motors} | set(partition.left_over)) == 6
    assert (partition.short, every.short, len(every.sets)) == (0.0, 0.0, 3)


def test_what_a_class_calls_good_enough_is_held_against_the_set(demo_store, now):
    with demo_store.writing() as session:
        uses.save_good_enough(session, "twin hydroplane", {"within-kv": "0,1", "within-detent_peak": "50"})
        found = between(session, GANNETS, now).partition
    assert [(t.quantity, t.within) for t in found.too_far if t.quantity in ("kv", "detent_peak")] == [("kv", 0.1)]
    assert set(found.too_far[0].motors) == set(found.sets[0].motors)


def test_a_use_weighs_what_the_pit_says(demo_store, now):
    two = ["VS-20", "VS-22"]
    with demo_store.writing() as session:
        before = {b.use: b for b in between(session, two, now).compared.better}
        uses.save_use(session, "economy", {"weighs-no_load_current": "1"})
        after = {b.use: b for b in between(session, two, now).compared.better}
        with pytest.raises(InputErrors, match="weigh one quantity"):
            uses.save_use(session, "economy", {"weighs-kv": "0"})
        with pytest.raises(InputErrors, match="is no use"):
            uses.save_use(session, "beauty", {"weighs-kv": "1"})
    assert (before["economy"].best, after["economy"].best) == ("VS-20", "VS-22")
    assert before["speed"] == after["speed"]


def test_a_motor_read_on_the_other_bench_only_is_compared_translated(demo_store, now):
    with demo_store.reading() as session:
        rows = {r.quantity.name: r for r in between(session, ["VS-20", "VS-22", "VS-32"], now).compared.rows}
    current = {s.tag: s for s in rows["no_load_current"].values}
    assert (current["VS-32"].from_rig, current["VS-20"].from_rig) == ("pier bench", "")
    assert current["VS-32"].value == pytest.approx(current["VS-20"].value, rel=0.15)
    assert [p.tag for p in rows["noise_avg"].parted] == ["VS-32"]


def test_what_was_read_while_the_rig_was_out_is_left_out_and_said(demo_store, now):
    with demo_store.reading() as session:
        found = between(session, ["VS-01", "VS-03", "VS-06"], now).compared
    assert found.out == {("VS-06", "no_load_current")}
    rows = {r.quantity.name: r for r in found.rows}
    assert [s.tag for s in rows["no_load_current"].values] == ["VS-01", "VS-03"]
    assert "VS-06" in [s.tag for s in rows["kv"].values]


def test_an_inrunner_and_an_outrunner_compare_in_what_both_have_and_make_no_set(demo_store, now):
    with demo_store.reading() as session:
        found = between(session, ["VS-01", "VS-20"], now)
    assert {m.tag for m in found.compared.motors} == {"VS-01", "VS-20"}
    assert all(p.why for row in found.compared.rows for p in row.parted)
    assert (found.partition.sets, found.partition.refused) == ((), "an inrunner and an outrunner make no set")
