"""When a throttle setting has settled, what it then yields, when the motor must be stopped, and how it runs out.

Pure: samples in, captures and alarms out; the same stream gives the same readings to the last digit. A setting
has settled once, over the last two seconds, there are at least twenty samples, the speed's halves differ by under 0.3 %
of it, and it wanders by under 6 %; what has not settled after six seconds is captured as unsteady.
"""

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean, median, pstdev

from waldhorn.core.vocabulary import GuardKind
from waldhorn.link.envelope import SafetyEnvelope
from waldhorn.link.lines import USUAL_SETTINGS, Sample

WINDOW_S = 2.0
LEAST_SAMPLES = 20
SLOW_WINDOW_S, SLOW_SAMPLES = 4.0, 8  # of an instrument that prints a few lines a second
USUAL_WATCH = WINDOW_S, LEAST_SAMPLES
SLACK = 0.05
MOST_DRIFT = 0.003
MOST_WANDER = 0.06
PATIENCE_S = 6.0
SETTLE_S = 0.6  # after a change of step nothing counts for so long
ERRATIC = 0.12
STANDING_RPM, LONGEST_RUN_OUT_S = 60.0, 30.0
FULL_HOLD_S, PART_HOLD_S = 10.0, 25.0
FULL_FROM_PCT = 87.5


@dataclass(frozen=True, slots=True)
class Captured:
    """What a settled setting yields: V, A, rpm as medians, four standard deviations of rpm as its peak to peak (the
    range of a stream grows with its samples), °C, dB; `steady` false when it was taken unsettled, `meter` whose amps
    they are, the motor's or the supply's, where the instrument says."""

    pct: float
    volts: float
    amps: float
    rpm: float
    rpm_p2p: float
    motor_c: float | None
    sound_db: float | None
    samples: int
    steady: bool
    meter: str = ""


@dataclass(frozen=True, slots=True)
class Tripped:
    """A guard that stops the motor, with what it saw in words."""

    kind: GuardKind
    words: str


@dataclass(frozen=True, slots=True)
class RanOut:
    """A motor that was let go, until it stood: s and rpm."""

    trace: tuple[tuple[float, float], ...]


class RunOutRecorder:
    """Follows a motor from the moment it is let go; feed it samples in the order they came."""

    def __init__(self) -> None:
        self.trace: list[tuple[float, float]] = []

    def feed(self, sample: Sample) -> RanOut | None:
        """What one more sample brings: nothing, or the whole of it once the motor stands or takes too long."""
        if sample.pct > 0:  # said before the command was heard
            return None
        self.trace.append((sample.t, sample.rpm))
        if sample.rpm > STANDING_RPM and sample.t - self.trace[0][0] < LONGEST_RUN_OUT_S:
            return None
        return RanOut(tuple(self.trace))


class SettleDetector:
    """Watches a stream: feed it samples in the order they came. `settings` are those of the instrument, in percent; one
    that says its lines more slowly is watched for longer, with fewer samples."""

    def __init__(
        self, envelope: SafetyEnvelope, settings: Sequence[float] = USUAL_SETTINGS, window_s: float = WINDOW_S,
        least: int = LEAST_SAMPLES, meter: str = "",
    ) -> None:  # fmt: skip
        self.envelope, self.lowest = envelope, min(settings)
        self.window_s, self.least, self.meter = window_s, least, meter
        self.window: deque[Sample] = deque()
        self.pct = 0.0
        self.since = 0.0
        self.captured = False
        self.over_current = self.too_fast = 0

    def take_again(self) -> None:
        """Let the present setting be captured once more."""
        self.captured = False
        self.window.clear()

    def feed(self, sample: Sample) -> Captured | Tripped | None:
        """What one more sample brings: nothing, a capture, or an alarm."""
        if sample.pct != self.pct or sample.t < self.since:
            self.pct, self.since, self.captured = sample.pct, sample.t, False
            self.window.clear()
            self.over_current = self.too_fast = 0
        if self.pct == 0:
            return None
        held = sample.t - self.since
        if alarm := self._alarm(sample, held):
            return alarm
        if held < SETTLE_S:
            return None
        self.window.append(sample)
        while sample.t - self.window[0].t > self.window_s:
            self.window.popleft()
        if self.pct <= self.lowest and held > 1.5 and len(self.window) >= 10 and self._wander() > ERRATIC:
            return Tripped(
                GuardKind.ERRATIC, f"speed strays by {100 * self._wander():.0f} % at {self.pct:g} % throttle"
            )
        if self.captured:
            return None
        watched = self.window[-1].t - self.window[0].t
        full = watched >= self.window_s - max(SLACK * self.window_s, self._step()) and len(self.window) >= self.least
        if full and self._settled():
            return self._capture(steady=True)
        if full and held >= PATIENCE_S * min(1.0, self.envelope.hold_share + 0.25):
            return self._capture(steady=False)
        return None

    def _alarm(self, sample: Sample, held: float) -> Tripped | None:
        limits = self.envelope
        self.over_current = self.over_current + 1 if sample.amps > limits.max_a else 0
        if self.over_current >= 5 and held > SETTLE_S:
            return Tripped(GuardKind.CURRENT, f"{sample.amps:.1f} A is above this bench's {limits.max_a:g} A")
        self.too_fast = self.too_fast + 1 if sample.rpm > limits.rated_rpm else 0
        if self.too_fast >= 3:
            return Tripped(GuardKind.SPEED, f"{sample.rpm:.0f} rpm is above the rated {limits.rated_rpm:.0f} rpm")
        if sample.volts > limits.max_v:
            return Tripped(GuardKind.VOLTS, f"{sample.volts:.1f} V is above this bench's {limits.max_v:g} V")
        if sample.motor_c is not None and sample.motor_c > limits.hot_c:
            return Tripped(GuardKind.HEAT, f"{sample.motor_c:.0f} °C is above {limits.hot_c:g} °C")
        most = (FULL_HOLD_S if self.pct >= FULL_FROM_PCT else PART_HOLD_S) * limits.hold_share
        if held > most:
            return Tripped(GuardKind.HOLD, f"{self.pct:g} % held for {held:.0f} s, {most:.0f} s are enough")
        return None

    def _step(self) -> float:
        """Seconds between two lines."""
        return (self.window[-1].t - self.window[0].t) / max(1, len(self.window) - 1)

    def _speeds(self) -> Sequence[float]:
        return [s.rpm for s in self.window]

    def _wander(self) -> float:
        speeds = self._speeds()
        centre = fmean(speeds)
        return (max(speeds) - min(speeds)) / centre if centre > 0 else 0.0

    def _settled(self) -> bool:
        speeds = self._speeds()
        half, centre = len(speeds) // 2, fmean(speeds)
        if centre <= 0:
            return False
        drift = abs(fmean(speeds[half:]) - fmean(speeds[:half])) / centre
        return drift < max(MOST_DRIFT, self._wander() / 4) and self._wander() < MOST_WANDER

    def _capture(self, steady: bool) -> Captured:
        self.captured = True
        taken = list(self.window)
        speeds = self._speeds()
        warm = [s.motor_c for s in taken if s.motor_c is not None]
        loud = [s.sound_db for s in taken if s.sound_db is not None]
        return Captured(
            self.pct, median(s.volts for s in taken), median(s.amps for s in taken), median(speeds),
            4 * pstdev(speeds), warm[-1] if warm else None, median(loud) if loud else None, len(taken), steady,
            self.meter,
        )  # fmt: skip
