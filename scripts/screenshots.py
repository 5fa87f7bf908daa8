"""Takes the pictures of docs/screenshots/ from the demo data. `make screenshots` takes all, or those named."""

import socket
import sys
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

import uvicorn
from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tests"))

from screens import CHROMIUM, DESK, FLAGS, HAND  # noqa: E402 -- the tests' folder is not a package
from waldhorn.pit import demo  # noqa: E402
from waldhorn.store.engine import open_store  # noqa: E402
from waldhorn.web.app import create_app  # noqa: E402


def _bench(page: Page) -> None:
    page.goto("/motors/VS-07")
    page.get_by_role("button", name="Back to the bench").click()
    page.wait_for_selector("#bench")


def _typing(page: Page) -> None:
    _bench(page)
    for name, text in (("volts", "7.38"), ("amps", "2.71"), ("rpm", "25 320")):
        page.locator(f"#{name}").fill(text)
    page.wait_for_selector("#meaning tr.typed")
    page.wait_for_timeout(400)


def _at(path: str) -> Callable[[Page], None]:
    return lambda page: page.goto(path) and None


VIEWS: dict[str, tuple[Callable[[Page], None], dict[str, int], str]] = {
    "rack": (_at("/"), DESK, "light"),
    "motor": (_at("/motors/VS-11"), DESK, "light"),
    "bench": (_typing, DESK, "light"),
    "bench-night": (_typing, DESK, "dark"),
    "bench-in-the-hand": (_typing, HAND, "light"),
    "take-in": (_at("/motors/new"), DESK, "light"),
}


@contextmanager
def demo_server() -> Iterator[str]:
    """A server on fresh demo data; its address."""
    with tempfile.TemporaryDirectory() as folder:
        store = open_store(Path(folder) / "demo.db")
        with store.writing() as session:
            demo.fill(session, datetime.now().astimezone())
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        server = uvicorn.Server(
            uvicorn.Config(create_app(store), port=port, log_level="warning", timeout_graceful_shutdown=1)
        )
        thread = threading.Thread(target=server.run)
        thread.start()
        while not server.started:
            time.sleep(0.01)
        try:
            yield f"http://127.0.0.1:{port}"
        finally:
            server.should_exit = True
            thread.join()
            store.close()


def main() -> None:
    """Take the pictures."""
    wanted = sys.argv[1:] or list(VIEWS)
    with demo_server() as address, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        for name in wanted:
            go, size, scheme = VIEWS[name]
            context = browser.new_context(base_url=address, viewport=size, color_scheme=scheme, reduced_motion="reduce")
            page = context.new_page()
            go(page)
            page.screenshot(path=ROOT / f"docs/screenshots/{name}.png")
            context.close()
        browser.close()


if __name__ == "__main__":
    main()
