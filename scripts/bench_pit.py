"""Twenty devices at one pit: eighteen that look with a live stream, two that enter, on 2,000 motors.

Aims: no reading lost or doubled, no errors; the 95th of a hundred readings taken within three times that of one device
in the same run; its picture on the other screens within a second; less than 50 MB more memory; ten thousand wrong
requests a minute from one address slow a reading by less than a half. `--kills` kills the server that often under the
same load: what was acknowledged is there, the store opens, and what devices send again arrives exactly once.
"""

import argparse
import itertools
import json
import multiprocessing
import os
import queue
import random
import re
import signal
import socket
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from multiprocessing.process import BaseProcess
from pathlib import Path
from urllib.parse import urlencode

import httpx2 as httpx
from bench import START, import_into, write_tables

from waldhorn.cli import serving
from waldhorn.pit.judging import judging
from waldhorn.pit.settings import seats
from waldhorn.store.engine import open_store
from waldhorn.store.models import ReadingRow
from waldhorn.store.seats import Role
from waldhorn.web.common.pages import now

MOTORS, READINGS, WATCHERS, ENTERERS = 2_000, 60_000, 18, 2
FASTER = 10
READING_S = 12.0 / FASTER  # a person reads an instrument and types three numbers in twelve seconds
RUNS = 6  # of one motor, then the next
OUTSIDE = "127.0.0.2"
PHRASE = "what technicians know"
WRONG_PER_MINUTE, WRONG_AT_ONCE = 10_000, 8
GOOD = (200, 204, 303)
RACK = "/rack/now"
WARM = 10  # readings until everything that is loaded when it is first wanted is loaded


def p95(took: list[float]) -> float:
    """The time that nineteen of twenty stayed under."""
    return sorted(took)[int(0.95 * len(took))] if took else float("nan")


@dataclass
class Seen:
    """What all devices saw: times of readings taken, delays until they stood on other screens, answers, what was sent
    when, and the speeds that were acknowledged; and the share of the processor that others of this machine had."""

    took: list[float] = field(default_factory=list)
    delays: list[float] = field(default_factory=list)
    answers: Counter[str] = field(default_factory=Counter)
    sent: dict[str, float] = field(default_factory=dict)
    acknowledged: list[float] = field(default_factory=list)
    others: float = 0.0


class Pit:
    """A server in a process of its own, on one port, started as often as it is killed."""

    def __init__(self, db: Path) -> None:
        self.db = db
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.context = multiprocessing.get_context("forkserver")
        self.context.set_forkserver_preload(["waldhorn.web.app", "uvicorn", "argon2"])
        self.process: BaseProcess | None = None

    @property
    def address(self) -> str:
        """Where devices reach it."""
        return f"http://{OUTSIDE}:{self.port}"

    def start(self) -> None:
        """Start it, and wait until it answers."""
        self.process = self.context.Process(target=serving.serve, args=(self.db, OUTSIDE, self.port), daemon=True)
        self.process.start()
        for _ in range(2_000):
            with socket.socket() as probe:
                if probe.connect_ex((OUTSIDE, self.port)) == 0:
                    return
            time.sleep(0.01)
        raise RuntimeError("the pit did not open")

    def end(self, how: signal.Signals = signal.SIGTERM) -> None:
        """End it, gently or not."""
        assert self.process is not None
        assert self.process.pid is not None
        os.kill(self.process.pid, how)
        self.process.join()

    def megabytes(self) -> float:
        """Memory it has resident."""
        assert self.process is not None
        told = re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{self.process.pid}/status").read_text())
        return int(told[1]) / 1024 if told else float("nan")


