"""Attacks a Waldhorn of this machine for a quarter of an hour: kills, odd requests, hostile instruments, damaged
stores, upgrades, a device away from the pit, second thoughts.

Seeded and bounded; everything happens on the loopback and in a folder that goes away. Aims: 0 acknowledged lost, 0
doubled, 0 made up, 0 under another's name, 0 answers of 5xx but 503, 0 tracebacks, 0 motors left turning, memory within
50 MB of where it was.
"""

import argparse
import json
import os
import random
import re
import shutil
import signal
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from urllib.parse import quote

import httpx2 as httpx

ROOT = Path(__file__).parent.parent
sys.path[:0] = [str(ROOT / "scripts"), *(str(ROOT / "tests" / part) for part in ("", "pit", "upgrades"))]

import attack_versions  # noqa: E402
from attack_device import Device  # noqa: E402

from routes import example, routes_of  # noqa: E402 -- the tests' folder is not a package
from waldhorn.core.base.history import Motor  # noqa: E402
from waldhorn.store import motors, readings  # noqa: E402
from waldhorn.store.engine import open_store  # noqa: E402
from waldhorn.web.app import create_app  # noqa: E402

FORM_KILLS, OTHER_KILLS, REQUESTS = 60, 8, 10_000
UPGRADES, WALKS, ROUNDS = 40, 40, 40
MEMORY_MB = 50
COMMAND = [sys.executable, "-m", "waldhorn.cli"]
NONSENSE = (
    "", " ", "0", "-1", "1e999", "NaN", "½", "7,4", "12k", "\x00", "\x1b[31m", "☃" * 50, "../../etc/passwd", "%00",
    "'\"", "<script>alert(1)</script>", "{{7*7}}", "=1+1", "a" * 5000, "2026-13-45", "true", "[]", "\u202e", "Ω", "🧨",
)  # fmt: skip


class Found:
    """What was found, by kind, with the first of each told."""

    def __init__(self) -> None:
        self.counts: Counter[str] = Counter()

    def note(self, kind: str, words: str) -> None:
        """Something that must not be."""
        self.counts[kind] += 1
        if self.counts[kind] <= 5:
            print(f"  FOUND {kind}: {words[:300]}", flush=True)


def free_port() -> int:
    """A port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class Server:
    """A Waldhorn on a store, its complaints kept."""

    def __init__(self, db: Path) -> None:
        self.port = free_port()
        self.log = db.with_suffix(f".{self.port}.log")
        with self.log.open("wb") as out:
            command = [*COMMAND, "serve", "--db", str(db), "--port", str(self.port)]
            self.process = subprocess.Popen(command, stdout=out, stderr=out)
        for _ in range(600):
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)) == 0:
                    break
            if self.process.poll() is not None:
                raise RuntimeError(self.log.read_text())
            time.sleep(0.05)

    def client(self) -> httpx.Client:
        """A browser with its token."""
        made = httpx.Client(base_url=f"http://127.0.0.1:{self.port}", follow_redirects=False, timeout=60)
        token = re.search(r'name="csrf_token" value="([^"]+)"', made.get("/motors/new").text)
        made.headers["X-CSRF-Token"] = token[1] if token else ""
        return made

    def kill(self) -> None:
        """Kill it, as a pulled plug does."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self, found: Found) -> None:
        """Stop it, and look for what it complained of."""
        self.process.terminate()
        self.process.wait()
        self.complaints(found)

    def complaints(self, found: Found) -> None:
        """What it wrote that no server may write."""
        told = self.log.read_text(errors="replace")
        for trace in re.findall(r"Traceback.*?\n(?=\S*Error|\S*Exception).*", told, re.DOTALL)[:3]:
            found.note("traceback", trace[-300:])

    def megabytes(self) -> float:
        """Memory it has resident."""
        told = Path(f"/proc/{self.process.pid}/status").read_text()
        return int(re.search(r"VmRSS:\s+(\d+)", told)[1]) / 1024


def fresh(folder: Path, name: str, count: int = 12) -> Path:
    """A store with some motors."""
    db = folder / name
    store = open_store(db)
    with store.writing() as session:
        motors.add(session, [Motor(f"A-{i}", "Skerry 36", label_kv=3450, poles=4) for i in range(count)])
    store.close()
    return db


