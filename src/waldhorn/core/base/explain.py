"""Explaining a number: its formula, its inputs with their units, and its source, read from the function that made it.

Nothing is written twice: the words are those of the docstring in this package, the inputs those of the call, and the
value is what the call gives.
"""

import inspect
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, is_dataclass
from functools import lru_cache
from types import ModuleType
from typing import Any

MOST_SHOWN = 14
_HEAD = re.compile(r"\n(\w[\w ]*)\n-{3,}\n")
_PARAMETER = re.compile(
    r"^(\w[\w, ]*?) *(?:: *(.*))?$((?:\n(?: {2,}.*)?)*)", re.M
)  # names : kind, and what is indented below


@dataclass(frozen=True, slots=True)
class Input:
    """One argument: its name, what it is (type and unit, as documented) and the value it had, in words."""

    name: str
    what: str
    value: str


@dataclass(frozen=True, slots=True)
class Explanation:
    """How a number came about. `does` is the first sentence of the function that made it."""

    does: str
    formula: str
    inputs: tuple[Input, ...]
    source: str


@dataclass(frozen=True, slots=True)
class Figure:
    """A computed number, ready to be shown: `function` and `inputs` are what made it and what explains it."""

    title: str
    value: float | str
    unit: str
    decimals: int
    function: Callable[..., Any]
    inputs: Mapping[str, Any]

    @property
    def explanation(self) -> Explanation:
        """How it came about."""
        return explain(self.function, self.inputs)


@dataclass(frozen=True, slots=True)
class _Documented:
    does: str
    formula: str
    parameters: Mapping[str, str]
    source: str


def figure(
    title: str,
    unit: str,
    decimals: int,
    function: Callable[..., Any],
    /,
    *,
    show: Callable[[Any], float | str] = lambda result: result,
    **inputs: Any,
) -> Figure:
    """A number made by calling a function of this package with `inputs`, so that what is shown is what they give.

    `show` picks the number out of a result that holds more, or brings it to the shown unit.

    Parameters
    ----------
    title : str
        What it is called.
    unit : str
        The unit it is shown in.
    decimals : int
        How many it is shown with.
    function : callable
        A public function of the core.
    show : callable
        Picks what is shown.
    inputs : Any
        The arguments of the function.

    Examples
    --------
    >>> from waldhorn.core.measuring.kv import from_speed
    >>> round(figure("KV", "rpm/V", 0, from_speed, rpm=25_120.0, volts=7.38).value)
    3404
    """
    return Figure(title, show(function(**inputs)), unit, decimals, function, inputs)


def explain(function: Callable[..., Any], inputs: Mapping[str, Any]) -> Explanation:
    """The explanation of one call of a function of this package.

    Parameters
    ----------
    function : callable
        With a docstring in the form of this package.
    inputs : mapping of str to any
        Its arguments by name.

    Returns
    -------
    Explanation

    Notes
    -----
    Source: bench practice: a number nobody can check is not believed.

    Examples
    --------
    >>> from waldhorn.core.measuring.kv import from_speed
    >>> explain(from_speed, {"rpm": 25_120.0, "volts": 7.38}).formula
    'KV = rpm / V'
    """
    known = _documented(function)
    shown = tuple(Input(name, known.parameters.get(name, ""), _in_words(value)) for name, value in inputs.items())
    return Explanation(known.does, known.formula, shown, known.source)


@lru_cache
def _documented(function: Callable[..., Any]) -> _Documented:
    sections = _sections(inspect.getdoc(function) or "")
    parameters: dict[str, str] = {}
    for names, kind, words in _PARAMETER.findall(sections.get("Parameters", "")):
        what = ", ".join(filter(None, (kind.strip(), " ".join(words.split()).rstrip("."))))
        parameters |= dict.fromkeys((name.strip() for name in names.split(",")), what)
    notes = sections.get("Notes", "")
    does = " ".join(sections[""].split("\n\n")[0].split())
    return _Documented(does, _said(notes, "Formula:"), parameters, _cited(_said(notes, "Source:"), function))


def _sections(doc: str) -> dict[str, str]:
    """The sections of a docstring by their underlined heads; what stands before the first has none."""
    parts = _HEAD.split(f"\n{doc}")
    return {"": parts[0].strip()} | dict(zip(parts[1::2], parts[2::2], strict=True))


def _said(notes: str, start: str) -> str:
    found = re.search(rf"^{start}\s*(.+?)(?=\n\s*\n|\Z)", notes, re.M | re.S)
    return re.sub(r"\s+", " ", found[1]).strip() if found else ""


def _cited(source: str, function: Callable[..., Any]) -> str:
    """The source with its [1]_ written out from the module's references."""
    module = inspect.getmodule(function)
    references = _references(module) if module else {}
    return re.sub(r"\[(\d+)\]_?", lambda m: references.get(m[1], m[0]), source)


def _references(module: ModuleType) -> dict[str, str]:
    found = re.findall(r"^\.\. \[(\d+)\] (.+(?:\n {3}.+)*)", inspect.getdoc(module) or "", re.M)
    return {number: re.sub(r"\s+", " ", words).rstrip(".") for number, words in found}


def _in_words(value: Any) -> str:
    if isinstance(value, bool) or value is None:
        return {True: "yes", False: "no", None: "not known"}[value]
    if isinstance(value, float):
        return f"{value:.6g}"
    if is_dataclass(value) and not isinstance(value, type):
        return " ".join(f"{f.name} {_in_words(getattr(value, f.name))}" for f in fields(value))
    if isinstance(value, Sequence) and not isinstance(value, str):
        words = ", ".join(_in_words(v) for v in value[:MOST_SHOWN])
        return f"{words} …" if len(value) > MOST_SHOWN else words
    return str(value)
