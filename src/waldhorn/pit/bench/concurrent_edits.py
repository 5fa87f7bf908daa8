"""Two people at one form: what one changed while the other typed is never overwritten unseen.

A form is drawn with what stands; it comes back with that and with what was typed. Where only one of the two touched a
field, that one's value stands; where both did, both are shown and a person takes one.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from waldhorn.core.base.errors import InputErrors

# Of a draft: which form wrote a field last, what another form wrote there, and which form was taken last.
BY, OTHERS, TAKEN = "_by", "_others", "_taken"


class Meanwhile(str):
    """What is said beside a field that both changed; `theirs` is what the other made of it."""

    __slots__ = ("theirs",)
    theirs: str

    def __new__(cls, theirs: str) -> "Meanwhile":
        """The sentence, with the other's value in it."""
        said = super().__new__(cls, f"changed meanwhile to “{theirs or 'nothing'}”: Enter keeps yours")
        said.theirs = theirs
        return said


class BothChanged(InputErrors):
    """Fields that two people changed; `fields` is the form as it is to be shown again: one's own values where both did,
    and what only the other changed."""

    def __init__(self, merged: "Merged") -> None:
        super().__init__(dict(merged.conflicts))
        self.fields = merged.fields


@dataclass(frozen=True)
class Merged:
    """The fields as both want them, and where they differ."""

    fields: dict[str, str]
    conflicts: dict[str, Meanwhile] = field(default_factory=dict)


def merge(shown: Mapping[str, str], typed: Mapping[str, str], stands: Mapping[str, str]) -> Merged:
    """What was typed into a form that was drawn with `shown`, where by now `stands`.

    >>> merge({"a": "1", "b": "2"}, {"a": "3", "b": "2"}, {"a": "1", "b": "4"}).fields
    {'a': '3', 'b': '4'}
    >>> merge({"a": "1"}, {"a": "3"}, {"a": "4"}).conflicts["a"].theirs
    '4'
    """
    fields, conflicts = dict(typed), {}
    for name in {**shown, **stands}:
        before, mine, theirs = shown.get(name, ""), typed.get(name, ""), stands.get(name, "")
        if mine == before:
            fields[name] = theirs
        elif theirs not in (before, mine):
            conflicts[name] = Meanwhile(theirs)
    return Merged(fields, conflicts)


def merged_or_both(shown: Mapping[str, str], typed: Mapping[str, str], stands: Mapping[str, str]) -> dict[str, str]:
    """The fields as both want them; raises BothChanged."""
    merged = merge(shown, typed, stands)
    if merged.conflicts:
        raise BothChanged(merged)
    return merged.fields


def merge_draft(before: Mapping[str, Any], typed: Mapping[str, str], form: str) -> dict[str, Any]:
    """What is kept of a step that several forms are typed into, `before` by any of them: what this form left empty
    stays as another wrote it, and where both wrote, both values are kept."""
    by, others = dict(before.get(BY, {})), dict(before.get(OTHERS, {}))
    kept: dict[str, Any] = dict(typed)
    for name in {*typed, *by}:
        mine, theirs = typed.get(name, ""), str(before.get(name, ""))
        another = by.get(name) not in (None, form)
        if another and theirs and not mine:
            kept[name] = theirs
            continue
        if another and theirs and theirs != mine:
            others[name] = theirs
        if mine and mine != theirs:
            by[name] = form
        if others.get(name) == mine:
            others.pop(name, None)
    return kept | {BY: by, OTHERS: others}


def typed_in(draft: Mapping[str, Any]) -> dict[str, Any]:
    """The fields of a draft alone."""
    return {n: v for n, v in draft.items() if n not in (BY, OTHERS, TAKEN)}


def by_hand(draft: Mapping[str, Any]) -> dict[str, Any]:
    """The fields of a draft that somebody wrote into a form."""
    return {n: v for n, v in typed_in(draft).items() if v and n in draft.get(BY, {})}


def typed_elsewhere(draft: Mapping[str, Any]) -> dict[str, str]:
    """What is said beside the fields of a draft that another form wrote something else into."""
    return {n: f"also typed here: {v}" for n, v in draft.get(OTHERS, {}).items()}
