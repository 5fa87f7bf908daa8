"""The bench line: any line is read without failing, captures are the same in a replay, the instrument behaves."""

import asyncio
import contextlib
import json
import random
import threading
import time

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loops import in_a_loop
from terminals import open_pseudo_terminal
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor as Facts
from waldhorn.instruments import line_protocol
from waldhorn.instruments.capture import Captured, CoastDownRecorder, RanOut, SettleDetector
from waldhorn.instruments.line_protocol import Hello, Sample, Sweep, Trouble, Unread
from waldhorn.instruments.ports import Gone, SerialPort, heard_lines, open_port
from waldhorn.instruments.replay import replay
from waldhorn.instruments.safety_envelope import SafetyEnvelope
from waldhorn.pit.bench.live import BACKLOG, Backlog, LiveRun
from waldhorn.simulator.analyser import RATE_HZ, BenchServer, Instrument
from waldhorn.simulator.bench_check import hold, swept
from waldhorn.simulator.clamped import instrument_for, simulated
from waldhorn.simulator.fault_injection import broken
from waldhorn.simulator.motor_model import Build, MotorModel

BUILD = Build(3430, 0.016, 7.4, 2.25, 4, 12, timing_deg=28, detent_nmm=18.4, noise_db=81)
PLAIN = st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=8)
JSON = PLAIN | st.lists(PLAIN, max_size=3) | st.dictionaries(st.sampled_from("abc"), PLAIN, max_size=3)


def stream(instrument: Instrument, *commands: tuple[int, bytes], ticks: int) -> bytes:
    heard = [instrument.hello()]
    due = dict(commands)
    for tick in range(ticks):
        if tick in due:
            instrument.obey(due[tick])
        if tick % RATE_HZ == 0:
            instrument.silent_s = 0.0
        heard += instrument.tick()
    return b"".join(heard)


def spun_up(bench: Instrument) -> Captured:
    hold(bench, 15)
    return hold(bench, 100)


class TestReading:
    @given(st.binary(max_size=200))
    def test_any_bytes_are_read(self, line):
        assert isinstance(line_protocol.read(line), Unread | Hello | Sample | Sweep | Trouble)

    @given(
        st.dictionaries(
            st.sampled_from(
                ["t", "pct", "v", "a", "rpm", "hall", "c", "db", "timing", "error", "hello", "version", "x"]
            ),
            JSON,
        )
    )
    def test_any_object_is_read_and_no_sample_holds_nonsense(self, told):
        found = line_protocol.read(json.dumps(told).encode())
        if isinstance(found, Sample):
            assert 0 <= found.pct <= 100
            assert found.rpm == found.rpm

    @given(st.text(max_size=40), st.integers(0, 60))
    def test_half_a_line_is_unread(self, detail, cut):
        whole = line_protocol.write(t=1.0, pct=30, v=7.4, a=2.0, rpm=12000, hall="101", c=30.0, note=detail)
        if cut < len(whole) - 2:
            assert isinstance(line_protocol.read(whole[:cut]), Unread)

    def test_a_huge_line_is_unread_and_says_why(self):
        found = line_protocol.read(b'{"t": 1' + b" " * 10_000 + b"}")
        assert isinstance(found, Unread)
        assert "4096" in found.why

    @pytest.mark.parametrize("rpm", ["NaN", "Infinity", "1e999", '"12"', "true", "-1"])
    def test_a_speed_that_cannot_be_is_unread(self, rpm):
        assert isinstance(line_protocol.read(f'{{"t": 1, "pct": 15, "v": 1, "a": 1, "rpm": {rpm}}}'.encode()), Unread)


class TestCapture:
    def test_a_settled_setting_is_captured_once(self):
        recorded = stream(
            Instrument(MotorModel(BUILD), 3),
            (5, line_protocol.write(cmd="throttle", pct=15)),
            (75, line_protocol.write(cmd="throttle", pct=50)),
            ticks=190,
        )
        found = replay(recorded)
        assert [c.pct for c in found] == [15, 50]
        assert found[1].steady
        assert found[1].rpm == pytest.approx(MotorModel(BUILD).spin(found[1].volts, 22).rpm, rel=0.002)
        assert found[1].samples >= 20

    def test_a_replay_gives_the_same_readings_to_the_last_digit(self):
        commands = [
            (5, line_protocol.write(cmd="throttle", pct=15)),
            (90, line_protocol.write(cmd="throttle", pct=100)),
            (180, line_protocol.write(cmd="sweep_timing")),
        ]
        recorded = stream(Instrument(MotorModel(BUILD), 7), *commands, ticks=300)
        assert replay(recorded) == replay(recorded)
        assert recorded == stream(Instrument(MotorModel(BUILD), 7), *commands, ticks=300)
        assert [type(f) for f in replay(recorded)] == [Captured, Captured, Sweep]

    def test_taken_again_it_is_captured_again(self):
        detector = SettleDetector()
        taken = 0
        for i in range(180):
            if isinstance(detector.feed(Sample(i / 20, 50, 3.7, 1.5, 12_000 + i % 3)), Captured):
                taken += 1
                detector.take_again()
        assert taken >= 2


