"""How the server answers beside an import: fifty readers and five writers, as a ratio to the same crowd without it.

Aims: nothing but pages, redirects and "not now" (503); p95 of a page under three times its idle time.
"""

import re
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from pathlib import Path

import httpx2 as httpx
from bench import READINGS, START, import_into, write_tables

from waldhorn.pit import judging
from waldhorn.store.engine import open_store

MOTORS, READERS, WRITERS = 400, 50, 5
THINK_S = 4.0  # a person looks at a page before asking for the next


def crowd(address: str, stop: threading.Event) -> tuple[list[float], Counter[int]]:
    """Fifty-five clients until told to stop: how long pages took, and what was answered."""
    took: list[float] = []
    seen: Counter[int] = Counter()

    def read(number: int) -> None:
        with httpx.Client(base_url=address, timeout=60) as client:
            stop.wait(THINK_S * number / READERS)
            while not stop.wait(THINK_S):
                start = time.perf_counter()
                seen[client.get("/" if number % 2 else f"/motors/M-{number:04}").status_code] += 1
                took.append(time.perf_counter() - start)

    def write(number: int) -> None:
        with httpx.Client(base_url=address, timeout=60, follow_redirects=False) as client:
            token = re.search(r'name="csrf_token" value="([^"]+)"', client.get(f"/motors/M-{number:04}").text)
            while token and not stop.wait(THINK_S / 2):
                typed = {"event": "run", "csrf_token": token[1], "detail": f"{time.monotonic()}"}
                seen[client.post(f"/motors/M-{number:04}/events", data=typed).status_code] += 1

    threads = [threading.Thread(target=read, args=(n,)) for n in range(READERS)]
    threads += [threading.Thread(target=write, args=(n,)) for n in range(WRITERS)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return took, seen


def p95(took: list[float]) -> float:
    """The time that nineteen of twenty stayed under."""
    return sorted(took)[int(0.95 * len(took))]


def main() -> None:
    """Measure and print."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "more").mkdir()
        store = open_store(folder / "pit.db")
        import_into(store, write_tables(folder, MOTORS, READINGS // 10))
        judging.settle_apart(store, START)
        store.close()
        more = write_tables(folder / "more", MOTORS * 5, READINGS)
        more[1].write_text(re.sub(r"(?m)^(M-\d+),(\d+)", r"\1,more-\2", more[1].read_text()))
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            port = probe.getsockname()[1]
        command = [sys.executable, "-m", "waldhorn.cli"]
        server = subprocess.Popen([*command, "serve", "--db", str(folder / "pit.db"), "--port", str(port)])
        time.sleep(5)
        address = f"http://127.0.0.1:{port}"
        idle = threading.Event()
        threading.Timer(25, idle.set).start()
        before, seen = crowd(address, idle)
        busy = threading.Event()
        files = [str(f) for f in more]
        bring_in = [*command, "import", *files, "--db", str(folder / "pit.db")]
        importing = subprocess.Popen(bring_in, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        threading.Thread(target=lambda: (importing.wait(), busy.set())).start()
        during, found = crowd(address, busy)
        server.terminate()
        server.wait()
        print(f"without an import: p95 {1000 * p95(before):.0f} ms of {len(before)} pages, answers {dict(seen)}")
        print(f"beside an import:  p95 {1000 * p95(during):.0f} ms of {len(during)} pages, answers {dict(found)}")
        print(f"p95 of a page beside an import of {READINGS} readings: {p95(during) / p95(before):.1f}x  aim 3x")


if __name__ == "__main__":
    main()
