"""When a throttle setting has settled, what it then yields, and how a motor that was let go runs out.

Pure: samples in, captures out, on the instrument's own clock; the same stream gives the same readings to the last
digit. A setting has settled once, over the last two seconds, there are at least twenty samples, the speed's halves
differ by under 0.3 % of it, and it wanders by under 6 %; what has not settled after six seconds is captured as
unsteady. When a motor must be stopped is not decided here but by `guards`.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median, pstdev

from waldhorn.instruments.line_protocol import USUAL_SETTINGS, Sample
from waldhorn.instruments.speed_window import SpeedWindow

WINDOW_S = 2.0
LEAST_SAMPLES = 20
SLOW_WINDOW_S, SLOW_SAMPLES = 4.0, 8  # of an instrument that prints a few lines a second
USUAL_WATCH = WINDOW_S, LEAST_SAMPLES
SLACK = 0.05
MOST_DRIFT = 0.003
MOST_WANDER = 0.06
PATIENCE_S = 6.0
SETTLE_S = 0.6  # after a change of step nothing counts for so long
STANDING_RPM, LONGEST_COAST_DOWN_S = 60.0, 30.0
SAME_SETTING_PCT = 1.0  # an instrument that says 99.9 and 100 in turn holds one setting


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
class RanOut:
    """A motor that was let go, until it stood: s and rpm."""

    trace: tuple[tuple[float, float], ...]


class CoastDownRecorder:
    """Follows a motor from the moment it is let go; feed it samples in the order they came."""

    def __init__(self) -> None:
        self.trace: list[tuple[float, float]] = []

    def feed(self, sample: Sample) -> RanOut | None:
        """What one more sample brings: nothing, or the whole of it once the motor stands or takes too long."""
        if sample.pct > 0:  # said before the command was heard
            return None
        self.trace.append((sample.t, sample.rpm))
        if sample.rpm > STANDING_RPM and sample.t - self.trace[0][0] < LONGEST_COAST_DOWN_S:
            return None
        return RanOut(tuple(self.trace))


class SettleDetector:
    """Watches a stream: feed it samples in the order they came. `hold_share` shortens the patience with what does not
    settle, `settings` are those of the instrument, in percent; one that says its lines more slowly is watched for
    longer, with fewer samples."""

    def __init__(
        self,
        hold_share: float = 1.0,
        settings: Sequence[float] = USUAL_SETTINGS,
        window_s: float = WINDOW_S,
        least: int = LEAST_SAMPLES,
        meter: str = "",
    ) -> None:
        self.hold_share, self.settings = hold_share, settings
        self.window_s, self.least, self.meter = window_s, least, meter
        self.window = SpeedWindow(window_s)
        self.pct = 0.0
        self.captured = False
        self._since = self._last = 0.0

    def take_again(self) -> None:
        """Let the present setting be captured once more."""
        self.captured = False
        self.window.clear()

    def feed(self, sample: Sample) -> Captured | None:
        """What one more sample brings: nothing, or a capture."""
        if abs(sample.pct - self.pct) > SAME_SETTING_PCT or sample.t < self._last:
            self.pct, self._since, self.captured = setting_near(sample.pct, self.settings), sample.t, False
            self.window.clear()
        self._last = sample.t
        held = sample.t - self._since
        if self.pct == 0 or held < SETTLE_S:
            return None
        self.window.add(sample.t, sample)
        if self.captured or not self._is_full():
            return None
        if self._settled():
            return self._capture(steady=True)
        if held >= PATIENCE_S * min(1.0, self.hold_share + 0.25):
            return self._capture(steady=False)
        return None

    def _is_full(self) -> bool:
        watched = self.window.watched_s
        step = watched / max(1, len(self.window) - 1)
        return watched >= self.window_s - max(SLACK * self.window_s, step) and len(self.window) >= self.least

    def _settled(self) -> bool:
        wander = self.window.wander
        return self.window.mean_rpm > 0 and self.window.drift < max(MOST_DRIFT, wander / 4) and wander < MOST_WANDER

    def _capture(self, steady: bool) -> Captured:
        self.captured = True
        taken = self.window.samples
        speeds = [s.rpm for s in taken]
        warm = [s.motor_c for s in taken if s.motor_c is not None]
        loud = [s.sound_db for s in taken if s.sound_db is not None]
        return Captured(
            self.pct,
            median(s.volts for s in taken),
            median(s.amps for s in taken),
            median(speeds),
            4 * pstdev(speeds),
            warm[-1] if warm else None,
            median(loud) if loud else None,
            len(taken),
            steady,
            self.meter,
        )


def setting_near(pct: float, settings: Sequence[float]) -> float:
    """The setting of an instrument that a throttle it reports stands for, the throttle itself where none is near.

    >>> setting_near(99.9, (15, 100)), setting_near(0.2, (15, 100)), setting_near(42.0, (15, 100))
    (100, 0.0, 42.0)
    """
    return next((s for s in (*settings, 0.0) if abs(s - pct) <= SAME_SETTING_PCT), pct)
