"""Better for what: what each use asks of a motor, and which of several is better for it.

References
----------
.. [1] Bench practice.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core.base.history import Motor
from waldhorn.core.comparing.differences import Row
from waldhorn.core.measuring import current as current_of
from waldhorn.core.measuring.measures import BETWEEN

SURE = 0.9
NAMES = ("speed", "economy", "long life", "smooth start", "hold")
# What each use weighs, in watch limits of the quantity: above 0 more is better [1].
USES: Mapping[str, Mapping[str, float]] = {
    use: {name: between.uses[use] for name, between in BETWEEN.items() if use in between.uses} for use in NAMES
}
WEIGHED = tuple(name for name, between in BETWEEN.items() if between.uses)  # what a use may weigh


@dataclass(frozen=True, slots=True)
class Better:
    """Which motor is better for a use and with what probability against the next; None when it is a toss-up between the
    `first` ones. `behind` are surely worse than the best; `mostly` is the quantity that puts it ahead."""

    use: str
    best: str | None
    first: tuple[str, str]
    p: float
    behind: tuple[str, ...]
    mostly: str


def better_for(rows: Sequence[Row], uses: Mapping[str, Mapping[str, float]] = USES) -> list[Better]:
    """Which motor is better for each use that could be weighed.

    Parameters
    ----------
    rows : sequence of Row
        What was compared.
    uses : mapping of str to mapping of str to float
        Weights by quantity, in watch limits.

    Returns
    -------
    list of Better

    Notes
    -----
    Formula: z = Σ w·x/L, u² = Σ (w·u/L)², L the watch limit in the quantity's unit; P = Φ((z₁ − z₂)/u)

    Source: [1]_.
    """
    found = []
    for use, weights in uses.items():
        among = [r for r in rows if r.quantity.name in weights and len(r.values) > 1]
        tags = set.intersection(*({s.tag for s in r.values} for r in among)) if among else set()
        if len(tags) < 2:
            continue
        merits = sorted((_merit(tag, among, weights) for tag in tags), key=lambda m: (-m[0], m[2]))
        (top, u_top, best), following = merits[0], merits[1][2]
        p = {tag: _surer(top - merit, math.hypot(u_top, u)) for merit, u, tag in merits[1:]}
        behind = tuple(sorted(tag for tag, sure in p.items() if sure >= SURE))
        mostly = _mostly((best, following), among, weights)
        sure = best if p[following] >= SURE else None
        found.append(Better(use, sure, (best, following), p[following], behind, mostly))
    return found


def _surer(ahead: float, u: float) -> float:
    return 0.5 * math.erfc(-ahead / (u * math.sqrt(2))) if u else 1.0


APART_BY = 0.1  # of their labels, from where two windings are meant [1]


def are_windings(motors: Sequence[Motor]) -> bool:
    """Whether motors are of one model, wound differently: their KV says how they are to be geared and fed, not which is
    faster.

    >>> are_windings([Motor("A", "Skerry 36", label_kv=2600), Motor("B", "skerry 36", label_kv=3450)])
    True
    >>> are_windings([Motor("A", "Skerry 36", label_kv=3450), Motor("B", "Skerry 36", label_kv=3450)])
    False
    """
    if len({m.model.strip().casefold() for m in motors}) != 1 or not motors[0].model.strip():
        return False
    labels = [m.label_kv for m in motors if m.label_kv]
    far = bool(labels) and max(labels) > min(labels) * (1 + APART_BY)
    return far or any(len({v for m in motors if (v := getattr(m, name))}) > 1 for name in ("turns", "variant"))


def without(name: str, uses: Mapping[str, Mapping[str, float]]) -> dict[str, dict[str, float]]:
    """What each use weighs without one quantity; a use that weighs nothing else is left out.

    Parameters
    ----------
    name : str
        A quantity.
    uses : mapping of str to mapping of str to float
        What each quantity weighs, by use.
    """
    left = {use: {n: w for n, w in weights.items() if n != name} for use, weights in uses.items()}
    return {use: weights for use, weights in left.items() if weights}


def better_in_nothing(rows: Sequence[Row], found: Sequence[Better]) -> list[str]:
    """Motors that are surely worse than another for every use.

    Parameters
    ----------
    rows : sequence of Row
        What two motors differ in.
    found : sequence of Better
        Which motor is better for each use.
    """
    everyone = sorted({s.tag for r in rows for s in r.values})
    return [t for t in everyone if found and all(t in b.behind for b in found)]


def _merit(tag: str, rows: Sequence[Row], weights: Mapping[str, float]) -> tuple[float, float, str]:
    mine = [(_weight(row, weights), row.of(tag)) for row in rows]
    total = sum(weight * s.value for weight, s in mine)
    return total, math.sqrt(sum((weight * s.u) ** 2 for weight, s in mine)), tag


def _mostly(two: tuple[str, str], rows: Sequence[Row], weights: Mapping[str, float]) -> str:
    """The quantity in which the first is furthest ahead of the second."""
    first, second = two
    ahead = {r.quantity.name: _weight(r, weights) * (r.of(first).value - r.of(second).value) for r in rows}
    return max(ahead, key=lambda name: (ahead[name], name))


def _weight(row: Row, weights: Mapping[str, float]) -> float:
    """What a unit of a quantity weighs."""
    mean = sum(s.value for s in row.values) / len(row.values)
    limit = row.quantity.limits.watch * (abs(mean) / 100 if row.quantity.relative else 1.0)
    return weights[row.quantity.name] / limit if limit else 0.0


def speed_per_amp(rows: Sequence[Row]) -> dict[str, float]:
    """Speed per amp of each motor, rpm/V per A: a guide, and only where nothing had to be brought to equal.

    Parameters
    ----------
    rows : sequence of Row
        What was compared.

    Returns
    -------
    dict of str to float
        By tag; empty when not all motors were read in the same condition, at the same timing and voltage.

    Notes
    -----
    Formula: KV / I0

    Source: [1]_.
    """
    by = {r.quantity.name: r for r in rows}
    pair = [by.get(n) for n in ("kv", "no_load_current")]
    if any(r is None or r.parted or len(r.values) < 2 for r in pair):
        return {}
    speed, current = ({s.tag: s for s in r.values} for r in pair if r)
    if set(speed) != set(current) or any(
        s.brought_deg or s.brought_k or s.from_volts or s.from_rig for s in current.values()
    ):
        return {}
    return {t: current_of.speed_per_amp(s.value, current[t].value) for t, s in speed.items()}
