"""What stops a live run, whatever the instrument says of itself.

Guards look at single samples on the clock of the host and by the throttle that was *commanded*: a clock of the
instrument that stands still, a throttle that jitters, a speed that never settles leave them as they are. One that has
tripped stays so until the motor is known to stand: one trip, one act, one finding. Pure; what a setting yields is the
business of `capture`.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.core.base.vocabulary import GuardKind
from waldhorn.instruments.capture import STANDING_RPM
from waldhorn.instruments.line_protocol import USUAL_SETTINGS, Sample
from waldhorn.instruments.safety_envelope import SafetyEnvelope
from waldhorn.instruments.speed_window import SpeedWindow

INRUSH_S = 0.6  # a change of throttle may draw more amps than allowed for so long
OVER_CURRENT_S, TOO_FAST_S = 0.2, 0.1  # what is above its limit for so long trips; half as long below it is forgotten
LONGEST_STEP_S = 0.1  # one sample speaks for no longer than this
FULL_HOLD_S, PART_HOLD_S = 10.0, 25.0
FULL_FROM_PCT = 87.5
HAND_S = 8.0  # from pressing a setting to having set it by hand
ERRATIC, ERRATIC_FROM_S, ERRATIC_SAMPLES, ERRATIC_WINDOW_S = 0.12, 1.5, 10, 2.0
STANDS_S, STANDS_SAMPLES = 0.2, 3
OBEYS_S = 2.0  # told to stop, an instrument says so within this time
LONGEST_COAST_S = 60.0
POWERED_PCT = 1.0


@dataclass(frozen=True, slots=True)
class Tripped:
    """A guard that stops the motor, with what it saw in words."""

    kind: GuardKind
    words: str


class _Above:
    """How long a quantity has been above its limit; what lies below takes half of its time off again."""

    def __init__(self, patience_s: float) -> None:
        self.patience_s, self.spent_s = patience_s, 0.0

    def trips(self, above: bool, seconds: float) -> bool:
        self.spent_s = max(0.0, self.spent_s + (seconds if above else -seconds / 2))
        return above and self.spent_s >= self.patience_s - 1e-9


class Guards:
    """Tell them every throttle that is commanded and every good sample, and let them `tick` in between; `now` is the
    host's clock in s, which never runs backwards. `by_hand`: nothing is commanded, a person holds the throttle."""

    def __init__(
        self,
        envelope: SafetyEnvelope,
        settings: Sequence[float] = USUAL_SETTINGS,
        by_hand: bool = False,
        now: float = 0.0,
    ) -> None:
        self.envelope, self.lowest, self.by_hand = envelope, min(settings), by_hand
        self.tripped: Tripped | None = None
        self.stands = False  # not known before it was heard
        self.pct, self.sweeping = 0.0, False
        self._since = self._last = now
        self._turns = False
        self._quiet_since: float | None = None
        self._quiet_samples = 0
        self._told_pct = 0.0
        self._told_full = _Above(FULL_HOLD_S * envelope.hold_share)
        self._current, self._speed = _Above(OVER_CURRENT_S), _Above(TOO_FAST_S)
        self._window = SpeedWindow(ERRATIC_WINDOW_S)

    @property
    def driven(self) -> bool:
        """Whether something was commanded that turns the motor."""
        return self.pct > 0 or self.sweeping

    def command(self, pct: float, now: float, sweeping: bool = False) -> None:
        """A throttle in percent, or a sweep, was commanded; said again, it changes nothing."""
        if (pct, sweeping) == (self.pct, self.sweeping):
            return
        self.pct, self.sweeping, self._since = pct, sweeping, now
        self._window.clear()
        if self.driven:
            self.stands, self._quiet_since = False, None

    def heard(self, sample: Sample, now: float) -> Tripped | None:
        """What one more good sample trips; nothing more while a guard is tripped."""
        self._told_full.trips(self._told_pct >= FULL_FROM_PCT, now - self._last)
        step = min(max(0.0, now - self._last), LONGEST_STEP_S)
        self._last, self._told_pct = now, sample.pct
        was_standing = self.stands
        self._look_whether_it_stands(sample, now)
        if self.stands:
            self.tripped = None
        elif was_standing and self.by_hand:
            self._since, self._told_full.spent_s = now, 0.0
        over_current = self._current.trips(sample.amps > self.envelope.max_a, step)
        too_fast = self._speed.trips(sample.rpm > self.envelope.rated_rpm, step)
        if self.tripped:
            return None
        self.tripped = self._beyond(sample, now, over_current, too_fast) or self._too_long(now)
        return self.tripped

    def tick(self, now: float) -> Tripped | None:
        """What the time alone trips, heard or not."""
        if not self.tripped:
            self.tripped = self._too_long(now)
            return self.tripped
        return None

    def trip(self, kind: GuardKind, words: str) -> Tripped | None:
        """Trip for a reason that is no reading; None where one is tripped already."""
        if self.tripped:
            return None
        self.stands, self._quiet_since = False, None
        self.tripped = Tripped(kind, words)
        return self.tripped

    def _look_whether_it_stands(self, sample: Sample, now: float) -> None:
        """It stands once nothing is commanded and several samples in a row say that it neither turns nor draws."""
        self._turns = sample.rpm > STANDING_RPM
        powered = self.driven or sample.pct >= POWERED_PCT
        if powered or self._turns or sample.amps > self.envelope.max_a:
            self.stands, self._quiet_since, self._quiet_samples = False, None, 0
            return
        self._quiet_since = now if self._quiet_since is None else self._quiet_since
        self._quiet_samples += 1
        self.stands = now - self._quiet_since >= STANDS_S and self._quiet_samples >= STANDS_SAMPLES

    def _beyond(self, sample: Sample, now: float, over_current: bool, too_fast: bool) -> Tripped | None:
        limits, held = self.envelope, now - self._since
        if over_current and held > INRUSH_S:
            return Tripped(GuardKind.CURRENT, f"{sample.amps:.1f} A is above this bench's {limits.max_a:g} A")
        if too_fast:
            return Tripped(GuardKind.SPEED, f"{sample.rpm:.0f} rpm is above the rated {limits.rated_rpm:.0f} rpm")
        if not (self.driven or sample.pct >= POWERED_PCT or self._turns):
            return None
        if sample.volts > limits.max_v:
            return Tripped(GuardKind.VOLTS, f"{sample.volts:.1f} V is above this bench's {limits.max_v:g} V")
        if sample.motor_c is not None and sample.motor_c > limits.hot_c:
            return Tripped(GuardKind.HEAT, f"{sample.motor_c:.0f} °C is above {limits.hot_c:g} °C")
        return self._erratic(sample, now, held) or self._runs_away(sample, held)

    def _erratic(self, sample: Sample, now: float, held: float) -> Tripped | None:
        if not 0 < self.pct <= self.lowest or held < INRUSH_S:
            return None
        window = self._window
        window.add(now, sample)
        if held > ERRATIC_FROM_S and len(window) >= ERRATIC_SAMPLES and window.wander > ERRATIC:
            words = f"speed strays by {100 * window.wander:.0f} % at {self.pct:g} % throttle"
            return Tripped(GuardKind.ERRATIC, words)
        return None

    def _runs_away(self, sample: Sample, held: float) -> Tripped | None:
        if self.driven or self.by_hand:
            return None
        if held > OBEYS_S and sample.pct >= POWERED_PCT:
            words = f"it was told to stop and still drives at {sample.pct:g} %: disconnect the pack"
            return Tripped(GuardKind.INSTRUMENT, words)
        if held > LONGEST_COAST_S and sample.rpm > STANDING_RPM:
            words = f"it was told to stop and still turns at {sample.rpm:.0f} rpm: disconnect the pack"
            return Tripped(GuardKind.INSTRUMENT, words)
        return None

    def _too_long(self, now: float) -> Tripped | None:
        """Throttle by hand that no setting was named for is timed from when the motor began to turn, full throttle
        from when it was reached."""
        setting = self.pct or (self._told_pct if self.by_hand else 0.0)
        if not self.driven and not (self.by_hand and self._turns):
            return None
        full_by_hand = not self.driven and setting >= FULL_FROM_PCT
        held = self._told_full.spent_s + now - self._last if full_by_hand else now - self._since
        most = (FULL_HOLD_S if setting >= FULL_FROM_PCT else PART_HOLD_S) * self.envelope.hold_share
        if held <= most + (HAND_S if self.by_hand and self.pct else 0.0):
            return None
        at = f"{setting:g} % held" if setting else "it turns"
        return Tripped(GuardKind.HOLD, f"{at} for {held:.0f} s, {most:.0f} s are enough")
