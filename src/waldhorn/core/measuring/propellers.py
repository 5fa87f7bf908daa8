"""A propeller's name: people write one propeller in many ways, and two of one name are one load.

References
----------
.. [1] Bench practice: diameter times pitch in inches; four digits are tenths of both, a digit 2 to 6 behind them the
   blades.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace

from waldhorn.core.base.text import key_of

_NUMBER = r"(\d{1,3}(?:[.,]\d{1,2})?)"
_INCH, _TIMES = r"(?:\s*(?:[\"″]|in(?:ch(?:es)?)?\b))?", r"\s*(?:[x×*]|\bby\b)\s*"
_BLADE = r"([2-6])(?![\d.,])"
_SIZES = re.compile(
    rf"(?<![\d.,]){_NUMBER}(?:\s*mm)?{_INCH}{_TIMES}{_NUMBER}(?:(\s*mm\b)|{_INCH})(?:{_TIMES}{_BLADE})?"
)
_TENTHS = re.compile(rf"(?<![\d.,])(\d\d)(\d\d)(?:(?:\s*[-x×*]\s*)?{_BLADE})?(?!\d)")
_BLADES = re.compile(r"\b(two|three|four|five|six|[2-6]|tri|quad)[\s-]*blade[sd]?\b|\b(tri|quad)\b")
_COUNTS = {"two": 2, "three": 3, "tri": 3, "four": 4, "quad": 4, "five": 5, "six": 6}
_BLADE_WORDS = {2: "two-blade", 3: "three-blade", 4: "four-blade", 5: "five-blade", 6: "six-blade"}
_CELLS = re.compile(r"(?<![a-z0-9.])(\d{1,2})\s*s\b")
_DROPPED = re.compile(r"\b(propellers?|props?|inch(?:es)?|in)\b|[\"″]")
LEAST_INCH = 2.0  # a propeller of less than that is one of ten times its diameter, written without its tenths


@dataclass(frozen=True, slots=True)
class Propeller:
    """What was on the shaft: its one name; diameter and pitch in `unit` and the blades (None: no size in its name); the
    cells that were written behind it; and whether the name can be read in one way only."""

    name: str
    diameter: float | None = None
    pitch: float | None = None
    blades: int | None = None
    unit: str = "in"
    cells: int | None = None
    sure: bool = True


def propeller(written: str) -> Propeller:
    """The one name of what was on the shaft.

    Parameters
    ----------
    written : str
        As somebody wrote it.

    Returns
    -------
    Propeller
        What has no size keeps its words, without case and doubled blanks, the number of blades before them.

    Notes
    -----
    Formula: DDPP, tenths of an inch: D.D x P.P, a digit 2 to 6 behind it the blades; else two numbers with x, ×, * or
    "by": diameter x pitch (x blades); 3S: cells

    Source: [1]_.

    Examples
    --------
    >>> [propeller(p).name for p in ("5 x 4.5", "5045", "5×4,5", "5x4.5 prop", '5"x4.5"', "5045x3", "Tri 5045")]
    ['5 x 4.5', '5 x 4.5', '5 x 4.5', '5 x 4.5', '5 x 4.5', '5 x 4.5 x 3', '5 x 4.5 x 3']
    >>> propeller("6x4.5 4S").cells, propeller("Rubber  Wheel").name, propeller("tri-blade green").name
    (4, 'rubber wheel', 'three-blade green')
    >>> propeller("1045").name, propeller("1045").sure
    ('10 x 4.5', False)
    """
    text = " ".join(written.casefold().split())
    cells, text = _cut(_CELLS, text)
    count, text = _cut(_BLADES, text)
    blades = None if count is None else _COUNTS.get(word := count[1] or count[2]) or int(word)
    on_cells = int(cells[1]) if cells else None
    for written_as in (_TENTHS, _SIZES):
        sizes, rest = _cut(written_as, text)
        if sizes:
            return _named(sizes, rest, blades, on_cells)
    words = " ".join(_DROPPED.sub(" ", text).split()) or ("" if blades else text)
    return Propeller(f"{_BLADE_WORDS[blades]} {words}".strip() if blades else words, blades=blades, cells=on_cells)


Known = Mapping[str, Propeller]  # what a pit knows propellers by: `key_of` of every name and spelling


def named(written: str, known: Known) -> Propeller:
    """What was on the shaft by the name a pit knows it by, else by what was written.

    Parameters
    ----------
    written : str
        As somebody wrote it.
    known : mapping of str to Propeller
        The pit's propellers.

    Examples
    --------
    >>> mine = {"gremlin": Propeller("5 x 4.5", 5.0, 4.5, 2)}
    >>> named("Gremlin 4S", mine).name, named("Gremlin 4S", mine).cells, named("1045", mine).sure
    ('5 x 4.5', 4, False)
    """
    read = propeller(written)
    mine = known.get(key_of(written)) or known.get(key_of(read.name))
    return replace(mine, cells=read.cells) if mine else read


def _cut(pattern: re.Pattern[str], text: str) -> tuple[re.Match[str] | None, str]:
    """What a text says by a pattern, and the text without it."""
    found = pattern.search(text)
    return found, f"{text[: found.start()]} {text[found.end() :]}".strip(" ,-") if found else text


def _named(sizes: re.Match[str], rest: str, said: int | None, cells: int | None) -> Propeller:
    """The propeller of these sizes, `said` blades where words say them, with what else was written behind its name."""
    sure = True
    if sizes.re is _TENTHS:
        diameter, pitch, unit, digit = int(sizes[1]) / 10, int(sizes[2]) / 10, "in", sizes[3]
        if diameter < LEAST_INCH:
            diameter, sure = diameter * 10, False
    else:
        diameter, pitch = (float(sizes[n].replace(",", ".")) for n in (1, 2))
        unit, digit = "mm" if sizes[3] else "in", sizes[4]
    blades = int(digit or said or 2)
    more = " ".join(_DROPPED.sub(" ", rest.replace(",", " ")).split())
    parts = (
        f"{diameter:g} x {pitch:g}",
        f" x {blades}" * (blades != 2),
        f" {unit}" * (unit != "in"),
        f" {more}" * bool(more),
    )
    return Propeller("".join(parts), diameter, pitch, blades, unit, cells, sure)
