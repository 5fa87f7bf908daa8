"""Fifty readers, five writers and an import beside the server: nobody sees anything but a page or "not now"."""

import multiprocessing
import re
import threading
import time
from collections import Counter

import httpx2 as httpx
import pytest

from test_killed import start
from waldhorn.cli import files
from waldhorn.core.base.history import Motor
from waldhorn.core.base.text import key_of
from waldhorn.store import motors
from waldhorn.store.engine import open_store

pytestmark = pytest.mark.long
# A connection kept alive may be closed by the server while a starved client writes to it; a browser asks again then.
A_CONNECTION_EACH = httpx.Limits(max_keepalive_connections=0)
READERS, WRITERS, READINGS = 50, 5, 12_000


def write_readings(file):
    with file.open("w", encoding="utf-8") as stream:
        stream.write("motor,check,at,measure,value,run,throttle_pct,rig\n")
        for i in range(READINGS):
            at = f"2026-03-{1 + i % 28:02}T10:00:00+01:00"
            stream.write(f"VS-{i % 40:02},{i // 400},{at},noise_avg,{80 + i % 7},{1 + i // 40 % 10},100,bench\n")


def test_an_import_and_fifty_five_clients_beside_the_server(tmp_path):
    db = tmp_path / "pit.db"
    store = open_store(db)
    with store.writing() as session:
        motors.add(session, [Motor(f"VS-{i:02}", "Skerry 36") for i in range(40)])
    store.close()
    write_readings(tmp_path / "readings.csv")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["waldhorn.cli"])
    server, address = start(context, db)
    seen: Counter[int] = Counter()
    stored: Counter[str] = Counter()
    stop = threading.Event()

    def read(number):
        with httpx.Client(base_url=address, timeout=60, limits=A_CONNECTION_EACH) as client:
            while not stop.wait(1.5):
                seen[client.get("/" if number % 2 else f"/motors/VS-{number % 40:02}").status_code] += 1

    def write(number):
        with httpx.Client(base_url=address, timeout=60, limits=A_CONNECTION_EACH, follow_redirects=False) as client:
            tag = f"VS-{number:02}"
            token = re.search(r'name="csrf_token" value="([^"]+)"', client.get(f"/motors/{tag}").text)
            while not stop.wait(0.5):
                typed = {"event": "run", "csrf_token": token[1], "detail": f"{time.monotonic()}"}
                answer = client.post(f"/motors/{tag}/events", data=typed)
                seen[answer.status_code] += 1
                stored[tag] += answer.status_code == 303

    clients = [threading.Thread(target=read, args=(n,)) for n in range(READERS)]
    clients += [threading.Thread(target=write, args=(n,)) for n in range(WRITERS)]
    for client in clients:
        client.start()
    importing = context.Process(target=files.import_, args=([tmp_path / "readings.csv"], db, False, False))
    importing.start()
    importing.join()
    stop.set()
    for client in clients:
        client.join()
    server.terminate()
    server.join()
    assert importing.exitcode == 0
    assert set(seen) <= {200, 303, 503}, seen
    store = open_store(db)
    with store.reading() as session:
        ids = motors.ids_by_tag(session)
        logged = Counter(i for i, _ in motors.events_of(session))
        assert {tag: logged[ids[key_of(tag)]] for tag in stored} == dict(stored)
        assert session.connection().exec_driver_sql("SELECT count(*) FROM reading").scalar() == READINGS
        assert session.connection().exec_driver_sql("PRAGMA integrity_check").scalar() == "ok"
    store.close()
