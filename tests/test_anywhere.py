"""Laptops in a pit run anything: without what only some systems have, from a wheel, and at once."""

import json
import os
import re
import shutil
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import httpx2 as httpx
import pytest

from waldhorn.web.screens.help.routes import SHIPPED

ROOT = Path(__file__).parents[1]
ONLY_POSIX = ("tty", "termios", "fcntl", "pty", "resource", "pwd", "grp", "syslog")
WITHOUT = f"""
import importlib.abc, sys
class Blocked(importlib.abc.MetaPathFinder):
    def find_spec(self, name, path=None, target=None):
        if name in {ONLY_POSIX!r}:
            raise ImportError(f"{{name}} is not on this system")
sys.meta_path.insert(0, Blocked())
for name in {ONLY_POSIX!r}:
    sys.modules.pop(name, None)
import waldhorn.cli
sys.argv = ["waldhorn", *sys.argv[1:]]
waldhorn.cli.main()
"""


def run(*args, **more):
    return subprocess.run([sys.executable, *args], capture_output=True, text=True, check=False, **more)


@pytest.mark.long
def test_the_commands_need_nothing_that_only_posix_has(tmp_path):
    (tmp_path / "motors.csv").write_text("tag,model\nVS-01,Skerry 36\n")
    done = run("-c", WITHOUT, "import", "motors.csv", "--db", "pit.db", cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    done = run("-c", WITHOUT, "judge", "--db", "pit.db", cwd=tmp_path)
    assert (done.returncode, done.stdout[:6]) == (0, "VS-01:"), done.stderr
    for command in ("serve", "demo"):
        loads = "import waldhorn.web.app, waldhorn.pit.demo, waldhorn.simulator.clamped, uvicorn"
        done = run("-c", WITHOUT.replace("waldhorn.cli.main()", loads), command, cwd=tmp_path)
        assert done.returncode == 0, done.stderr


def test_help_loads_nothing_that_it_does_not_need():
    told = run("-X", "importtime", "-m", "waldhorn.cli", "--help").stderr
    loaded = set(re.findall(r"\| +([\w.]+)$", told, re.MULTILINE))
    assert "waldhorn.cli.serving" in loaded
    assert not {"numpy", "sqlalchemy", "fastapi", "scipy", "waldhorn.store"} & loaded


@pytest.fixture(scope="module")
def wheel(tmp_path_factory):
    folder = tmp_path_factory.mktemp("wheel")
    shutil.rmtree(ROOT / "build", ignore_errors=True)  # what an earlier build left there would be packed as well
    made = run("-m", "pip", "wheel", "--quiet", "--no-deps", "--no-build-isolation", "-w", str(folder), str(ROOT))
    assert made.returncode == 0, made.stderr
    return next(folder.glob("*.whl"))


@pytest.mark.long
def test_a_wheel_holds_all_that_is_shown_and_needed(wheel):
    with zipfile.ZipFile(wheel) as packed:
        held = set(packed.namelist())
    every = (f for f in (ROOT / "src/waldhorn").rglob("*") if f.is_file() and "__pycache__" not in f.parts)
    shipped = {f.relative_to(ROOT / "src").as_posix() for f in every}
    assert len(shipped) > 400
    assert shipped - held == set()
    assert not [name for name in held if name.endswith(".pyc")]
    static = {name.rpartition("/")[2] for name in held if "/static/licenses/" in name}
    assert static == {file for *_, file in SHIPPED}
    assert {f.stem.split("-")[0] for f in ROOT.glob("src/waldhorn/web/static/vendor/*.js")} == {
        "htmx.min", "alpine", "uplot.min", "jsqr"
    }  # fmt: skip


NAMED_BY_NONE = {"bring-in", "studies", "pictures", "sounds", "instruments", "checks"}  # by what the test asks with
EVERY_ROUTE = """
import json, sys
from pathlib import Path
from starlette.testclient import TestClient
import waldhorn
from routes import routes_of
from waldhorn.store.engine import open_store
from waldhorn.web.app import create_app

store = open_store(Path(sys.argv[1]))
driver = store.file.connect(5)
given = {
    "tag": "VS-20", "step": "pull", "size": "card", "token": "nothing-is-here!",
    "check_id": driver.execute("SELECT id FROM bench_check WHERE open").fetchone()[0],
    "study_id": "none", "picture_id": "none", "sound_id": "none", "key": "none",
}
names = {"rigs": "pier bench", "models": "Skerry 36", "machines": "camera drone", "instruments": "none"}
asked = {"loads.svg": "tags=VS-20,VS-21", "loads.csv": "tags=VS-20,VS-21", "compare": "tags=VS-20,VS-21"}
app, found = create_app(store), {}
with TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
    for route in routes_of(app):
        if "GET" not in route.methods or route.path.endswith(("/stream", "/events")):
            continue
        place = route.path.split("/")[1]
        path = route.path.replace("{name:path}", names.get(place, ""))
        for name, value in given.items():
            path = path.replace("{" + name + "}", value)
        found[path] = client.get(f"{path}?{asked.get(place, '')}").status_code
    api = next(r for r in app.routes if getattr(r, "name", "") == "api")
    for route in routes_of(api.app):
        if "GET" in route.methods:
            path = "/api/v1" + route.path.replace("{tag}", "VS-20")
            found[path] = client.get(path).status_code
print(json.dumps([waldhorn.__file__, found]))
"""


@pytest.mark.long
def test_every_route_answers_from_an_installed_wheel(wheel, demo_file, tmp_path):
    installed, store = tmp_path / "installed", shutil.copy(demo_file, tmp_path / "demo.db")
    done = run("-m", "pip", "install", "--quiet", "--no-deps", "--target", str(installed), str(wheel))
    assert done.returncode == 0, done.stderr
    paths = os.pathsep.join((str(installed), str(ROOT / "tests")))
    asked = run("-c", EVERY_ROUTE, str(store), env=os.environ | {"PYTHONPATH": paths}, cwd=tmp_path)
    assert asked.returncode == 0, asked.stderr
    where, found = json.loads(asked.stdout)
    assert where.startswith(str(installed))
    assert len(found) > 50
    assert {path: status for path, status in found.items() if status >= 500} == {}
    not_there = [p for p, status in found.items() if status != 200]
    assert {p.split("/")[1] for p in not_there} <= NAMED_BY_NONE, not_there


@pytest.mark.long
def test_installed_from_a_wheel_the_demo_needs_no_node_make_or_compiler(wheel, tmp_path):
    installed = tmp_path / "installed"
    done = run("-m", "pip", "install", "--quiet", "--no-deps", "--target", str(installed), str(wheel))
    assert done.returncode == 0, done.stderr
    env = {
        "PYTHONPATH": str(installed),
        "PATH": "",
        "HOME": str(tmp_path),
        "SYSTEMROOT": os.environ.get("SYSTEMROOT", ""),
    }
    where = run("-c", "import waldhorn; print(waldhorn.__file__)", env=env, cwd=tmp_path)
    assert where.stdout.startswith(str(installed)), where.stderr
    command = [sys.executable, "-m", "waldhorn.cli", "demo", "--port", "18711", "--db", "demo.db"]
    with subprocess.Popen(command, env=env, cwd=tmp_path, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE) as demo:
        try:
            end = time.monotonic() + 120
            while True:
                try:
                    page = httpx.get("http://127.0.0.1:18711/", timeout=10)
                    break
                except httpx.TransportError:
                    assert demo.poll() is None, demo.stderr.read().decode()
                    assert time.monotonic() < end
                    time.sleep(0.2)
            assert page.status_code == 200
            assert "VS-07" in page.text
            assert httpx.get("http://127.0.0.1:18711/static/waldhorn.css").status_code == 200
        finally:
            demo.terminate()
