"""What a recorded stream yields."""

from waldhorn.link import capture, lines
from waldhorn.link.envelope import SafetyEnvelope
from waldhorn.link.recipe import Reader, Recipe


def replay(
    stream: bytes, hold_share: float = 1.0, recipe: Recipe | None = None
) -> list[capture.Captured | lines.Sweep | capture.Tripped]:
    """What a recorded stream yields: the same captures, to the last digit, as when it was live. Lines that are read by
    a recipe must tell their time and throttle themselves."""
    envelope = SafetyEnvelope(hold_share)
    slow = (capture.SLOW_WINDOW_S, capture.SLOW_SAMPLES) if recipe else ()
    detector = capture.SettleDetector(envelope, lines.USUAL_SETTINGS, *slow)
    read = Reader(recipe).read if recipe else lines.read
    found: list[capture.Captured | lines.Sweep | capture.Tripped] = []
    for line in stream.splitlines():
        message = read(line)
        if isinstance(message, lines.Hello):
            detector = capture.SettleDetector(
                envelope.within(message), message.settings, *capture.USUAL_WATCH, message.current
            )
        elif isinstance(message, lines.Sweep):
            found.append(message)
        elif isinstance(message, lines.Sample) and (taken := detector.feed(message)):
            found.append(taken)
    return found
