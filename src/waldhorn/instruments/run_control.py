"""The state machine of a live run: what is commanded, what is known of the motor, what is said of it.

Pure and without a thread: it is told what a person asks, what the instrument says and how late it is, and leaves the
lines to be sent in `commands` and what was yielded in `found`. The transitions are drawn in `docs/architecture.md`.
"""

from collections import deque
from dataclasses import asdict, dataclass, replace
from enum import StrEnum
from typing import Any

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import GuardKind
from waldhorn.instruments import capture, line_protocol
from waldhorn.instruments.guards import Guards, Tripped
from waldhorn.instruments.line_format import LineFormat
from waldhorn.instruments.safety_envelope import SafetyEnvelope

ALONE_S = 3.0  # with nobody watching for so long, the motor is stopped
MOST_ERRORS = 20  # of one spin: an instrument that reports ever new trouble has said enough
SILENT_S = 1.5  # without a good sample for so long, an instrument has fallen silent
# What is said of an event: of an instrument that obeys, and of one that only prints.
SAID = {
    "set": ("", "Set {:g} % by hand and hold it."),
    "stopped": ("Stopped.", "Close the throttle by hand: this instrument cannot stop the motor."),
    "alone": ("Nobody was watching: the motor was stopped.", "Nobody was watching. Close the throttle by hand."),
    "silent": (
        "The instrument has fallen silent: the motor was told to stop. Look at it before going on.",
        "The instrument has fallen silent. Close the throttle by hand, then look at it.",
    ),
    "gone": (
        "The instrument is gone; it stops the motor by itself within two seconds. Connect it again to go on: what was"
        " captured is kept.",
        "The instrument is gone. Close the throttle by hand. What was captured is kept.",
    ),
}

Heard = capture.Captured | line_protocol.Sweep | Tripped | line_protocol.Trouble | capture.RanOut


class Phase(StrEnum):
    """Where a live run stands."""

    IDLE = "idle"  # no instrument, or one that has not greeted yet
    CONNECTED = "connected"  # an instrument, and a motor that stands
    RUNNING = "running"  # something is commanded that turns the motor
    STOPPING = "stopping"  # told to stop or let go, and not known to stand
    GONE = "gone"  # the instrument is gone


@dataclass
class State:
    """How a live run stands, as the page shows it."""

    phase: Phase = Phase.IDLE
    name: str = ""
    pct: float = 0.0
    settings: tuple[float, ...] = line_protocol.USUAL_SETTINGS
    words: str = ""
    unread: int = 0
    last_unread: str = ""
    waiting: int = 0
    sweeping: bool = False
    coasting: bool = False

    @property
    def connected(self) -> bool:
        """Whether there is an instrument that listens."""
        return self.phase in (Phase.CONNECTED, Phase.RUNNING, Phase.STOPPING)

    def shown(self) -> dict[str, Any]:
        """As it is sent to a page."""
        return asdict(self) | {"connected": self.connected}


