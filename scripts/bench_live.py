"""The live run measured: from line received to picture on the screen, whether an hour of streaming stays small, and
whether STOP and the pages stay quick beside an instrument that says thousands of lines a second."""

import json
import re
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx2 as httpx
from playwright.sync_api import sync_playwright

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT / "tests"))

from screens import CHROMIUM, DESK, FLAGS  # noqa: E402 -- the tests' folder is not a package
from waldhorn.core.base.history import Motor  # noqa: E402
from waldhorn.store import motors  # noqa: E402
from waldhorn.store.engine import open_store  # noqa: E402

WATCHED_S = 20
STREAMED_S, SPEED = 180, 20  # an hour of the stream's own time
WARM_UP_S = 20
FLOODS = (1_000, 5_000, 10_000)  # lines a second
FLOODED_S = 8
STOP_MS, PAGE_TIMES = 100, 3


def free_port() -> int:
    """A port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def running(*args: str) -> Iterator[subprocess.Popen[bytes]]:
    """A waldhorn command in the background."""
    process = subprocess.Popen([sys.executable, "-m", "waldhorn.cli", *args], stdout=subprocess.DEVNULL)
    try:
        yield process
    finally:
        process.terminate()
        process.wait()


def megabytes(pid: int) -> float:
    """Memory a process has resident."""
    found = re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{pid}/status").read_text())
    return int(found[1]) / 1024 if found else 0.0


def open_live(client: httpx.Client, instrument: int) -> str:
    """Open a check on the one motor, connect the instrument, confirm the caution; returns the live page."""
    for _ in range(200):
        try:
            token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/motors/B-1").text)
            break
        except httpx.TransportError:
            time.sleep(0.05)
    client.headers["X-CSRF-Token"] = token[1] if token else ""
    check = client.post("/motors/B-1/checks").headers["location"].split("?")[0]
    client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
    client.post(f"{check}/live/caution")
    for _ in range(100):
        if client.post(f"{check}/live/connect", data={"instrument": f"127.0.0.1:{instrument}"}).status_code == 303:
            return f"{check}/live"
        time.sleep(0.1)
    raise RuntimeError("the instrument did not answer")


def delays(address: str, live: str) -> list[float]:
    """Milliseconds from line received to picture drawn, in two browsers at once."""
    found: list[float] = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        pages = [browser.new_context(base_url=address, viewport=DESK).new_page() for _ in range(2)]
        for page in pages:
            page.goto(live)
        pages[0].keyboard.press("1")
        pages[0].wait_for_timeout(WATCHED_S * 1000)
        for page in pages:
            found += page.evaluate("window.liveDelays.slice(20)")
        browser.close()
    return found


@contextmanager
def listening(client: httpx.Client, live: str) -> Iterator[None]:
    """Somebody watches the run meanwhile."""
    stop = threading.Event()

    def listen() -> None:
        with client.stream("GET", f"{live}/stream", timeout=30) as answer:
            for _ in answer.iter_raw():
                if stop.is_set():
                    return

    listener = threading.Thread(target=listen, daemon=True)
    listener.start()
    try:
        yield
    finally:
        stop.set()
        listener.join(5)


def grown(client: httpx.Client, live: str, pid: int) -> float:
    """Megabytes the server grew by over an hour of the stream, one browser listening."""
    with listening(client, live):
        time.sleep(WARM_UP_S)
        before = megabytes(pid)
        time.sleep(STREAMED_S)
        return megabytes(pid) - before


class Flood:
    """An instrument that says so many lines a second, and remembers when it was told to stop."""

    def __init__(self, rate_hz: int) -> None:
        self.rate_hz, self.pct, self.told_to_stop = rate_hz, 0.0, 0.0
        self.server = socket.create_server(("127.0.0.1", 0))
        self.port = self.server.getsockname()[1]
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        host, _ = self.server.accept()
        threading.Thread(target=self._obey, args=(host,), daemon=True).start()
        hello = {"hello": "waldhorn-bench", "version": 2, "name": "flood", "max_v": 9, "max_a": 20}
        started, said = time.monotonic(), 0
        try:
            host.sendall(json.dumps(hello).encode() + b"\n")
            while True:
                due = int((time.monotonic() - started) * self.rate_hz)
                tail = f', "pct": {self.pct:g}, "v": 7.4, "a": 2.1, "rpm": {3000 if self.pct else 0}, "c": 30}}\n'
                host.sendall("".join(f'{{"t": {i / self.rate_hz:.4f}{tail}' for i in range(said, due)).encode())
                said = due
                time.sleep(0.005)
        except OSError:
            return

    def _obey(self, host: socket.socket) -> None:
        with host.makefile("rb") as told:
            for line in told:
                command = json.loads(line)
                if command["cmd"] == "throttle":
                    self.pct = command["pct"]
                elif command["cmd"] == "stop":
                    self.pct, self.told_to_stop = 0.0, self.told_to_stop or time.monotonic()


def flood_here(rate_hz: int) -> None:
    """Serve a flood and print when it was told to stop: the clock is the machine's, the same for every process."""
    flood = Flood(rate_hz)
    print(flood.port, flush=True)
    while not flood.told_to_stop:
        time.sleep(0.001)
    print(flood.told_to_stop, flush=True)


