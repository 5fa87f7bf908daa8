"""A second mouth of the simulated bench, which only prints: what an instrument is like that cannot be told anything."""

import asyncio
import contextlib

from waldhorn.instruments import line_protocol
from waldhorn.simulator.analyser import LONGEST_COMMAND, RATE_HZ, SETTINGS, BenchServer, let_go

PLAIN_HEADER = b"seconds,throttle %,volts,amps,rpm,degC,dB\n"
BY_HAND = ((4.0, 0.0), (7.0, SETTINGS[0]), (7.0, 50.0), (8.0, 100.0))  # seconds at a setting, over and over


class PlainMouth:
    """A second mouth of a bench that only prints: comma-separated lines, whatever is said to it.

    While a host has the bench it prints what the bench does; else a hand turns the throttle by itself, up from the
    lowest setting and closed again, so that there is something to read.
    """

    def __init__(self, bench: BenchServer) -> None:
        self.bench = bench
        self.port = 0
        self._server: asyncio.Server | None = None
        self._readers: set[asyncio.Task[None]] = set()
        self._turned = 0.0

    async def start(self, port: int = 0, host: str = "127.0.0.1") -> int:
        """Listen; returns the port."""
        self._server = await asyncio.start_server(self._print, host, port)
        self.port = self._server.sockets[0].getsockname()[1]
        return self.port

    async def stop(self) -> None:
        """Listen no longer, and let every reader go."""
        await let_go(self._server, self._readers)

    async def _print(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if reading := asyncio.current_task():
            self._readers.add(reading)
            reading.add_done_callback(self._readers.discard)
        try:
            writer.write(PLAIN_HEADER)
            while not reader.at_eof():
                writer.write(self._line())
                await writer.drain()
                await asyncio.sleep(1 / RATE_HZ / self.bench.speed)
                with contextlib.suppress(TimeoutError):
                    async with asyncio.timeout(0):
                        await reader.read(LONGEST_COMMAND)
        except (ConnectionError, asyncio.CancelledError):
            pass
        finally:
            writer.close()
            with contextlib.suppress(ConnectionError, asyncio.CancelledError):
                await writer.wait_closed()

    def _line(self) -> bytes:
        said = self.bench.latest
        if not self.bench.has_host:
            said = self._by_hand()
        found = line_protocol.read(said)
        if not isinstance(found, line_protocol.Sample):
            return b"\n"
        return (
            f"{found.t:.2f},{found.pct:.0f},{found.volts:.2f},{found.amps:.3f},{found.rpm:.0f},"
            f"{found.motor_c or 0:.1f},{found.sound_db or 0:.1f}\n"
        ).encode()

    def _by_hand(self) -> bytes:
        self._turned = (self._turned + 1 / RATE_HZ) % sum(seconds for seconds, _ in BY_HAND)
        left = self._turned
        for seconds, pct in BY_HAND:
            if left < seconds:
                self.bench.instrument.obey(line_protocol.write(cmd="throttle", pct=pct))
                break
            left -= seconds
        return self.bench.instrument.tick()[0]