class Device:
    """A device that has joined, with an address of its own on the loopback range."""

    def __init__(self, pit: Pit, number: int) -> None:
        transport = httpx.HTTPTransport(local_address=f"127.0.1.{number + 1}")
        self.client = httpx.Client(base_url=pit.address, transport=transport, timeout=30)
        self.number = number
        self.shown: dict[str, float] = {}  # when each reading that stands on this screen was sent, by motor
        self.screen = f"device-{number}"
        self.at = ""  # the state of the store that is shown
        token = self._token(self.client.get("/join").text)
        joined = self.client.post(
            "/join", data={"csrf_token": token, "name": f"T{number}", "passphrase": PHRASE, "back": "/"}
        )
        if joined.status_code != 303:
            raise RuntimeError(joined.text)
        page = self.client.get("/help").text
        self.client.headers |= {"X-CSRF-Token": self._token(page), "X-Screen": self.screen, "HX-Request": "true"}

    @staticmethod
    def _token(page: str) -> str:
        found = re.search(r'"X-CSRF-Token": "([^"]+)"', page)
        return found[1] if found else ""

    def watch(self, path: str, part: str, seen: Seen, stop: threading.Event) -> None:
        """Listen, and ask for the part that follows whenever something was done, as the page does: one round at a time.
        Listen again where it breaks off."""
        news: queue.SimpleQueue[dict[str, object]] = queue.SimpleQueue()
        asking = threading.Thread(target=self._ask, args=(part, news, seen, stop))
        asking.start()
        while not stop.is_set():
            asked = urlencode({"screen": self.screen, "path": path, "at": self.at})
            try:
                with self.client.stream("GET", f"/events?{asked}", timeout=httpx.Timeout(30, read=12)) as lines:
                    for line in lines.iter_lines():
                        if stop.is_set():
                            break
                        if not line.startswith("data: "):
                            continue
                        event = json.loads(line[6:])
                        self.at = event.get("at", self.at)
                        if concerns(event, part):
                            news.put(event)
            except httpx.TransportError:
                stop.wait(0.1)
        asking.join()

    def _ask(self, part: str, news: "queue.SimpleQueue[dict[str, object]]", seen: Seen, stop: threading.Event) -> None:
        while not stop.is_set():
            try:
                told = [news.get(timeout=0.2)]
            except queue.Empty:
                continue
            while not news.empty():
                told.append(news.get())
            try:
                answer = self.client.get(part)
            except httpx.TransportError:
                continue
            seen.answers[f"watching {answer.status_code}"] += 1
            tags = {t for event in told for t in event.get("tags", ())}  # type: ignore[attr-defined]
            for tag, sent in [(t, seen.sent[t]) for t in tags if t in seen.sent]:
                if self.shown.get(tag) != sent:  # what is done to that motor later has no reading of its own
                    seen.delays.append(time.perf_counter() - sent)
                self.shown[tag] = sent

    def enter(self, seen: Seen, stop: threading.Event, pause_s: float, first: int) -> None:
        """Take readings on one motor after the other; what is not acknowledged is sent again, the same."""
        motor = first
        while not stop.is_set():
            check = self._until_answered("post", f"/motors/M-{motor:04}/checks", {}, seen, stop)
            where = check.headers.get("hx-redirect", "").split("?")[0] if check else ""
            if not where:
                return
            stop.wait(pause_s)
            said = {"rig": "bench", "method": "loaded-supply"}
            self._until_answered("post", f"{where}/steps/setup", said | self._form(), seen, stop)
            stop.wait(pause_s)
            because = {"subject": "rated_speed", "reason": "a benchmark"} | self._form()
            self._until_answered("post", f"{where}/overrule", because, seen, stop)
            for run in range(RUNS):
                if stop.wait(pause_s):
                    return
                rpm = 20_000.0 + 1_000 * self.number + len(seen.acknowledged) % 900 + motor / 10_000 + run / 100_000
                typed = {"volts": "7.4", "amps": "2.1", "rpm": f"{rpm:.5f} rpm", "run": str(run + 1)} | self._form()
                tag = f"M-{motor:04}"
                seen.sent[tag] = begun = time.perf_counter()
                answer = self._until_answered("post", f"{where}/steps/pull", typed, seen, stop)
                if answer is None:
                    return
                seen.took.append(time.perf_counter() - begun)
                seen.acknowledged.append(round(rpm, 5))
            stop.wait(pause_s)
            self._until_answered("post", f"{where}/hang", self._form(), seen, stop)
            motor += 1

    def _form(self) -> dict[str, str]:
        return {"form_id": f"{self.number}-{time.time_ns()}"}

    def _until_answered(
        self, how: str, path: str, data: dict[str, str], seen: Seen, stop: threading.Event
    ) -> httpx.Response | None:
        tried = 0
        while not stop.is_set() or tried:
            try:
                answer = self.client.request(how, path, data=data)
            except httpx.TransportError:
                tried += 1
                if tried > 600:
                    return None
                time.sleep(0.05)
                continue
            if answer.status_code == 503:
                seen.answers["asked again 503"] += 1
                time.sleep(0.2)
                continue
            seen.answers[f"entering {path.split('/')[-1]} {answer.status_code}"] += 1
            return answer if answer.status_code in GOOD else None
        return None


def concerns(event: dict[str, object], part: str) -> bool:
    """Whether a part of a page shows what was done."""
    tags = event.get("tags")
    mine = isinstance(tags, list) and part.split("/")[-1] in tags
    return event["kind"] == "changed" and (part == RACK or bool(event.get("all")) or mine)


