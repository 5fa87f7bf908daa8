"""What each rig is worth: how well it repeats, what rests on it, and how it compares with the others."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from waldhorn.core import learning, translation
from waldhorn.core.baseline import Baseline
from waldhorn.core.conditions import comparable
from waldhorn.core.errors import Refused
from waldhorn.core.evidence import default_repeatability
from waldhorn.core.learning import Sums
from waldhorn.core.measures import QUANTITIES, Quantity
from waldhorn.core.repeats import Spread
from waldhorn.store import rigs as store
from waldhorn.store import standings

PAIRED_WITHIN = timedelta(days=30)


@dataclass(frozen=True)
class Repeats:
    """How well a rig repeats one quantity: as it has shown and as it is taken to before, and what that rests on."""

    quantity: Quantity
    shown: Spread
    usual: Spread
    sums: Sums


@dataclass(frozen=True)
class Beside:
    """One quantity on another rig: the same motors on both, and the line between them, or why there is none."""

    other: str
    quantity: Quantity
    motors: int
    fitted: translation.Translation | None
    agreement: translation.Agreement | None
    refused: str = ""


@dataclass(frozen=True)
class RigView:
    """A rig with its page."""

    use: store.RigUse
    repeats: list[Repeats]
    beside: list[Beside]


def view(session: Session, name: str, now: datetime) -> RigView | None:
    """A rig, or None when no reading names it; in a fixed number of statements."""
    found = store.uses(session, name)
    if not found:
        return None
    spreads = standings.rig_spreads(session)
    repeats = [
        Repeats(q, learning.spread(spreads[name, q.name], q.name), default_repeatability(name, q.name),
                spreads[name, q.name])
        for q in QUANTITIES.values() if (name, q.name) in spreads
    ]  # fmt: skip
    return RigView(found[0], repeats, _beside(session, name, now))


def _beside(session: Session, name: str, now: datetime) -> list[Beside]:
    pairs: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
    for of_model in standings.model_baselines(session, None, now).values():
        for by_quantity in of_model.values():
            for quantity, theirs in by_quantity.items():
                for other, pair in _pairs(QUANTITIES[quantity], name, theirs).items():
                    pairs[other, quantity].append(pair)
    return [_fitted(other, QUANTITIES[quantity], found) for (other, quantity), found in sorted(pairs.items())]


def _pairs(quantity: Quantity, name: str, theirs: Sequence[Baseline]) -> Mapping[str, tuple[float, float]]:
    """What one motor read on this rig and on each other within thirty days, with no reset between."""
    mine = [b for b in theirs if b.conditions and b.conditions.rig == name]
    same = tuple(n for n in quantity.same if n != "rig")
    found: dict[str, tuple[float, float]] = {}
    for there in theirs:
        if not there.conditions or there.conditions.rig in ("", name) or there.at is None:
            continue
        for here in mine:
            near = here.at is not None and abs(here.at - there.at) <= PAIRED_WITHIN
            apart = replace(there.conditions, rig=name)
            if near and here.conditions and comparable(same, here.conditions, apart):
                found.setdefault(there.conditions.rig, (here.value, there.value))
    return found


def _fitted(other: str, quantity: Quantity, pairs: Sequence[tuple[float, float]]) -> Beside:
    x, y = [p for p, _ in pairs], [q for _, q in pairs]
    positive = len(pairs) > 1 and min(*x, *y) > 0
    agreed = translation.agreement(x, y) if positive else None
    try:
        return Beside(other, quantity, len(pairs), translation.fit(x, y), agreed)
    except Refused as refused:
        return Beside(other, quantity, len(pairs), None, agreed, refused.sentence)
