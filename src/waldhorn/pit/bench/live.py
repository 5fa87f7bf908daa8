"""A live run: an instrument feeds a check, settled throttle settings are captured, guards stop the motor.

One live run belongs to one check, however many browsers watch it. What is right to do is decided by `RunControl`; here
are the threads and the queues around it. The instrument is read, and obeyed to, in a thread of its own; what it
yielded is stored one after the other by a task that waits for the store, and for nothing else. Nothing that was yielded
is lost when the instrument, a browser or the store goes away: the motor stops by itself when nobody speaks to it.
"""

import asyncio
import contextlib
import logging
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from waldhorn.core.base.errors import NotStored
from waldhorn.instruments import line_protocol
from waldhorn.instruments.capture import Captured
from waldhorn.instruments.guards import Tripped
from waldhorn.instruments.line_format import LineFormat, Reader
from waldhorn.instruments.ports import Allowance, Gone, LineSplitter, Port, open_port
from waldhorn.instruments.run_control import Heard, Phase, RunControl, State
from waldhorn.instruments.safety_envelope import SafetyEnvelope

AWAKE_S = 0.5  # how often the instrument is spoken to, so that it does not stop
GREETING_S = 1.5
BREATH_S = 0.005  # between two reads: a fast stream is read in portions, and others get their turn
SHOWN_S = 0.04  # between two samples that a page is sent
TOLD_S = 0.25  # between two times that a page is told of lines not understood
AGAIN_S = 1.0  # between two tries to store
LAST_TRY_S = 5.0  # for so long the store is waited for when the server stops
TRACE = 750
BACKLOG = 120
RECORDED = 24_000  # lines: twenty minutes of a stream

Event = dict[str, Any]
Take = Callable[[Heard], str]
_log = logging.getLogger("waldhorn")
_storing: set[asyncio.Task[None]] = set()  # a run that is over is let go of, what it yielded is not


class Backlog(asyncio.Queue[Event]):
    """What a browser has not had yet. One that cannot keep up loses the oldest samples, never what was said."""

    can_stop = True  # whether who sits there can stop the motor

    def _init(self, maxsize: int) -> None:
        self._queue: deque[Event] = deque()

    def _put(self, item: Event) -> None:
        self._queue.append(item)
        if len(self._queue) > BACKLOG:
            del self._queue[next((i for i, e in enumerate(self._queue) if e["kind"] == "sample"), 0)]


