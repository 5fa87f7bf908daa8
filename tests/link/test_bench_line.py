"""The bench line: any line is read without failing, captures are the same in a replay, the instrument behaves."""

import asyncio
import json
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from waldhorn.core.errors import Refused
from waldhorn.core.history import Motor as Facts
from waldhorn.link import lines
from waldhorn.link.bench_check import hold, swept
from waldhorn.link.breaking import broken
from waldhorn.link.capture import Alarm, Captured, Watch
from waldhorn.link.clamped import instrument_for, simulated
from waldhorn.link.client import SerialPort, messages, open_port
from waldhorn.link.instrument import RATE_HZ, Bench, Instrument, open_pseudo_terminal
from waldhorn.link.lines import Hello, Sample, Sweep, Trouble, Unread
from waldhorn.link.motor_model import Build, Motor
from waldhorn.pit.live import LiveRun, replay

BUILD = Build(3430, 0.016, 7.4, 2.25, 4, 12, timing_deg=28, detent_nmm=18.4, noise_db=81)
PLAIN = st.none() | st.booleans() | st.floats() | st.integers() | st.text(max_size=8)
JSON = PLAIN | st.lists(PLAIN, max_size=3) | st.dictionaries(st.sampled_from("abc"), PLAIN, max_size=3)


def apart(scene):
    """Run a scene in a loop of its own: the browser tests may hold one in this thread."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(lambda: asyncio.run(scene())).result()


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


class TestReading:
    @given(st.binary(max_size=200))
    def test_any_bytes_are_read(self, line):
        assert isinstance(lines.read(line), Unread | Hello | Sample | Sweep | Trouble)

    @settings(suppress_health_check=[HealthCheck.too_slow])
    @given(st.dictionaries(st.sampled_from(["t", "step", "v", "a", "rpm", "hall", "c", "db", "timing", "error",
                                            "hello", "version", "x"]), JSON))  # fmt: skip
    def test_any_object_is_read_and_no_sample_holds_nonsense(self, told):
        found = lines.read(json.dumps(told).encode())
        if isinstance(found, Sample):
            assert 0 <= found.step <= 8
            assert found.rpm == found.rpm

    @given(st.text(max_size=40), st.integers(0, 60))
    def test_half_a_line_is_unread(self, detail, cut):
        whole = lines.write(t=1.0, step=3, v=7.4, a=2.0, rpm=12000, hall="101", c=30.0, note=detail)
        if cut < len(whole) - 2:
            assert isinstance(lines.read(whole[:cut]), Unread)

    def test_a_huge_line_is_unread_and_says_why(self):
        found = lines.read(b'{"t": 1' + b" " * 10_000 + b"}")
        assert isinstance(found, Unread)
        assert "4096" in found.why

    @pytest.mark.parametrize("rpm", ["NaN", "Infinity", "1e999", '"12"', "true", "-1"])
    def test_a_speed_that_cannot_be_is_unread(self, rpm):
        assert isinstance(lines.read(f'{{"t": 1, "step": 1, "v": 1, "a": 1, "rpm": {rpm}}}'.encode()), Unread)


class TestCapture:
    def test_a_settled_step_is_captured_once(self):
        recorded = stream(Instrument(Motor(BUILD), 3), (5, lines.write(cmd="throttle", step=4)), ticks=120)
        found = replay(recorded)
        assert [c.step for c in found] == [4]
        assert found[0].steady
        assert found[0].rpm == pytest.approx(Motor(BUILD).spin(found[0].volts, 22).rpm, rel=0.002)
        assert found[0].samples >= 20

    def test_a_replay_gives_the_same_readings_to_the_last_digit(self):
        commands = [(5, lines.write(cmd="throttle", step=1)), (90, lines.write(cmd="throttle", step=8)),
                    (180, lines.write(cmd="sweep_timing"))]  # fmt: skip
        recorded = stream(Instrument(Motor(BUILD), 7), *commands, ticks=300)
        assert replay(recorded) == replay(recorded)
        assert recorded == stream(Instrument(Motor(BUILD), 7), *commands, ticks=300)
        assert [type(f) for f in replay(recorded)] == [Captured, Captured, Sweep]

    @pytest.mark.parametrize(
        ("kind", "samples"),
        [
            ("current", [Sample(i / 20, 8, 7.4, 30.0, 25_000) for i in range(40)]),
            ("heat", [Sample(i / 20, 8, 7.4, 2.0, 25_000, "", 81.0) for i in range(40)]),
            ("erratic", [Sample(i / 20, 1, 0.9, 1.0, 3000 + 600 * (i % 2)) for i in range(60)]),
            ("hold", [Sample(i / 20, 8, 7.4, 2.0, 25_000) for i in range(260)]),
        ],
    )
    def test_guards(self, kind, samples):
        watch = Watch(20.0)
        found = [f for f in map(watch.feed, samples) if isinstance(f, Alarm)]
        assert found
        assert found[0].kind == kind

    def test_a_doubt_halves_the_hold(self):
        watch = Watch(20.0, hold_share=0.5)
        alarms = [s.t for s in (Sample(i / 20, 8, 7.4, 2.0, 25_000) for i in range(260))
                  if isinstance(watch.feed(s), Alarm)]  # fmt: skip
        assert 5.0 <= alarms[0] <= 5.2

    def test_taken_again_it_is_captured_again(self):
        watch = Watch(20.0)
        taken = 0
        for i in range(180):
            if isinstance(watch.feed(Sample(i / 20, 4, 3.7, 1.5, 12_000 + i % 3)), Captured):
                taken += 1
                watch.take_again()
        assert taken >= 2


class TestInstrument:
    def test_it_stops_by_itself_when_nobody_speaks_to_it(self):
        bench = Instrument(Motor(BUILD), 1)
        bench.obey(lines.write(cmd="throttle", step=8))
        steps = [lines.read(bench.tick()[0]).step for _ in range(60)]
        assert steps[30] == 8
        assert steps[-1] == 0

    def test_a_wrong_pole_setting_shows_a_wrong_speed(self):
        right, wrong = Instrument(Motor(BUILD), 1), Instrument(Motor(BUILD), 1)
        wrong.obey(lines.write(cmd="poles", value=2))
        speeds = [hold(b, 8).rpm for b in (right, wrong)]
        assert speeds[1] == pytest.approx(2 * speeds[0], rel=0.002)

    def test_swapped_phases_are_reported_and_stop_the_sweep(self):
        bench = Instrument(Motor(BUILD), 1, swapped="BC")
        recorded = stream(bench, (1, lines.write(cmd="sweep_timing")), ticks=80)
        trouble = [m for m in map(lines.read, recorded.splitlines()) if isinstance(m, Trouble)]
        assert [t.detail for t in trouble] == ["B and C swapped"]
        assert swept(bench) is None

    @given(st.binary(max_size=120))
    def test_it_takes_any_line_of_a_host(self, line):
        Instrument(Motor(BUILD), 1).obey(line)

    def test_a_worn_bearing_is_louder_draws_more_and_wanders(self):
        sound = hold(Instrument(Motor(BUILD), 1), 8)
        worn = hold(Instrument(Motor(BUILD, broken("worn_bearing", 1.3)), 1), 8)
        assert worn.amps > 1.3 * sound.amps
        assert worn.sound_db > sound.sound_db + 5
        assert worn.rpm_p2p > 4 * sound.rpm_p2p

    def test_motors_are_made_from_a_seed_or_from_facts(self):
        assert simulated(5).motor == simulated(5).motor != simulated(6).motor
        assert instrument_for(Facts("X", label_kv=900, kind="outrunner", sensored=False), 1).motor.build.kv == 900
        assert instrument_for(Facts("PB-2"), 1).motor.condition.roughness > 1
        with pytest.raises(Refused):
            simulated(1, "gremlins")


def test_over_tcp_a_live_run_captures_and_survives_the_instrument_going_away():
    taken, recorded = [], []

    async def scene() -> None:
        bench = Bench(Instrument(Motor(BUILD), 2), speed=20)
        port = await bench.start()
        run = LiveRun(lambda found: taken.append(found) or "taken", poles=4)
        watching = run.subscribe()
        await run.connect(f"127.0.0.1:{port}")
        await until(lambda: run.state.connected)
        run.go_to(8)
        await until(lambda: taken)
        assert not watching.empty()
        await bench.stop()
        await run._port.close()
        await until(lambda: not run.state.connected)
        assert "gone" in run.state.words
        assert run.state.step == 0
        await run.close()
        recorded.append(b"".join(run.recording))

    apart(scene)
    assert replay(recorded[0])[: len(taken)] == taken


def test_with_nobody_watching_the_motor_is_stopped(monkeypatch):
    monkeypatch.setattr("waldhorn.pit.live.ALONE_S", 0.2)
    monkeypatch.setattr("waldhorn.pit.live.AWAKE_S", 0.1)

    async def scene() -> Instrument:
        instrument = Instrument(Motor(BUILD), 2)
        bench = Bench(instrument)
        run = LiveRun(lambda found: "")
        await run.connect(f"127.0.0.1:{await bench.start()}")
        await until(lambda: run.state.connected)
        run.go_to(4)
        await until(lambda: instrument.spinning.step == 4)
        await until(lambda: instrument.spinning.step == 0)
        assert "Nobody was watching" in run.state.words
        await run.close()
        await bench.stop()
        return instrument

    apart(scene)


def test_an_instrument_that_stalls_is_told_to_stop_and_it_is_said():
    told, gone = [], asyncio.Event()

    async def stalling(reader, writer):
        writer.write(Instrument(Motor(BUILD), 1).hello())
        writer.write(lines.write(t=0.1, step=4, v=3.7, a=1.0, rpm=12000) + b"half a li")
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
        run.go_to(4)
        await until(lambda: "fallen silent" in run.state.words)
        assert run.state.step == 0
        await until(lambda: "stop" in told)
        run.unsubscribe(watching)
        await run.close()
        await gone.wait()
        server.close()

    apart(scene)


def test_behind_a_serial_port_it_is_the_same_instrument():
    async def scene() -> list[lines.Message]:
        name, terminal = open_pseudo_terminal(Instrument(Motor(BUILD), 2))
        port = SerialPort(name)
        port.send(lines.write(cmd="throttle", step=1))
        heard: list[lines.Message] = []

        async def listen() -> None:
            async for message in messages(port):
                heard.append(message)

        listening = asyncio.create_task(listen())
        for _ in range(30):
            terminal.tick()
            await asyncio.sleep(0.01)
        terminal.close()
        await asyncio.wait_for(listening, 5)
        await port.close()
        return heard

    heard = apart(scene)
    assert {m.step for m in heard if isinstance(m, Sample)} >= {1}


@pytest.mark.parametrize(
    ("where", "words"),
    [("10.0.0.7:8701", "another machine"), ("nowhere", "no instrument"), ("127.0.0.1:1", "nothing answers"),
     ("/dev/none", "cannot be opened"), ("127.0.0.1:99999", "no instrument")],
)  # fmt: skip
def test_what_is_no_instrument_is_said(where, words):
    with pytest.raises(Refused, match=words):
        apart(lambda: open_port(where))


async def until(true, seconds: float = 8.0) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not come to pass"
        await asyncio.sleep(0.01)
