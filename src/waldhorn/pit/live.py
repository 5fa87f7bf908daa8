"""A live run: an instrument feeds a check, settled throttle settings are captured, guards stop the motor.

One live run belongs to one check, however many browsers watch it. It knows the store only through what it takes, and
nothing it took is lost when the instrument, a browser or the server goes away: the motor stops by itself when nobody
speaks to it.
"""

import asyncio
import contextlib
import time
from collections import deque
from collections.abc import Callable
from dataclasses import asdict, dataclass, field, replace
from typing import Any

from waldhorn.core.errors import Refused
from waldhorn.link import capture, lines
from waldhorn.link.client import Port, messages, open_port
from waldhorn.link.envelope import SafetyEnvelope
from waldhorn.link.recipe import Reader, Recipe

AWAKE_S = 0.5  # how often the instrument is spoken to, so that it does not stop
ALONE_S = 3.0  # with nobody watching for so long, the motor is stopped
SILENT_S = 1.5
GREETING_S = 1.5
TRACE = 600
BACKLOG = 120
RECORDED = 24_000  # lines: twenty minutes of a stream
# What is said of an event: of an instrument that obeys, and of one that only prints.
SAID = {
    "set": ("", "Set {:g} % by hand and hold it."),
    "stopped": ("Stopped.", "Close the throttle by hand: this instrument cannot stop the motor."),
    "alone": ("Nobody was watching: the motor was stopped.", "Nobody was watching. Close the throttle by hand."),
    "silent": (
        "The instrument has fallen silent: the motor was told to stop. Look at it before going on.",
        "The instrument has fallen silent. Close the throttle by hand, then look at it.",
    ),
    "gone": (
        "The instrument is gone; it stops the motor by itself within two seconds. Connect it again to go on: what was"
        " captured is kept.",
        "The instrument is gone. Close the throttle by hand. What was captured is kept.",
    ),
}

Event = dict[str, Any]
Heard = capture.Captured | lines.Sweep | capture.Tripped | lines.Trouble | capture.RanOut
Take = Callable[[Heard], str]


class Backlog(asyncio.Queue[Event]):
    """What a browser has not had yet. One that cannot keep up loses the oldest samples, never what was said."""

    def _init(self, maxsize: int) -> None:
        self._queue: deque[Event] = deque()

    def _put(self, item: Event) -> None:
        self._queue.append(item)
        if len(self._queue) > BACKLOG:
            del self._queue[next((i for i, e in enumerate(self._queue) if e["kind"] == "sample"), 0)]


@dataclass
class State:
    """How a live run stands, as the page shows it."""

    connected: bool = False
    name: str = ""
    pct: float = 0.0
    settings: tuple[float, ...] = lines.USUAL_SETTINGS
    words: str = ""
    unread: int = 0
    last_unread: str = ""
    captures: int = 0
    sweeping: bool = False
    coasting: bool = False


