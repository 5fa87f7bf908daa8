"""Killed at any moment, everything that was acknowledged is there afterwards and the store opens."""

import multiprocessing
import os
import random
import re
import signal
import socket
import threading
import time
from contextlib import closing
from multiprocessing.process import BaseProcess
from pathlib import Path

import httpx2 as httpx
import pytest

from waldhorn.cli import serving
from waldhorn.core.base.history import Motor
from waldhorn.store import motors, readings
from waldhorn.store.engine import open_store

pytestmark = pytest.mark.long
TIMES = 5


@pytest.fixture(scope="module")
def servers():
    """Servers that are forked off one that has everything loaded: they come up in a moment on a busy machine too."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["waldhorn.cli"])
    return context


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def start(servers, db: Path) -> tuple[BaseProcess, str]:
    port = free_port()
    server = servers.Process(target=serving.serve, args=(db, "127.0.0.1", port), daemon=True)
    server.start()
    for _ in range(1000):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return server, f"http://127.0.0.1:{port}"
        time.sleep(0.02)
    raise AssertionError("the server did not come up")


def test_readings_that_were_acknowledged_survive_a_kill(tmp_path, servers):
    db = tmp_path / "pit.db"
    store = open_store(db)
    with store.writing() as session:
        (motor,) = motors.add(session, [Motor("VS-01")])
    store.close()
    acknowledged: list[float] = []
    chance = random.Random(7)
    for _ in range(TIMES):
        server, address = start(servers, db)
        killer = threading.Timer(chance.uniform(0.05, 0.8), os.kill, (server.pid, signal.SIGKILL))
        with httpx.Client(base_url=address, follow_redirects=False) as client:
            token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/motors/VS-01").text)
            assert token
            client.headers["X-CSRF-Token"] = token[1]
            check = client.post("/motors/VS-01/checks").headers["location"].split("?")[0]
            client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
            killer.start()
            try:
                while True:
                    rpm = 20_000 + len(acknowledged)
                    answer = client.post(
                        f"{check}/steps/pull", data={"volts": "7.4", "amps": "2.1", "rpm": f"{rpm} rpm"}
                    )
                    assert answer.status_code == 303
                    acknowledged.append(float(rpm))
            except httpx.TransportError:
                pass
        server.join()
        killer.join()
    store = open_store(db)
    with store.reading() as session:
        kept = [r.value for c in readings.history(session, motor).checks for r in c.readings if r.measure == "rpm"]
    store.close()
    assert len(acknowledged) > TIMES
    assert set(acknowledged) <= set(kept)
    assert len(kept) - len(acknowledged) <= TIMES  # at most the one in flight at each kill


def test_told_to_end_it_closes_streams_and_store_as_after_ctrl_c(tmp_path, servers):
    db = tmp_path / "pit.db"
    open_store(db).close()
    server, address = start(servers, db)
    with httpx.Client(base_url=address, timeout=30) as client:
        client.get("/")
        form = {"csrf_token": client.cookies["waldhorn_form"], "tag": "VS-09", "kind": "inrunner"}
        assert client.post("/motors/new", data=form).status_code == 303
        with client.stream("GET", "/events", params={"screen": "one"}) as stream:
            os.kill(server.pid, signal.SIGTERM)
            for _ in stream.iter_bytes():
                pass  # it ends
    server.join(20)
    assert server.exitcode == 0
    assert [f.name for f in tmp_path.glob("pit.db*")] == ["pit.db"]
    with closing(open_store(db)) as store, store.reading() as session:
        assert motors.all_tags(session) == ["VS-09"]