def kills_under_forms(folder: Path, chance: random.Random, found: Found, times: int) -> None:
    """The server is killed while readings are taken by form, each sent twice: none lost, none doubled."""
    db = fresh(folder, "forms.db")
    acknowledged: set[float] = set()
    sent = 0
    for _ in range(times):
        server = Server(db)
        killer = threading.Timer(chance.uniform(0.05, 1.0), server.kill)
        try:
            with closing(server.client()) as client:
                check = client.post("/motors/A-1/checks").headers["location"].split("?")[0]
                client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
                killer.start()
                while True:
                    sent += 1
                    rpm = 20_000 + sent
                    form = {"volts": "7.4", "amps": "2.1", "rpm": f"{rpm} rpm", "form_id": f"{sent}"}
                    answers = [client.post(f"{check}/steps/pull", data=form).status_code for _ in range(2)]
                    if set(answers) <= {303, 503}:
                        acknowledged |= {float(rpm)} if answers[0] == 303 else set()
                    else:
                        found.note("answer", f"{answers} to a reading")
        except httpx.TransportError:
            pass
        killer.join()
        server.process.wait()
        server.complaints(found)
    store = open_store(db)
    with store.reading() as session:
        motor_id = motors.find(session, "A-1").id
        kept = Counter(
            r.value for c in readings.history(session, motor_id).checks for r in c.readings if r.measure == "rpm"
        )
    store.close()
    for rpm in acknowledged - set(kept):
        found.note("lost", f"reading {rpm:g}")
    for rpm, count in kept.items():
        if count > 1:
            found.note("doubled", f"reading {rpm:g} is there {count} times")
    print(f"  {times} kills under forms: {len(acknowledged)} acknowledged", flush=True)


def kills_in_commands(folder: Path, chance: random.Random, found: Found, times: int) -> None:
    """Imports, backups and a restore are killed half way: whole or not there, and done again they are done once."""
    db = fresh(folder, "commands.db")
    table = folder / "readings.csv"
    head = "motor,check,at,measure,value,run,throttle_pct,rig\n"
    rows = (
        f"A-{i % 12},c{i // 12 % 40},2026-05-{1 + i % 28:02}T10:00:00+02:00,rpm,{20_000 + i},1,100,bench\n"
        for i in range(20_000)
    )
    table.write_text(head + "".join(rows))
    whole = folder / "whole.db"
    for place in range(times):
        copy, new = folder / f"copy-{place}.db", folder / f"new-{place}.db"
        for args in (
            ["import", str(table), "--db", str(db)],
            ["backup", str(copy), "--db", str(db)],
            ["restore", str(whole), "--db", str(new)],
        ):
            if args[0] == "restore" and not whole.exists():
                continue
            process = subprocess.Popen([*COMMAND, *args], stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)
            time.sleep(chance.uniform(1.0, 5.0))
            process.kill()
            if "Traceback" in process.communicate()[1]:
                found.note("traceback", f"waldhorn {args[0]}")
        count = count_readings(db)
        if count not in (0, 20_000):
            found.note("lost", f"a killed import left {count} of 20000 readings")
        for file in (copy, new):
            if file.exists() and not opens(file):
                found.note("lost", f"{file.name} is there, and torn")
        if copy.exists():
            shutil.copy(copy, whole)
    for _ in range(2):
        subprocess.run([*COMMAND, "import", str(table), "--db", str(db)], capture_output=True, check=True)
    if (count := count_readings(db)) != 20_000:
        found.note("doubled" if count > 20_000 else "lost", f"{count} of 20000 readings after importing twice")
    print(f"  {3 * times} kills in import, backup and restore", flush=True)


def kills_in_bringing_in(folder: Path, chance: random.Random, found: Found, times: int) -> None:
    """The server is killed while a browser brings a table in: all of it is there or nothing."""
    db = fresh(folder, "bringing.db")
    content = (folder / "readings.csv").read_bytes()
    for _ in range(times):
        server = Server(db)
        killer = threading.Timer(chance.uniform(0.3, 3.0), server.kill)
        try:
            with closing(server.client()) as client:
                laid = client.post("/bring-in", files={"files": ("readings.csv", content)}).headers["location"]
                killer.start()
                client.post(laid, data={})
                while True:
                    client.get(f"{laid}/going")
                    time.sleep(0.05)
        except httpx.TransportError:
            pass
        killer.join()
        server.process.wait()
        server.complaints(found)
        time.sleep(1)  # a reader of its own may be at its last step
        if (count := count_readings(db)) not in (0, 20_000):
            found.note("lost", f"a killed bringing in left {count} of 20000 readings")
    print(f"  {times} kills in bringing in", flush=True)


def count_readings(db: Path) -> int:
    """Readings that are in a store."""
    with closing(sqlite3.connect(db)) as driver:
        return int(driver.execute("SELECT count(*) FROM reading").fetchone()[0])


def opens(file: Path) -> bool:
    """Whether a store opens and is whole."""
    try:
        open_store(file).close()
        with closing(sqlite3.connect(file)) as driver:
            return bool(driver.execute("PRAGMA quick_check").fetchall() == [("ok",)])
    except (ValueError, sqlite3.Error):
        return False


