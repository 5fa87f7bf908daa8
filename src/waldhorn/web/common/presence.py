"""Who looks at what, and what is new: every open page has a stream, and hears on it what others did.

A page says at which state of the store it was drawn. Once something was done from another screen, or by another
program, it is told so, of which motors and checks, and asks for those of its parts that show them.
"""

import asyncio
import contextlib
import json
import re
from collections import Counter
from collections.abc import AsyncIterator, Iterable
from dataclasses import dataclass, field
from typing import Any, cast

from fastapi import Request
from starlette.concurrency import run_in_threadpool

from waldhorn.core.base.errors import StoreDown
from waldhorn.pit import news
from waldhorn.pit.settings import seats
from waldhorn.pit.settings.seats import Seat
from waldhorn.pit.writing import Store, Writing, read
from waldhorn.web.common.access import BENCH_SCREEN

MOST_STREAMS, MOST_OF_A_SEAT = 120, 12
POLL_S = 1.0  # how soon it is seen what another program stored
GATHER_S = 0.05  # a key stores several times: that is one change
BEAT_S = 10.0
MOST_WAITING = 64
TOLD = "x-told"  # of what is typed: it is said again because somebody else has typed there
OUT = "out"  # the last that a page is told
Event = dict[str, Any]
_ON_BENCH = re.compile(r"^/checks/([^/]+)")


class TooMany(Exception):
    """More pages are open at once than are kept in touch."""


@dataclass(eq=False)
class Screen:
    """An open page: a name it gave itself, who sits there, where it is, at which state of the store it was drawn, and
    what it has still to be told."""

    name: str
    seat: Seat
    path: str
    at: str
    queue: "asyncio.Queue[Event]" = field(default_factory=lambda: asyncio.Queue(MOST_WAITING))

    def tell(self, event: Event) -> None:
        """Say something to the page; one that does not listen any more asks anew when it does."""
        with contextlib.suppress(asyncio.QueueFull):
            self.queue.put_nowait(event)

    @property
    def on_bench(self) -> str:
        """The check it is at, empty where it is at none."""
        found = _ON_BENCH.match(self.path)
        return found[1] if found else ""


