"""A real server on a copy of the demo, and a headless Chromium to use it with."""

import asyncio
import re
import socket
import sqlite3
import threading
import time
from collections.abc import Callable, Coroutine, Iterator
from contextlib import closing
from functools import cache
from pathlib import Path
from typing import Any

import argon2
import pytest
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import (
    Browser,
    BrowserContext,
    ConsoleMessage,
    Error,
    Page,
    ViewportSize,
    expect,
    sync_playwright,
)

from screens import CHROMIUM, DESK, FLAGS, HAND
from waldhorn.instruments import run_control
from waldhorn.pit.judging import view_cache
from waldhorn.pit.settings import seats as pit
from waldhorn.simulator import analyser
from waldhorn.store import seats
from waldhorn.store.engine import Store, open_store
from waldhorn.store.seats import Role
from waldhorn.web.app import create_app
from waldhorn.web.common.pages import now

# How long a busy machine may take to do what a quiet one does at once; only a failing test waits for it.
PATIENCE_MS = 60_000
expect.set_options(timeout=PATIENCE_MS)

OUTSIDE = "127.0.0.2"  # where others reach the pit
PHRASES = {role: f"the {role} of this pit" for role in Role}

# A refused form (422) is an answer; a draft overtaken by the next key is aborted; one test takes the server away.
EXPECTED = re.compile(r"422|503|htmx:(afterRequest|sendAbort|sendError)|ERR_FAILED")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """A test in the browser is tried once more, and the summary says so: where others take the processor for seconds,
    its clocks run away from a page. What is wrong is wrong twice."""
    for item in items:
        if item.path.parent == Path(__file__).parent:
            item.add_marker(pytest.mark.flaky(reruns=1))


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    """One Chromium for all tests."""
    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield chromium
        chromium.close()


@pytest.fixture(scope="session")
def serving(demo_file: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Store, str, FastAPI]]:
    """One server for all tests of a worker: its store, its address, its application. Its live runs wait for a busy
    machine; how they stop a motor on silence is tested without a browser."""
    patience = pytest.MonkeyPatch()
    for module, name in ((run_control, "SILENT_S"), (run_control, "ALONE_S"), (analyser, "SILENCE_S")):
        patience.setattr(module, name, 30.0)
    store = open_store(tmp_path_factory.mktemp("served") / "demo.db")
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    app = create_app(store, speed=2.5)
    app.state.opening.port = port
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="warning", timeout_graceful_shutdown=1))
    thread = threading.Thread(target=server.run)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    yield store, f"http://127.0.0.1:{port}", app
    app.state.presence.closing.set()
    server.should_exit = True
    thread.join()
    store.close()
    patience.undo()


@pytest.fixture(scope="session")
def served(serving: tuple[Store, str, FastAPI]) -> tuple[Store, str]:
    """Its store and its address."""
    return serving[:2]


@pytest.fixture
def demo_store(demo_file: Path, served: tuple[Store, str]) -> Store:
    """The server's store, with the demo season in it anew."""
    with closing(sqlite3.connect(demo_file)) as fresh, closing(sqlite3.connect(served[0].engine.url.database)) as used:
        fresh.backup(used)
    view_cache.kept.clear()  # another store under the same server: its count of changes begins anew
    return served[0]


@pytest.fixture
def address(demo_store: Store, served: tuple[Store, str]) -> str:
    """The address of a server on a copy of the demo."""
    return served[1]


@pytest.fixture(scope="session")
def tabs(browser: Browser, served: tuple[Store, str]) -> Callable[..., Page]:
    """A tab of each size, used by one test after the other: a new one would load every script and font anew."""

    @cache
    def tab(**how: Any) -> Page:
        width, height = how.pop("size")
        viewport: ViewportSize = {"width": width, "height": height}
        return _patient(browser.new_context(base_url=served[1], viewport=viewport, service_workers="block", **how))

    return tab


