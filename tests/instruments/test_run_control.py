"""The state machine of a live run under a hostile instrument: any order of anything, on a clock that is handed in."""

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import GuardKind
from waldhorn.instruments.capture import Captured
from waldhorn.instruments.guards import FULL_HOLD_S, PART_HOLD_S, Tripped
from waldhorn.instruments.line_protocol import Hello, Sample, Sweep, Trouble, Unread
from waldhorn.instruments.run_control import SILENT_S, Phase, RunControl
from waldhorn.instruments.safety_envelope import SafetyEnvelope

HELLO = Hello("bench", True, 8.4, 5.0)
TICK_S = 0.5


class Bench:
    """A control with its clock, and what it has been told to send."""

    def __init__(self) -> None:
        self.now = 0.0
        self.control = RunControl(SafetyEnvelope(), None, self.now)
        self.sent = []
        self.control.heard(HELLO, self.now)

    def run(self, seconds, say, rate_hz=20, watched=True):
        """Let the time pass while the instrument says one thing after the other."""
        for i in range(round(seconds * rate_hz)):
            self.now += 1 / rate_hz
            if message := say(self.now):
                self.control.heard(message, self.now)
            if i % round(TICK_S * rate_hz) == 0:
                self.control.tick(self.now, 0.0 if watched else self.now)
            self.sent += [c["cmd"] for c in self.control.commands]
            self.control.commands.clear()

    @property
    def phase(self):
        return self.control.state.phase


@pytest.fixture
def bench():
    return Bench()


def fast(now, **told):
    return Sample(**({"t": now, "pct": 15.0, "volts": 7.4, "amps": 2.0, "rpm": 3700.0} | told))


def at_rest(now):
    return Sample(now, 0.0, 8.0, 0.0, 0.0)


def test_from_idle_over_running_and_stopping_to_gone(bench):
    assert bench.phase is Phase.CONNECTED
    bench.control.go_to(15, bench.now)
    assert bench.phase is Phase.RUNNING
    bench.run(4, fast)
    assert [type(f) for f in bench.control.found] == [Captured]
    bench.control.stop(bench.now)
    assert bench.phase is Phase.STOPPING
    bench.run(1, lambda now: fast(now, pct=0.0, rpm=900.0))
    assert bench.phase is Phase.STOPPING
    bench.run(1, at_rest)
    assert bench.phase is Phase.CONNECTED
    bench.control.lost("", bench.now)
    assert bench.phase is Phase.GONE
    assert not bench.control.state.connected


def test_a_tripped_guard_is_one_finding_and_the_motor_is_told_to_stop_until_it_stands(bench):
    bench.control.go_to(15, bench.now)
    bench.run(60, lambda now: fast(now, pct=99.9 if round(20 * now) % 2 else 100.0, amps=50.0))
    trips = [f for f in bench.control.found if isinstance(f, Tripped)]
    assert [t.kind for t in trips] == [GuardKind.CURRENT]
    assert bench.phase is Phase.STOPPING
    assert bench.sent.count("stop") > 100
    with pytest.raises(InputError, match="wait until it is known to stand"):
        bench.control.go_to(15, bench.now)
    bench.run(1, at_rest)
    bench.control.go_to(15, bench.now)
    assert bench.phase is Phase.RUNNING


NOISE = (
    lambda now: Unread("no JSON", "garbage"),
    lambda now: Sample(5.0, 15.0, 7.4, 2.0, 3700.0),
    lambda now: HELLO,
    lambda now: Sweep(1.0, 2.0, 3.0),
    lambda now: None,
)


@pytest.mark.parametrize("say", NOISE, ids=["garbage", "one sample for ever", "greetings", "sweeps", "nothing"])
def test_only_good_samples_are_life(bench, say):
    bench.control.go_to(15, bench.now)
    bench.run(0.5, fast)
    bench.run(SILENT_S + 2 * TICK_S, say)
    assert bench.phase is Phase.STOPPING
    assert "stop" in bench.sent
    assert not any(isinstance(f, Sweep) for f in bench.control.found)


def test_an_error_of_the_instrument_stops_the_motor_once(bench):
    bench.control.go_to(15, bench.now)
    bench.run(10, lambda now: fast(now) if now < 1 else Trouble("phase", "B and C swapped"))
    assert bench.control.found == [Trouble("phase", "B and C swapped")]
    assert "stop" in bench.sent
    assert bench.phase is Phase.STOPPING


def test_what_turns_hot_though_nothing_is_commanded_is_stopped(bench):
    bench.run(5, lambda now: fast(now, pct=0.0, motor_c=200.0))
    assert [f.kind for f in bench.control.found] == [GuardKind.HEAT]
    assert bench.phase is Phase.STOPPING
    assert "stop" in bench.sent