class TestInstrument:
    def test_it_stops_by_itself_when_nobody_speaks_to_it(self):
        bench = Instrument(MotorModel(BUILD), 1)
        bench.obey(line_protocol.write(cmd="throttle", pct=15))
        settings = [line_protocol.read(bench.tick()[0]).pct for _ in range(60)]
        assert settings[30] == 15
        assert settings[-1] == 0

    def test_from_standstill_it_starts_only_at_its_lowest_setting(self):
        bench = Instrument(MotorModel(BUILD), 1)
        seen = []
        for _ in range(2):
            bench.obey(line_protocol.write(cmd="throttle", pct=100))
            seen += [line_protocol.read(bench.tick()[0]).pct for _ in range(20)]
        assert (seen[0], seen[19], seen[20]) == (15, 15, 100)

    def test_let_go_it_coasts_down(self):
        bench = Instrument(MotorModel(BUILD), 1)
        hold(bench, 15)
        bench.obey(line_protocol.write(cmd="release"))
        coasting = [line_protocol.read(bench.tick()[0]) for _ in range(20)]
        assert {s.pct for s in coasting} == {0}
        assert coasting[-1].rpm < coasting[0].rpm / 2

    def test_a_wrong_pole_setting_shows_a_wrong_speed(self):
        right, wrong = Instrument(MotorModel(BUILD), 1), Instrument(MotorModel(BUILD), 1)
        wrong.obey(line_protocol.write(cmd="poles", value=2))
        speeds = [spun_up(b).rpm for b in (right, wrong)]
        assert speeds[1] == pytest.approx(2 * speeds[0], rel=0.002)

    def test_swapped_phases_are_reported_and_stop_the_sweep(self):
        bench = Instrument(MotorModel(BUILD), 1, swapped="BC")
        recorded = stream(bench, (1, line_protocol.write(cmd="sweep_timing")), ticks=80)
        trouble = [m for m in map(line_protocol.read, recorded.splitlines()) if isinstance(m, Trouble)]
        assert [t.detail for t in trouble] == ["B and C swapped"]
        assert swept(bench) is None

    @given(st.binary(max_size=120))
    def test_it_takes_any_line_of_a_host(self, line):
        Instrument(MotorModel(BUILD), 1).obey(line)

    def test_a_worn_bearing_is_louder_draws_more_and_wanders(self):
        sound = spun_up(Instrument(MotorModel(BUILD), 1))
        worn = spun_up(Instrument(MotorModel(BUILD, broken("worn_bearing", 1.3)), 1))
        assert worn.amps > 1.3 * sound.amps
        assert worn.sound_db > sound.sound_db + 5
        assert worn.rpm_p2p > 4 * sound.rpm_p2p

    def test_motors_are_made_from_a_seed_or_from_facts(self):
        assert simulated(5).motor == simulated(5).motor != simulated(6).motor
        assert instrument_for(Facts("X", label_kv=900, kind="outrunner", sensored=False), 1).motor.build.kv == 900
        assert instrument_for(Facts("PB-2"), 1).motor.condition.roughness > 1
        with pytest.raises(InputError):
            simulated(1, "gremlins")


def test_over_tcp_a_live_run_captures_and_survives_the_instrument_going_away():
    taken, recorded = [], []

    async def scene() -> None:
        bench = BenchServer(Instrument(MotorModel(BUILD), 2), speed=20)
        port = await bench.start()
        run = LiveRun(lambda found: taken.append(found) or "taken", SafetyEnvelope(poles=4))
        watching = run.subscribe()
        await run.connect(f"127.0.0.1:{port}")
        await until(lambda: run.state.connected)
        run.go_to(15)
        await until(lambda: taken)
        run.go_to(100)
        await until(lambda: len(taken) > 1)
        assert not watching.empty()
        await bench.stop()
        await until(lambda: not run.state.connected)
        assert "gone" in run.state.words
        assert run.state.pct == 0
        await run.finish()
        recorded.append(b"".join(run.recording))

    in_a_loop(scene())
    assert replay(recorded[0])[: len(taken)] == taken


