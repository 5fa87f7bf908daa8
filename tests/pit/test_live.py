"""A live run's threads and queues: the store is not the instrument, and no end of one goes unsaid."""

import asyncio
import itertools
import threading
import time

import pytest

from loops import in_a_loop
from waldhorn.core.base.errors import StoreDown
from waldhorn.core.base.history import Motor
from waldhorn.instruments.capture import Captured
from waldhorn.instruments.line_protocol import LONGEST_LINE
from waldhorn.instruments.ports import Allowance, LineSplitter
from waldhorn.instruments.run_control import Phase
from waldhorn.instruments.safety_envelope import SafetyEnvelope
from waldhorn.pit.bench.live import LiveRun
from waldhorn.simulator.analyser import BenchServer
from waldhorn.simulator.clamped import simulated
from waldhorn.web.screens.live.hub import Hub


async def until(true, seconds=40.0):
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not come to pass"
        await asyncio.sleep(0.01)


def running(scene, take, speed=5.0):
    async def whole():
        bench = BenchServer(simulated(7), speed=speed)
        run = LiveRun(take, hurried=True)
        run.technician = run.subscribe()
        await run.connect(f"127.0.0.1:{await bench.start()}")
        try:
            await scene(run, bench)
        finally:
            await run.finish()
            await bench.stop()

    in_a_loop(whole())


def test_what_is_captured_waits_in_memory_until_the_store_is_back(monkeypatch):
    monkeypatch.setattr("waldhorn.pit.bench.live.AGAIN_S", 0.05)
    taken, down = [], [True]

    def take(heard):
        if down[0]:
            raise StoreDown("disk full")
        taken.append(heard)
        return "taken"

    async def scene(run, bench):
        run.go_to(15)
        await until(lambda: "not stored yet" in run.state.words)
        assert "disk full" in run.state.words
        run.go_to(30)
        await until(lambda: run.state.waiting == 2)
        assert run.state.phase is Phase.RUNNING  # a store that is down never reads as an instrument fallen silent
        down[0] = False
        await until(lambda: len(taken) == 2)
        assert [c.pct for c in taken] == [15, 30]
        assert run.state.waiting == 0

    running(scene, take)


def test_who_only_looks_does_not_keep_a_motor_running(monkeypatch):
    monkeypatch.setattr("waldhorn.instruments.run_control.ALONE_S", 0.3)

    async def scene(run, bench):
        run.subscribe(can_stop=False)
        run.go_to(15)
        await until(lambda: run.state.phase is Phase.RUNNING)
        run.unsubscribe(run.technician)
        assert run.listeners
        await until(lambda: run.state.phase is not Phase.RUNNING, 20)
        assert "watch" in run.state.words

    running(scene, lambda heard: "taken", speed=1.0)


def test_a_slow_store_keeps_nobody_from_stopping():
    stored = threading.Event()

    def take(heard):
        stored.wait(10)
        return "taken"

    async def scene(run, bench):
        run.go_to(15)
        await until(lambda: run.state.waiting)
        asked = time.monotonic()
        run.stop()
        await until(lambda: bench.instrument.spinning.pct == 0, 1.0)
        assert time.monotonic() - asked < 1.0
        stored.set()

    running(scene, take)


def test_a_stop_while_the_store_is_slow_stays_said():
    stored = threading.Event()

    def take(heard):
        stored.wait(10)
        return "taken"

    async def scene(run, bench):
        run.go_to(15)
        await until(lambda: run.state.waiting)
        run.stop()
        stored.set()
        await until(lambda: not run.state.waiting)
        assert run.state.words == "taken Stopped."

    running(scene, take)


def test_what_cannot_be_stored_at_all_does_not_hold_up_the_next():
    taken = []

    def take(heard):
        taken.append(heard)
        if len(taken) == 1:
            raise KeyError("no such thing")
        return "taken"

    async def scene(run, bench):
        run.go_to(15)
        await until(lambda: "could not be stored: KeyError" in run.state.words)
        run.go_to(30)
        await until(lambda: len(taken) == 2)

    running(scene, take)


def test_a_listener_that_dies_says_why_and_closes_its_port(monkeypatch):
    async def scene(run, bench):
        def broken(message, now):
            raise RuntimeError("a hole in the boat")

        monkeypatch.setattr(run.control, "heard", broken)
        await until(lambda: run.state.phase is Phase.GONE)
        assert "a hole in the boat" in run.state.words
        await until(lambda: not bench.has_host)
        assert not any(t.name == "waldhorn-listen" for t in threading.enumerate())

    running(scene, lambda heard: "")


def test_a_double_click_on_connect_makes_one_run_and_what_is_over_is_forgotten(monkeypatch):
    monkeypatch.setattr("waldhorn.web.screens.live.hub.KEPT_S", 0.0)

    async def scene():
        hub = Hub()
        motor = Motor("X", label_kv=3400, poles=4)
        asked = [hub.connect("c1", None, "", SafetyEnvelope(), "simulated", clamped=motor) for _ in range(3)]
        await asyncio.gather(*asked)
        assert len(hub.benches) == 1
        assert sum(t.name == "waldhorn-listen" for t in threading.enumerate()) == 1
        await hub.runs["c1"].close()
        await hub.channel("c2", None)
        assert list(hub.runs) == ["c2"]
        assert hub.benches == {}
        await hub.close()

    in_a_loop(scene())


def test_captures_of_a_run_that_was_let_go_are_still_stored(monkeypatch):
    monkeypatch.setattr("waldhorn.pit.bench.live.AGAIN_S", 0.05)
    taken, down = [], [True]

    def take(heard):
        if down[0]:
            raise StoreDown("disk full")
        taken.append(heard)
        return "taken"

    async def scene(run, bench):
        run.go_to(15)
        await until(lambda: run.state.waiting)
        await run.close()
        assert not run.is_over
        down[0] = False
        await until(lambda: taken)
        assert isinstance(taken[0], Captured)

    running(scene, take)


@pytest.mark.parametrize("portion", [1, 7, 64, 5000])
def test_lines_are_parted_however_they_come(portion):
    stream = b"one\ntwo\n" + b"x" * 20_000 + b"\nthree\n\nfour"
    splitter, found = LineSplitter(), []
    for i in range(0, len(stream), portion):
        found += splitter.split(stream[i : i + portion])
    assert [line for line in found if len(line) < 100] == [b"one\n", b"two\n", b"three\n", b"\n"]
    assert [len(line) for line in found if len(line) > 100] == [LONGEST_LINE + 1]


def test_of_a_flood_every_nth_line_is_read_and_every_rare_one():
    allowed = Allowance(0.0, most_s=100)
    flood = [b'{"rpm": %d}\n' % i for i in range(1000)]
    flood[777] = b'{"error": "phase"}\n'
    kept = allowed.of(flood, 0.0)
    assert 20 <= len(kept) <= 100
    assert flood[777] in kept
    numbers = [int(line.split()[1][:-1]) for line in kept if b"rpm" in line]
    assert max(b - a for a, b in itertools.pairwise(numbers)) == 20
    assert len(allowed.of(flood, 0.01)) <= 60
    slow = [b'{"rpm": 1}\n'] * 20
    assert Allowance(0.0, most_s=100).of(slow, 0.0) == slow
