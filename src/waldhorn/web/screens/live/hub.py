"""The live runs of this server, one a check, and the simulated benches it has started."""

import asyncio
import contextlib
import time
import zlib
from typing import cast

from fastapi import Request

from waldhorn.core.base.history import Motor
from waldhorn.instruments.line_format import LineFormat
from waldhorn.instruments.safety_envelope import SafetyEnvelope
from waldhorn.pit.bench.bench import take_heard
from waldhorn.pit.bench.live import Backlog, Event, LiveRun, Take
from waldhorn.pit.writing import Store, Writing
from waldhorn.simulator.analyser import BenchServer
from waldhorn.simulator.clamped import instrument_for
from waldhorn.web.common.pages import now

BEAT_S = 5.0
KEPT_S = 600.0


class Hub:
    """Everything that runs between requests; closed with the application."""

    def __init__(self, speed: float = 1.0) -> None:
        self.runs: dict[str, LiveRun] = {}
        self.benches: dict[str, BenchServer] = {}
        self.speed = speed
        self.standing: list[BenchServer] = []
        self.closing = asyncio.Event()
        self._connecting: dict[str, asyncio.Lock] = {}

    async def channel(self, check_id: str, store: Store) -> LiveRun:
        """The live run of a check, an idle one where none is connected."""
        await self._forget_what_is_over(check_id)
        if check_id not in self.runs:
            self.runs[check_id] = LiveRun(self._taking(check_id, store))
        return self.runs[check_id]

    async def connect(
        self,
        check_id: str,
        store: Store,
        who: str,
        envelope: SafetyEnvelope,
        where: str,
        line_format: LineFormat | None = None,
        clamped: Motor | None = None,
    ) -> None:
        """Connect an instrument to a check for `who`, within an envelope; whoever listens goes on listening. With a
        motor `clamped`, a simulated bench is started for it. Asked twice, it is the same run; raises InputError."""
        async with self._connecting.setdefault(check_id, asyncio.Lock()):
            before = await self.channel(check_id, store)
            if before.state.connected and where == before.asked:
                return
            await before.close()
            hurried = clamped is not None and self.speed != 1
            run = LiveRun(
                self._taking(check_id, store, who), envelope, line_format, before.recording, before.listeners, hurried
            )
            run.asked = where
            self.runs[check_id] = run
            await run.connect(await self._simulated(clamped, check_id) if clamped else where)

    def _taking(self, check_id: str, store: Store, who: str = "") -> Take:
        return lambda heard: take_heard(store, Writing(now(), who), check_id, heard)

    async def _forget_what_is_over(self, asked_for: str) -> None:
        """A run that nobody watches is kept for a while after its end, for what it recorded."""
        long_ago = time.monotonic() - KEPT_S
        for check_id, run in list(self.runs.items()):
            if check_id != asked_for and run.is_over and (run.control is None or run.over_since < long_ago):
                del self.runs[check_id]
                self._connecting.pop(check_id, None)
                await run.finish()
                if bench := self.benches.pop(check_id, None):
                    await bench.stop()

    async def _simulated(self, motor: Motor, check_id: str) -> str:
        """Start a simulated bench with this motor clamped; returns where it is."""
        if old := self.benches.pop(check_id, None):
            await old.stop()
        seed = zlib.crc32(motor.tag.encode())
        bench = BenchServer(instrument_for(motor, seed), self.speed)
        self.benches[check_id] = bench
        return f"127.0.0.1:{await bench.start()}"

    async def stand(self, tag: str, port: int) -> None:
        """Start a bench of the demo, with one of its motors clamped, on a port of its own."""
        bench = BenchServer(instrument_for(Motor(tag, sensored=True), zlib.crc32(tag.encode())), self.speed)
        with contextlib.suppress(OSError):  # the port is taken: the page can still start one of its own
            await bench.start(port)
            self.standing.append(bench)

    async def next_of(self, queue: Backlog) -> Event | None:
        """The next event of a queue, or None when nothing came for a while."""
        try:
            return await asyncio.wait_for(queue.get(), BEAT_S)
        except TimeoutError:
            return None

    async def close(self) -> None:
        """Stop every motor, let go of every instrument, and store what still waits."""
        self.closing.set()
        await asyncio.gather(*(run.finish() for run in self.runs.values()))
        for bench in (*self.benches.values(), *self.standing):
            await bench.stop()


def hub_of(request: Request) -> Hub:
    """The hub of the application that serves a request."""
    return cast(Hub, request.app.state.hub)
