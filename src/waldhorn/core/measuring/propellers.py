"""A propeller's name: people write one propeller in many ways, and two of one name are one load.

References
----------
.. [1] Bench practice: diameter times pitch in inches; four digits are tenths of both, a fifth the blades.
"""

import re
from dataclasses import dataclass

_NUMBER = r"(\d{1,3}(?:[.,]\d{1,2})?)"
_TIMES = rf"{_NUMBER}\s*(?:[\"″]|in(?:ch)?)?\s*[x×*]\s*{_NUMBER}(?:\s*[x×*]\s*(\d)(?!\d))?"
_WRITTEN = re.compile(_TIMES)
_DIGITS = re.compile(r"(?<!\d)(\d{2})(\d{2})(\d?)(?!\d)")
_BLADES = re.compile(r"\b(two|three|four|five|six|[2-6]|tri|quad)[\s-]*(?:blades?|bladed)\b|\b(tri|quad)\b")
_COUNTS = {"two": 2, "three": 3, "tri": 3, "four": 4, "quad": 4, "five": 5, "six": 6}
_PACK = re.compile(r"(?<![a-z0-9.])(\d{1,2})\s*s\b")
_WORDS = re.compile(r"\b(propellers?|props?|inch(?:es)?|in)\b|[\"″]")
LEAST_INCH = 2.0  # a propeller of less than that is one of ten times its diameter, written without its tenths


@dataclass(frozen=True, slots=True)
class Propeller:
    """What was on the shaft: its one name, its diameter in the unit it was written in (None: no propeller's name), the
    cells that were written behind it, and whether the name can be read in one way only."""

    name: str
    diameter: float | None = None
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
        What is no propeller keeps its words, without case and doubled blanks.

    Notes
    -----
    Formula: two numbers with x, ×, *: diameter x pitch (x blades); DDPP: D.D x P.P, a fifth digit the blades; 3S: cells

    Source: [1]_.

    Examples
    --------
    >>> [propeller(p).name for p in ("5 x 4.5", "5045", "5×4,5", "5x4.5 prop", '5"x4.5', "50453", "5x4.5 three-blade")]
    ['5 x 4.5', '5 x 4.5', '5 x 4.5', '5 x 4.5', '5 x 4.5', '5 x 4.5 x 3', '5 x 4.5 x 3']
    >>> propeller("6x4.5 4S").cells, propeller("Rubber  Wheel").name, propeller("1045")
    (4, 'rubber wheel', Propeller(name='10 x 4.5', diameter=10.0, cells=None, sure=False))
    """
    text = " ".join(written.casefold().split())
    cells = None
    if pack := _PACK.search(text):
        cells, text = int(pack[1]), (text[: pack.start()] + text[pack.end() :]).strip(" ,")
    blades, text = _blades(text)
    if sizes := _WRITTEN.search(text):
        rest = _WORDS.sub(" ", text[: sizes.start()] + " " + text[sizes.end() :])
        diameter, pitch = (float(sizes[n].replace(",", ".")) for n in (1, 2))
        return _named(diameter, pitch, int(sizes[3] or blades), rest, cells, sure=True)
    if digits := _DIGITS.search(text):
        rest = _WORDS.sub(" ", text[: digits.start()] + " " + text[digits.end() :])
        diameter, pitch = int(digits[1]) / 10, int(digits[2]) / 10
        sure = diameter >= LEAST_INCH
        return _named(diameter if sure else diameter * 10, pitch, int(digits[3] or blades), rest, cells, sure)
    return Propeller(" ".join(_WORDS.sub(" ", text).split()) or text, cells=cells)


def _blades(text: str) -> tuple[int, str]:
    found = _BLADES.search(text)
    if not found:
        return 2, text
    word = found[1] or found[2]
    return _COUNTS.get(word) or int(word), (text[: found.start()] + text[found.end() :]).strip(" ,-")


def _named(diameter: float, pitch: float, blades: int, rest: str, cells: int | None, sure: bool) -> Propeller:
    name = f"{diameter:g} x {pitch:g}" + (f" x {blades}" if blades != 2 else "")
    more = " ".join(rest.replace(",", " ").split())
    return Propeller(f"{name} {more}".strip(), diameter, cells, sure)
