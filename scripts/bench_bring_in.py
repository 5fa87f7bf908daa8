"""Bringing 200,000 readings in by the browser, as a ratio to the command line, and the rack meanwhile.

Aims: within 1.3 times the command line; the rack's p95 under three times its idle time.
"""

import re
import socket
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx2 as httpx
from bench import READINGS, write_tables
from bench_busy import p95

MOTORS = 2_000
LOOKS_EVERY_S = 0.25
IDLE_S = 6.0
COMMAND = [sys.executable, "-m", "waldhorn.cli"]


def by_command(files: list[Path], db: Path) -> float:
    """Seconds that the command line takes, judging included."""
    start = time.perf_counter()
    subprocess.run([*COMMAND, "import", *map(str, files), "--db", str(db)], check=True, capture_output=True)
    return time.perf_counter() - start


def by_browser(files: list[Path], address: str) -> float:
    """Seconds from choosing the files until the page says they are brought in and judged."""
    with httpx.Client(base_url=address, timeout=300, follow_redirects=True) as client:
        token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/bring-in").text)
        if token is None:
            raise RuntimeError("no form on the page")
        start = time.perf_counter()
        chosen = [("files", (f.name, f.read_bytes(), "text/csv")) for f in files]
        laid = client.post("/bring-in", data={"csrf_token": token[1]}, files=chosen)
        page = client.post(laid.url.path, data={"csrf_token": token[1]})
        while "Bringing it in" in page.text:
            time.sleep(0.2)
            page = client.get(f"{laid.url.path}/going")
        if "Brought in." not in page.text:
            raise RuntimeError(page.text[:2000])
        return time.perf_counter() - start


def looking(address: str, stop: threading.Event) -> list[float]:
    """How long the rack takes, looked at four times a second, until told to stop."""
    took = []
    with httpx.Client(base_url=address, timeout=60) as client:
        while not stop.wait(LOOKS_EVERY_S):
            start = time.perf_counter()
            if client.get("/").status_code != 200:
                raise RuntimeError("the rack did not answer")
            took.append(time.perf_counter() - start)
    return took


def main() -> None:
    """Measure and print."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        files = write_tables(folder, MOTORS, READINGS)
        command = by_command(files, folder / "command.db")
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        server = subprocess.Popen([*COMMAND, "serve", "--db", str(folder / "browser.db"), "--port", str(port)])
        time.sleep(4)
        address, seconds = f"http://127.0.0.1:{port}", []
        idle, over = threading.Event(), threading.Event()
        threading.Timer(IDLE_S, idle.set).start()
        quiet = looking(address, idle)

        def bring() -> None:
            seconds.append(by_browser(files, address))
            over.set()

        threading.Thread(target=bring).start()
        busy = looking(address, over)
        server.terminate()
        server.wait()
        print(
            f"{READINGS} readings of {MOTORS} motors: {command:.1f} s by the command line,"
            f" {seconds[0]:.1f} s by the browser: {seconds[0] / command:.2f}x (aim 1.3)"
        )
        print(
            f"the rack's p95: {1000 * p95(quiet):.0f} ms without, {1000 * p95(busy):.0f} ms meanwhile:"
            f" {p95(busy) / p95(quiet):.1f}x (aim 3)"
        )


if __name__ == "__main__":
    main()
