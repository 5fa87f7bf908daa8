"""What the checks of a motor teach of the rigs they were made on: how well runs repeat, and clamping anew.

References
----------
.. [1] ISO 5725-2 and -3 (pooled variances, nested design).
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from datetime import datetime, timedelta
from statistics import fmean

from waldhorn.core.base.history import Event
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import Group, first_visits
from waldhorn.core.rigs import repeatability
from waldhorn.core.rigs.repeatability import MOST_PER_PAIR, Spread

ONE_STUDY = timedelta(days=2)  # between two visits of a motor in one study, at most


@dataclass(frozen=True, slots=True)
class Sums:
    """Pooled squares in the change unit: of runs within a visit with their degrees of freedom, and of visits, with
    theirs and the share of them that runs account for."""

    squares: float = 0.0
    pairs: int = 0
    visit_squares: float = 0.0
    visit_pairs: int = 0
    visit_runs: float = 0.0

    def __add__(self, other: "Sums") -> "Sums":
        return Sums(*(getattr(self, f.name) + getattr(other, f.name) for f in fields(Sums)))

    def __neg__(self) -> "Sums":
        return Sums(*(-getattr(self, f.name) for f in fields(Sums)))


@dataclass(frozen=True, slots=True)
class Taught:
    """What one check teaches of its rig for a quantity."""

    check: str
    rig: str
    quantity: str
    at: datetime
    sums: Sums


def of_motor(groups: Mapping[str, Sequence[Group]], events: Iterable[Event]) -> list[Taught]:
    """What a motor teaches, by check, rig and quantity.

    Parameters
    ----------
    groups : mapping of str to sequence of Group
        By quantity, runs that were set aside by themselves among them: without them an estimate shrinks.
    events : iterable of Event
        What happened to the motor.

    Returns
    -------
    list of Taught
        The runs of every check, and the first two visits of each stretch between resets.

    Notes
    -----
    Source: [1]_.
    """
    found: dict[tuple[str, str, str], Taught] = {}

    def teach(group: Group, quantity: str, sums: Sums) -> None:
        key = (group.check, group.conditions.rig, quantity)
        before = found[key].sums if key in found else Sums()
        found[key] = Taught(*key, group.at, before + sums)

    happened = list(events)
    for name, mine in groups.items():
        quantity, usual = QUANTITIES[name], QUANTITIES[name].repeatability
        for group in mine:
            values = [o.value for o in group.observations]
            each = group.n / len(group.observations)
            squares, pairs = repeatability.within_check(values, quantity.relative, each)
            if pairs:
                teach(group, name, Sums(min(squares, pairs * MOST_PER_PAIR * usual**2), pairs))
        for first, second in first_visits(mine, happened, quantity):
            square, runs = repeatability.between_visits(
                first.value, second.value, quantity.relative, (first.n, second.n), usual
            )
            teach(second, name, Sums(0.0, 0, square, 1, runs))
    return list(found.values())


def of_studies(groups: Mapping[str, Sequence[Group]]) -> list[Taught]:
    """What studies teach of their rigs: all runs of a visit, and all visits of a motor.

    Parameters
    ----------
    groups : mapping of str to sequence of Group
        What one motor read for studies, by quantity, a group a visit.

    Returns
    -------
    list of Taught

    Notes
    -----
    Formula: within visits as in `repeats.within_check`; between them Σ(m_i − m)², of which the expectation is
    (v − 1)·(s_L² + s_r²/r), m_i the means of v visits of r runs

    Source: [1]_.
    """
    found = []
    for name, mine in groups.items():
        quantity = QUANTITIES[name]
        for visits in _studies(mine):
            means = [fmean(o.value for o in g.observations) for g in visits]
            middle = fmean(means)
            scale = 100 / middle if quantity.relative and middle else 1.0
            for group in visits:
                values = [o.value for o in group.observations]
                squares, pairs = repeatability.within_check(values, quantity.relative, group.n / len(values))
                found.append(Taught(group.check, group.conditions.rig, name, group.at, Sums(squares, pairs)))
            if len(visits) > 1:
                apart = sum((scale * (m - middle)) ** 2 for m in means)
                runs = fmean(1 / len(g.observations) for g in visits)
                further = Sums(0.0, 0, apart, len(visits) - 1, (len(visits) - 1) * runs)
                found[-1] = replace(found[-1], sums=found[-1].sums + further)
    return found


def _studies(groups: Sequence[Group]) -> list[list[Group]]:
    """Visits of one study: on one rig, no two in a row further apart than a study takes."""
    found: list[list[Group]] = []
    for group in sorted(groups, key=lambda g: (g.conditions.rig, g.at)):
        last = found[-1][-1] if found else None
        if last and last.conditions.rig == group.conditions.rig and group.at - last.at <= ONE_STUDY:
            found[-1].append(group)
        else:
            found.append([group])
    return found


def spread(sums: Sums, quantity: str) -> Spread:
    """How well a rig repeats a quantity, from what it was seen to do.

    Parameters
    ----------
    sums : Sums
        Of this rig and quantity.
    quantity : str
        Name.

    Returns
    -------
    Spread

    Notes
    -----
    Formula: s² = (ν₀·s₀² + SS)/(ν₀ + ν), for runs and for visits, of whose squares the runs' share is taken off

    Source: [1]_.

    Examples
    --------
    >>> spread(Sums(), "noise_avg")
    Spread(run=1, visit=1)
    """
    usual = QUANTITIES[quantity].repeatability
    if not sums.pairs and not sums.visit_pairs:
        return Spread(usual, usual)
    run = repeatability.learned(sums.squares, sums.pairs, usual)
    visits = max(0.0, sums.visit_squares - sums.visit_runs * run**2)
    return Spread(run, repeatability.learned(visits, sums.visit_pairs, usual))
