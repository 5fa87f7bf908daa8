"""How numbers, days and verdicts are written on the pages: one home for typography."""

import math
import re
from collections.abc import Mapping
from datetime import date, datetime
from functools import partial
from typing import Any

from markupsafe import Markup

from waldhorn.core.base.units import CHOICES, DIMENSIONS, Notation, from_stored, unit_words
from waldhorn.core.base.vocabulary import NoteKind
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.faults import ENTRY
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.core.measuring.quantity import Quantity

THIN = "\u2009"
MINUS = "−"

EVENT_WORDS: Mapping[str, str] = {
    "run": "run",
    "crash": "crashed",
    "dunked": "dunked",
    "overheated": "overheated",
    "bearings_replaced": "bearings replaced",
    "rotor_replaced": "rotor replaced",
    "shaft_replaced": "shaft or bell replaced",
    "timing_changed": "timing changed",
    "sensor_board_replaced": "sensor board replaced",
    "rewound": "rewound",
    "mended": "mended",
    "cleaned": "cleaned",
    "returned": "came back",
    "retired": "retired",
    "handed_over": "handed over",
    "fitted": "fitted",
    "removed": "taken off",
    "put_away": "put away",
}
FAULT_WORDS: Mapping[str, str] = {"none": "nothing wrong"} | {kind.value: e.short for kind, e in ENTRY.items()}
CHOICE_WORDS: Mapping[str, str] = {m.name: ", ".join(filter(None, (m.title, m.unit))) for m in MEASURES.values()} | {
    "loaded-supply": "full throttle, rpm ÷ V",
    "fixed-volt": "regulated test voltage",
    "back-emf": "driven by the drill",
    "instrument": "as the instrument shows it",
}
STATE_WORDS: Mapping[str, str] = {
    "within": "within",
    "watch": "watch",
    "past": "past",
    "unproven": "unproven",
    "no_baseline": "nothing to compare with",
}
# Paper is sold in these, whatever a pit writes: markup stays as it is.
PAPER_SIZES = {
    "label": Markup("label, 62 × 29 mm"),
    "tape": Markup("tape, 12 mm"),
    "card": Markup("card, 85 × 54 mm"),
    "passport": "passport, A5",
    "report": "report, A4",
    "sheet": "empty run sheet, A4",
}


def state_of(e: Evidence) -> str:
    """How a quantity stands, in words; what says nothing of this motor is not missing anything."""
    says_nothing = e.has(NoteKind.ALIKE_WHATEVER)
    return "not counted" if says_nothing else STATE_WORDS[e.state]


def number(value: float | None, decimals: int = 0) -> str:
    """A number with a thin space between thousands and a true minus; an en dash for what is not known."""
    if value is None:
        return "–"
    text = f"{abs(value):,.{decimals}f}".replace(",", THIN)
    return MINUS + text if value < 0 and float(f"{value:.{decimals}f}") != 0 else text


def with_band(value: float, low: float, high: float) -> str:
    """A value with half of its band, in no more digits than that supports."""
    half = max((high - low) / 2, 1e-9)
    place = math.floor(math.log10(half))
    place -= half / 10**place < 2
    step, decimals = 10.0**place, max(0, -place)
    return f"{number(round(value / step) * step, decimals)} ± {number(round(half / step) * step, decimals)}"


def in_hundred(probability: float) -> str:
    """A probability as one says it.

    >>> in_hundred(0.954), in_hundred(0.9999)
    ('95 in 100', 'more than 99 in 100')
    """
    if probability > 0.995:
        return "more than 99 in 100"
    return f"{max(1, round(100 * probability))} in 100"


def signed(value: float | None, decimals: int = 1) -> str:
    """A change, with its sign always written; one that rounds to nothing has none to show."""
    if value is None:
        return "–"
    text = number(abs(value), decimals)
    if float(f"{value:.{decimals}f}") == 0:
        return f"±{text}"
    return (MINUS if value < 0 else "+") + text


def day(at: datetime | date | None, today: date | None = None) -> str:
    """A day as one would say it: today, yesterday, 14 June, 14 June 2025."""
    if at is None:
        return "never"
    on = at.astimezone().date() if isinstance(at, datetime) else at
    today = today or datetime.now().astimezone().date()
    if (gap := (today - on).days) in (0, 1):
        return ("today", "yesterday")[gap]
    return f"{on.day} {on:%B}" if on.year == today.year else f"{on.day} {on:%B} {on.year}"


