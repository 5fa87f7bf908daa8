"""What a few words may mean."""

from datetime import date, timedelta

import pytest

from waldhorn.core.base.history import Motor
from waldhorn.pit import finding
from waldhorn.store import motors
from waldhorn.store.models import CheckRow

TODAY = date(2026, 11, 30)


@pytest.mark.parametrize(
    ("words", "day"),
    [
        ("today", TODAY),
        (" Yesterday ", TODAY - timedelta(days=1)),
        ("14 nov", date(2026, 11, 14)),
        ("30 november", TODAY),
        ("3. December", date(2025, 12, 3)),
        ("3 dec 2024", date(2024, 12, 3)),
        ("2026-07-01", date(2026, 7, 1)),
        ("31 feb", None),
        ("29 feb", None),
        ("14 nobody", None),
        ("14", None),
        ("kv", None),
        ("", None),
    ],
)
def test_a_day_is_read_as_people_say_it(words, day):
    assert finding.day_of(words, TODAY) == day


def test_the_checks_of_a_day_are_found_and_no_others(demo_store):
    with demo_store.reading() as session:
        check = session.query(CheckRow).order_by(CheckRow.at.desc()).first()
        here = check.at.astimezone()
        found = finding.find(session, f"{here:%Y-%m-%d}", here)
        assert check.id in {c.check_id for c in found.checks}
        assert {c.at.astimezone().date() for c in found.checks} == {here.date()}
        assert len({c.check_id for c in found.checks}) == len(found.checks) <= finding.MOST_CHECKS


@pytest.mark.parametrize(
    ("words", "tag", "besides"),
    [
        ("VS-07", "VS-07", ""),
        ("vs-07 kv", "VS-07", "kv"),
        ("noise of vs-07", "VS-07", "noise of"),
        ("left motor 2 book", "Left motor 2", "book"),
        ("vs-0", "", ""),
        ("   ", "", ""),
    ],
)
def test_a_tag_that_is_said_whole_is_told_from_the_words_beside_it(demo_store, words, tag, besides):
    with demo_store.writing() as session:
        motors.add(session, [Motor("Left motor 2", "Skerry 36")])
    with demo_store.reading() as session:
        found = finding.find(session, words, demo_now(session))
    assert (found.tag, found.besides) == (tag, besides)


def demo_now(session):
    return session.query(CheckRow).order_by(CheckRow.at.desc()).first().at.astimezone()
