"""Who asks, and what that one may do: on the machine itself everything, from another device what its seat allows.

The pit listens on the loopback address for the machine it runs on, and on addresses of the local network where it was
opened. By which of them a request came in says whether it needs a seat.
"""

import time
from collections import OrderedDict
from dataclasses import dataclass, field
from http.cookies import CookieError, SimpleCookie
from urllib.parse import quote, unquote

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.requests import Request
from starlette.responses import JSONResponse, PlainTextResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from waldhorn.core.base.errors import InputError
from waldhorn.pit.settings import keys, seats
from waldhorn.pit.settings.seats import Role, Seat, name_of
from waldhorn.pit.writing import Store, read
from waldhorn.web.common.rates import Rates, Tries

THIS_MACHINE = ("127.0.0.1", "localhost", "::1")  # what the machine itself is reached at
SEAT_COOKIE = "waldhorn_seat"
SCREEN = "x-screen"  # which open page of a device asks, as the page says
LONGEST_SCREEN = 40
TYPED_BY = "x-typed-by"  # who typed what a device sends later, percent-encoded
BENCH_SCREEN = "the bench screen"  # the machine that serves the pit
JOIN, LEAVE = "/join", "/leave"
KEEPERS_OWN = ("/settings",)  # what only a keeper changes, with all below it
API = "/api/"
SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
REMEMBERED_S = 2.0  # how long a seat is taken as it was read: the store may be changed by a command too
MOST_REMEMBERED = 256


@dataclass
class Limits:
    """How often others may ask: by seat, by address before there is one, for what lies beside the pages, with a cookie
    that has to be looked up; and how many wrong passphrases each address has tried."""

    seats: Rates = field(default_factory=lambda: Rates(40.0, 400))
    strangers: Rates = field(default_factory=lambda: Rates(2.0, 40))
    files: Rates = field(default_factory=lambda: Rates(40.0, 400))
    unread: Rates = field(default_factory=lambda: Rates(10.0, 100))
    tries: Tries = field(default_factory=Tries)


class Seated:
    """The seats that asked lately, as the store holds them."""

    def __init__(self, store: Store) -> None:
        self.store = store
        self._known: OrderedDict[str, tuple[Seat, float]] = OrderedDict()

    def known(self, cookie: str) -> Seat | None:
        """The seat of a cookie where it was read a moment ago."""
        seat, until = self._known.get(cookie, (None, 0.0))
        return seat if until > time.monotonic() else None

    def read(self, cookie: str) -> Seat | None:
        """The seat of a cookie, where it was made here and stands."""
        found = read(self.store, seats.of_cookie, cookie)
        if found:
            self._known[cookie] = (found, time.monotonic() + REMEMBERED_S)
            while len(self._known) > MOST_REMEMBERED:
                self._known.popitem(last=False)
        return found

    def forget(self) -> None:
        """Read every seat anew: one was put out."""
        self._known.clear()


class Access:
    """ASGI middleware: knows who asks, and refuses what that one may not do."""

    def __init__(self, app: ASGIApp, seated: Seated, limits: Limits) -> None:
        self.app, self.seated, self.limits = app, seated, limits

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on with `seat` in its state, or refuse it."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if is_own_machine(scope):
            seat: Seat | None = Seat("", str(scope["app"].state.pit.signer), Role.KEEPER)
            refusal = None
        else:
            seat = await self._seat(scope, headers)
            refusal = self._too_often(scope, seat) or await self._refusal(scope, headers, seat)
        if refusal is not None:
            await refusal(scope, receive, send)
            return
        scope.setdefault("state", {})["seat"] = seat
        await self.app(scope, receive, send)

    async def _seat(self, scope: Scope, headers: Headers) -> Seat | None:
        cookie = _cookie(headers)
        if not cookie or scope["path"].startswith("/static/"):
            return None
        if known := self.seated.known(cookie):
            return known
        if self.limits.unread.wait_s(_client(scope)):
            return None
        return await run_in_threadpool(self.seated.read, cookie)

    def _too_often(self, scope: Scope, seat: Seat | None) -> Response | None:
        rates = self.limits.files if scope["path"].startswith("/static/") else self.limits.strangers
        wait = self.limits.seats.wait_s(seat.id) if seat else rates.wait_s(_client(scope))
        if not wait:
            return None
        after = {"Retry-After": str(int(wait) + 1)}
        return PlainTextResponse("This is too often. It goes on in a moment.", 429, after)

    async def _refusal(self, scope: Scope, headers: Headers, seat: Seat | None) -> Response | None:
        path, changes = scope["path"], scope["method"] not in SAFE
        if path.startswith("/static/") or path in (JOIN, LEAVE):
            return None
        if seat is None:
            return await self._join_first(scope, headers)
        if changes and not seat.may_change:
            return _said(path, 403, "This seat looks and changes nothing. Join as a technician to do that.")
        if changes and seat.role is not Role.KEEPER and _is_within(path, KEEPERS_OWN):
            return _said(path, 403, "Only a keeper changes the settings, keys and seats of this pit.")
        return None

    async def _join_first(self, scope: Scope, headers: Headers) -> Response | None:
        path = scope["path"]
        if path.startswith(API):
            scheme, _, key = headers.get("authorization", "").partition(" ")
            if scheme.lower() == "bearer" and await run_in_threadpool(
                read, self.seated.store, keys.is_good, key.strip()
            ):
                return None
            return _said(path, 401, "from another device this needs a key, or a seat: join first")
        if scope["method"] == "GET" and headers.get("hx-request") != "true":
            back = Request(scope).url.path + (f"?{scope['query_string'].decode()}" if scope["query_string"] else "")
            return RedirectResponse(f"{JOIN}?back={quote(back, safe='')}", 303)
        return PlainTextResponse("This device has no seat here any more. Join again; what you typed is kept.", 401)


def writer_of(request: Request) -> str:
    """Who did it: who sits there, or who typed it while nothing could be sent, and who sent it then."""
    seat = seat_of(request)
    try:
        typed_by = name_of(unquote(request.headers.get(TYPED_BY, "")))
    except InputError:
        return seat.name
    return seat.name if typed_by == seat.name else f"{typed_by}, sent by {seat.name or BENCH_SCREEN}"


def is_own_machine(scope: Scope) -> bool:
    """Whether a request came in on the loopback address, which nobody but this machine reaches."""
    at, _ = scope.get("server") or ("", None)
    return at in THIS_MACHINE


def screen_of(request: Request) -> str:
    """Which open page of a device asks; empty where none says so."""
    return request.headers.get(SCREEN, "")[:LONGEST_SCREEN]


def seat_of(request: Request) -> Seat:
    """Who asks; nobody yet on the page where one joins."""
    return getattr(request.state, "seat", None) or Seat("", "", Role.LOOK)


def _cookie(headers: Headers) -> str:
    try:
        morsel = SimpleCookie(headers.get("cookie", "")).get(SEAT_COOKIE)
    except CookieError:
        return ""
    return morsel.value if morsel else ""


def _client(scope: Scope) -> str:
    address, _ = scope.get("client") or ("", None)
    return str(address)


def _is_within(path: str, places: tuple[str, ...]) -> bool:
    return any(path == place or path.startswith(f"{place}/") for place in places)


def _said(path: str, status: int, words: str) -> Response:
    if path.startswith(API):
        return JSONResponse([{"where": "Authorization", "says": words}], status)
    return PlainTextResponse(words, status)