class Presence:
    """Every page that is open."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self.screens: list[Screen] = []
        self.closing = asyncio.Event()
        self._by: set[str] = set()
        self._woken = asyncio.Event()
        self._standing = self._last_change = ""
        self.loop: asyncio.AbstractEventLoop | None = None

    def start(self) -> asyncio.Task[None]:
        """Listen to the store, for as long as the application runs."""
        self.loop = asyncio.get_running_loop()
        self.store.on_commit.append(self._on_commit)
        return asyncio.create_task(self._tell_news())

    def close(self) -> None:
        """End every stream."""
        self.closing.set()
        with contextlib.suppress(ValueError):
            self.store.on_commit.remove(self._on_commit)

    async def enter(self, name: str, seat: Seat, path: str, drawn_at: str) -> Screen:
        """A page that listens from now on; raises TooMany."""
        of_seat = sum(s.seat.id == seat.id for s in self.screens)
        if len(self.screens) >= MOST_STREAMS or (seat.id and of_seat >= MOST_OF_A_SEAT):
            raise TooMany
        if not self._standing:
            await run_in_threadpool(self._news)
        screen = Screen(name, seat, path, drawn_at)
        self.screens.append(screen)
        standing = await run_in_threadpool(self.standing)
        if drawn_at != standing:
            screen.at = standing
            screen.tell({"kind": "changed", "all": True, "at": standing})
        self._tell_who_is_here(screen.on_bench)
        return screen

    def leave(self, screen: Screen) -> None:
        """A page that is closed."""
        if screen in self.screens:
            self.screens.remove(screen)
            self._tell_who_is_here(screen.on_bench)

    async def events(self, screen: Screen) -> AsyncIterator[bytes]:
        """What a page is told, as server-sent events."""
        closing = asyncio.ensure_future(self.closing.wait())
        coming = asyncio.ensure_future(screen.queue.get())
        try:
            while not self.closing.is_set():
                await asyncio.wait({coming, closing}, timeout=BEAT_S, return_when=asyncio.FIRST_COMPLETED)
                if not coming.done():
                    if not closing.done():
                        yield b": still here\n\n"
                    continue
                event, coming = coming.result(), asyncio.ensure_future(screen.queue.get())
                yield b"data: " + json.dumps(event).encode() + b"\n\n"
                if event["kind"] == OUT:
                    break
        finally:
            closing.cancel()
            coming.cancel()
            self.leave(screen)

    def send(self, to: Iterable[Screen], path: str, by: Seat) -> int:
        """Ask pages to open another place; returns how many were asked."""
        asked = list(to)
        for screen in asked:
            screen.tell({"kind": "open", "path": path, "who": by.name or BENCH_SCREEN})
        return len(asked)

    def both_typed(self, check_id: str, by_screen: str) -> None:
        """Have the pages at a check, but the one it was typed on, say again what is typed there, and be shown both
        values; from any thread."""

        def tell() -> None:
            for screen in self.screens:
                if screen.on_bench == check_id and screen.name != by_screen:
                    screen.tell({"kind": "typed"})

        if self.loop:
            self.loop.call_soon_threadsafe(tell)

    def seated_at(self, seat_id: str) -> list[Screen]:
        """The pages that are open at a seat; none named is the machine itself."""
        return [s for s in self.screens if s.seat.id == seat_id]

    def put_out(self, seat_id: str) -> None:
        """Show nothing more to a seat that was taken away."""
        for screen in self.seated_at(seat_id):
            while not screen.queue.empty():
                screen.queue.get_nowait()
            screen.tell({"kind": OUT})

    def standing(self) -> str:
        """How the store stands now, see `pit.news.standing`; nothing where it cannot be read."""
        with contextlib.suppress(StoreDown):
            return read(self.store, news.standing)
        return ""

    def _tell_who_is_here(self, check_id: str) -> None:
        if not check_id:
            return
        here = [s for s in self.screens if s.on_bench == check_id]
        for screen in here:
            others = Counter(s.seat.name or BENCH_SCREEN for s in here if s.seat.id != screen.seat.id)
            screen.tell({"kind": "here", "who": sorted(others)})

    def _on_commit(self, by: Writing) -> None:
        if self.loop and not self.loop.is_closed():
            self.loop.call_soon_threadsafe(self._wake, by.screen)

    def _wake(self, screen: str) -> None:
        self._by.add(screen)
        self._woken.set()

    async def _tell_news(self) -> None:
        while not self.closing.is_set():
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._woken.wait(), POLL_S)
                await asyncio.sleep(GATHER_S)
            self._woken.clear()
            by, self._by = self._by, set()
            if not self.screens:
                self._standing = ""  # nobody looks: what there is then is read when somebody does
                continue
            with contextlib.suppress(Exception):  # a store that is down is said by what asks it
                event = await run_in_threadpool(self._news)
                if event is not None:
                    self._tell(event, by)
                await self.put_out_who_is_gone()

    async def put_out_who_is_gone(self) -> None:
        """Show nothing more to seats that were taken away, also by another program: a passphrase set anew does it."""
        seated = {s.seat.id for s in self.screens if s.seat.id}
        if seated:
            for seat_id in await run_in_threadpool(read, self.store, seats.put_out_among, seated):
                self.put_out(seat_id)

    def _tell(self, event: Event, by: set[str]) -> None:
        for screen in self.screens:
            if screen.at == event["at"]:
                continue
            screen.at = event["at"]
            own = by == {screen.name}
            screen.tell({"kind": "seen", "at": event["at"]} if own else event)

    def _news(self) -> Event | None:
        """What is new since this was asked last, as pages are told it."""
        found = read(self.store, news.since, self._standing, self._last_change)
        if found is None:
            return None
        self._standing, self._last_change = found.at, found.last
        told: Event = vars(found) | {"kind": "changed", "all": found.of_all}
        return {name: told[name] for name in ("kind", "at", "all", "checks", "tags", "who", "did")}


def presence_of(request: Request) -> Presence:
    """The open pages of the application that serves a request."""
    return cast(Presence, request.app.state.presence)
