"""Files that are wrong in some way, brought in as the browser does: every answer is a page, nothing is stored by half.

By default 2,000 files with 100,000 rows together: tables, foreign sheets, packages and documents, cut, mixed up, with
bytes changed and cells exchanged for odd ones. Prints what was answered; ends with status 1 when a page failed.
"""

import argparse
import io
import json
import random
import sys
import tempfile
import zipfile
from collections import Counter
from pathlib import Path

from fastapi.testclient import TestClient

from waldhorn.exchange.backup import backup
from waldhorn.pit import demo
from waldhorn.store.engine import open_store
from waldhorn.web.app import create_app
from waldhorn.web.common import guard
from waldhorn.web.common.pages import now

ODD = (
    "",
    "nan",
    "inf",
    "-1",
    "1e309",
    "=1+1",
    "2026-99-99",
    "yes",
    "кв",
    "\x00",
    "VS-01",
    '"',
    "9" * 400,
    "12,400",
    "°C",
)
MEASURES = ("kv", "noise_avg", "rpm", "temperature", "loudness", "")


def table(random_: random.Random, rows: int) -> bytes:
    """A readings table in which some cells are odd."""
    lines = ["motor,check,at,measure,value,unit,run"]
    for row in range(rows):
        cells = [
            "VS-01",
            f"c{row // 9}",
            f"2026-05-02T10:{row % 60:02}:00+02:00",
            random_.choice(MEASURES),
            "81.2",
            "",
            "1",
        ]
        if random_.random() < 0.2:
            cells[random_.randrange(7)] = random_.choice(ODD)
        lines.append(",".join(cells))
    return "\n".join(lines).encode()


def foreign(random_: random.Random, rows: int) -> bytes:
    """A sheet of somebody's own."""
    part = random_.choice(";\t,")
    lines = [part.join(random_.sample(["Motor", "Datum", "KV", "Krach", "Strom", "temp °C", "?"], 5))]
    lines += [part.join(random_.choice([*ODD, "VS-01", "02.05.2026", "81,2"]) for _ in range(5)) for _ in range(rows)]
    return "\n".join(lines).encode(random_.choice(["utf-8", "utf-16", "cp1251"]), "replace")


def packed(random_: random.Random, rows: int) -> bytes:
    """A package with a table in it."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        package.writestr(random_.choice(["readings.csv", "data/motors.csv", "../../x.csv"]), table(random_, rows))
    return out.getvalue()


def document(random_: random.Random, rows: int) -> bytes:
    """A backup or a motor's own file that holds what it should not."""
    row = {"id": random_.choice(ODD), "tag": random_.choice(ODD), "value": random_.choice([1, None, [], "x"])}
    whole = random_.choice(
        [
            {
                "waldhorn_backup": 3,
                "tables": {random_.choice(["motor", "reading", "change", "pit"]): [row] * min(rows, 9)},
            },
            {"waldhorn_motor": 1, "motor": row, "checks": [row], "findings": [row], "pit": {}},
            [row],
            {"waldhorn_motor": random_.choice(ODD)},
        ]
    )
    return json.dumps(whole).encode()


KINDS = {"readings.csv": table, "pit.csv": foreign, "all.zip": packed, "kept.json": document, "pit.xlsx": packed}


def spoilt(random_: random.Random, content: bytes) -> bytes:
    """The same with a few bytes changed, or cut, or neither."""
    found = bytearray(content)
    how = random_.random()
    if how < 0.3:
        for _ in range(random_.randint(1, 20)):
            found[random_.randrange(len(found))] = random_.randrange(256)
    elif how < 0.45:
        del found[random_.randrange(1, len(found)) :]
    return bytes(found)


def main() -> None:
    """Bring them in and count."""
    asked = argparse.ArgumentParser()
    asked.add_argument("--files", type=int, default=2_000)
    asked.add_argument("--rows", type=int, default=50, help="of a file")
    asked.add_argument("--seed", type=int, default=12)
    given = asked.parse_args()
    random_, seen, failed = random.Random(given.seed), Counter[str](), 0
    with tempfile.TemporaryDirectory() as folder:
        store = open_store(Path(folder) / "pit.db")
        with store.writing() as session:
            demo.fill(session, now())
        client = TestClient(
            create_app(store), base_url="http://127.0.0.1:8700", follow_redirects=True, raise_server_exceptions=False
        )
        client.get("/help")
        client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
        for number in range(given.files):
            name, make = random_.choice(list(KINDS.items()))
            content = spoilt(random_, make(random_, given.rows))
            laid = client.post("/bring-in", files={"files": (name, content)})
            answers = [laid]
            if laid.status_code == 200 and "/bring-in/" in str(laid.url):
                with store.reading() as session:
                    before = backup(session)["tables"]["reading"] if number % 20 == 0 else None
                answers.append(client.post(laid.url.path))
                if before is not None and answers[-1].status_code == 422:
                    with store.reading() as session:
                        failed += backup(session)["tables"]["reading"] != before
                if answers[-1].status_code == 422 and random_.random() < 0.5:
                    answers.append(client.post(laid.url.path, data={"skip_bad": "yes"}))
            for answer in answers:
                seen[f"{answer.request.method} {answer.status_code}"] += 1
                if answer.status_code >= 500:
                    failed += 1
                    print(f"{number} {name}: {answer.status_code}", file=sys.stderr)
        store.close()
    print(f"{given.files} files of {given.rows} rows: {dict(seen)}, {failed} failed")
    raise SystemExit(bool(failed))


if __name__ == "__main__":
    main()
