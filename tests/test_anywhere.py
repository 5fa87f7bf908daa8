"""Laptops in a pit run anything: without what only some systems have, from a wheel, and at once."""

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
    shipped = [
        *ROOT.glob("src/waldhorn/web/**/*.html"),
        *(f for f in ROOT.glob("src/waldhorn/web/static/**/*") if f.is_file()),
        *ROOT.glob("src/waldhorn/**/*.py"),
        *ROOT.glob("src/waldhorn/**/*.json"),
        *ROOT.glob("src/waldhorn/**/*.mako"),
    ]
    assert len(shipped) > 300
    missing = [f for f in shipped if f.relative_to(ROOT / "src").as_posix() not in held]
    assert missing == []


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
