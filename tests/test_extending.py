"""The pages of docs/extending, carried out literally: what a page does not name is not touched."""

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
PAGES = ROOT / "docs/extending"
_NEW = re.compile(r"A new file `([^`]+)`")
_IN = re.compile(r"In `([^`]+)`,\s+(before|after|in\s+place\s+of)\s+`([^`]+)`", re.DOTALL)
_BLOCK = re.compile(r"```\w+\n(.*?)```", re.DOTALL)

pytestmark = pytest.mark.long

PIT = """
import re
from pathlib import Path
from starlette.testclient import TestClient
from waldhorn.core.base.history import Motor
from waldhorn.store import motors
from waldhorn.store.engine import open_store
from waldhorn.web.app import create_app
from waldhorn.web.common import guard

store = open_store(Path("pit.db"))
with store.writing() as session:
    motors.add(session, [Motor("A-1", "Skerry 36", poles=4), Motor("A-2", "Skerry 36", poles=4)])
client = TestClient(create_app(store), base_url="http://127.0.0.1:8700", follow_redirects=False).__enter__()
client.get("/help")
client.headers[guard.HEADER] = client.cookies[guard.COOKIE]

def check(tag):
    bench = client.post(f"/motors/{tag}/checks").headers["location"]
    client.post(f"{bench}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
    return bench

def take(bench, step, **typed):
    answer = client.post(f"{bench}/steps/{step}", data=typed)
    assert answer.status_code == 303, answer.text
"""
THEN = {
    "quantity": """
for tag, hz in (("A-1", 4100), ("A-2", 3700)):
    bench = check(tag)
    assert "Tap the bell" in client.get(f"{bench}?step=bell_ring").text
    for _ in range(2):
        take(bench, "bell_ring", ring_hz=str(hz))
    client.post(f"{bench}/hang")
assert "ing of the bell" in client.get("/motors/A-1").text
assert "rings" in client.get("/compare?tags=A-1,A-2").text
rows = client.get("/api/v1/motors/A-1/readings").json()
assert [(r["measure"], float(r["value"])) for r in rows] == [("bell_ring", 4100.0)] * 2
assert "ing of the bell" in client.get("/motors/A-1/paper/report").text
import io, zipfile
package = zipfile.ZipFile(io.BytesIO(client.get("/take-out/package.zip").content))
assert b"bell_ring" in package.read("readings.csv")
""",
    "fault": """
from waldhorn.core.judging.evidence_sources import Residual
from waldhorn.core.judging.weighing import faults_of, weigh
found = faults_of(weigh([Residual("vibration", 4.0, 0.3)]))
assert "cracked_bell" in {f.fault for f in found}, found
assert "A cracked bell" in client.get("/help").text
assert "cracked_bell" in client.get("/api/v1/openapi.json").text
""",
    "step": """
bench = check("A-1")
page = client.get(f"{bench}?step=shake_meter").text
assert "Put the meter on the mount" in page and "Propeller" in page
take(bench, "shake_meter", shakes_g="0.42")
assert [r["measure"] for r in client.get("/api/v1/motors/A-1/readings").json()] == ["vibration_rms"]
""",
    "screen": """
assert "2 motors hang on the rack." in client.get("/count").text
assert 'href="/count" data-place="k"' in client.get("/rigs").text
""",
    "file-format": """
sheet = b"".join(b'{"motor": "%s", "date": "2026-05-02", "noise dB": 81.5}\\n' % tag for tag in (b"A-1", b"A-2"))
laid = client.post("/bring-in", files={"files": ("pit.jsonl", sheet)}).headers["location"]
assert "noise" in client.get(laid).text
client.post(laid, data={"skip_bad": "yes"})  # a job of its own: it may still be at it when the page answers
import time
until = time.monotonic() + 60
while not (read := client.get("/api/v1/motors/A-1/readings").json()) and time.monotonic() < until:
    time.sleep(0.1)
assert [r["measure"] for r in read] == ["noise_avg"]
""",
}


def carry_out(page: Path, tree: Path) -> set[str]:
    """Do what a page says in a copy of the tree; returns the files it named."""
    text, named = page.read_text(encoding="utf-8"), set()
    for block in _BLOCK.finditer(text):
        said = text[: block.start()].rsplit("```", 1)[-1]
        if new := _NEW.search(said):
            file = tree / new[1]
            assert not file.exists(), f"{new[1]} is there already"
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_text(block[1])
            named.add(new[1])
            continue
        name, where, anchor = _IN.search(said).groups()
        file = tree / name
        lines = file.read_text().split("\n")
        [at] = [i for i, line in enumerate(lines) if line.startswith(anchor)]
        place = slice(at + (where == "after"), at + (where != "before"))
        lines[place] = block[1].rstrip("\n").split("\n")
        file.write_text("\n".join(lines))
        named.add(name)
    return named


def test_every_page_has_its_test():
    assert {p.stem for p in PAGES.glob("*.md")} == set(THEN)


@pytest.mark.parametrize("name", THEN)
def test_a_page_is_carried_out_literally_and_what_it_adds_is_found_everywhere(name, tmp_path):
    shutil.copytree(ROOT / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    named = carry_out(PAGES / f"{name}.md", tmp_path)
    assert named
    env = os.environ | {"PYTHONPATH": str(tmp_path / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    script = (
        PIT + "import waldhorn; assert waldhorn.__file__.startswith(str(Path.cwd())), waldhorn.__file__\n" + THEN[name]
    )
    done = subprocess.run(
        [sys.executable, "-c", script], cwd=tmp_path, env=env, capture_output=True, text=True, check=False
    )
    assert done.returncode == 0, done.stderr[-3000:]