def test_a_browser_that_cannot_keep_up_loses_samples_and_never_what_was_said():
    watching = Backlog()
    said = [{"kind": "state", "words": "Let go."}, {"kind": "took", "words": "It stood."}]
    for event in (*said, *({"kind": "sample", "t": t} for t in range(BACKLOG + 50))):
        watching.put_nowait(event)
    had = [watching.get_nowait() for _ in range(watching.qsize())]
    assert had[:2] == said
    assert [e["t"] for e in had[2:]] == list(range(52, BACKLOG + 50))


class TestSafety:
    """What a live run refuses, whatever is known of the motor."""

    def connected(self, scene, envelope=None):
        async def whole() -> None:
            instrument = Instrument(MotorModel(BUILD), 2)
            bench = BenchServer(instrument)
            run = LiveRun(lambda found: "", envelope or SafetyEnvelope())
            watching = run.subscribe()
            await run.connect(f"127.0.0.1:{await bench.start()}")
            try:
                await scene(run, instrument)
            finally:
                run.unsubscribe(watching)
                await run.finish()
                assert [t for t in asyncio.all_tasks() if "LiveRun" in repr(t)] == []
                assert [t for t in threading.enumerate() if t.name.startswith("waldhorn")] == []
                await bench.stop()

        in_a_loop(whole())

    def test_from_standstill_only_the_lowest_setting_is_given(self):
        async def scene(run, instrument) -> None:
            with pytest.raises(InputError, match="lowest setting, 15 %"):
                run.go_to(50)
            with pytest.raises(InputError, match="no setting of this instrument"):
                run.go_to(42)
            run.go_to(15)
            run.go_to(50)
            await until(lambda: instrument.spinning.pct == 50)

        self.connected(scene)

    @pytest.mark.parametrize(("poles", "set_to"), [(None, BUILD.poles), (8, 8)])
    def test_keeping_awake_changes_nothing_of_the_instrument(self, monkeypatch, poles, set_to):
        monkeypatch.setattr("waldhorn.pit.bench.live.AWAKE_S", 0.05)

        async def scene(run, instrument) -> None:
            run.sweep()
            await until(lambda: instrument.sweeping_s is not None)
            await asyncio.sleep(0.3)
            assert instrument.poles_set == set_to

        self.connected(scene, SafetyEnvelope(poles=poles))

    def test_a_doubtful_bearing_halves_the_hold_also_when_the_poles_are_unknown(self):
        async def scene(run, instrument) -> None:
            assert (run.control.guards.envelope.hold_share, run.control.guards.envelope.max_a) == (0.5, 20)

        self.connected(scene, SafetyEnvelope(hold_share=0.5, poles=None))


def test_with_nobody_watching_the_motor_is_stopped(monkeypatch):
    monkeypatch.setattr("waldhorn.instruments.run_control.ALONE_S", 0.2)
    monkeypatch.setattr("waldhorn.pit.bench.live.AWAKE_S", 0.1)

    async def scene() -> Instrument:
        instrument = Instrument(MotorModel(BUILD), 2)
        bench = BenchServer(instrument)
        run = LiveRun(lambda found: "")
        await run.connect(f"127.0.0.1:{await bench.start()}")
        await until(lambda: run.state.connected)
        run.go_to(15)
        await until(lambda: instrument.spinning.pct == 15)
        await until(lambda: instrument.spinning.pct == 0)
        assert "Nobody was watching" in run.state.words
        await run.finish()
        await bench.stop()
        return instrument

    in_a_loop(scene())


def test_an_instrument_that_stalls_is_told_to_stop_and_it_is_said():
    told, gone = [], asyncio.Event()

    async def stalling(reader, writer):
        writer.write(Instrument(MotorModel(BUILD), 1).hello())
        writer.write(line_protocol.write(t=0.1, pct=15, v=3.7, a=1.0, rpm=12000) + b"half a li")
        while line := await reader.readline():
            told.append(json.loads(line)["cmd"])
        writer.close()
        await writer.wait_closed()
        gone.set()

    async def scene() -> None:
        server = await asyncio.start_server(stalling, "127.0.0.1", 0)
        run = LiveRun(lambda found: "")
        watching = run.subscribe()
        await run.connect(f"127.0.0.1:{server.sockets[0].getsockname()[1]}")
        await until(lambda: run.state.connected)
        run.go_to(15)
        await until(lambda: "fallen silent" in run.state.words)
        assert run.state.pct == 0
        await until(lambda: "stop" in told)
        run.unsubscribe(watching)
        await run.finish()
        await gone.wait()
        server.close()

    in_a_loop(scene())


