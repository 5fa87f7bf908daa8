"""A live run: an instrument feeds a check, settled steps are captured, guards stop the motor.

One live run belongs to one check, however many browsers watch it. It knows the store only through what it takes, and
nothing it took is lost when the instrument, a browser or the server goes away: the motor stops by itself when nobody
speaks to it.
"""

import asyncio
import contextlib
import time
from collections import deque
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from typing import Any

from waldhorn.core.errors import Refused
from waldhorn.link import capture, lines
from waldhorn.link.client import Port, messages, open_port

AWAKE_S = 0.5  # how often the instrument is spoken to, so that it does not stop
ALONE_S = 3.0  # with nobody watching for so long, the motor is stopped
SILENT_S = 1.5
TRACE = 600
BACKLOG = 120
RECORDED = 24_000  # lines: twenty minutes of a stream

Event = dict[str, Any]
Take = Callable[[capture.Captured | lines.Sweep | capture.Alarm | lines.Trouble], str]


@dataclass
class State:
    """How a live run stands, as the page shows it."""

    connected: bool = False
    name: str = ""
    step: int = 0
    words: str = ""
    unread: int = 0
    last_unread: str = ""
    captures: int = 0
    sweeping: bool = False


@dataclass
class LiveRun:
    """One instrument feeding one check. `take` stores what is captured and says what was taken."""

    take: Take
    hold_share: float = 1.0
    poles: int | None = None
    recording: deque[bytes] = field(default_factory=lambda: deque(maxlen=RECORDED))
    state: State = field(default_factory=State)
    watch: capture.Watch = field(default_factory=lambda: capture.Watch(20.0))
    trace: list[Event] = field(default_factory=list)
    _port: Port | None = None
    _tasks: list[asyncio.Task[None]] = field(default_factory=list)
    _listeners: set[asyncio.Queue[Event]] = field(default_factory=set)
    _seen: float = 0.0
    _heard: float = 0.0

    async def connect(self, where: str) -> None:
        """Connect to an instrument and start listening; raises Refused."""
        await self.close()
        self._port = await open_port(where)
        self._seen = self._heard = time.monotonic()
        self.state = State(words="Connected, waiting for its greeting.")
        self._tasks = [asyncio.create_task(self._listen(self._port)), asyncio.create_task(self._stay_awake())]

    async def close(self) -> None:
        """Stop the motor and let go of the instrument."""
        self.stop()
        for task in self._tasks:
            task.cancel()
        for task in self._tasks:
            with contextlib.suppress(asyncio.CancelledError):
                await task
        self._tasks = []
        if self._port:
            await self._port.close()
            self._port = None

    def subscribe(self) -> asyncio.Queue[Event]:
        """A queue that gets every event from now on, the standing first."""
        queue: asyncio.Queue[Event] = asyncio.Queue(BACKLOG)
        self._listeners.add(queue)
        self._seen = time.monotonic()
        queue.put_nowait({"kind": "state", **asdict(self.state), "trace": self.trace[-TRACE:]})
        return queue

    def unsubscribe(self, queue: asyncio.Queue[Event]) -> None:
        """A browser has gone."""
        self._listeners.discard(queue)
        self._seen = time.monotonic()

    def go_to(self, step: int) -> None:
        """Go to a throttle step; raises Refused when nothing is connected or there is no such step."""
        if not self.state.connected:
            raise Refused("live", "no instrument is connected: choose one first")
        if not 0 <= step <= 8:
            raise Refused("live", f"step {step} is none: 0 to 8")
        self.state.step = step
        self._send(cmd="throttle", step=step)
        self._say("" if step else "Stopped.")

    def stop(self) -> None:
        """Stop the motor at once."""
        self.state.step = 0
        self.state.sweeping = False
        self._send(cmd="stop")
        if self.state.connected:
            self._say("Stopped.")

    def sweep(self) -> None:
        """Start the timing sweep; raises Refused."""
        if not self.state.connected:
            raise Refused("live", "no instrument is connected: choose one first")
        self.state.step, self.state.sweeping = 0, True
        self._send(cmd="sweep_timing")
        self._say("Sweeping the timing.")

    def take_again(self) -> None:
        """Let the present step be captured once more."""
        self.watch.take_again()
        self._say("Taking this step again.")

    def _send(self, **command: Any) -> None:
        if self._port:
            self._port.send(lines.write(**command))

    async def _stay_awake(self) -> None:
        """Speak to the instrument while somebody watches; stop the motor when nobody does, or when it falls silent."""
        while True:
            await asyncio.sleep(AWAKE_S)
            now = time.monotonic()
            spinning = self.state.step > 0 or self.state.sweeping
            if spinning and not self._listeners and now - self._seen > ALONE_S:
                self.stop()
                self._say("Nobody was watching: the motor was stopped.")
            elif spinning and now - self._heard > SILENT_S:
                self.stop()
                self._say("The instrument has fallen silent: the motor was told to stop. Look at it before going on.")
            elif self.state.sweeping:
                self._send(cmd="poles", value=self.poles or 4)
            elif self.state.connected:
                self._send(cmd="throttle", step=self.state.step)

    async def _listen(self, port: Port) -> None:
        async for message in messages(port, self.recording.append):
            self._heard = time.monotonic()
            await self._hear(message)
        self.state.connected, self.state.step, self.state.sweeping = False, 0, False
        self._say("The instrument is gone; it stops the motor by itself within two seconds. Connect it again to go on: "
                  "what was captured is kept.")  # fmt: skip

    async def _hear(self, message: lines.Message) -> None:
        if isinstance(message, lines.Sample):
            if not self.state.connected:  # on a serial port the greeting may have been before we listened
                self._greet(lines.Hello("An instrument", True, 60.0, 20.0))
            self._show(message)
            found = self.watch.feed(message)
            if found is not None:
                await self._took(found)
        elif isinstance(message, lines.Hello):
            self._greet(message)
        elif isinstance(message, lines.Unread):
            self.state.unread += 1
            self.state.last_unread = f"{message.why}: {message.start}"
            self._say(self.state.words)
        else:
            self.state.sweeping = False
            await self._took(message)

    def _greet(self, hello: lines.Hello) -> None:
        self.state.connected, self.state.name, self.state.step = True, hello.name, 0
        self.watch = capture.Watch(hello.max_a, self.hold_share)
        if self.poles:
            self._send(cmd="poles", value=self.poles)
        self._say(f"{hello.name} is ready.")

    async def _took(self, found: capture.Captured | lines.Sweep | capture.Alarm | lines.Trouble) -> None:
        if isinstance(found, capture.Alarm):
            self.stop()
        words = await asyncio.to_thread(self.take, found)
        self.state.captures += 1
        self._publish({"kind": "took", "words": words, "alarm": isinstance(found, capture.Alarm | lines.Trouble)})
        self._say(words)

    def _show(self, sample: lines.Sample) -> None:
        event = {"kind": "sample", "t": sample.t, "step": sample.step, "v": sample.volts, "a": sample.amps,
                 "rpm": sample.rpm, "c": sample.motor_c, "db": sample.sound_db, "hall": sample.hall}  # fmt: skip
        self.trace.append(event)
        del self.trace[:-TRACE]
        self._publish(event | {"at": time.time() * 1000})

    def _say(self, words: str) -> None:
        self.state.words = words
        self._publish({"kind": "state", **asdict(self.state)})

    def _publish(self, event: Event) -> None:
        for queue in self._listeners:
            if queue.full():  # a browser that cannot keep up loses the oldest, never the newest
                queue.get_nowait()
            queue.put_nowait(event)


def replay(stream: bytes, hold_share: float = 1.0) -> list[capture.Captured | lines.Sweep | capture.Alarm]:
    """What a recorded stream yields: the same captures, to the last digit, as when it was live."""
    watch = capture.Watch(20.0, hold_share)
    found: list[capture.Captured | lines.Sweep | capture.Alarm] = []
    for line in stream.splitlines():
        message = lines.read(line)
        if isinstance(message, lines.Hello):
            watch = capture.Watch(message.max_a, hold_share)
        elif isinstance(message, lines.Sweep):
            found.append(message)
        elif isinstance(message, lines.Sample) and (taken := watch.feed(message)):
            found.append(taken)
    return found
