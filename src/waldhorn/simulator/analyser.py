"""The simulated analyser: behaves on its line as the instrument would, with a motor of the motor model clamped in it.

Throttle settings in percent, twenty lines a second, an automatic timing sweep, stop on silence, the noise and
resolution of a meter. The same seed and the same commands at the same ticks give the same stream.
"""

import asyncio
import contextlib
import json
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from waldhorn.instruments import line_protocol
from waldhorn.instruments.line_protocol import Sample, Sweep, Trouble
from waldhorn.simulator.dynamics import Dynamics, Supply
from waldhorn.simulator.motor_model import MotorModel

RATE_HZ = 20
COASTING_HZ, COASTING_TICKS = 100, 60  # lines a second after a release, and for how many ticks
SILENCE_S = 2.0
SWEEP_S = 3.0
SETTINGS = line_protocol.USUAL_SETTINGS
SWEEP_PCT = 25.0
STANDSTILL_RPM = 60.0
LONGEST_COMMAND = 1000


@dataclass(frozen=True, slots=True)
class Meter:
    """The noise of the instrument, one sigma: share of volts, amps and rpm, K, dB, degrees."""

    volts: float = 0.001
    amps: float = 0.006
    rpm: float = 0.0003
    temperature_k: float = 0.15
    sound_db: float = 0.3
    angle_deg: float = 0.25


class Instrument:
    """One simulated analyser. `tick` is one line's time, `messages` the same before it is written; `obey` takes a line
    of the host."""

    def __init__(
        self,
        motor: MotorModel,
        seed: int,
        supply: Supply | None = None,
        sensored: bool = True,
        name: str = "simulated bench",
        swapped: str = "",
        meter: Meter | None = None,
        ambient_c: float = 22.0,
        current: str = "motor",
    ) -> None:
        self.rng = np.random.default_rng([seed, 20])
        self.supply = supply or Supply(motor.build.rated_v * 1.01)
        self.spinning = Dynamics(motor, self.supply, self.rng, ambient_c)
        self.motor, self.sensored, self.name, self.swapped = motor, sensored, name, swapped
        self.meter = meter or Meter()
        self.current = current  # whose amps it reads: the motor's or the supply's
        self.coasting = COASTING_TICKS
        self.poles_set = motor.build.poles
        self.silent_s = 0.0
        self.patience_s = SILENCE_S
        self.sweeping_s: float | None = None

    def hello(self) -> bytes:
        """The greeting."""
        return line_protocol.write(
            hello="waldhorn-bench",
            version=line_protocol.VERSION,
            name=self.name,
            sensored=self.sensored,
            settings=[int(s) for s in SETTINGS],
            max_v=round(self.supply.rest_v * 1.15, 1),
            max_a=20,
            current=self.current,
            sound=False,
        )

    def obey(self, line: bytes) -> None:
        """Do what a line of the host says; what is not understood is passed over."""
        try:
            told = json.loads(line[:LONGEST_COMMAND])
        except (ValueError, RecursionError):
            return
        if not isinstance(told, dict):
            return
        self.silent_s = 0.0
        command, value = told.get("cmd"), told.get("value")
        if command == "poles" and isinstance(value, int) and 2 <= value <= 60 and value % 2 == 0:
            self.poles_set = value
        elif command == "throttle" and _is_percent(told.get("pct")):
            self._throttle(float(told["pct"]))
        elif command == "release":
            self.spinning.release()
            self.sweeping_s, self.coasting = None, 0
        elif command == "sweep_timing" and self.sensored:
            self.sweeping_s = 0.0
            self.spinning.pct = max(self.spinning.pct, SWEEP_PCT)
        elif command == "stop":
            self.spinning.pct, self.sweeping_s, self.spinning.released = 0.0, None, False

    def _throttle(self, pct: float) -> None:
        """From standstill it starts only at its lowest setting."""
        standing = self.spinning.pct == 0 and self.spinning.rpm < STANDSTILL_RPM
        self.spinning.pct = min(pct, SETTINGS[0]) if standing else pct

    def tick(self) -> list[bytes]:
        """The lines of one tick."""
        return [line_protocol.line_of(message) for message in self.messages()]

    def messages(self) -> list[Sample | Sweep | Trouble]:
        """What it says in one tick: more of it while it coasts."""
        seconds = 1 / RATE_HZ
        self.silent_s += seconds
        if self.silent_s > self.patience_s:
            self.spinning.pct, self.sweeping_s = 0.0, None
        samples_a_tick = 1
        if self.spinning.released and self.coasting < COASTING_TICKS:
            samples_a_tick = COASTING_HZ // RATE_HZ
            self.coasting += 1
        return [*(self._sample(seconds / samples_a_tick) for _ in range(samples_a_tick)), *self._sweep(seconds)]

    def _sample(self, seconds: float) -> Sample:
        now = self.spinning.advance(seconds)
        noise = self.rng.standard_normal(5).tolist()
        shown = self.motor.build.poles / self.poles_set
        drawn = now.amps * (now.pct / 100 if self.current == "supply" else 1.0)
        sound = max(now.sound_db, 45.0) + self.meter.sound_db * noise[4]
        return Sample(
            t=round(now.t, 2),
            pct=round(now.pct, 1),
            volts=round(now.volts * (1 + self.meter.volts * noise[0]), 2),
            amps=round(max(0.0, drawn * (1 + self.meter.amps * noise[1])), 3),
            rpm=round(now.rpm * shown * (1 + self.meter.rpm * noise[2]), -1),
            hall=self.motor.hall(now.turn) if self.sensored else "",
            motor_c=round(now.motor_c + self.meter.temperature_k * noise[3], 1),
            sound_db=round(sound, 1),
        )

    def _sweep(self, seconds: float) -> list[Sweep | Trouble]:
        if self.sweeping_s is None:
            return []
        self.sweeping_s += seconds
        if self.swapped and self.sweeping_s > 0.5:
            self.sweeping_s, self.spinning.pct = None, 0.0
            return [Trouble("phase", f"{self.swapped[0]} and {self.swapped[1]} swapped")]
        if self.sweeping_s < SWEEP_S:
            return []
        self.sweeping_s, self.spinning.pct = None, 0.0
        a, b, c = self.rng.normal(0, self.meter.angle_deg, 3).tolist()
        return [Sweep(*(round(angle, 1) for angle in self.motor.timing((a, b, c))))]