def odd_requests(folder: Path, chance: random.Random, found: Found, count: int) -> None:
    """Requests over every route of the application's own table, with nonsense in every part and field."""
    db = fresh(folder, "odd.db")
    store = open_store(folder / "table.db")
    routes = list(routes_of(create_app(store)))
    store.close()
    server = Server(db)
    answers: Counter[int] = Counter()
    with closing(server.client()) as client:
        check = client.post("/motors/A-1/checks").headers["location"].split("?")[0].split("/")[-1]
        known = ["A-1", "A-2", check, "setup", "pull", "bench", "1", "shaft", "Skerry 36", "report"]
        fields = ["tag", "volts", "amps", "rpm", "event", "what", "pct", "reason", "verdict", "signed_by", "run", "key"]
        before = 0.0
        for number in range(count):
            if number == count // 10:
                before = server.megabytes()
            route = chance.choice(routes)
            part = chance.choice([*known, *NONSENSE]) or "x"
            path = example(route, quote(part[:60], safe=chance.choice(["", "/"])))
            if "/stream" in path or path.endswith("/connect"):
                continue
            data = {f: chance.choice([*NONSENSE, *known]) for f in chance.sample(fields, 4)}
            method = "POST" if route.methods - {"GET", "HEAD"} else "GET"
            try:
                asked = {"params": data} if method == "GET" else {"data": data}
                status = client.request(method, path, **asked).status_code
            except (httpx.TransportError, httpx.InvalidURL, UnicodeError) as error:
                if server.process.poll() is not None:
                    found.note("answer", f"the server ended at {method} {path}: {error}")
                    return
                continue
            answers[status] += 1
            if status >= 500 and status != 503:
                found.note("answer", f"{status} to {method} {path} with {data}")
        grown = server.megabytes() - before
    if grown > MEMORY_MB:
        found.note("memory", f"grew by {grown:.0f} MB")
    server.stop(found)
    print(f"  {count} odd requests: {dict(sorted(answers.items()))}, memory {grown:+.0f} MB", flush=True)


SAMPLE = '{{"t": {t:.3f}, "pct": {pct:g}, "v": 7.4, "a": {a}, "rpm": {rpm}, "c": {c}}}\n'
HELLO = b'{"hello": "waldhorn-bench", "version": 2, "name": "hostile", "max_v": 9, "max_a": 5}\n'
# What a hostile instrument says once it runs, by its time in s and the throttle it was told.
HOSTILE: dict[str, Callable[[float, float], bytes]] = {
    "too many amps, throttle jitters": lambda t, p: said(t, p - 0.1 * (round(50 * t) % 2), a=50),
    "its clock stands still": lambda t, p: said(1.0, p),
    "its clock runs backwards": lambda t, p: said(1e6 - t, p, c=200),
    "says it is off and turns hot": lambda t, p: said(t, 0, c=200),
    "garbage": lambda t, p: b"\xff\x00garbage\n",
    "no number": lambda t, p: b'{"t": 1, "pct": 15, "v": NaN, "a": 1, "rpm": 1}\n',
    "never a line end": lambda t, p: b"x" * 50_000,
    "errors": lambda t, p: b'{"error": "phase", "detail": "B and C swapped"}\n',
    "greets again and again": lambda t, p: HELLO,
    "sweeps unasked": lambda t, p: b'{"timing": {"a": 1, "b": 2, "c": 3}}\n' + said(t, p, rpm=9e5),
    "a flood": lambda t, p: b"".join(said(t + i / 1e4, p, a=50) for i in range(400)),
    "silence": lambda t, p: b"",
}


def said(t: float, pct: float, a: float = 2.0, rpm: float = 3700, c: float = 30) -> bytes:
    """One sample."""
    return SAMPLE.format(t=t, pct=max(0, pct), a=a, rpm=rpm, c=c).encode()


class Hostile:
    """An instrument that says what it likes; it obeys, and remembers when it was told to stop."""

    def __init__(self, say: Callable[[float, float], bytes]) -> None:
        self.say, self.pct, self.started, self.stopped = say, 0.0, 0.0, 0.0
        self.server = socket.create_server(("127.0.0.1", 0))
        self.port = self.server.getsockname()[1]
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        host, _ = self.server.accept()
        threading.Thread(target=self._obey, args=(host,), daemon=True).start()
        begun = time.monotonic()
        try:
            host.sendall(HELLO)
            while True:
                t = time.monotonic() - begun
                host.sendall(self.say(t, self.pct) if self.pct else said(t, 0, rpm=0, a=0))
                time.sleep(0.02)
        except OSError:
            return

    def _obey(self, host: socket.socket) -> None:
        with host.makefile("rb") as told:
            for line in told:
                command = json.loads(line)
                if command["cmd"] == "stop":
                    self.stopped = self.stopped or (time.monotonic() if self.started else 0.0)
                    self.pct = 0.0
                elif command["cmd"] == "throttle":
                    self.pct = command["pct"]
                    self.started = self.started or (time.monotonic() if self.pct else 0.0)


