"""How the server answers beside an import: twenty readers and five writers, as a ratio to the same crowd without it.

Aims, each under three times its idle time at the 95th of a hundred: the rack, a motor's page, the limits page, and a
reading taken; nothing but pages and redirects.
"""

import re
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter, defaultdict
from collections.abc import Callable
from functools import partial
from pathlib import Path

import httpx2 as httpx
from bench import READINGS, START, import_into, write_tables

from waldhorn.pit.judging import judging
from waldhorn.store.engine import open_store

MOTORS, READERS, WRITERS = 400, 20, 5
THINK_S = 4.0  # a person looks at a page before asking for the next
IDLE_S = 60
AIM = 3
ASKED = ("rack", "motor", "limits")


class Crowd:
    """Twenty-five clients: how long each kind of answer took, and what was answered."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.took: defaultdict[str, list[float]] = defaultdict(list)
        self.seen: Counter[int] = Counter()

    def until(self, stop: threading.Event) -> "Crowd":
        """Let them ask until told to stop."""
        threads = [threading.Thread(target=self._read, args=(n, stop)) for n in range(READERS)]
        threads += [threading.Thread(target=self._write, args=(n, stop)) for n in range(WRITERS)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return self

    def _timed(self, what: str, ask: Callable[[], httpx.Response]) -> httpx.Response:
        start = time.perf_counter()
        answer = ask()
        self.took[what].append(time.perf_counter() - start)
        self.seen[answer.status_code] += 1
        return answer

    def _read(self, number: int, stop: threading.Event) -> None:
        what = ASKED[number % len(ASKED)]
        path = {"rack": "/", "motor": f"/motors/M-{number:04}", "limits": "/limits"}[what]
        with httpx.Client(base_url=self.address, timeout=60) as client:
            stop.wait(THINK_S * number / READERS)
            while not stop.wait(THINK_S):
                self._timed(what, lambda: client.get(path))

    def _write(self, number: int, stop: threading.Event) -> None:
        with httpx.Client(base_url=self.address, timeout=60, follow_redirects=False) as client:
            motor = f"/motors/M-{number:04}"
            token = re.search(r'name="csrf_token" value="([^"]+)"', client.get(motor).text)
            client.headers["X-CSRF-Token"] = token[1] if token else ""
            check = client.post(f"{motor}/checks").headers["location"].split("?")[0]
            client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
            client.post(f"{check}/overrule", data={"subject": "rated_speed", "reason": "a benchmark"})
            while not stop.wait(THINK_S / 2):
                typed = {"volts": "7.4", "amps": "2.1", "rpm": f"{25_000 + int(time.monotonic()) % 300}"}
                self._timed("reading", partial(client.post, f"{check}/steps/pull", data=typed))


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
        threading.Timer(IDLE_S, idle.set).start()
        before = Crowd(address).until(idle)
        busy = threading.Event()
        files = [str(f) for f in more]
        bring_in = [*command, "import", *files, "--db", str(folder / "pit.db")]
        importing = subprocess.Popen(bring_in, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        threading.Thread(target=lambda: (importing.wait(), busy.set())).start()
        during = Crowd(address).until(busy)
        server.terminate()
        server.wait()
        for what in (*ASKED, "reading"):
            alone, beside = p95(before.took[what]), p95(during.took[what])
            met = "met" if beside < AIM * alone else "NOT met"
            idle_ms, busy_ms = f"{1000 * alone:.0f} ms of {len(before.took[what])}", f"{1000 * beside:.0f} ms"
            print(f"{what}: p95 {idle_ms}, beside an import {busy_ms}: {beside / alone:.1f}x  aim {AIM}x  {met}")
        print(f"answers without an import {dict(before.seen)}, beside it {dict(during.seen)}")


if __name__ == "__main__":
    main()
