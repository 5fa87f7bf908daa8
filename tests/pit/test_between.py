"""Motors of the store beside each other, and as JSON."""

import json
from datetime import datetime

import pytest

from waldhorn.core.errors import Refused
from waldhorn.exchange.matching import MatchJson, to_json
from waldhorn.pit.between import between


@pytest.fixture
def now():
    return datetime.now().astimezone()


def test_the_most_alike_pair_of_the_demo_as_the_format_names_it(demo_store, now):
    with demo_store.reading() as session:
        found = between(session, ["VS-01", "vs-03", "VS-06", "VS-08"], now)
    written = json.loads(json.dumps(to_json(found.chosen, found.alike, found.rows)))
    shaped = MatchJson.model_validate(written)
    assert set(written) == {
        "set", "score", "alike", "runners_up", "left_over", "differences", "not_comparable",
    }  # fmt: skip
    assert set(shaped.set) | set(shaped.left_over) == {"VS-01", "VS-03", "VS-06", "VS-08"}
    assert shaped.alike == (shaped.score < 1)
    assert [r.score for r in shaped.runners_up] == sorted(r.score for r in shaped.runners_up)
    kv = [d for d in shaped.differences if d.measure == "kv"]
    assert len(kv) == 6
    assert {d.unit for d in kv} == {"rpm/V"}


def test_motors_that_were_never_read_have_no_rows_and_no_set(demo_store, now):
    with demo_store.reading() as session:
        found = between(session, ["VS-18", "VS-01"], now)
    assert (found.rows, found.chosen, found.better) == ([], None, [])
    assert "a set of 2 out of 0" in found.refused


@pytest.mark.parametrize(
    ("tags", "words"),
    [
        (["VS-01"], "1 to compare"),
        (["VS-01", "VS-20"], "motors of one kind"),
        (["VS-01", "VS-99"], "no motor VS-99"),
        (["VS-01", "vs-01 "], "the same motor twice"),
    ],
)
def test_what_cannot_be_compared_is_refused(demo_store, now, tags, words):
    with demo_store.reading() as session, pytest.raises(Refused, match=words):
        between(session, tags, now)
