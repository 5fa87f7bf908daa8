"""Seats: devices that joined this pit, who sits at each and what that role may do; and the passphrases that let in.

A passphrase is kept as an argon2id hash, the cookie of a seat is signed with a key that only this store has.
"""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from functools import cache, lru_cache
from typing import TYPE_CHECKING, cast

from itsdangerous import BadSignature, TimestampSigner
from sqlalchemy import ColumnElement, delete, select, update
from sqlalchemy.dialects.sqlite import insert as upsert
from sqlalchemy.orm import Session

from waldhorn.store.models import PassphraseRow, SeatRow, SecretRow

if TYPE_CHECKING:
    from argon2 import PasswordHasher

LASTS = timedelta(days=30)  # a seat that was taken
_COOKIE_KEY = "cookie"


class Role(StrEnum):
    """What a seat may do: look at everything; do the work; see to settings, keys and seats as well."""

    LOOK = "look"
    TECHNICIAN = "technician"
    KEEPER = "keeper"


@dataclass(frozen=True, slots=True)
class Seat:
    """Who asks: a device by its identifier, who sits at it, in which role; no identifier where it is the machine itself
    that serves the pit."""

    id: str
    name: str
    role: Role

    @property
    def is_in(self) -> bool:
        """Whether it has joined, or need not: it is nobody who has only come to the page where one joins."""
        return bool(self.id) or self.role is Role.KEEPER

    @property
    def may_change(self) -> bool:
        """Whether it may do more than look."""
        return self.role is not Role.LOOK


@cache
def _hasher() -> "PasswordHasher":
    from argon2 import PasswordHasher

    return PasswordHasher()  # the second recommended setting of RFC 9106: 64 MiB, three passes, four lanes


def set_passphrase(session: Session, role: Role, phrase: str, now: datetime) -> None:
    """Let in whoever knows this phrase, in this role; every seat of the role has to join anew."""
    values = {"hash": _hasher().hash(phrase), "set_at": now}
    known = upsert(PassphraseRow).values(role=role, **values)
    session.execute(known.on_conflict_do_update(index_elements=["role"], set_=values))
    _put_out(session, now, SeatRow.role == role)


def drop_passphrase(session: Session, role: Role, now: datetime) -> None:
    """Let in nobody any more in this role, and put out who is in."""
    session.execute(delete(PassphraseRow).where(PassphraseRow.role == role))
    _put_out(session, now, SeatRow.role == role)


def roles(session: Session) -> dict[Role, datetime]:
    """The roles somebody can join in, and when the passphrase of each was set."""
    rows = session.execute(select(PassphraseRow.role, PassphraseRow.set_at))
    return {Role(role): at for role, at in rows}


def role_of(hashes: dict[Role, str], phrase: str) -> Role | None:
    """In which role a phrase lets in. Each hash is tried, so that the time it takes says nothing of which was meant."""
    from argon2.exceptions import InvalidHashError, VerificationError

    found = None
    for role, known in hashes.items():
        try:
            _hasher().verify(known, phrase)
        except (VerificationError, InvalidHashError):
            continue
        found = role
    return found


def hashes(session: Session) -> dict[Role, str]:
    """What each passphrase is kept as."""
    return {Role(role): known for role, known in session.execute(select(PassphraseRow.role, PassphraseRow.hash))}


def join(session: Session, name: str, role: Role, device: str, now: datetime) -> tuple[Seat, str]:
    """Give a device a seat; returns it and what its cookie holds."""
    row = SeatRow(name=name, role=role, device=device, made_at=now, put_out_at=None)
    session.add(row)
    session.flush()
    return Seat(row.id, name, role), _signer(cookie_key(session)).sign(row.id).decode()


def cookie_key(session: Session) -> str:
    """The key that signs the cookies of this store, made when it is first asked for by one who writes."""
    query = select(SecretRow.value).where(SecretRow.name == _COOKIE_KEY)
    known = session.scalar(query)
    if known is None:
        session.execute(
            upsert(SecretRow).values(name=_COOKIE_KEY, value=secrets.token_urlsafe(32)).on_conflict_do_nothing()
        )
        known = session.scalar(query)
    return cast(str, known)


def of_cookie(session: Session, cookie: str) -> Seat | None:
    """The seat a cookie was made for, where it was signed here, is not too old, and was not put out."""
    key = session.scalar(select(SecretRow.value).where(SecretRow.name == _COOKIE_KEY))
    if not cookie or key is None:
        return None
    try:
        seat_id = _signer(key).unsign(cookie, max_age=int(LASTS.total_seconds())).decode()
    except (BadSignature, UnicodeError):
        return None
    row = session.execute(
        select(SeatRow.id, SeatRow.name, SeatRow.role).where(SeatRow.id == seat_id, SeatRow.put_out_at.is_(None))
    ).one_or_none()
    return Seat(row.id, row.name, Role(row.role)) if row else None


@lru_cache(4)
def _signer(key: str) -> TimestampSigner:
    return TimestampSigner(key, salt="waldhorn.seat", digest_method=hashlib.sha256)


def standing(session: Session, now: datetime) -> list[SeatRow]:
    """The seats that are taken, newest first."""
    query = select(SeatRow).where(SeatRow.put_out_at.is_(None), SeatRow.made_at > now - LASTS)
    return list(session.scalars(query.order_by(SeatRow.id.desc())))


def put_out_among(session: Session, seat_ids: set[str]) -> set[str]:
    """Those of these seats that were put out."""
    query = select(SeatRow.id).where(SeatRow.id.in_(seat_ids), SeatRow.put_out_at.is_not(None))
    return set(session.scalars(query))


def put_out(session: Session, seat_id: str, now: datetime) -> None:
    """Take a seat from its device: its cookie opens nothing any more."""
    _put_out(session, now, SeatRow.id == seat_id)


def _put_out(session: Session, now: datetime, which: ColumnElement[bool]) -> None:
    session.execute(update(SeatRow).where(which, SeatRow.put_out_at.is_(None)).values(put_out_at=now))
