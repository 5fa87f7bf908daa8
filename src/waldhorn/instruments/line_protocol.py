"""The bench line: one JSON object a line. Reading what an instrument says, whatever it says.

A line that is no sample, greeting, sweep or error is counted and shown, never fatal.
"""

import json
import math
from dataclasses import dataclass
from typing import Any

LONGEST_LINE = 4096
VERSION = 2
USUAL_SETTINGS = (15.0, 30.0, 50.0, 75.0, 100.0)


@dataclass(frozen=True, slots=True)
class Hello:
    """An instrument's greeting: its name, whether the motor has sensors, largest volts and amps, the throttle settings
    it has in percent, whether it reads the motor's amps or the supply's (empty where that is not said), and whether it
    can record sound."""

    name: str
    sensored: bool
    max_v: float
    max_a: float
    settings: tuple[float, ...] = USUAL_SETTINGS
    current: str = ""
    sound: bool = False


@dataclass(frozen=True, slots=True)
class Sample:
    """One line of the stream: s, throttle in percent, V, A, rpm; lamps, °C and dB where the instrument has them."""

    t: float
    pct: float
    volts: float
    amps: float
    rpm: float
    hall: str = ""
    motor_c: float | None = None
    sound_db: float | None = None


@dataclass(frozen=True, slots=True)
class Sweep:
    """The timing of the three phases, electrical degrees."""

    a: float
    b: float
    c: float


@dataclass(frozen=True, slots=True)
class Trouble:
    """An error the instrument reports."""

    error: str
    detail: str


@dataclass(frozen=True, slots=True)
class Unread:
    """A line that says nothing that is known; `why` in words."""

    why: str
    start: str


Message = Hello | Sample | Sweep | Trouble | Unread


def read(line: bytes) -> Message:
    """What a line says.

    Parameters
    ----------
    line : bytes, with or without its line end, of any content and length

    Returns
    -------
    Message; Unread for whatever is not understood

    >>> read(b'{"t": 1.25, "pct": 30, "v": 7.38, "a": 1.92, "rpm": 11820}').rpm
    11820.0
    """
    start = line[:60].decode("utf-8", "replace").strip()
    if len(line) > LONGEST_LINE:
        return Unread(f"longer than {LONGEST_LINE} bytes", start)
    try:
        found = json.loads(line)
    except (ValueError, RecursionError):
        return Unread("no JSON", start)
    if not isinstance(found, dict):
        return Unread("no object", start)
    try:
        return _told(found, start)
    except (KeyError, TypeError, ValueError, OverflowError) as error:
        return Unread(f"does not fit: {type(error).__name__}", start)


def _told(found: dict[str, Any], start: str) -> Message:
    if "hello" in found:
        if found["hello"] != "waldhorn-bench" or found.get("version") != VERSION:
            return Unread("another kind or version of instrument", start)
        limits = _number(found.get("max_v", 60.0), 0.1, 1000), _number(found.get("max_a", 60.0), 0.1, 1000)
        current = found["current"] if found.get("current") in ("motor", "supply") else ""
        return Hello(
            str(found.get("name", ""))[:80],
            bool(found.get("sensored")),
            *limits,
            _settings(found.get("settings", USUAL_SETTINGS)),
            current,
            bool(found.get("sound")),
        )
    if "rpm" in found:
        return _sample(found)
    if "timing" in found:
        return Sweep(*(_number(found["timing"][p], -90, 90) for p in "abc"))
    if "error" in found:
        return Trouble(str(found["error"])[:40], str(found.get("detail", ""))[:200])
    return Unread("nothing known in it", start)


def _sample(found: dict[str, Any]) -> Sample:
    hall = found.get("hall", "")
    if hall and (not isinstance(hall, str) or len(hall) != 3 or set(hall) - set("01")):
        raise ValueError(hall)
    return Sample(
        _number(found["t"], 0, 1e9),
        _number(found["pct"], 0, 100),
        _number(found["v"], 0, 1000),
        _number(found["a"], -1000, 1000),
        _number(found["rpm"], 0, 1e6),
        hall,
        None if found.get("c") is None else _number(found["c"], -60, 400),
        None if found.get("db") is None else _number(found["db"], 0, 200),
    )


def _settings(given: Any) -> tuple[float, ...]:
    """Throttle settings, rising, at most twenty."""
    found = sorted({_number(s, 0.5, 100) for s in given})
    if not 1 <= len(found) <= 20:
        raise ValueError(given)
    return tuple(found)


def _number(value: Any, low: float, high: float) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
        raise ValueError(value)
    if not low <= value <= high:
        raise ValueError(value)
    return float(value)


def line_of(message: Sample | Sweep | Trouble) -> bytes:
    """The line that says a message; `read` gives the same message back.

    >>> read(line_of(Sample(1.25, 30.0, 7.38, 1.92, 11820.0, "101"))) == Sample(1.25, 30.0, 7.38, 1.92, 11820.0, "101")
    True
    """
    if isinstance(message, Sweep):
        return write(timing={"a": message.a, "b": message.b, "c": message.c})
    if isinstance(message, Trouble):
        return write(error=message.error, detail=message.detail)
    said: dict[str, Any] = {"t": message.t, "pct": message.pct, "v": message.volts, "a": message.amps}
    said["rpm"] = int(message.rpm) if message.rpm.is_integer() else message.rpm
    said |= {} if message.motor_c is None else {"c": message.motor_c}
    said |= {} if message.sound_db is None else {"db": message.sound_db}
    return write(**said, **({"hall": message.hall} if message.hall else {}))


def write(**said: Any) -> bytes:
    """A line as it is sent."""
    return json.dumps(said, ensure_ascii=False, separators=(", ", ": ")).encode() + b"\n"
