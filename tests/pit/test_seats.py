"""Who is let in: passphrases that are long enough, names that are said."""

import re

import argon2
import pytest

from waldhorn.core.base.errors import InputError
from waldhorn.pit.settings import seats as pit
from waldhorn.pit.writing import Writing
from waldhorn.store import seats
from waldhorn.store.seats import Role
from waldhorn.web.common.pages import now


@pytest.fixture(autouse=True)
def quick(monkeypatch):
    monkeypatch.setattr(seats, "_hasher", lambda: argon2.PasswordHasher(1, 8, 1))


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("", "has 12 to 128 characters, this one has 0"),
        ("x" * 11, "this one has 11"),
        ("x" * 129, "this one has 129"),
        ("a passphrase\x07", r"cannot hold U\+0007"),
        ("what owners know", "another role has this passphrase"),
    ],
)
def test_a_passphrase_that_would_not_do_is_refused(store, typed, says):
    with store.writing() as session:
        pit.set_passphrase(session, Role.LOOK, "what owners know", now())
        with pytest.raises(InputError, match=says):
            pit.set_passphrase(session, Role.KEEPER, typed, now())
        assert set(seats.roles(session)) == {Role.LOOK}


@pytest.mark.parametrize(
    "typed", ["passwordpassword", "123456789012", "Password1234!", "qwertyuiop12", "iloveyou1234", "x" * 128]
)
def test_a_passphrase_that_is_on_lists_of_stolen_ones_is_refused(store, typed):
    with store.writing() as session:
        with pytest.raises(InputError, match="on lists of stolen ones"):
            pit.set_passphrase(session, Role.KEEPER, typed, now())
        assert seats.roles(session) == {}
    assert not any(pit.is_easily_guessed(pit.suggested()) for _ in range(20))


@pytest.mark.parametrize(
    "phrase", ["kq7 zvt 3mpx", ("heron anvil copper dusk " * 6)[:128], "  spaces count  ", "Ünter den Brücken 火"]
)
def test_a_passphrase_is_long_enough_whole_and_its_roles_own(store, phrase):
    with store.writing() as session:
        pit.set_passphrase(session, Role.TECHNICIAN, phrase, now())
        pit.set_passphrase(session, Role.TECHNICIAN, phrase, now())  # again: the same role may keep it
    assert pit.join(store, Writing(now()), "JK", phrase, "phone")[0].role is Role.TECHNICIAN
    assert pit.join(store, Writing(now()), "JK", phrase[:-1], "phone") is None
    assert pit.join(store, Writing(now()), "JK", phrase.strip()[:-1], "phone") is None


def test_one_that_is_made_is_never_the_same_and_lets_in(store):
    made = {pit.suggested() for _ in range(200)}
    assert len(made) == 200
    assert all(re.fullmatch(r"[a-hjkmnp-z2-9]{4}(-[a-hjkmnp-z2-9]{4}){2}", m) for m in made)
    with store.writing() as session:
        pit.set_passphrase(session, Role.KEEPER, min(made), now())
    assert pit.join(store, Writing(now()), " J  K ", min(made), "phone")[0].name == "J K"


def test_nobody_is_let_in_where_no_passphrase_is_set(store):
    assert pit.join(store, Writing(now()), "JK", "", "phone") is None
    with store.reading() as session, pytest.raises(InputError, match="set a passphrase first"):
        pit.lets_somebody_in(session)