def median_ms(client: httpx.Client, page: str, seconds: float) -> float:
    """Milliseconds a page takes at the middle, asked again and again for so long."""
    found, end = [], time.monotonic() + seconds
    while time.monotonic() < end:
        start = time.monotonic()
        client.get(page).raise_for_status()
        found.append((time.monotonic() - start) * 1000)
        time.sleep(0.02)
    return sorted(found)[len(found) // 2]


def beside_a_flood(client: httpx.Client, rate_hz: int, idle_ms: float) -> str:
    """How late STOP reaches the instrument and what a page takes, beside so many lines a second."""
    here = [sys.executable, __file__, "flood", str(rate_hz)]
    with subprocess.Popen(here, stdout=subprocess.PIPE, text=True) as process:
        try:
            live = open_live(client, int(process.stdout.readline()))
            with listening(client, live):
                if client.post(f"{live}/do", data={"what": "throttle", "pct": "15"}).status_code != 204:
                    raise RuntimeError("it does not run")
                page_ms = median_ms(client, "/motors/B-1", FLOODED_S)
                asked = time.monotonic()
                client.post(f"{live}/do", data={"what": "stop"})
            late_ms = (float(process.stdout.readline()) - asked) * 1000
            client.post(f"{live}/do", data={"what": "disconnect"})
        finally:
            process.kill()
    met = "met" if late_ms < STOP_MS and page_ms < PAGE_TIMES * idle_ms else "NOT met"
    return (
        f"beside {rate_hz} lines/s: STOP after {late_ms:.0f} ms (aim {STOP_MS}), a page {page_ms / idle_ms:.1f}x idle"
        f" (aim {PAGE_TIMES})  {met}"
    )


def main() -> None:
    """Measure and print both."""
    with tempfile.TemporaryDirectory() as folder:
        db = Path(folder) / "pit.db"
        store = open_store(db)
        with store.writing() as session:
            motors.add(session, [Motor("B-1", label_kv=3450, poles=4)])
        store.close()
        slow, fast, port = free_port(), free_port(), free_port()
        with (
            running("bench", "--port", str(slow)),
            running("bench", "--speed", str(SPEED), "--port", str(fast)),
            running("serve", "--db", str(db), "--port", str(port)) as server,
        ):
            address = f"http://127.0.0.1:{port}"
            with httpx.Client(base_url=address, follow_redirects=False, timeout=30) as client:
                live = open_live(client, slow)
                client.post(f"{live}/do", data={"what": "disconnect"})
                idle_ms = median_ms(client, "/motors/B-1", FLOODED_S / 2)
                for rate_hz in FLOODS:
                    print(beside_a_flood(client, rate_hz, idle_ms), flush=True)
                open_live(client, slow)
                taken = sorted(delays(address, live))
                at_95 = taken[int(0.95 * len(taken))]
                met = "met" if at_95 < 100 else "NOT met"
                print(
                    f"line received to picture, two browsers: 95 % under {at_95:.0f} ms  aim 100 ms  {met}", flush=True
                )
                client.post(f"{live}/do", data={"what": "disconnect"})
                open_live(client, fast)
                more = grown(client, live, server.pid)
                met = "met" if more < 20 else "NOT met"
                print(
                    f"an hour of streaming at {SPEED}x grows the server by {more:.1f} MB  aim 20 MB  {met}", flush=True
                )


if __name__ == "__main__":
    flood_here(int(sys.argv[2])) if sys.argv[1:2] == ["flood"] else main()
