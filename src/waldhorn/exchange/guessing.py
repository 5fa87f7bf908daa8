"""Guessing what the columns of a foreign sheet mean, by the words and the unit in their headers and by their values.

A guess is made only where one meaning fits better than every other: two measures of one unit are never told apart by a
coin. What stays open is asked.
"""

import json
import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from importlib import resources

from waldhorn.core.base.conditions import CONDITIONS
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.units import DIMENSIONS, read_number
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.core.measuring.propellers import propeller
from waldhorn.exchange.hand_words import BY_WORDS, SOUNDS, state_of
from waldhorn.exchange.sheets import NOTHING

# Words a header may use, in the languages of a pit, without accents; a phrase fits when all its words are there.
WORDS: Mapping[str, tuple[str, ...]] = {
    means: tuple(phrases)
    for means, phrases in json.loads(
        resources.files(__package__).joinpath("header_words.json").read_text("utf-8")
    ).items()
}
_PHRASES = frozenset(phrase for phrases in WORDS.values() for phrase in phrases)
# What is no measure but a number of some dimension.
NUMBERS: Mapping[str, tuple[str, float, float]] = {
    "label_kv": ("speed_per_volt", 1, 100_000),
    "poles": ("count", 2, 60),
    "slots": ("count", 3, 60),
    "turns": ("count", 0.5, 200),
    "mass_g": ("mass", 0.1, 100_000),
    "run": ("count", 1, 1000),
    **{name: (c.dimension, c.low, c.high) for name, c in CONDITIONS.items() if c.dimension},
}
_DASHES = re.compile(r"[^0-9a-zµω°%·./\"]+")
_BRACKETS = re.compile(r"[(\[{]\s*([^)\]}]*?)\s*[)\]}]")
_PROPELLER = re.compile(
    r"\b\d{1,2}(?:[.,]\d+)?\s*(?:[x×*]|by)\s*\d{1,2}(?:[.,]\d+)?(?:\s*[x×-]\s*[2-6]\b)?|\b\d{4}(?:\s*[x×-]?\s*[2-6])?\b(?![.-])"
)
UNDER_LOAD = ("thrust", "load_watts")  # no motor makes thrust with nothing on its shaft
# What a current, volts and rpm are where something is on the shaft.
LOADED = {"rpm": "load_rpm", "supply_volts": "load_volts", "no_load_current": "load_current"}
ON_SHAFT = frozenset(
    (*UNDER_LOAD, *LOADED, *LOADED.values(), "rest_volts", "shaft_torque", "shaft_power", "efficiency", "temperature")
)
_RUN = re.compile(r"^(.*?\D)\s*(?:run|lauf|essai|prueba|prova|#|no\.?)?\s*([1-9])$")
_FITS = 0.8  # of the values must lie where the meaning's values lie


@dataclass(frozen=True, slots=True)
class Guess:
    """What a column seems to mean ("" is not known), in which unit its numbers are, of which run, and what was on the
    shaft where its header says so."""

    means: str = ""
    unit: str = ""
    run: int | None = None
    on_shaft: str = ""


def says_nothing(cell: str) -> bool:
    """Whether a cell says that nothing was read."""
    return cell.strip().casefold() in NOTHING


def dimension_of(means: str) -> tuple[str, float, float] | None:
    """The dimension and the range of a meaning's numbers, None where it is text."""
    if means in MEASURES:
        m = MEASURES[means]
        return m.dimension, m.low, m.high
    return NUMBERS.get(means)


def guess(header: str, values: Sequence[str]) -> Guess:
    """What a column means.

    Parameters
    ----------
    header : str
        As it stands there.
    values : sequence of str
        Its cells that are not empty.

    Returns
    -------
    Guess
        Without a meaning where none fits, or two fit equally well.
    """
    bare, on_shaft = _without_propeller(header)
    words, unit, run = _parts(bare)
    scores = {means: score for means in WORDS if (score := _score(words, means)) and _fits(means, unit, values)}
    if not scores:
        return Guess("", unit, run)
    best = max(scores.values())
    likely = [means for means, score in scores.items() if score == best]
    if len(likely) > 1:
        return Guess("", unit, run)
    wanted = dimension_of(likely[0])
    known = unit if wanted and _knows(wanted[0], unit) else ""
    return Guess(likely[0], known, run if likely[0] in MEASURES else None, on_shaft if likely[0] in ON_SHAFT else "")


def guess_all(headers: Sequence[str], columns: Sequence[Sequence[str]]) -> list[Guess]:
    """What all columns of a sheet mean: a meaning that two columns claim for the same run is left open in both, unless
    they are of two propellers."""
    found = [guess(h, values) for h, values in zip(headers, columns, strict=True)]
    names = [plain(h) for h in headers]
    if {"a", "b"} <= set(names):  # phases, not amps
        found[names.index("a")] = Guess()
    if any(g.means in UNDER_LOAD for g in found):
        found = _of_propellers(headers, columns, found)
    places = Counter((g.means, g.run, g.on_shaft) for g in found)
    return [
        Guess("", g.unit, g.run)
        if g.means and g.means != "note" and places[g.means, g.run, g.on_shaft] > 1 and g.means not in UNDER_LOAD
        else g
        for g in found
    ]


