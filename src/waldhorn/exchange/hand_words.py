"""What a person wrote of how a motor sounds or feels, as findings: “rough, grinding” is one, and no bad number.

References
----------
.. [1] Bench practice.
"""

import json
import re
from collections.abc import Mapping
from importlib import resources
from itertools import pairwise

from waldhorn.core.base.vocabulary import Look

SOUNDS = ("noise_avg", "noise_peak")  # a word among these numbers is what was heard
HEARD = "by_ear"
BY_WORDS: Mapping[str, str] = {HEARD: "sound in words", "bearings": "bearings in words"}  # items of an inspection
_WORDS: Mapping[str, list[str]] = json.loads(
    resources.files(__package__).joinpath("hand_words.json").read_text("utf-8")
)
_FINE, _BAD, _SLIGHT, _DENIED = (frozenset(_WORDS[kind]) for kind in ("fine", "bad", "slight", "denied"))
WORKED_OUT = frozenset(_WORDS["worked_out"])  # how a row names itself that is worked out of the others


def is_known(words: str) -> bool:
    """Whether a word for how a motor sounds or feels stands among these.

    >>> is_known("rough, grinding"), is_known("hot")
    (True, False)
    """
    return bool((_FINE | _BAD) & set(_said(words)))


def _said(words: str) -> list[str]:
    return re.findall(r"[^\W\d_]+(?:'[^\W\d_]+)?", words.casefold())


def state_of(words: str) -> Look | None:
    """What words say of a motor; None where there is no word in them.

    Parameters
    ----------
    words : str
        As they were written.

    Returns
    -------
    Look or None
        Bad, in doubt (also for words that nobody explained), or OK.

    Notes
    -----
    Source: [1]_.

    Examples
    --------
    >>> [str(state_of(w)) for w in ("rough, grinding", "smooth", "a bit rough", "not rough", "like a bee", "81.5")]
    ['bad', 'ok', 'doubt', 'ok', 'doubt', 'None']
    """
    said = _said(words)
    if not said:
        return None
    denied = {b for a, b in pairwise(said) if a in _DENIED}
    bad = [w for w in said if w in _BAD and w not in denied]
    if bad:
        return Look.DOUBT if any(w in _SLIGHT for w in said) else Look.BAD
    fine = [w for w in said if (w in _FINE and w not in denied) or (w in _BAD and w in denied)]
    return Look.OK if fine and not any(w in _SLIGHT for w in said) else Look.DOUBT
