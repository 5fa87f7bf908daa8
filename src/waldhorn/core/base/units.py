"""Units: numbers as people write them, brought to the units Waldhorn stores.

For reading what is typed or imported. Not for formatting (see the web pages) and not a general unit library:
only the units that turn up on a pit table are known. One home for every conversion factor.

References
----------
.. [1] BIPM, The International System of Units, 9th ed., 2019 (standard gravity 9.80665 m/s²).
.. [2] NIST SP 811, appendix B.8 (inch, ounce-force, degree Fahrenheit).
"""

import math
import re
from dataclasses import dataclass

from waldhorn.core.base.errors import InputError

STANDARD_GRAVITY = 9.80665  # m/s², exact [1]
_OUNCE_G = 28.349523125  # g, exact [2]
_INCH_MM = 25.4  # mm, exact [2]


@dataclass(frozen=True, slots=True)
class Dimension:
    """A kind of quantity: the unit it is stored in, and (factor, offset) of each unit it may be written in.

    stored = written x factor + offset.
    """

    unit: str
    written: dict[str, tuple[float, float]]


def _scaled(unit: str, **others: float) -> Dimension:
    return Dimension(unit, {unit.lower(): (1.0, 0.0)} | {name.lower(): (f, 0.0) for name, f in others.items()})


_TORQUE_G_CM = STANDARD_GRAVITY * 1e-3 * 10  # N·mm in one gram-force centimetre
_TORQUE_OZ_IN = STANDARD_GRAVITY * 1e-3 * _OUNCE_G * _INCH_MM  # N·mm in one ounce-force inch

DIMENSIONS: dict[str, Dimension] = {
    "speed": _scaled("rpm", krpm=1e3, k=1e3, upm=1.0),
    "speed_per_volt": _scaled("rpm/V", kv=1.0, k=1e3),
    "voltage": _scaled("V", mV=1e-3, volt=1.0, volts=1.0),
    "current": _scaled("A", mA=1e-3, amp=1.0, amps=1.0),
    "resistance": Dimension("mΩ", {"mω": (1, 0), "mohm": (1, 0), "ω": (1e3, 0), "ohm": (1e3, 0)}),
    "level": _scaled("dB", **{"db(a)": 1.0, "dba": 1.0}),
    "angle": Dimension("deg", {"deg": (1, 0), "°": (1, 0), "degrees": (1, 0)}),
    "torque": Dimension(
        "N·mm",
        {
            **dict.fromkeys(("n·mm", "nmm", "n.mm", "mnm"), (1.0, 0.0)),
            **dict.fromkeys(("g·cm", "gcm", "g.cm"), (_TORQUE_G_CM, 0.0)),
            **dict.fromkeys(("oz·in", "ozin", "oz.in", "oz-in"), (_TORQUE_OZ_IN, 0.0)),
            **dict.fromkeys(("n·m", "nm", "n.m"), (1e3, 0.0)),
        },
    ),
    "length": Dimension("mm", {"mm": (1, 0), "in": (_INCH_MM, 0), '"': (_INCH_MM, 0), "cm": (10, 0)}),
    "distance": Dimension("cm", {"cm": (1, 0), "mm": (0.1, 0), "m": (100, 0), "in": (_INCH_MM / 10, 0)}),
    "temperature": Dimension(
        "degC",
        {
            **dict.fromkeys(("degc", "°c", "c"), (1.0, 0.0)),
            **dict.fromkeys(("degf", "°f", "f"), (5 / 9, -160 / 9)),
        },
    ),
    "frequency": _scaled("Hz", kHz=1e3),
    "mass": _scaled("g", kg=1e3, oz=_OUNCE_G, gf=1.0, kgf=1e3, grams=1.0, N=1e3 / STANDARD_GRAVITY),
    "power": _scaled("W", kW=1e3, watts=1.0),
    "energy": _scaled("J", kJ=1e3, Wh=3600.0),
    "duration": _scaled("s", min=60.0),
    "torque_per_speed": Dimension("µN·m·s", {"un·m·s": (1.0, 0.0)}),
    "moment": _scaled(
        "mN·m",
        **dict.fromkeys(("mnm", "n·mm", "nmm"), 1.0),
        **dict.fromkeys(("n·m", "nm", "n.m"), 1e3),
        **dict.fromkeys(("g·cm", "gcm"), _TORQUE_G_CM),
        **dict.fromkeys(("oz·in", "ozin", "oz-in"), _TORQUE_OZ_IN),
    ),
    "speed_rate": _scaled("rpm/s"),
    "percent": Dimension("%", {"%": (1, 0), "percent": (1, 0)}),
    "points": _scaled("points", point=1.0),
    "acceleration": _scaled("g", grms=1.0),
    "count": _scaled(""),
    "cells": _scaled("", S=1.0),
}

