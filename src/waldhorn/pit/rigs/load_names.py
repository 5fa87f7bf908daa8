"""The pit's propellers and packs: what each is called, how else it was written, and which two are one.

A name that can be read two ways ("1045" is 10 x 4.5, or tenths of a small one) is asked once, then known.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.text import key_of
from waldhorn.core.base.units import read_number
from waldhorn.core.measuring.propellers import named, propeller
from waldhorn.store import changes, pit
from waldhorn.store import load_names as store
from waldhorn.store.models import ChangeKind, ChangeRow, PackRow, PropellerRow

LONGEST = 60
UNITS = ("in", "mm")


@dataclass(frozen=True)
class Listed:
    """A propeller by its one name: its size where it is known, its nickname, how it was written, in how many readings
    and when last; `kept` where the pit has it on its list, `sure` where its name can be read in one way only."""

    name: str
    diameter: float | None
    pitch: float | None
    blades: int | None
    unit: str
    nickname: str = ""
    written: tuple[str, ...] = ()
    readings: int = 0
    last_at: datetime | None = None
    kept: bool = False
    sure: bool = True


@dataclass(frozen=True)
class ListedPack:
    """A pack, likewise."""

    name: str
    cells: float | None = None
    capacity_mah: float | None = None
    pack_mohm: float | None = None
    note: str = ""
    readings: int = 0
    last_at: datetime | None = None
    kept: bool = False


@dataclass(frozen=True)
class LoadNames:
    """Both lists, the most used first, and the last change of either."""

    propellers: tuple[Listed, ...]
    packs: tuple[ListedPack, ...]
    last: ChangeRow | None = None


def view(session: Session) -> LoadNames:
    """What motors were loaded with and fed from, those on the list and those that were only written."""
    last = changes.last_of_kind(session, ChangeKind.LOAD_NAME)
    return LoadNames(tuple(_propellers(session)), tuple(_packs(session)), last)


def _propellers(session: Session) -> list[Listed]:
    known = store.known_propellers(session)
    found: dict[str, Listed] = {}
    for row in store.standing(session, PropellerRow):
        size = (row.diameter, row.pitch, row.blades, row.unit)
        found[row.name] = Listed(row.name, *size, row.nickname, tuple(map(str, row.also)), kept=True)
    for text, count, at in store.written(session, "on_shaft"):
        one = named(text, known)
        size = (one.diameter, one.pitch, one.blades, one.unit)
        before = found.get(one.name, Listed(one.name, *size, sure=one.sure))
        found[one.name] = replace(
            before,
            written=(*before.written, *(() if text in before.written else (text,))),
            readings=before.readings + count,
            last_at=max(at, before.last_at or at),
            sure=before.sure and one.sure,
        )
    return sorted(found.values(), key=lambda p: (p.sure, -p.readings, p.name))


def _packs(session: Session) -> list[ListedPack]:
    found = {
        key_of(row.name): ListedPack(row.name, row.cells, row.capacity_mah, row.pack_mohm, row.note, kept=True)
        for row in store.standing(session, PackRow)
    }
    for text, count, at in store.written(session, "pack"):
        before = found.get(key_of(text), ListedPack(text))
        last_at = max(at, before.last_at or at)
        found[key_of(text)] = replace(before, readings=before.readings + count, last_at=last_at)
    return sorted(found.values(), key=lambda p: (-p.readings, p.name))


def save(session: Session, typed: Mapping[str, str], now: datetime) -> None:
    """Give a propeller its name, size and nickname; `was` is what it was called before. Raises InputErrors."""
    was, name = _text(typed, "was"), _text(typed, "name")
    before = _row(session, PropellerRow, was)
    wrong = {} if name else {"name": "give it a name: 5 x 4.5, or what you call it"}
    nickname = _text(typed, "nickname")
    taken = store.known_propellers(session)
    for said, text in (("name", name), ("nickname", nickname)):
        other = taken.get(key_of(text)) if text else None
        if other and other.name not in (was, name):
            wrong[said] = f"“{text}” is how {other.name} is called: make the two one below"
    if name != was and _row(session, PropellerRow, name):
        wrong["name"] = f"{name} is on the list already: make the two one below"
    size = propeller(name)
    numbers = {"diameter": size.diameter, "pitch": size.pitch, "blades": size.blades}
    for n, low, high in (("diameter", 0.1, 2000), ("pitch", 0.1, 2000), ("blades", 1, 12)):
        if text := _text(typed, n):
            try:
                numbers[n] = read_number(text, n, "count", low, high, pit.notation(session))
            except InputError as refused:
                wrong[n] = refused.sentence
    if numbers["blades"] and numbers["blades"] != int(numbers["blades"]):
        wrong["blades"] = f"{numbers['blades']:g} blades cannot be: a whole number"
    unit = _text(typed, "unit") or size.unit
    if unit not in UNITS:
        wrong["unit"] = f"“{unit}” is none of {', '.join(UNITS)}"
    if wrong:
        raise InputErrors(wrong)
    also = [*(map(str, before.also) if before else ()), *_spellings(typed), *([was] if was and was != name else [])]
    words = f"{was} is {name}" if was and was != name else f"{name} put on the list"
    change_id = changes.record(session, ChangeKind.LOAD_NAME, now, None, detail=words)
    blades = int(numbers["blades"]) if numbers["blades"] else None
    row = PropellerRow(
        name=name,
        diameter=numbers["diameter"],
        pitch=numbers["pitch"],
        blades=blades,
        unit=unit,
        nickname=nickname,
        also=list(dict.fromkeys(a for a in also if key_of(a) != key_of(name))),
    )
    store.replace(session, change_id, before, row)


def join(session: Session, typed: Mapping[str, str], now: datetime) -> None:
    """Two propellers are one: all that was written of `one` is `into` from then on. Raises InputErrors."""
    one, into = _text(typed, "one"), _text(typed, "into")
    listed = {p.name: p for p in _propellers(session)}
    if one not in listed or into not in listed or one == into:
        raise InputErrors({"into": "choose two different propellers of the list"})
    away, stays = listed[one], listed[into]
    change_id = changes.record(session, ChangeKind.LOAD_NAME, now, None, detail=f"{one} is {into}")
    also = [*stays.written, one, *away.written, *([away.nickname] if away.nickname else [])]
    row = PropellerRow(
        name=stays.name,
        diameter=stays.diameter,
        pitch=stays.pitch,
        blades=stays.blades,
        unit=stays.unit,
        nickname=stays.nickname,
        also=list(dict.fromkeys(a for a in also if key_of(a) != key_of(stays.name))),
    )
    store.replace(session, change_id, _row(session, PropellerRow, one), None)
    store.replace(session, change_id, _row(session, PropellerRow, into), row)


def save_pack(session: Session, typed: Mapping[str, str], now: datetime) -> None:
    """Say what a pack is. Raises InputErrors."""
    name = _text(typed, "name")
    wrong = {} if name else {"name": "give it a name, as it is written beside the readings"}
    numbers: dict[str, float | None] = {}
    for n, dimension, low, high in (
        ("cells", "cells", 1, 100),
        ("capacity_mah", "count", 1, 1_000_000),
        ("pack_mohm", "resistance", 0, 100_000),
    ):
        try:
            text = _text(typed, n)
            numbers[n] = read_number(text, n, dimension, low, high, pit.notation(session)) if text else None
        except InputError as refused:
            wrong[n] = refused.sentence
    if wrong:
        raise InputErrors(wrong)
    change_id = changes.record(session, ChangeKind.LOAD_NAME, now, None, detail=f"pack {name} put on the list")
    row = PackRow(name=name, note=_text(typed, "note"), **numbers)
    store.replace(session, change_id, _row(session, PackRow, name), row)


def undo(session: Session, typed: Mapping[str, str], now: datetime) -> None:
    """Undo the last change of the lists; raises InputErrors where another came after it."""
    last = changes.last_of_kind(session, ChangeKind.LOAD_NAME)
    if last is None or last.id != typed.get("change"):
        raise InputErrors({"undo": "something else was changed since: look at the list again"})
    changes.undo(session, last, now)
    store.replace(session, last.id, None, None)


def _row(session: Session, model: type[store.Named], name: str) -> store.Named | None:
    return next((r for r in store.standing(session, model) if key_of(r.name) == key_of(name)), None) if name else None


def _text(typed: Mapping[str, str], name: str) -> str:
    return " ".join(typed.get(name, "").split())[:LONGEST]


def _spellings(typed: Mapping[str, str]) -> list[str]:
    return [text for part in typed.get("also", "").split(";") if (text := " ".join(part.split())[:LONGEST])]