class RunControl:
    """One instrument and one motor, within an envelope. `now` is the host's clock in s everywhere; of a simulated bench
    that is `hurried`, faster than real time, its own clock stands in for it. An instrument that is read by a
    `line_format` only prints: the throttle is in the hand, and the page is told where it stands."""

    def __init__(
        self, envelope: SafetyEnvelope, line_format: LineFormat | None, now: float, hurried: bool = False
    ) -> None:
        self.envelope, self.line_format, self.hurried = envelope, line_format, hurried
        self.state = State(words="Connected, waiting for its greeting.")
        self.commands: deque[dict[str, Any]] = deque()
        self.found: list[Heard] = []
        self.detector = capture.SettleDetector(envelope.hold_share)
        self.guards = Guards(envelope, by_hand=line_format is not None, now=0.0 if hurried else now)
        self.last: line_protocol.Sample | None = None  # the sample that came last
        self._coasting: capture.CoastDownRecorder | None = None
        self._alive = now  # when the last good sample came
        self._last_t: float | None = None
        self._silent = False
        self._errors: set[str] = set()
        if line_format:
            self._greet(
                line_protocol.Hello(line_format.name, sensored=False, max_v=line_format.max_v, max_a=line_format.max_a)
            )

    # what a person asks

    def go_to(self, pct: float, now: float) -> None:
        """Go to a throttle setting in percent; raises InputError with what would be right.

        From standstill only the lowest setting: a motor is heard before it is hurried.
        """
        state, lowest = self.state, self.state.settings[0]
        self._must_be_connected()
        if pct != 0 and pct not in state.settings:
            has = ", ".join(f"{s:g}" for s in state.settings)
            raise InputError("live", f"{pct:g} % is no setting of this instrument: it has {has}")
        if pct > lowest and state.pct == 0:
            raise InputError("live", f"from standstill only the lowest setting, {lowest:g} %: listen first, then go up")
        if pct:
            self._must_not_be_stopped()
        self._drive(pct, now)
        self._send(cmd="throttle", pct=pct)
        state.words = self._words("set").format(pct) if pct else self._words("stopped")

    def stop(self, now: float) -> None:
        """Stop the motor at once."""
        self._drive(0.0, now)
        self._send(cmd="stop")
        if self.state.connected:
            self.state.words = self._words("stopped")

    def release(self, now: float) -> None:
        """Let go of a motor that turns, and follow it until it stands; raises InputError."""
        if self.line_format:
            raise InputError(
                "live", "this instrument only prints: it cannot let go. Paste the trace in the step Coast-down"
            )
        if not self.state.connected or self.state.pct == 0:
            raise InputError("live", "there is nothing to let go of: bring it to full throttle first")
        self._drive(0.0, now)
        self._coasting, self.state.coasting = capture.CoastDownRecorder(), True
        self._send(cmd="release")
        self.state.words = "Let go. It runs out by itself: hands off until it stands."

    def sweep(self, now: float) -> None:
        """Start the timing sweep; raises InputError."""
        if self.line_format:
            raise InputError("live", "this instrument only prints: it cannot sweep the timing")
        self._must_be_connected()
        self._must_not_be_stopped()
        self._drive(0.0, now, sweeping=True)
        self._send(cmd="sweep_timing")
        self.state.words = "Sweeping the timing."

    def take_again(self) -> None:
        """Let the present setting be captured once more."""
        self.detector.take_again()
        self.state.words = "Taking this setting again."

    def keep_within(self, envelope: SafetyEnvelope) -> None:
        """Another envelope, when what is known of the motor has changed; what the instrument allows stays."""
        here = self.guards.envelope
        self.envelope = envelope
        self.guards.envelope = replace(envelope, max_a=here.max_a, max_v=here.max_v)
        self.detector.hold_share = envelope.hold_share

    # what the instrument says, and the clock

    def heard(self, message: line_protocol.Message, now: float) -> None:
        """One message of the instrument."""
        if self.state.phase is Phase.GONE:
            return
        if isinstance(message, line_protocol.Sample):
            self._sampled(message, now)
        elif isinstance(message, line_protocol.Hello):
            if self.state.phase in (Phase.RUNNING, Phase.STOPPING):  # it has started anew, whatever it was told before
                self.stop(now)
            self._greet(message)
        elif isinstance(message, line_protocol.Unread):
            self.state.unread += 1
            self.state.last_unread = f"{message.why}: {message.start}"
        elif isinstance(message, line_protocol.Trouble):
            self._reported(message, now)
        elif self.state.sweeping:
            self._drive(0.0, now)
            self.found.append(message)

    def tick(self, now: float, alone_s: float) -> None:
        """Time has passed: stop what must be stopped, and speak to the instrument so that it does not stop by itself.
        `alone_s` is for how long nobody has been watching."""
        state = self.state
        if not state.connected:
            return
        if trip := self.guards.tick(self._clock(now)):
            self._stopped_by(trip, now)
        running = state.phase is Phase.RUNNING
        if running and alone_s > ALONE_S:
            self.stop(now)
            state.words = self._words("alone")
        elif state.phase is not Phase.CONNECTED and now - self._alive > SILENT_S and not self._silent:
            self._silent = True
            self.stop(now)
            state.words = self._words("silent")
        elif state.sweeping or state.coasting:
            self._send(cmd="hello")  # not a command: it is passed over, but heard
        elif state.phase is Phase.STOPPING:
            self._send(cmd="stop")  # until it is known to stand
        else:
            self._send(cmd="throttle", pct=state.pct)

    def lost(self, why: str, now: float) -> None:
        """The instrument is gone; `why` where it is not simply that."""
        if self.state.phase is Phase.GONE:
            return
        self._drive(0.0, now)
        self.state.phase = Phase.GONE
        self.state.words = self._words("gone") + (f" ({why})" if why else "")

    # how it moves from phase to phase

    def _drive(self, pct: float, now: float, sweeping: bool = False) -> None:
        """What is commanded from here on, and the phase that follows from it."""
        state = self.state
        self.guards.command(pct, self._clock(now), sweeping)
        self._coasting, state.coasting = None, False
        state.pct, state.sweeping = pct, sweeping
        if not state.connected:
            return
        if self.guards.driven:
            if state.phase is not Phase.RUNNING:
                self._alive, self._silent = now, False
                self._errors.clear()
            state.phase = Phase.RUNNING
        elif state.phase is Phase.RUNNING:
            state.phase = Phase.STOPPING

    def _sampled(self, sample: line_protocol.Sample, now: float) -> None:
        if not self.state.connected:  # on a serial port the greeting may have been before we listened
            self._greet(line_protocol.Hello("An instrument", True, 60.0, 20.0))
        if sample.t != self._last_t:  # one whose clock stands still may say for ever what was true once
            self._alive, self._silent = now, False
        self._last_t = sample.t
        if self.line_format and "pct" not in self.line_format.told:
            sample = replace(sample, pct=self.state.pct)
        self.last = sample
        if trip := self.guards.heard(sample, self._clock(now)):
            self._stopped_by(trip, now)
        self._settle_phase()
        captured = self.detector.feed(sample)
        if captured and not self.guards.tripped:
            self.found.append(captured)
        if self._coasting and (ran_out := self._coasting.feed(sample)):
            self._coasting, self.state.coasting = None, False
            self.found.append(ran_out)

    def _settle_phase(self) -> None:
        """A motor that turns though nothing is commanded is stopping; one that is known to stand has stopped."""
        state, stands = self.state, self.guards.stands
        if state.phase is Phase.STOPPING and stands:
            state.phase = Phase.CONNECTED
        elif state.phase is Phase.CONNECTED and self.guards.tripped and not stands:
            state.phase = Phase.STOPPING

    def _reported(self, trouble: line_protocol.Trouble, now: float) -> None:
        """Trouble that the instrument reports stops the motor; said again and again, it is one finding."""
        told = f"{trouble.error}: {trouble.detail}"
        if self.guards.driven:
            self.guards.trip(GuardKind.INSTRUMENT, trouble.detail or trouble.error)
            self.stop(now)
        if told in self._errors or len(self._errors) >= MOST_ERRORS:
            return
        self._errors.add(told)
        self.state.words = f"The instrument reports: {trouble.detail or trouble.error}."
        self.found.append(trouble)

    def _stopped_by(self, trip: Tripped, now: float) -> None:
        self.stop(now)
        self._settle_phase()
        self.state.words = f"Stopped: {trip.words}."
        self.found.append(trip)

    def _greet(self, hello: line_protocol.Hello) -> None:
        """What it allows holds from here on; what is tripped stays so."""
        fresh = not self.state.connected
        self.state.name, self.state.settings = hello.name, hello.settings
        watched = (capture.SLOW_WINDOW_S, capture.SLOW_SAMPLES) if self.line_format else capture.USUAL_WATCH
        self.detector = capture.SettleDetector(self.envelope.hold_share, hello.settings, *watched, hello.current)
        self.guards.envelope = self.envelope.within(hello)
        self.guards.lowest = min(hello.settings)
        if fresh:
            self.state.phase = Phase.CONNECTED
            self.state.words = f"{hello.name} is ready."
            if self.envelope.poles:
                self._send(cmd="poles", value=self.envelope.poles)

    def _must_be_connected(self) -> None:
        if not self.state.connected:
            raise InputError("live", "no instrument is connected: choose one first")

    def _must_not_be_stopped(self) -> None:
        if self.guards.tripped:
            raise InputError("live", f"{self.guards.tripped.words}: wait until it is known to stand")

    def _clock(self, now: float) -> float:
        """The clock of the guards."""
        return (self._last_t or 0.0) if self.hurried else now

    def _send(self, **command: Any) -> None:
        if not self.line_format:
            self.commands.append(command)

    def _words(self, what: str) -> str:
        """What is said of an event: of an instrument that obeys, or of one that only prints."""
        return SAID[what][self.line_format is not None]