_NUMBER = re.compile(r"^([+\-−]?)\s*([\d.,'\u2009\u202f\u00a0 ]*\d[.,]?)\s*(.*)$")
_SHOWN = {"degC": "°C", "degF": "°F", "deg": "°"}  # files spell out what a person reads as a symbol
# What a bare number is in, by dimension, where a pit does not write the stored unit.
CHOICES: dict[str, dict[str, str]] = {
    "temperature": {"degC": "°C", "degF": "°F"},
    "torque": {"N·mm": "N·mm", "g·cm": "g·cm", "oz·in": "oz·in"},
    "length": {"mm": "mm", "in": "in"},
}


@dataclass(frozen=True, slots=True)
class Notation:
    """How a pit writes numbers: the unit of a number without one, by dimension, and whether a comma before three digits
    is a decimal mark."""

    temperature: str = "degC"
    torque: str = "N·mm"
    length: str = "mm"
    decimal_comma: bool = False

    def bare_unit(self, dimension: str) -> str:
        """The unit of a number that is written without one.

        >>> Notation(temperature="degF").bare_unit("temperature"), Notation().bare_unit("voltage")
        ('degF', 'V')
        """
        return str(getattr(self, dimension)) if dimension in CHOICES else DIMENSIONS[dimension].unit

    def written(self, stored: float, dimension: str) -> str:
        """A stored value as it stands in a field, without its unit.

        >>> Notation(temperature="degF").written(43.0, "temperature")
        '109.4'
        """
        return f"{from_stored(stored, self.bare_unit(dimension), dimension):.6g}"

    @property
    def otherwise(self) -> list[str]:
        """The dimensions that are written in another unit than they are stored in."""
        return [dimension for dimension in CHOICES if self.bare_unit(dimension) != DIMENSIONS[dimension].unit]


AS_STORED = Notation()
_NEVER_IN_THOUSANDS = frozenset({"resistance"})  # 40.255 mΩ is a meter of three digits: forty ohms are written in ohms
_GAPS = re.compile(r"['\u2009\u202f\u00a0 ]")


def unit_words(unit: str) -> str:
    """A unit as a person reads it.

    >>> unit_words("degC"), unit_words("mm")
    ('°C', 'mm')
    """
    return _SHOWN.get(unit, unit)


def to_stored(value: float, unit: str, dimension: str) -> float:
    """Convert a value in a written unit to the unit its dimension is stored in.

    Parameters
    ----------
    value : float
        In `unit`.
    unit : str
        As people write it, any case; "" means the stored unit.
    dimension : str
        A key of DIMENSIONS.

    Returns
    -------
    float
        In ``DIMENSIONS[dimension].unit``.

    Raises
    ------
    InputError
        The unit does not measure that dimension.

    Notes
    -----
    Source: definitions of the units [1]_, [2]_.

    Examples
    --------
    >>> to_stored(110, "F", "temperature").__round__(2)
    43.33
    >>> round(to_stored(1, "oz·in", "torque"), 4)
    7.0616
    """
    known = DIMENSIONS[dimension]
    if not unit:
        return value
    if dimension == "resistance" and unit[0] == "M":
        raise InputError("unit", f"“{unit}” are millions of ohms, a winding has thousandths: write mΩ")
    found = known.written.get(unit.strip().lower().replace("µ", "u").replace("Ω", "ω"))
    if found is None:
        accepted = ", ".join(dict.fromkeys([known.unit, *known.written])) or "a bare number"
        raise InputError("unit", f"“{unit}” is not a unit of {dimension.replace('_', ' ')}: write {accepted}")
    factor, offset = found
    return value * factor + offset


