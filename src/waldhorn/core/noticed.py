"""What is known of a motor besides its numbers: what happened to it, what was looked at, what its owner says."""

from collections.abc import Sequence

from waldhorn.core import evidence as ev
from waldhorn.core import faults, inspection
from waldhorn.core.evidence import Evidence
from waldhorn.core.history import History


def looked_at(known: History) -> dict[str, str]:
    """The inspection findings that stand: the latest of each item, unless mended by a later event or overruled."""
    found: dict[str, str] = {}
    for f in sorted(known.findings, key=lambda f: f.at):
        if f.subject.startswith("inspect:"):
            found[f.subject.removeprefix("inspect:")] = f.value
        elif f.subject.startswith("overruled:"):
            found.pop(f.subject.removeprefix("overruled:"), None)
    times = {f.subject.removeprefix("inspect:"): f.at for f in sorted(known.findings, key=lambda f: f.at)}
    mended = {
        name for name in found if name in inspection.ITEMS
        and any(e.event in inspection.ITEMS[name].mended_by and e.at >= times[name] for e in known.events)
    }  # fmt: skip
    return {name: state for name, state in found.items() if name not in mended}


def pointing_to(known: History) -> dict[str, list[str]]:
    """What was noticed in the last check that is no number, by the fault it points to."""
    raised = {fault: [state] for fault, state in inspection.suspicion(looked_at(known)).items()}
    last = max((f.at for f in known.findings), default=None)
    latest = {
        f.subject: f.value for f in sorted(known.findings, key=lambda f: f.at) if last and f.at >= last - ev.FRESH
    }
    if latest.get("hall", "good") not in ("good", "incomplete"):
        raised.setdefault("failing_sensor", []).append("lamps")
    latest["first_spin"] = "rough" if "guard:erratic" in latest else latest.get("first_spin", "")
    for subject, value in (("sweep", "hunted"), ("first_spin", "rough")):
        if latest.get(subject) == value:
            for fault in faults.NOTICED_WEIGHT[value]:
                raised.setdefault(fault, []).append(value)
    return raised


def happened(known: History, judged: Sequence[Evidence]) -> dict[str, list[str]]:
    start = min((e.baseline.at for e in judged if e.baseline and e.baseline.at), default=None)
    events = sorted((e for e in known.events if start is None or e.at >= start), key=lambda e: (e.at, e.event))
    return faults.concerning([e.event for e in events])


def came_back(known: History) -> bool:
    """Whether its owner sent it back with a complaint since the check before the last."""
    complaints = [e.at for e in known.events if e.event == "returned"]
    checks = sorted(c.at for c in known.checks if c.readings)
    return bool(complaints and checks) and max(complaints) >= (checks[-2] if len(checks) > 1 else checks[-1] - ev.FRESH)