class LiveRun:
    """One instrument feeding one check, within an envelope that is fixed before it starts. `take` stores what is
    yielded and says what was taken, or raises NotStored; listeners and recording may come from the run before. All but
    the reading happens in the loop that connects it."""

    def __init__(
        self,
        take: Take,
        envelope: SafetyEnvelope | None = None,
        line_format: LineFormat | None = None,
        recording: deque[bytes] | None = None,
        listeners: set[Backlog] | None = None,
        hurried: bool = False,
    ) -> None:
        self.take, self.envelope, self.line_format, self.hurried = (
            take,
            envelope or SafetyEnvelope(),
            line_format,
            hurried,
        )
        self.recording = recording if recording is not None else deque(maxlen=RECORDED)
        self.listeners = listeners if listeners is not None else set()
        self.trace: deque[Event] = deque(maxlen=TRACE)
        self.control: RunControl | None = None
        self.asked = self.where = ""  # what a person asked for, and where that is
        self.over_since = time.monotonic()
        self._port: Port | None = None
        self._reading: threading.Thread | None = None
        self._leaving = threading.Event()
        self._lock = threading.Lock()  # of everything the reading thread and the loop both touch
        self._awake: asyncio.Task[None] | None = None
        self._storing: asyncio.Task[None] | None = None
        self._waiting: asyncio.Queue[Heard | None] = asyncio.Queue()
        self._greeted = asyncio.Event()
        self._seen = 0.0
        self._shown_at = self._told_at = 0.0
        self._fresh: list[Event] = []
        self._told: Event = {}
        self._not_stored = ""

    @property
    def state(self) -> State:
        """How it stands."""
        return self.control.state if self.control else State()

    @property
    def last(self) -> Event | None:
        """The sample that came last, as a page is sent it."""
        return _event(self.control.last) if self.control and self.control.last else None

    @property
    def is_over(self) -> bool:
        """Whether nothing is connected, nobody watches and nothing waits for the store."""
        return not (self.state.connected or self._reading or self.listeners or self.state.waiting)

    @property
    def is_watched(self) -> bool:
        """Whether somebody watches who can stop it."""
        return any(queue.can_stop for queue in self.listeners)

    async def connect(self, where: str) -> None:
        """Connect to an instrument and start listening; raises InputError."""
        baud = (self.line_format.baud,) if self.line_format else ()
        port = await asyncio.to_thread(open_port, where, *baud)
        self._port, self.where = port, where
        self._seen = time.monotonic()
        self.control = RunControl(self.envelope, self.line_format, self._seen, self.hurried)
        loop = asyncio.get_running_loop()
        self._awake = loop.create_task(self._stay_awake())
        self._storing = loop.create_task(self._store_what_is_yielded())
        _storing.add(self._storing)
        self._storing.add_done_callback(_storing.discard)
        self._reading = threading.Thread(target=self._listen, args=(port, loop), name="waldhorn-listen", daemon=True)
        self._reading.start()
        self._flush()
        with contextlib.suppress(TimeoutError):  # a serial port may have said its greeting before we listened
            await asyncio.wait_for(self._greeted.wait(), GREETING_S)

    async def close(self) -> None:
        """Stop the motor and let go of the instrument; what waits for the store goes on waiting."""
        if self.control and self.state.connected:
            self.stop()
        self._leaving.set()
        if self._reading:
            await asyncio.to_thread(self._reading.join)
            self._flush()
        if self._awake:
            self._awake.cancel()
            self._waiting.put_nowait(None)
        self._awake = self._reading = None

    async def finish(self) -> None:
        """Close, and give up what could not be stored even now."""
        await self.close()
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(self._waiting.join(), LAST_TRY_S)
        if self._storing:
            self._storing.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._storing

    def subscribe(self, can_stop: bool = True) -> Backlog:
        """A queue that gets every event from now on, the standing first. Who only looks does not keep a motor running:
        it goes on while somebody watches who `can_stop` it."""
        queue = Backlog()
        queue.can_stop = can_stop
        self.listeners.add(queue)
        self._seen = time.monotonic() if can_stop else self._seen
        queue.put_nowait(self._standing() | {"trace": list(self.trace)})
        return queue

    def unsubscribe(self, queue: Backlog) -> None:
        """A browser has gone."""
        self.listeners.discard(queue)
        self._seen = time.monotonic() if queue.can_stop else self._seen

    def go_to(self, pct: float) -> None:
        """Go to a throttle setting in percent; raises InputError with what would be right."""
        self._ask(lambda control, now: control.go_to(pct, now))

    def stop(self) -> None:
        """Stop the motor at once."""
        if self.control:
            self._ask(lambda control, now: control.stop(now))

    def release(self) -> None:
        """Let go of a motor that turns, and follow it until it stands; raises InputError."""
        self._ask(lambda control, now: control.release(now))

    def sweep(self) -> None:
        """Start the timing sweep; raises InputError."""
        self._ask(lambda control, now: control.sweep(now))

    def take_again(self) -> None:
        """Let the present setting be captured once more."""
        self._ask(lambda control, now: control.take_again())

    def keep_within(self, envelope: SafetyEnvelope) -> None:
        """Another envelope, when what is known of the motor has changed."""
        self._ask(lambda control, now: control.keep_within(envelope))

    def _ask(self, what: Callable[[RunControl, float], None]) -> None:
        control = self.control or RunControl(self.envelope, None, 0.0)
        with self._lock:
            what(control, time.monotonic())
            self._send_what_is_due()
        self._flush()

    # in the thread that reads

    def _listen(self, port: Port, loop: asyncio.AbstractEventLoop) -> None:
        """Read until told to leave, or until the instrument is gone. Whatever ends it is said, and the port closed."""
        why = ""
        try:
            self._read(port, loop)
        except Gone:
            pass
        except Exception as error:  # the listener must never die unheard
            _log.exception("the listener of %s died", self.where)
            why = f"{type(error).__name__}: {error}"
        with self._lock:
            if self.control:
                self.control.lost(why, time.monotonic())
        port.close()
        with contextlib.suppress(RuntimeError):  # the loop is closed: the server has stopped
            loop.call_soon_threadsafe(self._flush)

    def _read(self, port: Port, loop: asyncio.AbstractEventLoop) -> None:
        splitter, allowed = LineSplitter(), Allowance(time.monotonic())
        read = Reader(self.line_format).read if self.line_format else line_protocol.read
        while not self._leaving.is_set():
            came = port.read()
            told = allowed.of(splitter.split(came), time.monotonic())
            if told:
                with self._lock:
                    for line in told:
                        self._hear(line, read(line))
                    self._send_what_is_due()
                loop.call_soon_threadsafe(self._flush)
            time.sleep(BREATH_S)

    def _hear(self, line: bytes, message: line_protocol.Message) -> None:
        """One line; a page is shown samples at a bounded rate."""
        self.recording.append(line)
        if self.control is None:
            return
        now = time.monotonic()
        self.control.heard(message, now)
        if isinstance(message, line_protocol.Sample) and now - self._shown_at >= SHOWN_S and self.control.last:
            self._shown_at = now
            self._fresh.append(_event(self.control.last))

    def _send_what_is_due(self) -> None:
        commands = self.control.commands if self.control else deque()
        while commands:
            command = commands.popleft()
            if self._port:
                self._port.send(line_protocol.write(**command))

    # in the loop

    def _flush(self) -> None:
        """Show what came, hand on what was yielded, say how it stands where that has changed."""
        if self.control is None:
            return
        with self._lock:
            fresh, self._fresh = self._fresh, []
            found, self.control.found = self.control.found, []
        for sample in fresh:
            self.trace.append(sample)
            self._publish(sample | {"at": time.time() * 1000})
        for heard in found:
            self.state.waiting += 1
            self._waiting.put_nowait(heard)
        if self.state.connected:
            self._greeted.set()
        elif self.state.phase is Phase.GONE and self._greeted.is_set():
            self.over_since = time.monotonic()
        self._say_how_it_stands()

    def _standing(self) -> Event:
        return {"kind": "state", **self.state.shown()}

    def _say_how_it_stands(self) -> None:
        standing, now = self._standing(), time.monotonic()
        counted = ("unread", "last_unread")
        same = all(standing[n] == self._told.get(n) for n in standing if n not in counted)
        if same and (now - self._told_at < TOLD_S or standing == self._told):
            return
        self._told, self._told_at = standing, now
        self._publish(standing)

    def _publish(self, event: Event) -> None:
        for queue in self.listeners:
            queue.put_nowait(event)

    async def _stay_awake(self) -> None:
        """Let the time pass for whatever is connected."""
        while True:
            await asyncio.sleep(AWAKE_S)
            self._ask(lambda control, now: control.tick(now, 0.0 if self.is_watched else now - self._seen))

    async def _store_what_is_yielded(self) -> None:
        """One after the other, for as long as it takes; only the store is waited for."""
        while heard := await self._waiting.get():
            words = await self._stored(heard)
            self.state.waiting -= 1
            if isinstance(heard, Captured) and heard.pct != self.state.pct and self.state.words != self._not_stored:
                words = f"{words} {self.state.words}"  # a stop meanwhile stays said
            self.state.words = words
            self._publish({"kind": "took", "words": words, "alarm": isinstance(heard, Tripped | line_protocol.Trouble)})
            self._say_how_it_stands()
            self._waiting.task_done()
        self._waiting.task_done()

    async def _stored(self, heard: Heard) -> str:
        while True:
            try:
                return await asyncio.to_thread(self.take, heard)
            except NotStored as error:
                self._not_stored = f"{self.state.waiting} captured, not stored yet: {error} It is tried again."
                self.state.words = self._not_stored
                self._say_how_it_stands()
                await asyncio.sleep(AGAIN_S)
            except Exception as error:  # one that cannot be stored must not hold up the next
                _log.exception("what was captured could not be stored")
                return f"Captured, but it could not be stored: {type(error).__name__}. Take it again."


def _event(sample: line_protocol.Sample) -> Event:
    """A sample as a page is sent it."""
    told = asdict(sample)
    return {
        "kind": "sample",
        "v": told.pop("volts"),
        "a": told.pop("amps"),
        "c": told.pop("motor_c"),
        "db": told.pop("sound_db"),
        **told,
    }
