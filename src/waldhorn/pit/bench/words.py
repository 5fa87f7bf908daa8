"""What the pit says: what a change did, and why a step is closed. Nothing is decided by these."""

from waldhorn.core.motors.ratings import Ceiling, no_load_speed
from waldhorn.pit.bench.stepper import ROUGH, Closed, plan_words
from waldhorn.pit.bench.steps import STEPS
from waldhorn.store.models import ChangeKind, ChangeRow


def change_words(change: ChangeRow) -> str:
    """What was done, in a few words."""
    step = STEPS.get(change.step)
    title = step.title.lower() if step else change.step
    run = f", run {change.count}" if change.count and step and step.runs_wanted > 1 else ""
    event = change.detail.replace("_", " ")
    return {
        ChangeKind.OPEN: "check opened",
        ChangeKind.PLAN: f"{plan_words(change.detail).lower()} chosen",
        ChangeKind.SET_UP: "rig and warmth noted",
        ChangeKind.TAKE: f"{title}{run} taken",
        ChangeKind.LIVE: change.detail,
        ChangeKind.CAUTION: "caution confirmed",
        ChangeKind.ASIDE: f"run {change.count} set aside",
        ChangeKind.PEAKS_ASIDE: f"{change.count} {'peak' if change.count == 1 else 'peaks'} set aside",
        ChangeKind.BACK: f"run {change.count} counts again",
        ChangeKind.CORRECT: change.detail,
        ChangeKind.SKIP: f"{title} skipped",
        ChangeKind.STOP: "run stopped",
        ChangeKind.OVERRULE: f"{event} overruled",
        ChangeKind.REBASE: f"{change.count} speeds re-based to {change.detail} poles",
        ChangeKind.TIMING_SET: f"timing set to {change.detail}°",
        ChangeKind.PICTURE: f"picture of {event} attached",
        ChangeKind.SOUND: f"recording kept, {event}",
        ChangeKind.SIGN: f"{change.detail} signed",
        ChangeKind.HANG_BACK: "hung back unsigned",
        ChangeKind.AMEND: "facts corrected",
        ChangeKind.EVENT: f"{event} logged",
        ChangeKind.SHAKE: "shaking noted",
        ChangeKind.BRING_IN: f"{change.detail} brought in",
        ChangeKind.MERGE_MOTORS: f"{change.detail} merged into it",
        ChangeKind.TAKE_IN: f"{change.detail} taken in",
        ChangeKind.LOAD_NAME: change.detail,
        ChangeKind.STUDY: f"visit {change.count} of a study of {change.detail} taken",
    }[ChangeKind(change.kind)]


def closed_words(closed: Closed) -> str:
    """Why a powered step is closed."""
    if closed.ceiling:
        return ceiling_words(closed.ceiling)
    if closed.subject == ROUGH or closed.item is None:
        return "It ran rough: that is the evidence, no more power."
    return f"{closed.item.title[0].upper()}{closed.item.title[1:]} found bad: no power until it is mended."


def ceiling_words(limit: Ceiling, throttle_pct: float = 100.0) -> str:
    """How fast a rotor may turn, and what the volts at hand would make of it."""
    most = f"at most {limit.most_volts:.1f} V at full throttle"
    if limit.volts is None or not limit.passed(throttle_pct):
        return f"Rated {limit.rated_rpm:.0f} rpm: {most}."
    speed = no_load_speed(limit.kv, limit.volts, throttle_pct)
    return (
        f"{limit.volts:.1f} V would turn it {speed:.0f} rpm at {throttle_pct:g} %, above its rated "
        f"{limit.rated_rpm:.0f} rpm: a rotor can burst. Take {most}."
    )