@dataclass
class LiveRun:
    """One instrument feeding one check, within an envelope that is fixed before it starts. `take` stores what is
    captured and says what was taken; listeners and recording may come from the run before. An instrument that is read
    by a `recipe` only prints: the throttle is in the hand, and the page is told where it stands."""

    take: Take
    envelope: SafetyEnvelope = field(default_factory=SafetyEnvelope)
    recipe: Recipe | None = None
    recording: deque[bytes] = field(default_factory=lambda: deque(maxlen=RECORDED))
    state: State = field(default_factory=State)
    detector: capture.SettleDetector = field(default_factory=lambda: capture.SettleDetector(SafetyEnvelope()))
    trace: list[Event] = field(default_factory=list)
    _running_out: capture.RunOutRecorder | None = None
    _port: Port | None = None
    _tasks: list[asyncio.Task[None]] = field(default_factory=list)
    listeners: set[Backlog] = field(default_factory=set)
    _seen: float = 0.0
    _heard: float = 0.0
    _greeted: asyncio.Event = field(default_factory=asyncio.Event)

    async def connect(self, where: str) -> None:
        """Connect to an instrument and start listening; raises Refused."""
        await self.close()
        self._port = await open_port(where, self.recipe.baud) if self.recipe else await open_port(where)
        self._seen = self._heard = time.monotonic()
        self.state = State(words="Connected, waiting for its greeting.")
        if self.recipe:
            self._greet(lines.Hello(self.recipe.name, sensored=False, max_v=self.recipe.max_v, max_a=self.recipe.max_a))
        self._tasks = [asyncio.create_task(self._listen(self._port)), asyncio.create_task(self._stay_awake())]
        with contextlib.suppress(TimeoutError):  # a serial port may have said its greeting before we listened
            await asyncio.wait_for(self._greeted.wait(), GREETING_S)

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

    def subscribe(self) -> Backlog:
        """A queue that gets every event from now on, the standing first."""
        queue = Backlog()
        self.listeners.add(queue)
        self._seen = time.monotonic()
        queue.put_nowait({"kind": "state", **asdict(self.state), "trace": self.trace[-TRACE:]})
        return queue

    def unsubscribe(self, queue: Backlog) -> None:
        """A browser has gone."""
        self.listeners.discard(queue)
        self._seen = time.monotonic()

    def go_to(self, pct: float) -> None:
        """Go to a throttle setting in percent; raises Refused with what would be right.

        From standstill only the lowest setting: a motor is heard before it is hurried.
        """
        if not self.state.connected:
            raise Refused("live", "no instrument is connected: choose one first")
        lowest = self.state.settings[0]
        if pct != 0 and pct not in self.state.settings:
            has = ", ".join(f"{s:g}" for s in self.state.settings)
            raise Refused("live", f"{pct:g} % is no setting of this instrument: it has {has}")
        if pct > lowest and self.state.pct == 0:
            raise Refused("live", f"from standstill only the lowest setting, {lowest:g} %: listen first, then go up")
        self._follow(None)
        self.state.pct = pct
        self._send(cmd="throttle", pct=pct)
        self._say(self._words("set").format(pct) if pct else self._words("stopped"))

    @property
    def last(self) -> Event | None:
        """The sample that came last."""
        return self.trace[-1] if self.trace else None

    def keep_within(self, envelope: SafetyEnvelope) -> None:
        """Another envelope, when what is known of the motor has changed; what the instrument allows stays."""
        here = self.detector.envelope
        self.envelope = envelope
        self.detector.envelope = replace(envelope, max_a=here.max_a, max_v=here.max_v)

    def stop(self) -> None:
        """Stop the motor at once."""
        self.state.pct = 0.0
        self.state.sweeping = False
        self._follow(None)
        self._send(cmd="stop")
        if self.state.connected:
            self._say(self._words("stopped"))

    def release(self) -> None:
        """Let go of a motor that turns, and follow it until it stands; raises Refused."""
        if self.recipe:
            raise Refused("live", "this instrument only prints: it cannot let go. Paste the trace in the step Run-out")
        if not self.state.connected or self.state.pct == 0:
            raise Refused("live", "there is nothing to let go of: bring it to full throttle first")
        self.state.pct = 0.0
        self._follow(capture.RunOutRecorder())
        self._send(cmd="release")
        self._say("Let go. It runs out by itself: hands off until it stands.")

    def _follow(self, running_out: capture.RunOutRecorder | None) -> None:
        self._running_out, self.state.coasting = running_out, running_out is not None

    def _words(self, what: str) -> str:
        """What is said of an event: of an instrument that obeys, or of one that only prints."""
        return SAID[what][self.recipe is not None]

    def sweep(self) -> None:
        """Start the timing sweep; raises Refused."""
        if self.recipe:
            raise Refused("live", "this instrument only prints: it cannot sweep the timing")
        if not self.state.connected:
            raise Refused("live", "no instrument is connected: choose one first")
        self.state.pct, self.state.sweeping = 0.0, True
        self._send(cmd="sweep_timing")
        self._say("Sweeping the timing.")

    def take_again(self) -> None:
        """Let the present setting be captured once more."""
        self.detector.take_again()
        self._say("Taking this setting again.")

    def _send(self, **command: Any) -> None:
        if self._port and not self.recipe:
            self._port.send(lines.write(**command))

    async def _stay_awake(self) -> None:
        """Speak to the instrument while somebody watches; stop the motor when nobody does, or when it falls silent."""
        while True:
            await asyncio.sleep(AWAKE_S)
            now = time.monotonic()
            spinning = self.state.pct > 0 or self.state.sweeping
            if spinning and not self.listeners and now - self._seen > ALONE_S:
                self.stop()
                self._say(self._words("alone"))
            elif spinning and now - self._heard > SILENT_S:
                self.stop()
                self._say(self._words("silent"))
            elif self.state.connected:
                self._stay()

    def _stay(self) -> None:
        """Say again what was said before, so that the instrument hears somebody: nothing changes by it."""
        if self.state.sweeping or self.state.coasting:
            self._send(cmd="hello")  # not a command: it is passed over, but heard
        else:
            self._send(cmd="throttle", pct=self.state.pct)

    async def _listen(self, port: Port) -> None:
        read = Reader(self.recipe).read if self.recipe else lines.read
        tells = self.recipe is not None and "pct" in self.recipe.told
        async for message in messages(port, self.recording.append, read):
            self._heard = time.monotonic()
            if self.recipe and not tells and isinstance(message, lines.Sample):
                message = replace(message, pct=self.state.pct)
            await self._hear(message)
        self.state.connected, self.state.pct, self.state.sweeping = False, 0.0, False
        self._say(self._words("gone"))

    async def _hear(self, message: lines.Message) -> None:
        if isinstance(message, lines.Sample):
            if not self.state.connected:  # on a serial port the greeting may have been before we listened
                self._greet(lines.Hello("An instrument", True, 60.0, 20.0))
            self._show(message)
            found = self.detector.feed(message) or self._ran_out(message)
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

    def _ran_out(self, sample: lines.Sample) -> capture.RanOut | None:
        found = self._running_out.feed(sample) if self._running_out else None
        if found is not None:
            self._follow(None)
        return found

    def _greet(self, hello: lines.Hello) -> None:
        self.state.connected, self.state.name, self.state.pct = True, hello.name, 0.0
        self.state.settings = hello.settings
        watched = (capture.SLOW_WINDOW_S, capture.SLOW_SAMPLES) if self.recipe else capture.USUAL_WATCH
        self.detector = capture.SettleDetector(self.envelope.within(hello), hello.settings, *watched, hello.current)
        if self.envelope.poles:
            self._send(cmd="poles", value=self.envelope.poles)
        self._greeted.set()
        self._say(f"{hello.name} is ready.")

    async def _took(self, found: Heard) -> None:
        if isinstance(found, capture.Tripped):
            self.stop()
        words = await asyncio.to_thread(self.take, found)
        self.state.captures += 1
        self._publish({"kind": "took", "words": words, "alarm": isinstance(found, capture.Tripped | lines.Trouble)})
        self._say(words)

    def _show(self, sample: lines.Sample) -> None:
        event = {"kind": "sample", "t": sample.t, "pct": sample.pct, "v": sample.volts, "a": sample.amps,
                 "rpm": sample.rpm, "c": sample.motor_c, "db": sample.sound_db, "hall": sample.hall}  # fmt: skip
        self.trace.append(event)
        del self.trace[:-TRACE]
        self._publish(event | {"at": time.time() * 1000})

    def _say(self, words: str) -> None:
        self.state.words = words
        self._publish({"kind": "state", **asdict(self.state)})

    def _publish(self, event: Event) -> None:
        for queue in self.listeners:
            queue.put_nowait(event)
