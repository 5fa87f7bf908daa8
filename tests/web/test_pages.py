"""What pages have in common: what was done lately, numbers and changes as they are written."""

from datetime import datetime, timedelta

import pytest

from made import day, full, history
from waldhorn.core.base.history import Motor
from waldhorn.core.base.units import AS_STORED
from waldhorn.core.judging.verdict import judge
from waldhorn.store.models import ChangeKind, ChangeRow
from waldhorn.web.common import words
from waldhorn.web.common.pages import lately

NOW = datetime.fromisoformat("2026-06-01T12:00:00+02:00")


def act(seconds_ago, undone_ago=None, kind=ChangeKind.OPEN):
    undone = NOW - timedelta(seconds=undone_ago) if undone_ago is not None else None
    return ChangeRow(
        kind=kind, at=NOW - timedelta(seconds=seconds_ago), undone_at=undone, step="", detail="", count=0, id="a1"
    )


def test_what_was_just_done_is_shown_with_its_undo():
    assert lately(act(1), NOW, "/motors/VS-01/undo") == {
        "did": "Check opened.",
        "did_undo": "/motors/VS-01/undo",
        "did_change": "a1",
    }


@pytest.mark.parametrize("what", [None, act(4), act(500, undone_ago=4)])
def test_what_was_done_a_while_ago_is_not(what):
    assert lately(what, NOW, "/somewhere") == {}


def test_what_was_undone_cannot_be_undone_again():
    assert lately(act(500, undone_ago=1), NOW, "/somewhere") == {"did": "Undone: check opened."}


@pytest.mark.parametrize(
    ("value", "decimals", "written"),
    [
        (0.04, 1, "±0.0"),
        (-0.04, 1, "±0.0"),
        (0.0, 0, "±0"),
        (-0.05001, 1, "−0.1"),
        (1234.5, 0, "+1\u2009234"),
        (-12.34, 1, "−12.3"),
        (None, 1, "–"),
    ],
)
def test_a_change_has_its_sign_unless_it_rounds_to_nothing(value, decimals, written):
    assert words.signed(value, decimals) == written


@pytest.mark.parametrize(
    ("days", "said"), [(0, "today"), (1, "yesterday"), (2, "30 May"), (200, "13 November 2025"), (-1, "2 June")]
)
def test_days_as_one_says_them(days, said):
    assert words.day(NOW.date() - timedelta(days=days), NOW.date()) == said


@pytest.mark.parametrize(("poles", "said"), [(4, "not counted"), (14, "nothing to compare with")])
def test_what_says_nothing_of_a_motor_is_not_counted_rather_than_missing(poles, said):
    known = history(full(1), motor=Motor("VS-07", "Skerry 36", poles=poles, slots=12, poles_known_by="counted"))
    by = {e.quantity.name: e for e in judge(known, day(2)).evidence}
    assert words.state_of(by["detent_variation"]) == said


def test_a_number_stays_on_one_line_with_its_unit_and_with_no_other_word():
    kept = "\N{NO-BREAK SPACE}"
    said = "Draws 31 % more than in June. 6 dB louder. Runs 25 K hotter, 43 °C, at 0.18 mm, 4 Amps of 12."
    assert words.unbroken(AS_STORED, said) == (
        f"Draws 31{kept}% more than in June. 6{kept}dB louder. "
        f"Runs 25{kept}K hotter, 43{kept}°C, at 0.18{kept}mm, 4 Amps of 12."
    )
