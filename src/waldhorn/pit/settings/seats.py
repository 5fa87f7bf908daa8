"""Who is let in from other devices, and as what: passphrases that are set, names that are said, seats."""

import secrets
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import control_characters, unseen_characters
from waldhorn.store import seats
from waldhorn.store.engine import Store
from waldhorn.store.seats import LASTS, Role, Seat, drop_passphrase, of_cookie, put_out, put_out_among
from waldhorn.store.writing import Writing

__all__ = ["LASTS", "Role", "Seat", "drop_passphrase", "join", "of_cookie", "put_out", "put_out_among"]

LONGEST_NAME = 24
SHORTEST, LONGEST = 12, 128  # of a passphrase; as level 1 of the ASVS asks (2.1.1, 2.1.2)
LEAST_STRENGTH = 3  # of 4: what lists of stolen ones and words in a row do not find in a hundred million tries (2.1.7)
_LOOKED_AT = 72  # characters of it, when its strength is estimated
ROLE_WORDS = {
    Role.LOOK: "looks, changes nothing: an owner",
    Role.TECHNICIAN: "does the work",
    Role.KEEPER: "does the work, keeps settings, keys and seats",
}
_CHARACTERS = "abcdefghjkmnpqrstuvwxyz23456789"  # none that is read as another one on a small screen


def suggested() -> str:
    """A passphrase nobody guesses and a thumb can type: fifty-nine bits in three groups."""
    return "-".join("".join(secrets.choice(_CHARACTERS) for _ in range(4)) for _ in range(3))


def is_easily_guessed(typed: str) -> bool:
    """Whether a passphrase is on lists of those that were stolen elsewhere, or is soon found from them."""
    from zxcvbn import zxcvbn  # brings its lists along

    return int(zxcvbn(typed[:_LOOKED_AT])["score"]) < LEAST_STRENGTH


def set_passphrase(session: Session, role: Role, typed: str, now: datetime) -> None:
    """Let in whoever knows this phrase, in this role; raises InputError."""
    if not SHORTEST <= len(typed) <= LONGEST:
        raise InputError(role, f"a passphrase has {SHORTEST} to {LONGEST} characters, this one has {len(typed)}")
    if strange := control_characters(typed):
        raise InputError(role, f"a passphrase cannot hold {', '.join(strange)}")
    if is_easily_guessed(typed):
        raise InputError(
            role, "this one is on lists of stolen ones, or soon guessed: take four words that do not belong together"
        )
    others = {known: hashed for known, hashed in seats.hashes(session).items() if known is not role}
    if seats.role_of(others, typed):
        raise InputError(role, "another role has this passphrase: choose one of its own")
    seats.set_passphrase(session, role, typed, now)


def join(store: Store, by: Writing, typed_name: str, phrase: str, device: str) -> tuple[Seat, str] | None:
    """Give a device a seat, and what its cookie is to hold; None where the passphrase lets in nobody. Raises InputError
    for a name that cannot be."""
    name = name_of(typed_name)
    with store.reading() as session:
        hashes = seats.hashes(session)
    role = seats.role_of(hashes, phrase[:LONGEST])  # outside the lock: it takes a while, as it should
    if role is None:
        return None
    with store.writing(by) as session:
        return seats.join(session, name, role, device[:LONGEST], by.at)


def name_of(typed: str) -> str:
    """Who somebody says to be; raises InputError."""
    name = " ".join(typed.split())
    if not name:
        raise InputError("name", "say who you are: your initials do")
    if strange := unseen_characters(name):
        raise InputError("name", f"a name cannot hold {', '.join(strange)}: type it anew")
    if len(name) > LONGEST_NAME:
        raise InputError("name", f"initials or a name of at most {LONGEST_NAME} characters")
    return name


def lets_somebody_in(session: Session) -> None:
    """Raises InputError where no passphrase is set: nobody could join, and nobody may come in without."""
    if not seats.roles(session):
        raise InputError(
            "open", "nobody could join: set a passphrase first, on the settings page or with `waldhorn passphrase`"
        )
