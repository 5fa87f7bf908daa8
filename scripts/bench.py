"""Benchmarks, printed as ratios against something in the same run: this is a shared machine, seconds mean little.

Aims: the rack, and twelve motors under load, within 4x of a static page of the same server, a motor's page, a
comparison of twelve motors and the page of a model of 300 within 3x, what a motor will do within 12x, import within 8x
of raw sqlite3, judging linear (10x the motors within 12x the time).
"""

import csv
import re
import sqlite3
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from fastapi.testclient import TestClient

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Check, History, Reading
from waldhorn.core.base.history import Motor as Facts
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.judging.verdict import judge
from waldhorn.exchange.staging import import_staged
from waldhorn.pit.judging import judging
from waldhorn.store import motors as motor_store
from waldhorn.store import readings as reading_store
from waldhorn.store.engine import Store, open_store
from waldhorn.store.models import clock
from waldhorn.store.writing import Writing
from waldhorn.web.app import create_app
from waldhorn.web.common import guard

MOTORS, READINGS = 2_000, 200_000
CROWD = 300  # of them are of one model, where there are so many
COLUMNS = ["motor", "check", "at", "measure", "value", "run", "throttle_pct", "rig", "method", "motor_c"]
START = datetime(2026, 1, 1, tzinfo=UTC)


