"""The settings of a visit: each against the same setting's past, all together one source.

References
----------
.. [1] JCGM 100:2008 (GUM), 5.1.2; the weighted mean of results that share one component.
.. [2] Cochran's Q: whether several results say one thing.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import NoteKind, Source
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.judging.change import OF_A_MEDIAN, RunUncertainty, assess
from waldhorn.core.judging.evidence import DRIFT_SHARE, Evidence, Note
from waldhorn.core.measuring.observations import Group, last_reset
from waldhorn.core.measuring.quantity import Quantity

ONE_THING = 0.05  # the chance at which several settings that say one thing are taken to say several [2]
_OWN = (Source.OWN, Source.TRANSLATED)
_RANK = (_OWN, (Source.YARDSTICK, Source.MODEL), (Source.MACHINE,), (Source.CEILING,), (Source.LABEL,))


def of_visit(found: Sequence[Group], events: Iterable[Event], quantity: Quantity) -> list[Sequence[Group]]:
    """The groups of a quantity once for each setting of the latest visit, which comes last, without the others of that
    visit.

    Parameters
    ----------
    found : sequence of Group
        Oldest first, one at least.
    events : iterable of Event
    quantity : Quantity
        What reset it parts a visit: only what was read since counts.
    """
    last = found[-1]
    mine = [g for g in found if g.check == last.check]
    if len(mine) == 1:
        return [found]
    since = last_reset(events, quantity, max(g.at for g in mine))
    earlier = [g for g in found if g.check != last.check]
    return [[*earlier, g] for g in mine if since is None or g.at >= since]


@dataclass(frozen=True, slots=True)
class Together:
    """Changes at several settings as one: the change, its standard uncertainty, their share that no setting shares as
    a variance, the statistic Q, and whether they say one thing."""

    change: float
    u: float
    own_variance: float
    q: float
    one_thing: bool


def weigh(changes: Sequence[float], variances: Sequence[float], shared: float) -> Together:
    """Changes at several settings of one visit, weighed together.

    Parameters
    ----------
    changes : sequence of float, two at least
        In the change unit.
    variances : sequence of float
        Of each, between runs, in the change unit squared, above 0.
    shared : float
        The variance of the visit, which they share, likewise.

    Returns
    -------
    Together

    Notes
    -----
    Formula: d̂ = Σ(d/v)/Σ(1/v), u² = 1/Σ(1/v) + s_L², Q = Σ(d − d̂)²/v against χ² with k − 1 at 95 %

    Source: [1]_, [2]_.

    Examples
    --------
    >>> found = weigh([6.2, 5.4, 5.8], [0.5] * 3, 0.9)
    >>> round(found.change, 1), round(found.u, 2), round(found.q, 2), found.one_thing
    (5.8, 1.03, 0.64, True)
    >>> round(weigh([0.3, 12.1], [0.5] * 2, 0.9).q)
    139
    """
    from scipy.special import chdtri  # a while to load, and most visits have one setting

    weights = [1 / v for v in variances]
    own = 1 / sum(weights)
    change = own * sum(d * w for d, w in zip(changes, weights, strict=True))
    q = sum(w * (d - change) ** 2 for d, w in zip(changes, weights, strict=True))
    return Together(change, math.sqrt(own + shared), own, q, bool(q <= chdtri(len(changes) - 1, ONE_THING)))


def together(each: Sequence[Evidence]) -> Evidence:
    """What the settings of a visit say of a quantity as one piece of evidence: those that have the best to compare with
    are weighed together; where they do not say one thing, the one nearest its limit stands, named by its setting.

    Parameters
    ----------
    each : sequence of Evidence
        One a setting, one at least.
    """
    if len(each) == 1:
        return each[0]
    held = next((h for sources in _RANK if (h := [e for e in each if _from(e) in sources])), list(each))
    worst = max(held, key=_nearness)
    above = [e for e in each if _from(e) is Source.CEILING and e not in held and _nearness(e) > _nearness(worst)]
    if above or len(held) == 1 or worst.change is None or worst.quantity.absolute:
        return max(above, key=_nearness) if above else worst
    parts = [_parts(e) for e in held]
    shared = sum(p[1] for p in parts) / len(parts)
    found = weigh([e.change.value for e in held if e.change], [p[0] for p in parts], shared)
    if not found.one_thing:
        others = tuple(e.setting for e in held if e is not worst)
        return replace(worst, notes=(*worst.notes, Note(NoteKind.SETTINGS_DIFFER, (worst.setting, *others))))
    return _as_one(held, worst, found, [1 / p[0] for p in parts])


def _from(e: Evidence) -> Source | None:
    return e.reference.source if e.reference and e.change else None


def _nearness(e: Evidence) -> float:
    """How near a change lies to its act limit, above 1 past it."""
    return 1 - e.change.headroom if e.change else -math.inf


def _parts(e: Evidence) -> tuple[float, float]:
    """The variance of a change that is its setting's own, and what the settings of a visit share: how it was clamped,
    and how sure what it is held against is where that is not its own past."""
    u = e.u_of_runs
    assert u is not None
    whole = u.after(0) ** 2
    shared = u.visit**2 * (1 / u.m_now + (1 / u.m_base if u.m_base else 0.0))
    if _from(e) not in _OWN:
        shared += e.reference.u_further**2 if e.reference else 0.0
    return max(whole - shared, 1e-6 * whole, 1e-12), shared


def _as_one(held: Sequence[Evidence], worst: Evidence, found: Together, weights: Sequence[float]) -> Evidence:
    """The evidence of settings that say one thing: levels and baselines weighed as the changes are."""
    assert worst.u_of_runs is not None
    assert worst.limits is not None
    n = sum(e.n_now for e in held)
    run = math.sqrt(found.own_variance * n) / OF_A_MEDIAN.get(n, 1.0)
    extra = math.sqrt(max(found.u**2 - found.own_variance - worst.u_of_runs.visit**2, 0.0))
    u_of_runs = RunUncertainty(run, worst.u_of_runs.visit, 0.0, n, 0, worst.u_of_runs.m_now, 0, extra)
    quantity = worst.quantity
    reference = _mean([e.reference for e in held if e.reference], weights)
    now = reference.value * (1 + found.change / 100) if quantity.relative else reference.value + found.change
    residuals = [e.residual for e in held if e.residual]
    residual = residuals and replace(
        residuals[-1],
        change=found.change,
        u=math.hypot(found.u, DRIFT_SHARE * worst.limits.watch),
        runs=max(r.runs for r in residuals),
        visits=min(r.visits for r in residuals),
        base_runs=min(r.base_runs for r in residuals),
        base_visits=min(r.base_visits for r in residuals),
    )
    assessed = assess(found.change, found.u, worst.limits, quantity.direction, u_of_runs)
    notes = list(dict.fromkeys(n for e in held for n in e.notes))
    return replace(
        worst,
        state=assessed.state,
        now=now,
        raw=None,
        n_now=n,
        baseline=reference,
        reference=reference,
        change=assessed,
        u_of_runs=u_of_runs,
        notes=(*notes, Note(NoteKind.SETTINGS_TOGETHER, tuple(e.setting for e in held))),
        residual=residual or None,
        at=max(e.at for e in held if e.at),
        seen=min(e.seen for e in held),
        torn=any(e.torn for e in held),
        setting=None,
    )


def _mean(references: Sequence[Baseline], weights: Sequence[float]) -> Baseline:
    """What the settings are held against as one: the levels weighed as the changes are, as they were read too."""

    def of(values: Sequence[float]) -> float:
        return sum(v * w for v, w in zip(values, weights, strict=True)) / sum(weights)

    first = min(references, key=lambda r: (r.at is None, r.at.timestamp() if r.at else 0.0))
    as_read = of([r.value if r.as_read is None else r.as_read for r in references])
    return replace(first, value=of([r.value for r in references]), n=sum(r.n for r in references), as_read=as_read)
