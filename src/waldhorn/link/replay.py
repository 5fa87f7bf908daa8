"""What a recorded stream yields. Nothing was commanded here: its own throttle and clock stand in for the host's."""

from waldhorn.link import capture, lines
from waldhorn.link.envelope import SafetyEnvelope
from waldhorn.link.guards import Guards, Tripped
from waldhorn.link.recipe import Reader, Recipe


def replay(
    stream: bytes, hold_share: float = 1.0, recipe: Recipe | None = None
) -> list[capture.Captured | lines.Sweep | Tripped]:
    """What a recorded stream yields: the same captures, to the last digit, as when it was live. Lines that are read by
    a recipe must tell their time and throttle themselves."""
    slow = (capture.SLOW_WINDOW_S, capture.SLOW_SAMPLES) if recipe else ()
    detector = capture.SettleDetector(hold_share, lines.USUAL_SETTINGS, *slow)
    guards = Guards(SafetyEnvelope(hold_share))
    read = Reader(recipe).read if recipe else lines.read
    found: list[capture.Captured | lines.Sweep | Tripped] = []
    for line in stream.splitlines():
        message = read(line)
        if isinstance(message, lines.Hello):
            detector = capture.SettleDetector(hold_share, message.settings, *capture.USUAL_WATCH, message.current)
            guards = Guards(SafetyEnvelope(hold_share).within(message), message.settings)
        elif isinstance(message, lines.Sweep):
            found.append(message)
        elif isinstance(message, lines.Sample):
            taken = detector.feed(message)
            guards.command(detector.pct, message.t)
            found += [f for f in (guards.heard(message, message.t), taken) if f]
    return found