def best(what: Callable[[], object], times: int = 5) -> float:
    """The fastest of several goes, in seconds."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        what()
        taken.append(time.perf_counter() - start)
    return min(taken)


def write_tables(folder: Path, motors: int, readings: int) -> list[Path]:
    """Motors with equally many full-throttle checks of two runs each, in models of twenty."""
    files = [folder / "motors.csv", folder / "readings.csv"]
    with files[0].open("w", newline="") as stream:
        writer = csv.writer(stream)
        writer.writerow(["tag", "model", "label_kv", "poles", "machine", "owner"])
        writer.writerows(
            [
                f"M-{i:04}",
                "Crowd" if i >= MOTORS - CROWD else f"Model {i // 20}",
                3450,
                4,
                f"boat {i % 300}",
                f"owner {i % 80}",
            ]
            for i in range(motors)
        )
    checks = readings // motors // 6
    with files[1].open("w", newline="") as stream:
        writer = csv.writer(stream)
        writer.writerow(COLUMNS)
        left = readings
        for i in range(motors):
            for c in range(checks + 1):
                at = (START + timedelta(days=3 * c, minutes=i % 600)).isoformat()
                for run in (1, 2):
                    for measure, value in (
                        ("supply_volts", 7.4),
                        ("rpm", 25_000 + 7 * ((i * c + run) % 31)),
                        ("no_load_current", 2.2),
                    ):
                        if left and (c < checks or i * 6 < readings - motors * checks * 6):
                            writer.writerow(
                                [f"M-{i:04}", c, at, measure, value, run, 100, "bench", "loaded-supply", 25]
                            )
                            left -= 1
    return files


def import_into(store: Store, files: list[Path]) -> None:
    """The import as the command does it, without judging afterwards."""
    import_staged(store, Writing(clock()), files, lambda *_: None, skip_bad=False, dry_run=False)


def raw_executemany(folder: Path) -> float:
    """The same rows into the same table, already parsed and checked, with the standard library alone."""
    source = sqlite3.connect(folder / "large.db")
    rows = source.execute("SELECT * FROM reading").fetchall()
    source.close()
    open_store(folder / "raw.db").close()
    connection = sqlite3.connect(folder / "raw.db", isolation_level=None)
    connection.execute("PRAGMA synchronous=FULL")
    start = time.perf_counter()
    connection.execute("BEGIN")
    connection.executemany(f"INSERT INTO reading VALUES ({','.join('?' * len(rows[0]))})", rows)
    connection.execute("COMMIT")
    taken = time.perf_counter() - start
    connection.close()
    return taken


def say(what: str, ratio: float, aim: float) -> None:
    """One line a ratio."""
    print(f"{what:<62} {ratio:7.1f}x  aim {aim:g}x  {'met' if ratio <= aim else 'NOT met'}", flush=True)


def main() -> None:
    """Measure and print every ratio."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "small").mkdir()
        files = write_tables(folder, MOTORS, READINGS)
        store, small = open_store(folder / "large.db"), open_store(folder / "small.db")
        start = time.perf_counter()
        import_into(store, files)
        imported = time.perf_counter() - start
        say("import of 200,000 readings : raw executemany", imported / raw_executemany(folder), 8)
        import_into(small, write_tables(folder / "small", MOTORS // 10, READINGS // 10))
        now = START + timedelta(days=400)
        times = {}
        for key, one in (("large", store), ("small", small)):
            with one.reading() as session:
                times[key] = best(lambda s=session: judging.judge_all(s, now), 2)
            with one.writing() as session:
                judging.settle(session, now)
        say("judge of 2,000 motors : judge of 200", times["large"] / times["small"], 12)
        say("judge of a motor with 200 checks : with 20", many_checks(200) / many_checks(20), 10)
        pages(store)
        store.close()
        small.close()


def many_checks(count: int) -> float:
    """Seconds to judge one motor with so many full-throttle checks of two runs; also printed, in milliseconds."""
    under = Conditions("bench", "loaded-supply", 100.0, motor_c=25.0)
    checks = tuple(
        Check(
            str(c),
            START + timedelta(days=c),
            tuple(
                Reading(m, v, START + timedelta(days=c), run, under)
                for run in (1, 2)
                for m, v in (
                    ("supply_volts", 7.4),
                    ("rpm", 25_000.0 + 7 * ((c + run) % 31)),
                    ("no_load_current", 2.2 + 0.001 * c),
                )
            ),
        )
        for c in range(count)
    )
    history = History(Facts("M", label_kv=3450, poles=4), checks)
    seconds = best(lambda: judge(history, START + timedelta(days=400)), 10)
    print(f"judge of a motor with {count} checks takes {1000 * seconds:.1f} ms", flush=True)
    return seconds


LOAD_ROWS = 400


def under_load(store: Store) -> str:
    """Twelve motors with so many load rows, nine propellers at four throttles; their tags."""
    tags = [f"L-{i}" for i in range(12)]
    with store.writing() as session:
        ids = motor_store.add(session, [Facts(tag) for tag in tags])
        rows = ((i, inch, pct) for i in range(12) for inch in range(4, 13) for pct in (25.0, 50.0, 75.0, 100.0))
        for run, (i, inch, pct) in zip(range(LOAD_ROWS), rows, strict=False):
            under = Conditions(rig="r", throttle_pct=pct, on_shaft=f"{inch}x4.5", cells=3.0)
            check = reading_store.check_ids(session, [(ids[i], "load", START, Conditions(rig="r"))])[ids[i], "load"]
            grams = (pct / 100) ** 2 * (100 * inch - 100) * (1 + 0.01 * i)
            watts = grams * (0.1 + 0.002 * pct) * (1 + 0.02 * (i * 7 % 5))
            read = {"thrust": grams, "load_watts": watts, "load_volts": 11.1, "load_current": watts / 11.1}
            reading_store.add(
                session, [(check, Reading(m, v, START, run, under, Purpose.LOAD)) for m, v in read.items()]
            )
        motor_store.touch(session, ids)
    return ",".join(tags)


def pages(store: Store) -> None:
    """The main pages, and what a key and an Enter on the bench cost, against a static page of the same server."""
    with TestClient(create_app(store), base_url="http://127.0.0.1", follow_redirects=False) as client:
        static = best(lambda: client.get("/help"), 40)
        client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
        tag = next(tag for tag in re.findall(r"/motors/(M-[^\"?]+)\"", client.get("/?find=M-1").text))
        bench = client.post(f"/motors/{tag}/checks").headers["location"].split("?")[0]
        twelve = ",".join(f"M-{i:04}" for i in range(12))
        pull = {"volts": "7.4", "amps": "2.2", "rpm": "25000"}
        client.post(f"{bench}/steps/setup", data={"rig": "bench", "method": "loaded-supply", "motor_c": "25"})
        client.post(f"{bench}/steps/pull", data=pull)
        loaded = {"what": "propeller", "rest_v": "7.6", "load_v": "7.1", "amps": "31", "rpm": "22500"}
        client.post(f"{bench}/steps/load", data=loaded)
        if "Nine in ten" not in client.get(f"/motors/{tag}/predict").text:
            raise RuntimeError("the page predicts nothing: there is nothing to measure")
        for what, ask, aim in (
            ("rack", lambda: client.get("/"), 4),
            ("rack, finding", lambda: client.get("/?find=owner+7"), 4),
            ("find, in everything", lambda: client.get("/find?q=owner+7", headers={"HX-Request": "true"}), 4),
            ("motor page", lambda: client.get(f"/motors/{tag}"), 3),
            ("the book of a motor", lambda: client.get(f"/motors/{tag}/book"), 3),
            ("every step of a check", lambda: client.get(f"{bench}/steps"), 30),
            ("comparing twelve motors", lambda: client.get(f"/compare?tags={twelve}&take=4"), 3),
            ("the page of a model of 300 motors", lambda: client.get("/models/Crowd"), 3),
            ("what it will do, with its curves", lambda: client.get(f"/motors/{tag}/predict"), 12),
            ("key on the bench", lambda: client.post(f"{bench}/steps/pull/draft", data=pull), 10),
            ("Enter on the bench", lambda: client.post(f"{bench}/steps/pull", data=pull), 20),
        ):
            say(f"{what}, 2,000 motors, 200,000 readings : static page", best(ask, 30) / static, aim)
        loaded_tags = under_load(store)
        for what, times, aim in (("the first time", 1, 40), ("again", 20, 4)):
            ratio = best(lambda: client.get(f"/compare?tags={loaded_tags}"), times) / static
            say(f"comparing twelve motors with {LOAD_ROWS} load rows, {what} : static page", ratio, aim)


if __name__ == "__main__":
    main()
