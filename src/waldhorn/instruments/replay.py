"""What a recorded stream yields. Nothing was commanded here: its own throttle and clock stand in for the host's."""

from waldhorn.instruments import capture, line_protocol
from waldhorn.instruments.guards import Guards, Tripped
from waldhorn.instruments.line_format import LineFormat, Reader
from waldhorn.instruments.safety_envelope import SafetyEnvelope


def replay(
    stream: bytes, hold_share: float = 1.0, line_format: LineFormat | None = None
) -> list[capture.Captured | line_protocol.Sweep | Tripped]:
    """What a recorded stream yields: the same captures, to the last digit, as when it was live. Lines that are read by
    a line_format must tell their time and throttle themselves."""
    slow = (capture.SLOW_WINDOW_S, capture.SLOW_SAMPLES) if line_format else ()
    detector = capture.SettleDetector(hold_share, line_protocol.USUAL_SETTINGS, *slow)
    guards = Guards(SafetyEnvelope(hold_share))
    read = Reader(line_format).read if line_format else line_protocol.read
    found: list[capture.Captured | line_protocol.Sweep | Tripped] = []
    for line in stream.splitlines():
        message = read(line)
        if isinstance(message, line_protocol.Hello):
            detector = capture.SettleDetector(hold_share, message.settings, *capture.USUAL_WATCH, message.current)
            guards = Guards(SafetyEnvelope(hold_share).within(message), message.settings)
        elif isinstance(message, line_protocol.Sweep):
            found.append(message)
        elif isinstance(message, line_protocol.Sample):
            taken = detector.feed(message)
            guards.command(detector.pct, message.t)
            found += [f for f in (guards.heard(message, message.t), taken) if f]
    return found
