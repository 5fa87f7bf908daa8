"""Killed at any moment, everything that was acknowledged is there afterwards and the store opens."""

import os
import random
import re
import signal
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

import httpx2 as httpx
import pytest

from waldhorn.core.history import Motor
from waldhorn.store import motors, readings
from waldhorn.store.engine import open_store

TIMES = 20


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def start(db: Path) -> tuple[subprocess.Popen[bytes], str]:
    port = free_port()
    server = subprocess.Popen(
        [sys.executable, "-m", "waldhorn.cli", "serve", "--db", db, "--port", str(port)], stdout=subprocess.DEVNULL
    )
    address = f"http://127.0.0.1:{port}"
    for _ in range(200):
        try:
            httpx.get(f"{address}/help")
            return server, address
        except httpx.TransportError:
            time.sleep(0.05)
    raise AssertionError("the server did not come up")


@pytest.mark.slow
def test_readings_that_were_acknowledged_survive_a_kill(tmp_path):
    db = tmp_path / "pit.db"
    store = open_store(db)
    with store.writing() as session:
        motors.add(session, [Motor("VS-01")])
    store.close()
    acknowledged: list[float] = []
    chance = random.Random(7)
    for _ in range(TIMES):
        server, address = start(db)
        killer = threading.Timer(chance.uniform(0.05, 0.5), os.kill, (server.pid, signal.SIGKILL))
        with httpx.Client(base_url=address, follow_redirects=False) as client:
            token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/motors/VS-01").text)
            assert token
            client.headers["X-CSRF-Token"] = token[1]
            check = client.post("/motors/VS-01/checks").headers["location"]
            client.post(f"{check}/steps/setup", data={"rig": "bench", "method": "loaded-supply"})
            killer.start()
            try:
                while True:
                    rpm = 20_000 + len(acknowledged)
                    answer = client.post(
                        f"{check}/steps/pull", data={"volts": "7.4", "amps": "2.1", "rpm": f"{rpm} rpm", "step": "8"}
                    )
                    assert answer.status_code == 303
                    acknowledged.append(float(rpm))
            except httpx.TransportError:
                pass
        server.wait()
        killer.join()
    store = open_store(db)
    with store.reading() as session:
        kept = [r.value for c in readings.histories(session)[1].checks for r in c.readings if r.measure == "rpm"]
    store.close()
    assert len(acknowledged) > TIMES
    assert set(acknowledged) <= set(kept)
    assert len(kept) - len(acknowledged) <= TIMES  # at most the one in flight at each kill
