"""The live runs of this server, one a check, and the simulated benches it has started."""

import asyncio
import contextlib
import zlib
from typing import cast

from fastapi import Request

from waldhorn.core.errors import Busy
from waldhorn.core.history import Motor
from waldhorn.link.clamped import instrument_for
from waldhorn.link.envelope import SafetyEnvelope
from waldhorn.link.instrument import BenchServer
from waldhorn.link.recipe import Recipe
from waldhorn.pit import taking
from waldhorn.pit.live import Backlog, Event, LiveRun, Take
from waldhorn.store.engine import Store
from waldhorn.web.pages import now

BEAT_S = 5.0


class Hub:
    """Everything that runs between requests; closed with the application."""

    def __init__(self, speed: float = 1.0) -> None:
        self.runs: dict[str, LiveRun] = {}
        self.benches: dict[str, BenchServer] = {}
        self.speed = speed
        self.standing: list[BenchServer] = []
        self.closing = asyncio.Event()

    def channel(self, check_id: str, store: Store) -> LiveRun:
        """The live run of a check, an idle one where none is connected."""
        if check_id not in self.runs:
            self.runs[check_id] = LiveRun(self._taking(check_id, store))
        return self.runs[check_id]

    async def connect(
        self, check_id: str, store: Store, envelope: SafetyEnvelope, where: str, recipe: Recipe | None = None
    ) -> None:
        """Connect an instrument to a check, within an envelope; whoever listens goes on listening."""
        before = self.channel(check_id, store)
        await before.close()
        run = LiveRun(self._taking(check_id, store), envelope, recipe, before.recording, listeners=before.listeners)
        self.runs[check_id] = run
        await run.connect(where)

    def _taking(self, check_id: str, store: Store) -> Take:
        def take(heard: taking.Heard) -> str:
            while True:  # what a motor has shown is not asked of it twice: it waits until it can be written
                with contextlib.suppress(Busy), store.writing() as session:
                    return taking.take(session, check_id, heard, now())

        return take

    async def simulated(self, motor: Motor, check_id: str) -> str:
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
        """Stop every motor and let go of every instrument."""
        self.closing.set()
        for run in self.runs.values():
            await run.close()
        for bench in (*self.benches.values(), *self.standing):
            await bench.stop()


def hub_of(request: Request) -> Hub:
    """The hub of the application that serves a request."""
    return cast(Hub, request.app.state.hub)
