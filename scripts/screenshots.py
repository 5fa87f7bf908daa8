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
from waldhorn.pit.settings import certificate  # noqa: E402
from waldhorn.store.engine import open_store  # noqa: E402
from waldhorn.web.app import create_app  # noqa: E402
from waldhorn.web.opening import Opening  # noqa: E402


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


def _step(step: str, **typed: str) -> Callable[[Page], None]:
    """A step of the run with something typed."""

    def go(page: Page) -> None:
        _bench(page)
        page.goto(f"{page.url.split('?')[0]}?step={step}")
        for name, text in typed.items():
            page.locator(f"#{name}").fill(text)
        page.wait_for_timeout(900)

    return go


def _live(page: Page) -> None:
    """A hidden fault, found live."""
    page.goto("/motors/PB-2")
    page.keyboard.press("c")
    page.locator("#ambient_c").fill("22")
    page.get_by_role("button", name="Go on").click()
    page.wait_for_selector("#bench[data-step=look]")
    page.goto(f"{page.url.split('?')[0]}/live")
    page.keyboard.press("y")
    page.wait_for_selector("button:has-text('Off, clamped')", state="detached")
    page.keyboard.press("i")
    page.wait_for_selector("#live-words:has-text('is ready')")
    for percent in (15, 30, 50, 100):
        page.keyboard.press("n")
        page.wait_for_selector(f"#live-words:has-text('{percent} % captured')")
    page.wait_for_timeout(700)


def _limits(page: Page) -> None:
    """What other limits would change."""
    page.goto("/limits?class=one-design")
    for name in ("noise_avg", "no_load_current", "friction", "speed_ripple"):
        page.locator(f"[name=act-{name}]").fill("900")
    page.wait_for_selector("#what-if strong")
    page.wait_for_timeout(1500)


def _machine(page: Page) -> None:
    """Four motors of one machine, one of which shakes."""
    page.goto("/machines/camera drone")
    for place, text in enumerate(("1", "4.5", "1", "1.5")):
        page.locator(".big input").nth(place).fill(text)
    page.wait_for_timeout(700)


def _bring_in(page: Page) -> None:
    """A sheet of somebody's own, mapped."""
    page.goto("/bring-in")
    page.locator("#files").set_input_files(ROOT / "src/waldhorn/web/static/sample-sheet.csv")
    page.get_by_role("button", name="Look at them").click()
    page.wait_for_selector("text=This mapping as a file")


def _instrument(page: Page) -> None:
    """Lines of an instrument, and how they are read."""
    page.goto("/instruments")
    page.locator("#lines").fill("ms;upm;volts;amps\n0;25120;7,38;2,31\n50;25090;7,38;2,30\n100;25110;7,37;2,32")
    page.get_by_role("button", name="See what that makes of them").click()
    page.wait_for_selector("h2:has-text('understood')")


VIEWS: dict[str, tuple[Callable[[Page], None], dict[str, int], str]] = {
    "rack": (_at("/"), DESK, "light"),
    "motor": (_at("/motors/VS-11"), DESK, "light"),
    "bench": (_typing, DESK, "light"),
    "bench-night": (_typing, DESK, "dark"),
    "bench-in-the-hand": (_typing, HAND, "light"),
    "loads": (_at("/compare?tags=VS-20,VS-28"), DESK, "light"),
    "book": (_at("/motors/VS-01/book"), DESK, "light"),
    "timing": (_step("timing", a="27.8", b="31.4", c="28.1"), DESK, "light"),
    "live": (_live, DESK, "light"),
    "limits": (_limits, DESK, "light"),
    "machine": (_machine, DESK, "light"),
    "take-in": (_at("/motors/new"), DESK, "light"),
    "rig": (_at("/rigs/green%20bench"), DESK, "light"),
    "join": (_at("/join"), DESK, "light"),
    "bring-in": (_bring_in, DESK, "light"),
    "predict": (_at("/motors/VS-01/predict?volts=7.6"), DESK, "light"),
    "report": (_at("/motors/VS-11/paper/report"), DESK, "light"),
    "instruments": (_instrument, DESK, "light"),
    "between": (_at("/compare?tags=VS-01,VS-03,VS-04,VS-08&take=2"), DESK, "light"),
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
        app = create_app(store)
        # As if it were open to a network of its own: what others scan is drawn, and nothing is listened on.
        made = certificate.of_pit(Path(folder) / "demo.db", ["192.168.1.20"], datetime.now().astimezone())
        app.state.opening = Opening(port=8700, certificate=made, addresses=("192.168.1.20",))
        server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="warning", timeout_graceful_shutdown=1))
        thread = threading.Thread(target=server.run)
        thread.start()
        while not server.started:
            time.sleep(0.01)
        try:
            yield f"http://127.0.0.1:{port}"
        finally:
            app.state.presence.closing.set()
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