@contextmanager
def running(jobs: list[Callable[[], None]]) -> Iterator[None]:
    """Threads that run while the block does, and are waited for."""
    threads = [threading.Thread(target=job) for job in jobs]
    for thread in threads:
        thread.start()
    yield
    for thread in threads:
        thread.join()


def watching(devices: list[Device], seen: Seen, stop: threading.Event, first: int) -> list[Callable[[], None]]:
    """Those who look: two thirds at the rack, the rest at the page of a motor that comes to the bench."""

    def job(device: Device) -> Callable[[], None]:
        if device.number % 3:
            return lambda: device.watch("/", RACK, seen, stop)
        motor = f"/motors/M-{first + device.number // 3:04}"
        return lambda: device.watch(motor, motor, seen, stop)

    return [job(d) for d in devices]


def entering(
    devices: list[Device], seen: Seen, stop: threading.Event, pause_s: float, first: int
) -> list[Callable[[], None]]:
    """Those who enter, each on motors of its own."""

    def job(place: int, device: Device) -> Callable[[], None]:
        return lambda: device.enter(seen, stop, pause_s, first + 500 * place)

    return [job(place, d) for place, d in enumerate(devices)]


def wrong_requests(pit: Pit, seen: Seen, stop: threading.Event) -> None:
    """Ten thousand a minute from one address: no seat, a forged cookie, a wrong passphrase, no host of ours; on bare
    sockets, so that it is the server that is measured."""
    here, form = f"Host: {OUTSIDE}:{pit.port}", "name=X&passphrase=no"
    post = f"{here}\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: {len(form)}"
    kinds = [
        f"GET / HTTP/1.1\r\n{here}\r\n\r\n",
        f"GET / HTTP/1.1\r\n{here}\r\nCookie: waldhorn_seat=forged.x.y\r\n\r\n",
        f"POST /join HTTP/1.1\r\n{post}\r\n\r\n{form}",
        "GET / HTTP/1.1\r\nHost: pit.example\r\n\r\n",
    ]

    def some(first: int) -> None:
        begun = time.perf_counter()
        with socket.create_connection((OUTSIDE, pit.port), 30, ("127.0.9.9", 0)) as line:
            for number in itertools.count(first, WRONG_AT_ONCE):
                if stop.wait(max(0.0, begun + number * 60 / WRONG_PER_MINUTE - time.perf_counter())):
                    return
                line.sendall(kinds[number // WRONG_AT_ONCE % len(kinds)].encode())
                seen.answers[f"wrong {answered(line)}"] += 1

    with running([lambda first=n: some(first) for n in range(WRONG_AT_ONCE)]):  # type: ignore[misc]
        pass


def answered(line: socket.socket) -> int:
    """The status of an answer, read whole."""
    head, body = b"", b""
    while b"\r\n\r\n" not in head:
        head += line.recv(65_536)
    head, _, body = head.partition(b"\r\n\r\n")
    length = re.search(rb"content-length: (\d+)", head)
    while length and len(body) < int(length[1]):
        body += line.recv(65_536)
    return int(head.split()[1])


def processor_s() -> tuple[float, float]:
    """Seconds of all processors since the machine started: in all, and those that went to other machines on its host;
    where that is not told, none."""
    told = Path("/proc/stat")
    ticks = [int(n) for n in told.read_text().split("\n")[0].split()[1:9]] if told.exists() else [0] * 8
    return sum(ticks) / 100, ticks[7] / 100


def make_store(db: Path, folder: Path) -> None:
    """A pit with its motors judged, and a passphrase."""
    store = open_store(db)
    import_into(store, write_tables(folder, MOTORS, READINGS))
    judging.settle_apart(store, START)
    with store.writing() as session:
        seats.set_passphrase(session, Role.TECHNICIAN, PHRASE, now())
    store.close()


def stored(db: Path) -> Counter[float]:
    """The speeds that are in the store, those of devices alone."""
    store = open_store(db)
    with store.reading() as session:
        rows = session.query(ReadingRow.value).filter(ReadingRow.measure == "rpm", ReadingRow.change_id.is_not(None))
        found = Counter(round(value, 5) for (value,) in rows)
    store.close()
    return found


def say(what: str, figure: str, met: bool) -> None:
    """One line a figure."""
    print(f"{what}: {figure}  {'met' if met else 'NOT met'}", flush=True)


def verdict_on(seen: Seen, db: Path) -> None:
    """Whether anything was lost or doubled, or answered otherwise than it should."""
    kept = stored(db)
    lost = [rpm for rpm in seen.acknowledged if not kept[rpm]]
    doubled = [rpm for rpm, count in kept.items() if count > 1]
    say(f"readings acknowledged {len(seen.acknowledged)}, lost", f"{len(lost)} (aim 0)", not lost)
    say("doubled", f"{len(doubled)} (aim 0)", not doubled)
    odd = {k: v for k, v in seen.answers.items() if not k.startswith("wrong") and int(k.split()[-1]) not in GOOD}
    errors = {k: v for k, v in odd.items() if not k.startswith("asked again")}
    say("answers that were errors", f"{errors or 0} (aim 0), of {dict(seen.answers)}", not errors)


def crowd(pit: Pit, minutes: float) -> None:
    """The load without kills."""
    pit.start()
    devices = [Device(pit, n) for n in range(WATCHERS + ENTERERS)]
    print(f"{len(devices)} devices have joined", flush=True)
    lookers, typists = devices[:WATCHERS], devices[WATCHERS:]
    alone, together, attacked = Seen(), Seen(), Seen()
    for seen, jobs, seconds, first in (
        (alone, [], 60.0, 100),
        (together, lookers, 60.0 * minutes, 200),
        (attacked, lookers, 60.0, 1_300),
    ):
        stop = threading.Event()
        work = entering(typists[:1] if seen is alone else typists, seen, stop, READING_S, first)
        work += watching(jobs, seen, stop, first)
        if seen is attacked:
            work.append(lambda seen=seen, stop=stop: wrong_requests(pit, seen, stop))  # type: ignore[misc]
        threading.Timer(seconds, stop.set).start()
        before, (all_s, others_s) = 0.0, processor_s()
        with running(work):
            if seen is together:
                time.sleep(min(30.0, seconds / 4))
                before = pit.megabytes()
        all_now, others_now = processor_s()
        seen.others = (others_now - others_s) / max(all_now - all_s, 0.01)
        if seen is together:
            grown = pit.megabytes() - before
            say("memory grew by", f"{grown:.1f} MB (aim 50)", grown < 50)
    pit.end()
    everything = Seen(
        acknowledged=alone.acknowledged + together.acknowledged + attacked.acknowledged,
        answers=alone.answers + together.answers + attacked.answers,
    )
    verdict_on(everything, pit.db)
    taken = ", ".join(f"{100 * seen.others:.0f}" for seen in (alone, together, attacked))
    print(f"other machines on this host had {taken} % of the processor: alone, together, beside wrong requests")
    one, many, beside = p95(alone.took[WARM:]), p95(together.took), p95(attacked.took)
    say(
        "p95 of a reading taken",
        f"{1000 * many:.0f} ms of {len(together.took)}, one device {1000 * one:.0f} ms: {many / one:.1f}x (aim 3)",
        many < 3 * one,
    )
    late = p95(together.delays)
    say(
        "on another screen",
        f"p95 {late:.2f} s, slowest {max(together.delays, default=0):.2f} s of {len(together.delays)} (aim 1 s)",
        late < 1,
    )
    sent = sum(v for k, v in attacked.answers.items() if k.startswith("wrong"))
    say(
        f"beside {sent} wrong requests in a minute",
        f"p95 {1000 * beside:.0f} ms: {beside / many:.2f}x (aim 1.5)",
        beside < 1.5 * many,
    )


def killed(pit: Pit, kills: int) -> None:
    """The load with kills, at moments drawn from a fixed seed."""
    chance = random.Random(27)
    pit.start()
    devices = [Device(pit, n) for n in range(WATCHERS + ENTERERS)]
    seen, stop = Seen(), threading.Event()
    work = entering(devices[WATCHERS:], seen, stop, 0.05, 100) + watching(devices[:WATCHERS], seen, stop, 100)
    broken = 0
    with running(work):
        for number in range(kills):
            time.sleep(chance.uniform(0.2, 8.0))
            pit.end(signal.SIGKILL)
            try:
                pit.start()
            except RuntimeError:
                broken += 1
                break
            if number % 20 == 19:
                print(f"{number + 1} kills, {len(seen.acknowledged)} acknowledged", flush=True)
        stop.set()
    pit.end()
    say(f"stores that did not open after {kills} kills", f"{broken} (aim 0)", not broken)
    verdict_on(seen, pit.db)


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=10, help="of the crowd")
    parser.add_argument("--kills", type=int, default=0, help="kill the server so often instead")
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make_store(folder / "pit.db", folder)
        pit = Pit(folder / "pit.db")
        if asked.kills:
            killed(pit, asked.kills)
        else:
            crowd(pit, asked.minutes)


if __name__ == "__main__":
    main()