def from_stored(stored: float, unit: str, dimension: str) -> float:
    """Convert a value in the stored unit of its dimension to a written one.

    Parameters
    ----------
    stored : float
        In ``DIMENSIONS[dimension].unit``.
    unit : str
        As people write it.
    dimension : str
        A key of DIMENSIONS.

    Returns
    -------
    float
        In `unit`.

    Raises
    ------
    InputError
        The unit does not measure that dimension.

    Notes
    -----
    Formula: written = (stored − offset) / factor

    Source: definitions of the units [1]_, [2]_.

    Examples
    --------
    >>> round(from_stored(18.0, "g·cm", "torque"), 1)
    183.5
    """
    zero = to_stored(0.0, unit, dimension)
    return (stored - zero) / (to_stored(1.0, unit, dimension) - zero)


def read_number(text: str, name: str, dimension: str, low: float, high: float, notation: Notation = AS_STORED) -> float:
    """Read a number the way people write it and bring it to the stored unit.

    "7.4", "7,4", "12k", "3.2 A", "110F", "25 120" and "25,120" are all understood. A comma or point before
    exactly three digits may part thousands; of the two meanings the one inside `low`..`high` is taken.

    Parameters
    ----------
    text : str
        What was typed.
    name : str
        The thing it is said of, for the refusal.
    dimension : str
        A key of DIMENSIONS.
    low, high : float
        Plausible range in the stored unit, both included.
    notation : Notation
        How who typed it writes numbers.

    Returns
    -------
    float
        In the stored unit of the dimension.

    Raises
    ------
    InputError
        Not a number, a foreign unit, outside the range, or two meanings that are both plausible.

    Examples
    --------
    >>> read_number("12k", "rpm", "speed", 0, 500_000)
    12000.0
    >>> read_number("7,4 V", "volts", "voltage", 0, 100)
    7.4
    """
    bare = notation.bare_unit(dimension)
    shown = unit_words(bare)
    low_shown, high_shown = (from_stored(v, bare, dimension) for v in (low, high))
    match = _NUMBER.match(text.strip())
    if not match:
        raise InputError(
            name,
            f"“{text.strip()}” is not a number: write {name} like {_example(low_shown, high_shown)} {shown}".rstrip(),
        )
    sign, digits, unit = match.groups()
    meanings = [m for m in _meanings(_GAPS.sub("", digits), notation.decimal_comma) if math.isfinite(m)]
    if dimension in _NEVER_IN_THOUSANDS:
        meanings = meanings[:1]
    if not meanings:
        raise InputError(
            name,
            f"“{text.strip()}” is not a number: write {name} like {_example(low_shown, high_shown)} {shown}".rstrip(),
        )
    negative = sign in ("-", "−")
    stored = [to_stored(-m if negative else m, unit.strip() or bare, dimension) for m in meanings]
    plausible = [value for value in stored if low <= value <= high]
    if len(plausible) == 1:
        return plausible[0]
    if plausible:
        raise InputError(
            name,
            f"“{text.strip()}” could be {_plain(plausible[0])} or {_plain(plausible[1])}: leave the {digits[-4]} out",
        )
    side = "below" if stored[0] < low else "above"
    bound = low_shown if stored[0] < low else high_shown
    value = from_stored(stored[0], bare, dimension)
    raise InputError(name, f"{name} {_plain(value)} {shown} is {side} {_plain(bound)}: look again".replace("  ", " "))


def _meanings(digits: str, decimal_comma: bool) -> list[float]:
    """All numbers a run of digits, points and commas can mean, decimal reading first."""
    points, commas = digits.count("."), digits.count(",")
    if points and commas:
        decimal = max(digits.rfind("."), digits.rfind(","))
        thousands = "," if digits[decimal] == "." else "."
        whole = digits[:decimal].replace(thousands, "")
        return _floats(f"{whole}.{digits[decimal + 1 :]}")
    mark = "." if points else ","
    if points + commas > 1:
        parts = digits.split(mark)
        return _floats(digits.replace(mark, "")) if all(len(p) == 3 for p in parts[1:]) else []
    meanings = _floats(digits.replace(",", "."))
    if re.fullmatch(r"[1-9]\d{0,2}[.,]\d{3}", digits) and not (mark == "," and decimal_comma):
        meanings += _floats(digits.replace(mark, ""))
    return meanings


def _floats(text: str) -> list[float]:
    try:
        return [float(text)]
    except ValueError:
        return []


def _plain(value: float) -> str:
    return f"{value:.6g}" if abs(value) < 1e6 else f"{value:.0f}"


def _example(low: float, high: float) -> str:
    middle = math.sqrt(max(low, 1.0) * high) if high > 1 else high / 2
    return _plain(float(f"{middle:.2g}"))