def test_behind_a_serial_port_it_is_the_same_instrument():
    async def scene() -> list[line_protocol.Message]:
        name, terminal = open_pseudo_terminal(Instrument(MotorModel(BUILD), 2))
        port = SerialPort(name)
        port.send(line_protocol.write(cmd="throttle", pct=15))
        heard: list[line_protocol.Message] = []

        def listen() -> None:
            with contextlib.suppress(Gone):
                heard.extend(line_protocol.read(line) for line in heard_lines(port) if line)

        listening = asyncio.create_task(asyncio.to_thread(listen))
        for _ in range(30):
            terminal.tick()
            await asyncio.sleep(0.01)
        terminal.close()
        await asyncio.wait_for(listening, 5)
        await asyncio.to_thread(port.close)
        return heard

    heard = in_a_loop(scene())
    assert {m.pct for m in heard if isinstance(m, Sample)} >= {15}


@pytest.mark.parametrize(
    ("where", "words"),
    [
        ("10.0.0.7:8701", "another machine"),
        ("nowhere", "no instrument"),
        ("127.0.0.1:1", "nothing answers"),
        ("/dev/none", "cannot be opened"),
        ("127.0.0.1:99999", "no instrument"),
    ],
)
def test_what_is_no_instrument_is_said(where, words):
    with pytest.raises(InputError, match=words):
        open_port(where)


async def until(true, seconds: float = 8.0) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not come to pass"
        await asyncio.sleep(0.01)


@pytest.mark.parametrize("rate_hz", [20, 40])
def test_how_far_it_wanders_does_not_depend_on_how_often_it_is_read(rate_hz):
    chance = random.Random(3)
    samples = [Sample(i / rate_hz, 15.0, 1.1, 0.8, 3700 + chance.gauss(0, 10)) for i in range(4 * rate_hz)]
    [found] = [f for f in map(SettleDetector().feed, samples) if isinstance(f, Captured)]
    assert found.rpm_p2p == pytest.approx(40, rel=0.3)  # four standard deviations, not the range of 41 or 81 samples


class TestLettingGo:
    def test_it_says_a_hundred_lines_a_second_for_three_seconds_and_runs_out(self):
        bench = Instrument(MotorModel(BUILD), 1)
        spun_up(bench)
        bench.obey(line_protocol.write(cmd="release"))
        recorder, counts, found = CoastDownRecorder(), [], None
        for _ in range(70):
            bench.silent_s = 0.0
            said = [line_protocol.read(line) for line in bench.tick()]
            counts.append(len(said))
            for sample in said:
                found = found or recorder.feed(sample)
        assert counts == [5] * 60 + [1] * 10
        assert isinstance(found, RanOut)
        assert 1.0 < found.trace[-1][0] - found.trace[0][0] < 2.5
        speeds = [rpm for _, rpm in found.trace]
        assert speeds[0] > 24_000
        assert speeds == sorted(speeds, reverse=True)

    def test_stopped_it_brakes_and_is_no_run_out(self):
        coasting, stopped = (Instrument(MotorModel(BUILD), 1) for _ in range(2))
        for bench, command in ((coasting, "release"), (stopped, "stop")):
            spun_up(bench)
            bench.obey(line_protocol.write(cmd=command))
            for _ in range(8):
                bench.tick()
        assert stopped.spinning.rpm < 1000 < coasting.spinning.rpm

    def test_a_motor_that_never_stands_is_given_up_on(self):
        recorder = CoastDownRecorder()
        told = [Sample(t / 2, 0, 0, 0, 9000) for t in range(70)]
        assert next(found for s in told if (found := recorder.feed(s))).trace[-1][0] == 30.0


def test_an_instrument_that_reads_the_supply_shows_fewer_amps_at_part_throttle_and_says_so():
    motors, supplys = (Instrument(MotorModel(BUILD), 1, current=whose) for whose in ("motor", "supply"))
    assert [line_protocol.read(bench.hello()).current for bench in (motors, supplys)] == ["motor", "supply"]
    low, of_supply = hold(motors, 15), hold(supplys, 15)
    assert of_supply.amps == pytest.approx(0.15 * low.amps, rel=0.05)
    assert hold(supplys, 100).amps == pytest.approx(hold(motors, 100).amps, rel=0.02)


@pytest.mark.parametrize(("current", "told"), [("motor", "motor"), ("supply", "supply"), ("both", ""), (None, "")])
def test_whose_amps_an_instrument_reads_is_known_only_where_it_says_so(current, told):
    said = {} if current is None else {"current": current}
    assert (
        line_protocol.read(line_protocol.write(hello="waldhorn-bench", version=line_protocol.VERSION, **said)).current
        == told
    )