def _of_propellers(headers: Sequence[str], columns: Sequence[Sequence[str]], found: Sequence[Guess]) -> list[Guess]:
    """Columns of a load sheet that mean one thing twice: what else their headers say is the propeller of each."""
    twice = Counter((g.means, g.run, g.on_shaft) for g in found if g.means in ON_SHAFT)
    doubled = [i for i, g in enumerate(found) if twice[g.means, g.run, g.on_shaft] > 1]
    named = {i: _besides(headers[i], found[i]) for i in doubled}
    if not all(named.values()) or len({(found[i].means, found[i].run, n) for i, n in named.items()}) < len(named):
        return list(found)
    told = [replace(g, on_shaft=named[i]) if i in named else g for i, g in enumerate(found)]
    names = dict.fromkeys(named.values())
    return [
        g if g.on_shaft else _beside(header, values, names) or g
        for g, header, values in zip(told, headers, columns, strict=True)
    ]


def _beside(header: str, values: Sequence[str], names: Iterable[str]) -> Guess | None:
    """What a column means that names one of the propellers as well: “green amps”."""
    words = plain(header).split()
    for name in names:
        if set(name.split()) < set(words):
            rest = guess(" ".join(w for w in words if w not in name.split()), values)
            return replace(rest, on_shaft=name) if rest.means in ON_SHAFT else None
    return None


def _besides(header: str, found: Guess) -> str:
    """What a header says besides its meaning and its unit."""
    words, _, _ = _parts(header)
    taken = {w for phrase in WORDS[found.means] if set(phrase.split()) <= set(words) for w in phrase.split()}
    return " ".join(w for w in words if w not in taken)


def _without_propeller(header: str) -> tuple[str, str]:
    """A header without the propeller it names, and that one's name."""
    match = _PROPELLER.search(header)
    return (header, "") if match is None else (header.replace(match[0], " "), propeller(match[0]).name)


def plain(text: str) -> str:
    """A text without accents, case and characters that part words."""
    bare = "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))
    return " ".join(_DASHES.sub(" ", bare.replace("ß", "ss")).split())


def _parts(header: str) -> tuple[list[str], str, int | None]:
    """The words of a header, the unit it names, and the run it is of."""
    unit = next((u for u in _BRACKETS.findall(header) if _any_knows(u)), "")
    rest = _BRACKETS.sub(" ", header).replace("_", " ")
    words = plain(rest)
    run = None
    if match := _RUN.match(words):
        words, run = plain(match[1]), int(match[2])
    tokens = words.split()
    if words in _PHRASES:
        return tokens, unit, run
    if not unit and len(tokens) > 1 and _any_knows(rest.split()[-1] if run is None else tokens[-1]):
        unit = rest.split()[-1] if run is None else tokens[-1]
        tokens = tokens[:-1]
    elif not unit and len(tokens) > 2 and _any_knows("".join(tokens[-2:])):
        unit, tokens = "/".join(tokens[-2:]), tokens[:-2]
    return tokens, unit, run


def _any_knows(unit: str) -> bool:
    return any(_knows(d, unit) for d in DIMENSIONS if d != "count")


def _knows(dimension: str, unit: str) -> bool:
    return bool(unit) and unit.strip().lower() in DIMENSIONS[dimension].written


def _score(words: Sequence[str], means: str) -> float:
    """How well a header's words fit a meaning: a phrase that is all of it before one that is in it."""
    best = 0.0
    for phrase in WORDS[means]:
        parts = phrase.split()
        if list(words) == parts:
            best = max(best, 10.0 + len(parts))
        elif len(phrase) > 1 and set(parts) <= set(words):
            best = max(best, float(len(parts)) - 0.1 * (len(words) - len(parts)))
    return max(best, 0.0)


def _fits(means: str, unit: str, values: Sequence[str]) -> bool:
    """Whether unit and values can be of that meaning."""
    wanted = dimension_of(means)
    if means in BY_WORDS:
        return bool(values) and sum(state_of(v) is not None for v in values) > len(values) / 2
    if wanted is None:
        return not unit or means in ("note", "unit")
    dimension, low, high = wanted
    if unit and not _knows(dimension, unit):
        return False
    sample = list(values)[:200]
    if means in SOUNDS:  # between the numbers may stand what was heard
        sample = [cell for cell in sample if any(c.isdigit() for c in cell)] or sample
    good = sum(_readable(cell, unit, dimension, low, high) for cell in sample)
    return not sample or good >= _FITS * len(sample)


def _readable(cell: str, unit: str, dimension: str, low: float, high: float) -> bool:
    try:
        read_number(with_unit(cell, unit, dimension), "cell", dimension, low, high)
    except InputError:
        return False
    return True


def with_unit(cell: str, unit: str, dimension: str) -> str:
    """A cell with the unit of its column, unless it has one of its own; without either in the stored unit, whatever
    a pit writes."""
    own = any(c.isalpha() or c in "°µ%" for c in cell)
    return cell if own else f"{cell} {unit or DIMENSIONS[dimension].unit}"