@pytest.fixture
def page(tabs: Callable[..., Page], address: str) -> Iterator[Page]:
    """A page at a desk's width that fails its test when the page complains."""
    yield from _used(tabs(size=tuple(DESK.values())))


@pytest.fixture
def phone(tabs: Callable[..., Page], address: str) -> Iterator[Page]:
    """A page in the hand, used by touch."""
    yield from _used(tabs(size=tuple(HAND.values()), has_touch=True, is_mobile=True))


@pytest.fixture
def own_page(browser: Browser, address: str) -> Iterator[Page]:
    """A page at a desk's width that nobody uses before or after: for tests that change its clock, its size or its
    medium."""
    context = browser.new_context(base_url=address, viewport=DESK, service_workers="block")
    yield from _used(_patient(context))
    context.close()


def _patient(context: BrowserContext) -> Page:
    context.set_default_timeout(PATIENCE_MS)
    return context.new_page()


def _used(tab: Page) -> Iterator[Page]:
    complaints: list[str] = []

    def threw(error: Error) -> None:
        complaints.append(str(error))

    def said(message: ConsoleMessage) -> None:
        if message.type == "error" and not EXPECTED.search(message.text):
            complaints.append(message.text)

    press = tab.keyboard.press

    def once_it_listens(key: str, **how: Any) -> None:
        """A key pressed while a page is still loading is lost, as it is for a person, who waits to see the page."""
        tab.wait_for_load_state()
        press(key, **how)

    tab.on("pageerror", threw)
    tab.on("console", said)
    tab.keyboard.press = once_it_listens  # type: ignore[method-assign]
    tab.bring_to_front()
    yield tab
    tab.keyboard.press = press  # type: ignore[method-assign]
    tab.unroute_all(behavior="ignoreErrors")  # the next test uses the same tab
    if tab.url.startswith("http"):
        tab.evaluate("localStorage.clear(); sessionStorage.clear()")
    tab.goto("about:blank")
    tab.context.clear_cookies()
    tab.remove_listener("pageerror", threw)
    tab.remove_listener("console", said)
    assert complaints == []


@pytest.fixture
def opened(serving: tuple[Store, str, FastAPI], demo_store: Store, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The pit, open to others: where they reach it."""
    _, address, app = serving
    monkeypatch.setattr(seats, "_hasher", lambda: argon2.PasswordHasher(1, 8, 1))
    with demo_store.writing() as session:
        for role, phrase in PHRASES.items():
            pit.set_passphrase(session, role, phrase, now())
    loop = app.state.presence.loop

    def there(what: Coroutine[Any, Any, None]) -> None:
        asyncio.run_coroutine_threadsafe(what, loop).result(30)

    there(app.state.opening.open(app, [OUTSIDE], None))
    yield address.replace("127.0.0.1", OUTSIDE)
    there(app.state.opening.shut())
    app.state.seated.forget()


@pytest.fixture
def others(browser: Browser, opened: str) -> Iterator[Callable[..., Page]]:
    """A device of somebody who joins by hand."""
    contexts: list[BrowserContext] = []

    def join(name: str, role: Role, size: ViewportSize = HAND, workers: Any = "block") -> Page:
        context = browser.new_context(base_url=opened, viewport=size, service_workers=workers)
        contexts.append(context)
        page = context.new_page()
        page.goto("/")
        page.get_by_label("your initials").fill(name)
        page.get_by_label("the passphrase").fill(PHRASES[role])
        page.keyboard.press("Enter")
        expect(page.locator("#rack")).to_be_visible()
        return page

    yield join
    for context in contexts:
        context.close()


@pytest.fixture
def with_devices(browser, served, demo_store):
    """A page of a browser that is given a camera and a microphone of these flags."""
    started = []

    def make(*flags):
        given = ["--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream", *flags]
        started.append(browser.browser_type.launch(executable_path=CHROMIUM, args=[*FLAGS, *given]))
        return started[-1].new_page(base_url=served[1], viewport=HAND)

    yield make
    for chromium in started:
        chromium.close()
