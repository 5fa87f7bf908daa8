"""Traces and recordings as they are typed or pasted: numbers a line, in any of the usual separators.

What they tell stands elsewhere (see `coast_down`, `flywheel`, `back_emf_recording`).
"""

import math
from collections.abc import Sequence

from waldhorn.core.base.errors import InputError


def written(trace: Sequence[tuple[float, float]]) -> str:
    """A trace as `read_trace` reads it.

    >>> written([(0.0, 25000.0), (0.1, 22400.0)])
    'seconds,rpm\\n0,25000\\n0.1,22400'
    """
    return "\n".join(("seconds,rpm", *(f"{t:g},{n:g}" for t, n in trace)))


def read_trace(text: str) -> list[tuple[float, float]]:
    """Seconds and rpm of a pasted trace, a pair a line in any of the usual separators; a header line is passed over.

    >>> read_trace("seconds,rpm\\n0,25000\\n0.1; 22400")
    [(0.0, 25000.0), (0.1, 22400.0)]
    """
    return [(seconds, rpm) for seconds, rpm in read_columns(text, 2, "seconds and rpm")]


def read_columns(text: str, count: int, words: str) -> list[tuple[float, ...]]:
    """The first so many numbers of each line, in any of the usual separators; a header line is passed over. Raises
    InputError with the line that is none and the words for what belongs there.

    Parameters
    ----------
    text : str
        A file of numbers, a line each row.
    count : int
        How many numbers of a line.
    words : str
        What belongs there, for the error.
    """
    found = []
    for number, line in enumerate(text.strip().splitlines(), 1):
        parted = line.replace(";", " ").replace("\t", " ").split() if ";" in line or "\t" in line else []
        parted = parted or line.replace(",", " ").split()
        if not parted or (number == 1 and any(c.isalpha() for c in line)):
            continue
        try:
            values = tuple(float(w.replace(",", ".")) for w in parted[:count])
        except ValueError:
            values = ()
        if len(values) != count or not all(map(math.isfinite, values)):
            raise InputError("trace", f"line {number}, “{line.strip()[:40]}”: write {words}")
        found.append(values)
    return found