@contextmanager
def watched(client: httpx.Client, live: str) -> Iterator[None]:
    """Somebody watches the run meanwhile."""
    over = threading.Event()

    def listen() -> None:
        with client.stream("GET", f"{live}/stream") as answer:
            for _ in answer.iter_raw():
                if over.is_set():
                    return

    listener = threading.Thread(target=listen, daemon=True)
    listener.start()
    yield
    over.set()
    listener.join(10)


def hostile_instruments(folder: Path, found: Found) -> None:
    """Every kind of hostile instrument is told to stop, once it runs, and a page answers meanwhile."""
    db = fresh(folder, "live.db", len(HOSTILE))
    server = Server(db)
    with closing(server.client()) as client:
        for place, (kind, say) in enumerate(HOSTILE.items()):
            check = client.post(f"/motors/A-{place}/checks").headers["location"].split("?")[0]
            client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
            client.post(f"{check}/live/caution")
            instrument = Hostile(say)
            client.post(f"{check}/live/connect", data={"instrument": f"127.0.0.1:{instrument.port}"})
            with watched(client, f"{check}/live"):
                asked = client.post(f"{check}/live/do", data={"what": "throttle", "pct": "15"})
                end = time.monotonic() + 32
                while not instrument.stopped and time.monotonic() < end:
                    if client.get("/").status_code != 200:
                        found.note("answer", f"no page beside “{kind}”")
                    time.sleep(0.2)
            if asked.status_code != 204 or not instrument.started:
                found.note("answer", f"“{kind}” was never started: {asked.text}")
            elif not instrument.stopped:
                found.note("left turning", kind)
            else:
                late = instrument.stopped - instrument.started
                print(f"  {kind}: stopped after {late:.1f} s", flush=True)
            client.post(f"{check}/live/do", data={"what": "disconnect"})
            page = client.get(f"{check}?step=pull").text
            if (notes := len(re.findall(r"is above|held for|instrument reports", page))) > 12:
                found.note("doubled", f"“{kind}” is noted {notes} times")
    server.stop(found)


def damaged_stores(folder: Path, chance: random.Random, found: Found) -> None:
    """Stores with bytes turned over: every command says a sentence, none a traceback."""
    whole = fresh(folder, "to-damage.db")
    with closing(sqlite3.connect(whole)) as driver:
        driver.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    for place in range(10):
        torn = folder / f"torn-{place}.db"
        content = bytearray(whole.read_bytes())
        if place % 2:
            del content[chance.randrange(100, len(content)) :]
        else:
            for _ in range(40):
                content[chance.randrange(len(content))] = chance.randrange(256)
        torn.write_bytes(content)
        for args in (["judge"], ["export", str(folder / f"out-{place}")], ["backup", str(folder / f"b-{place}.db")]):
            done = subprocess.run([*COMMAND, *args, "--db", str(torn)], capture_output=True, text=True, check=False)
            if "Traceback" in done.stderr or done.returncode not in (0, 1):
                found.note("traceback", f"waldhorn {args[0]} on a damaged store: {done.stderr[-300:]}")
    print("  10 damaged stores, 3 commands each", flush=True)


def main() -> None:
    """Attack, and say what was found."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seed", type=int, default=1871)
    parser.add_argument("--share", type=float, default=1.0, help="of everything that is tried")
    chosen = parser.parse_args()
    chance, found, began = random.Random(chosen.seed), Found(), time.monotonic()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        os.environ["TMPDIR"] = name
        kills_under_forms(folder, chance, found, max(1, round(FORM_KILLS * chosen.share)))
        kills_in_commands(folder, chance, found, max(1, round(OTHER_KILLS * chosen.share)))
        kills_in_bringing_in(folder, chance, found, max(1, round(OTHER_KILLS * chosen.share)))
        odd_requests(folder, chance, found, round(REQUESTS * chosen.share))
        hostile_instruments(folder, found)
        damaged_stores(folder, chance, found)
        attack_versions.upgrades_killed(folder, chance, found, max(1, round(UPGRADES * chosen.share)))
        attack_versions.second_thoughts(folder, chance, found, max(1, round(WALKS * chosen.share)))
        with closing(Device(folder, chance, found)) as device:
            device.attack(max(1, round(ROUNDS * chosen.share)))
    print(f"{time.monotonic() - began:.0f} s, seed {chosen.seed}: {dict(found.counts) or 'nothing found'}")
    raise SystemExit(bool(found.counts))


if __name__ == "__main__":
    main()