def test_a_sweep_is_taken_once_and_only_when_it_was_asked_for(bench):
    swept = Sweep(27.0, 28.0, 28.5)
    bench.control.heard(swept, bench.now)
    bench.control.sweep(bench.now)
    bench.run(1, fast)
    bench.control.heard(swept, bench.now)
    bench.control.heard(swept, bench.now)
    assert bench.control.found == [swept]


def test_a_lost_instrument_says_why(bench):
    bench.control.lost("ValueError: torn", bench.now)
    assert "gone" in bench.control.state.words
    assert "torn" in bench.control.state.words
    bench.control.heard(fast(1.0), 1.0)
    assert bench.phase is Phase.GONE


class HostileInstrument(RuleBasedStateMachine):
    """An instrument that says anything, a person who presses anything. What must hold whatever comes."""

    def __init__(self) -> None:
        super().__init__()
        self.now, self.started, self.setting, self.commanded_at = 0.0, 0, 0.0, 0.0
        self.control = RunControl(SafetyEnvelope(rated_rpm=30_000), None, 0.0)
        self.good_at = 0.0

    def step(self, seconds: float) -> None:
        """Time passes, and the host wakes at its own pace meanwhile."""
        end = self.now + seconds
        while self.now < end:
            self.now = min(end, self.now + TICK_S)
            self.control.tick(self.now, 0.0)

    @rule(seconds=st.floats(0.0, 3.0))
    def wait(self, seconds):
        self.step(seconds)

    @rule(
        t=st.floats(-10, 1e6),
        pct=st.sampled_from([0.0, 15.0, 99.9, 100.0]),
        amps=st.sampled_from([0.0, 2.0, 60.0]),
        rpm=st.sampled_from([0.0, 50.0, 3700.0, 40_000.0]),
        c=st.sampled_from([None, 30.0, 200.0]),
        times=st.integers(1, 30),
    )
    def sample(self, t, pct, amps, rpm, c, times):
        for i in range(times):
            self.step(0.05)
            self.control.heard(Sample(t + i / 20, pct, 7.4, amps, rpm, "", c), self.now)
            self.good_at = self.now

    @rule(message=st.sampled_from([HELLO, Unread("no", ""), Trouble("phase", ""), Sweep(1, 2, 3)]))
    def other(self, message):
        self.control.heard(message, self.now)

    @rule(times=st.integers(1, 8))
    def stands(self, times):
        for _ in range(times):
            self.step(0.1)
            self.control.heard(Sample(self.now, 0.0, 8.0, 0.0, 0.0), self.now)
            self.good_at = self.now

    @rule(pct=st.sampled_from([0.0, 15.0, 30.0, 100.0]))
    def go(self, pct):
        standing, before = self.control.state.pct == 0, self.control.state.pct
        tripped = self.control.guards.tripped
        try:
            self.control.go_to(pct, self.now)
        except InputError:
            return
        assert not (pct and tripped), "a tripped guard let go"
        assert not (pct > 15 and standing), "it was hurried from standstill"
        if pct != before:
            self.started, self.commanded_at, self.setting = self.started + 1, self.now, pct

    @rule()
    def stop(self):
        self.control.stop(self.now)

    @precondition(lambda self: self.control.state.connected)
    @rule()
    def sweep(self):
        try:
            self.control.sweep(self.now)
            self.started, self.commanded_at, self.setting = self.started + 1, self.now, 0.0
        except InputError:
            pass

    @rule()
    def lose(self):
        self.control.lost("", self.now)

    @invariant()
    def the_phase_says_what_is_commanded(self):
        state = self.control.state
        assert (state.phase is Phase.RUNNING) == (state.pct > 0 or state.sweeping)
        assert state.connected == (state.phase in (Phase.CONNECTED, Phase.RUNNING, Phase.STOPPING))

    @invariant()
    def nothing_runs_unheard_or_too_long(self):
        if self.control.state.phase is Phase.RUNNING:
            alive = max(self.good_at, self.commanded_at)
            assert self.now - alive <= SILENT_S + 2 * TICK_S
            most = FULL_HOLD_S if self.setting >= 100 else PART_HOLD_S
            assert self.now - self.commanded_at <= most + 2 * TICK_S
            assert self.control.guards.tripped is None

    @invariant()
    def one_trip_is_one_finding(self):
        trips = [f for f in self.control.found if isinstance(f, Tripped)]
        assert len(trips) <= 2 * (self.started + 1) + 40

    @invariant()
    def a_stop_is_sent_after_every_trip(self):
        if self.control.guards.tripped:
            assert any(c["cmd"] == "stop" for c in self.control.commands)


TestHostileInstrument = HostileInstrument.TestCase
TestHostileInstrument.settings = settings(max_examples=60, stateful_step_count=40, deadline=None)