def _is_percent(value: object) -> bool:
    return isinstance(value, (int, float)) and not isinstance(value, bool) and 0 <= value <= 100


async def let_go(server: asyncio.Server | None, serving: Iterable[asyncio.Task[None]]) -> None:
    """Listen no longer and end what serves; only then is a server closed: from Python 3.12 on it waits for all."""
    if server:
        server.close()
    for task in list(serving):
        task.cancel()
        with contextlib.suppress(asyncio.CancelledError):
            await task
    if server:
        await server.wait_closed()


class BenchServer:
    """An instrument behind a port: one host at a time, faster than real time on request."""

    def __init__(self, instrument: Instrument, speed: float = 1.0) -> None:
        self.instrument, self.speed = instrument, speed
        instrument.patience_s = SILENCE_S * speed  # the host lives in real time
        self.port = 0
        self.latest = b""
        self._server: asyncio.Server | None = None
        self._hosts: set[asyncio.Task[None]] = set()
        self._busy = asyncio.Lock()

    @property
    def has_host(self) -> bool:
        """Whether somebody speaks to it."""
        return self._busy.locked()

    async def start(self, port: int = 0, host: str = "127.0.0.1") -> int:
        """Listen; returns the port."""
        self._server = await asyncio.start_server(self._serve, host, port, limit=line_protocol.LONGEST_LINE)
        self.port = self._server.sockets[0].getsockname()[1]
        return self.port

    async def stop(self) -> None:
        """Listen no longer, and let every host go."""
        await let_go(self._server, self._hosts)

    async def serve_forever(self) -> None:
        """Listen until stopped."""
        if self._server:
            await self._server.serve_forever()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        serving = asyncio.current_task()
        if serving:
            self._hosts.add(serving)
            serving.add_done_callback(self._hosts.discard)
        async with self._busy:
            listening = asyncio.create_task(self._listen(reader))
            try:
                writer.write(self.instrument.hello())
                loop = asyncio.get_running_loop()
                due = loop.time()
                while not listening.done():
                    said = self.instrument.tick()
                    self.latest = said[0]
                    for line in said:
                        writer.write(line)
                    await writer.drain()
                    due = max(due + 1 / RATE_HZ / self.speed, loop.time() - 0.5)
                    await asyncio.sleep(max(0.0, due - loop.time()))
            except (ConnectionError, asyncio.CancelledError):
                pass
            finally:
                listening.cancel()
                self.instrument.obey(b'{"cmd": "stop"}')
                writer.close()
                with contextlib.suppress(ConnectionError, asyncio.CancelledError):
                    await listening
                with contextlib.suppress(ConnectionError, asyncio.CancelledError):
                    await writer.wait_closed()

    async def _listen(self, reader: asyncio.StreamReader) -> None:
        while True:
            try:
                line = await reader.readline()
            except (ValueError, ConnectionError):
                return
            if not line:
                return
            self.instrument.obey(line)