_NUMBER = r"[-−]?\d+(?:\.\d+)?"
_WITH_UNIT = {
    dimension: re.compile(
        rf"(± )?({_NUMBER})(?:( to | and | ± |–)({_NUMBER}))? {re.escape(names[DIMENSIONS[dimension].unit])}(?![\w·/])"
    )
    for dimension, names in CHOICES.items()
}
_UNIT_ALONE = {
    dimension: re.compile(rf"(?<=, ){re.escape(names[DIMENSIONS[dimension].unit])}(?=$|[ ,;])")
    for dimension, names in CHOICES.items()
}
_BEFORE_UNIT = re.compile(r"(?<=\d) (?=[%°]|(?:dB|mm|[AKVWg])\b)")


MOST_DECIMALS = 3  # of a number that somebody read


def as_read(notation: Notation, value: float, measure: str) -> str:
    """A stored value to the digits it was read in, in the unit the pit writes; what was typed in another unit has more
    digits than anybody read.

    >>> [as_read(Notation(), v, m) for v, m in ((17.32051, "detent_peak"), (25316.5, "rpm"), (1.125, "gap"))]
    ['17.32', '25316.5', '1.125']
    """
    dimension = MEASURES[measure].dimension
    shown = f"{(read := from_stored(value, notation.bare_unit(dimension), dimension)):.7g}"
    return f"{read:.2f}" if abs(read) >= 1 and len(shown.partition(".")[2]) > MOST_DECIMALS else shown


def unit_as_read(notation: Notation, measure: str) -> str:
    """The unit the pit writes a measure in."""
    dimension = MEASURES[measure].dimension
    return unit_words(notation.bare_unit(dimension))


def in_units_of_the_pit(notation: Notation, value: Any) -> Any:
    """Words in which a number stands with its unit, or a unit names what a field takes, in the units the pit writes."""
    if type(value) is not str:
        return value
    for dimension in notation.otherwise:
        unit = notation.bare_unit(dimension)
        value = _WITH_UNIT[dimension].sub(partial(_rewritten, dimension, unit), value)
        value = _UNIT_ALONE[dimension].sub(CHOICES[dimension][unit], value)
    return value


def _rewritten(dimension: str, unit: str, match: re.Match[str]) -> str:
    """One number, or two that share a unit; an uncertainty is a difference: its zero stays."""
    sign, first, between, second = match.groups()
    zero = from_stored(0.0, unit, dimension)

    def told(text: str, off: float) -> str:
        decimals = len(text.partition(".")[2])
        value = from_stored(float(text.replace(MINUS, "-")), unit, dimension) - off
        return f"{value:.{decimals}f}".replace("-", MINUS)

    rest = "" if second is None else f"{between}{told(second, zero if between == ' ± ' else 0.0)}"
    return f"{sign or ''}{told(first, zero if sign else 0.0)}{rest} {CHOICES[dimension][unit]}"


def unbroken(notation: Notation, words: str) -> str:
    """Words in which a number and its unit, as the pit writes it, stay on one line."""
    return _BEFORE_UNIT.sub("\N{NO-BREAK SPACE}", in_units_of_the_pit(notation, words))


def sentence(words: str) -> str:
    """Words as a sentence: its first letter large, whatever stands in it as it is."""
    said = words.strip()
    end = "" if said[-1:] in ".?!" else "."
    return f"{said[:1].upper()}{said[1:]}{end}"


def direction_sign(quantity: Quantity) -> str:
    """Which direction of a change is bad."""
    return {1: "+", -1: MINUS, 0: "±"}[quantity.direction]


def clock(at: datetime) -> str:
    """A time of day."""
    return f"{at.astimezone():%H:%M}"


def timestamp(at: datetime) -> str:
    """A time as it stands in a field."""
    return f"{at.astimezone():%Y-%m-%d %H:%M}"


def count_in_words(count: int) -> str:
    """Small counts in words, as a sentence starts."""
    words = ("none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
    return words[count] if count < len(words) else number(count)
