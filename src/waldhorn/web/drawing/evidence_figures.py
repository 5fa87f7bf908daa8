"""Evidence as figures that explain themselves: the change, its uncertainty, the odds of the act limit, and magnet
strength by both of its ways."""

from collections.abc import Sequence
from typing import Any

from waldhorn.core.base.explain import Figure, figure
from waldhorn.core.judging import change
from waldhorn.core.judging.evidence import Evidence, EvidenceKind
from waldhorn.core.measuring import magnets
from waldhorn.core.measuring.quantity import difference


def figures_of(shown: Sequence[Evidence], everything: Sequence[Evidence]) -> list[Figure]:
    """The figures of what is shown; magnet strength is made of KV and detent, wherever they stand."""
    found = [f for e in shown for f in _of(e)]
    if any(e.kind is EvidenceKind.MAGNET_STRENGTH for e in shown):
        found += _strength(everything)
    return found


def _of(e: Evidence) -> list[Figure]:
    """Change, uncertainty and odds of one quantity; nothing where there is nothing to compare."""
    if e.change is None or e.limits is None or e.baseline is None or e.now is None or e.u_of_runs is None:
        return []
    q, runs = e.quantity, e.u_of_runs
    shown = []
    if e.kind is EvidenceKind.COMPARED:
        shown.append(
            figure(
                f"{q.title}, change",
                q.change_unit,
                1,
                difference,
                now=e.now,
                baseline=e.baseline.value,
                relative=q.relative,
            )
        )
    if e.kind is not EvidenceKind.MAGNET_STRENGTH:
        shown.append(
            figure(
                "±, one sigma",
                q.change_unit,
                2,
                change.uncertainty,
                run=runs.run,
                visit=runs.visit,
                resolution=runs.resolution,
                n_now=runs.n_now,
                n_base=runs.n_base,
                m_now=runs.m_now,
                m_base=runs.m_base,
                extra=runs.extra,
            )
        )
    beyond: dict[str, Any] = {"value": e.change.value, "u": e.change.u, "limit": e.limits.act, "direction": q.direction}
    shown.append(figure("beyond act", "%", 0, change.probability_beyond, show=lambda p: 100 * p, **beyond))
    return shown


def _strength(everything: Sequence[Evidence]) -> list[Figure]:
    by_name = {e.quantity.name: e for e in everything}
    speed, torque = by_name.get("kv"), by_name.get("detent_peak")
    found = []
    if speed and speed.now and speed.baseline:
        found.append(
            figure(
                "strength by KV", "", 3, magnets.strength_from_kv, now_kv=speed.now, baseline_kv=speed.baseline.value
            )
        )
    if torque and torque.now and torque.baseline:
        found.append(
            figure(
                "strength by detent",
                "",
                3,
                magnets.strength_from_detent,
                now_nmm=torque.now,
                baseline_nmm=torque.baseline.value,
            )
        )
    return found
