"""Fingerprints: what makes a reading or an event the same when it comes in twice.

Declared by field. Only fields that differ from their default enter, under their name, so that a field that is added
later changes no fingerprint made before; a change of the rule itself raises VERSION and needs a migration that makes
them anew.
"""

import hashlib
from dataclasses import fields
from functools import lru_cache

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Event, Reading

VERSION = 2
READING_FIELDS = ("measure", "value", "run", "purpose", "angle_deg", "position", "note")  # besides time and conditions
EVENT_FIELDS = ("event", "count", "detail", "item", "machine", "position")
_DEFAULTS = {f.name: f.default for f in (*fields(Reading), *fields(Event))}
_CONDITIONS = {f.name: f.default for f in fields(Conditions)}
_DIGEST = 8  # bytes; SQLite integers have as many


def of_reading(reading: Reading, at: str) -> int:
    """The fingerprint of a reading: all but whether it was set aside. `at` is its time as it is stored."""
    said = [f"{VERSION}", at, _of_conditions(reading.conditions)]
    said += [f"{n}={v!s}" for n in READING_FIELDS if (v := getattr(reading, n)) != _DEFAULTS[n]]
    return _digest("\x1f".join(said))


def of_event(event: Event, at: str) -> int:
    """The fingerprint of an event. `at` is its time as it is stored."""
    said = [f"{VERSION}", at, *(f"{n}={v!s}" for n in EVENT_FIELDS if (v := getattr(event, n)) != _DEFAULTS[n])]
    return _digest("\x1f".join(said))


@lru_cache(4096)
def _of_conditions(conditions: Conditions) -> str:
    return "\x1f".join(f"{n}={v!s}" for n, d in _CONDITIONS.items() if (v := getattr(conditions, n)) != d)


def _digest(text: str) -> int:
    return int.from_bytes(hashlib.blake2b(text.encode(), digest_size=_DIGEST).digest(), "big", signed=True)
