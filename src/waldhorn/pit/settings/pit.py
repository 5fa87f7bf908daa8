"""Settings of the pit: what it calls itself, how numbers are typed and shown, what the rules of a class allow."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.history import History
from waldhorn.core.base.units import CHOICES, read_number
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.store import api_keys, backups, motors, rigs, seats
from waldhorn.store import pit as store
from waldhorn.store.engine import Store
from waldhorn.store.models import ApiKeyRow, SeatRow
from waldhorn.store.pit import Pit
from waldhorn.store.seats import Role

__all__ = ["Pit", "Settings", "change_settings", "load", "settings"]

THEMES = ("auto", "day", "night")
LONGEST = 60
# What the rules of a class may hold down, by quantity: what it is called and how it is read.
HELD_DOWN = {
    "kv": ("KV at most", "speed_per_volt", 1.0, 100_000.0),
    "timing_mean": ("timing at most", "angle", -90.0, 90.0),
    "no_load_current": ("no-load current at most", "current", 0.01, 500.0),
    "cell_volts": ("volts of a cell at rest at most", "voltage", 1.0, 5.0),
}
_TEXTS = ("name", "signer", "rig")


def load(session: Session) -> Pit:
    """The pit as it is set."""
    return store.load(session)


@dataclass(frozen=True)
class Settings:
    """The settings as a keeper sees them: the form, classes and rigs to choose from, the store's file with its size and
    its copies, keys of programs, when each passphrase was set, and the seats that are taken."""

    typed: Mapping[str, str]
    classes: Sequence[str]
    rigs: Sequence[str]
    file: Path
    size: int
    folder: Path
    copies: Sequence[backups.Copy]
    keys: Sequence[ApiKeyRow]
    passphrases: Mapping[Role, datetime]
    seats: Sequence[SeatRow]


def settings(session: Session, opened: Store, now: datetime) -> Settings:
    """Everything that is set."""
    file = backups.file_of(opened)
    return Settings(
        typed=typed_of(store.load(session)),
        classes=motors.known_values(session, "motor_class"),
        rigs=[u.name for u in rigs.uses(session)],
        file=file,
        size=file.stat().st_size if file.exists() else 0,
        folder=backups.folder_of(opened),
        copies=backups.copies(opened),
        keys=api_keys.standing(session),
        passphrases=seats.roles(session),
        seats=seats.standing(session, now),
    )


def back_up(opened: Store, now: datetime) -> None:
    """Write a backup beside the store."""
    backups.back_up(opened, now)


def back_up_if_due(opened: Store, now: datetime) -> None:
    """Write a backup when the last one is some hours old and something was written since."""
    backups.keep_if_due(opened, now)


def typed_of(pit: Pit) -> dict[str, str]:
    """The settings as they stand in the form."""
    plain = {n: getattr(pit, n) for n in (*_TEXTS, "theme", *CHOICES)}
    held = {
        f"max-{n}-{name}": f"{value:g}" for name, by in pit.maxima.items() for n, value in by.items() if n in HELD_DOWN
    }
    return plain | {"decimal_comma": "yes" if pit.decimal_comma else "no"} | held


def change_settings(session: Session, typed: Mapping[str, str]) -> Pit:
    """Keep the settings of a form; raises InputErrors."""
    wrong: dict[str, str] = {}
    values: dict[str, Any] = {}
    for name in _TEXTS:
        values[name] = " ".join(typed.get(name, "").split())
        if len(values[name]) > LONGEST:
            wrong[name] = f"this is {len(values[name])} characters long: {LONGEST} at most"
    for name, choices in {"theme": THEMES, **{n: tuple(c) for n, c in CHOICES.items()}}.items():
        values[name] = typed.get(name, choices[0])
        if values[name] not in choices:
            wrong[name] = f"“{values[name]}” is none of {', '.join(choices)}"
    values["decimal_comma"] = typed.get("decimal_comma") == "yes"
    values["maxima"] = _maxima(session, typed, wrong)
    if wrong:
        raise InputErrors(wrong)
    if values["rig"]:
        values["rig"] = rigs.meant(session, values["rig"])
    before = store.load(session)
    store.change_settings(session, **values)
    return replace(before, **values)


def _maxima(session: Session, typed: Mapping[str, str], wrong: dict[str, str]) -> dict[str, dict[str, float]]:
    found: dict[str, dict[str, float]] = {}
    notation = store.notation(session)
    for motor_class in motors.known_values(session, "motor_class"):
        for name, (words, dimension, low, high) in HELD_DOWN.items():
            field = f"max-{name}-{motor_class}"
            if not typed.get(field, "").strip():
                continue
            try:
                value = read_number(typed[field], words, dimension, low, high, notation)
                found.setdefault(motor_class, {})[name] = value
            except InputError as refused:
                wrong[field] = refused.sentence
    return found


def over_the_rules(pit: Pit, history: History, evidence: Sequence[Evidence]) -> list[str]:
    """What a motor was read at last, or its pack, that is more than its class allows, in words."""
    motor_class = history.motor.motor_class
    held, said = pit.maxima.get(motor_class, {}), []
    for e in evidence:
        most = held.get(e.quantity.name)
        if most is not None and e.now is not None and e.now > most:
            shape, unit = f".{QUANTITIES[e.quantity.name].decimals}f", e.quantity.unit
            said.append(
                f"{e.quantity.title} was read at {e.now:{shape}} {unit}, class {motor_class} allows {most:g}: {_DECIDE}"
            )
    most, cell = held.get("cell_volts"), _fullest_cell(history)
    if most is not None and cell is not None and cell > most:
        said.append(f"Its pack stood at {cell:.2f} V a cell, class {motor_class} allows {most:g}: {_DECIDE}")
    return said


_DECIDE = "the event's own rules and its inspection decide."


def _fullest_cell(history: History) -> float | None:
    """V a cell of the pack that drove it last, at rest, where both were read."""
    read = [r for c in history.checks for r in c.readings if r.measure == "rest_volts" and r.accepted]
    known = [(r.at.date(), r.value / r.conditions.cells) for r in read if r.conditions.cells]
    last = max((at for at, _ in known), default=None)
    return max((volts for at, volts in known if at == last), default=None)
