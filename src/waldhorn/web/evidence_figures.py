"""A piece of evidence as figures that explain themselves: the change, its uncertainty, the odds of the act limit."""

from waldhorn.core import change
from waldhorn.core.evidence import Evidence
from waldhorn.core.explain import Figure, figure


def of_evidence(e: Evidence) -> list[Figure]:
    """Change, uncertainty and odds of one quantity; nothing where there is nothing to compare."""
    if e.change is None or e.limits is None or e.baseline is None or e.now is None or e.baseline.value == 0:
        return []
    q, found = e.quantity, e.change
    compared = {"now": e.now, "baseline": e.baseline.value, "relative": q.relative}
    n_base = e.baseline.n if e.baseline.source == "own" else 0
    return [
        figure(f"{q.title}, change", found.value, q.change_unit, 1, change.difference, **compared),
        figure("±, one sigma", found.u, q.change_unit, 2, change.uncertainty, repeatability=e.repeatability,
               resolution=q.resolution, n_now=e.n_now, n_base=n_base, extra=e.baseline.extra_u),
        figure("beyond act", 100 * found.p_past_act, "%", 0, change.probability_beyond, value=found.value, u=found.u,
               limit=e.limits.act, direction=q.direction),
    ]  # fmt: skip
