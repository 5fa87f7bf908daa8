"""The pit on the network: listened on where it was asked for, under a certificate of its own, and shut again."""

import asyncio
import socket
import ssl
from contextlib import asynccontextmanager

import argon2
import httpx2 as httpx
import pytest
import uvicorn

from loops import in_a_loop
from waldhorn.core.base.errors import InputError
from waldhorn.pit.settings import certificate, seats
from waldhorn.store.seats import Role
from waldhorn.web import opening as module
from waldhorn.web.app import create_app
from waldhorn.web.common.pages import now
from waldhorn.web.opening import Opening, asked_for
from waldhorn.web.screens.settings import others

OUTSIDE = "127.0.0.2"


@pytest.fixture
def port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@asynccontextmanager
async def served(store, port, to_open=None):
    app = create_app(store, to_open=to_open)
    app.state.opening.port = port
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="warning", timeout_graceful_shutdown=1))
    task = asyncio.create_task(server.serve())
    while not server.started:
        await asyncio.sleep(0.01)
    yield app
    app.state.presence.closing.set()
    server.should_exit = True
    await task


def is_listened_on(address, port):
    with socket.socket() as probe:
        return probe.connect_ex((address, port)) == 0


def test_it_is_opened_and_shut_while_it_runs_and_only_where_it_was_asked_for(store, port):
    async def run():
        async with served(store, port) as app:
            seen = [is_listened_on(OUTSIDE, port)]
            await app.state.opening.open(app, [OUTSIDE], None)
            seen += [is_listened_on(OUTSIDE, port), is_listened_on("127.0.0.3", port)]
            assert app.state.opening.urls == (f"http://{OUTSIDE}:{port}",)
            async with httpx.AsyncClient(base_url=f"http://{OUTSIDE}:{port}") as client:
                assert (await client.get("/join")).status_code == 200
                assert (await client.get("/")).status_code == 303
            await app.state.opening.shut()
            return [*seen, is_listened_on(OUTSIDE, port), is_listened_on("127.0.0.1", port)]

    assert in_a_loop(run()) == [False, True, False, False, True]
    assert not is_listened_on("127.0.0.1", port)


def test_a_keeper_who_shuts_it_from_outside_is_answered_first(store, port, monkeypatch):
    monkeypatch.setattr("waldhorn.store.seats._hasher", lambda: argon2.PasswordHasher(1, 8, 1))
    with store.writing() as session:
        seats.set_passphrase(session, Role.KEEPER, "what keepers know", now())

    async def run():
        async with served(store, port, ([OUTSIDE], None)):
            async with httpx.AsyncClient(base_url=f"http://{OUTSIDE}:{port}") as client:
                await client.get("/join")
                token = {"x-csrf-token": client.cookies["waldhorn_form"]}
                typed = {"name": "JK", "passphrase": "what keepers know"}
                assert (await client.post("/join", data=typed, headers=token)).status_code == 303
                await client.get("/help")
                token = {"x-csrf-token": client.cookies["waldhorn_form"]}
                answer = await client.post("/settings/shut", headers=token)
            for _ in range(300):
                if not is_listened_on(OUTSIDE, port):
                    return answer
                await asyncio.sleep(0.02)
        raise AssertionError("it is still open")

    assert in_a_loop(run()).text == "It is shut: only its own machine reaches this pit now."


def test_over_tls_the_certificate_is_the_one_whose_fingerprint_is_shown(store, port, tmp_path):
    made = certificate.of_pit(tmp_path / "pit.db", [OUTSIDE], now())

    async def run():
        async with served(store, port, ([OUTSIDE], made)) as app:
            trusted = ssl.create_default_context(cafile=made.file)
            async with httpx.AsyncClient(base_url=f"https://{OUTSIDE}:{port}", verify=trusted) as client:
                page = (await client.get("/join")).text
            with pytest.raises(httpx.ConnectError):
                async with httpx.AsyncClient() as client:
                    await client.get(f"https://{OUTSIDE}:{port}/join")
            shown = await asyncio.to_thread(ssl.get_server_certificate, (OUTSIDE, port), timeout=10)
            return app.state.opening.urls, page, ssl.PEM_cert_to_DER_cert(shown)

    urls, page, served_as = in_a_loop(run())
    assert urls == (f"https://{OUTSIDE}:{port}",)
    assert made.fingerprint.replace(":", " ") in page
    assert "Not encrypted" not in page
    assert served_as == ssl.PEM_cert_to_DER_cert(made.file.read_text())


def test_the_switch_on_the_settings_page_asks_for_a_passphrase_first(store, port, monkeypatch):
    monkeypatch.setattr(others, "of_local_network", lambda: [OUTSIDE])
    monkeypatch.setattr("waldhorn.store.seats._hasher", lambda: argon2.PasswordHasher(1, 8, 1))

    async def run():
        async with served(store, port), httpx.AsyncClient(base_url=f"http://127.0.0.1:{port}") as client:
            await client.get("/help")
            client.headers["x-csrf-token"] = client.cookies["waldhorn_form"]
            refused = await client.post("/settings/open", data={"tls": "yes"})
            with store.writing() as session:
                seats.set_passphrase(session, Role.TECHNICIAN, "what technicians know", now())
            opened = await client.post("/settings/open", data={"tls": "yes"})
            page = (await client.get("/join")).text
            seen = is_listened_on(OUTSIDE, port)
            await client.post("/settings/shut")
            return refused, opened, page, seen, is_listened_on(OUTSIDE, port)

    refused, opened, page, seen, after = in_a_loop(run())
    assert refused.status_code == 422
    assert "set a passphrase first" in refused.text
    assert (opened.status_code, opened.headers["location"]) == (303, "/join")
    assert f"https://{OUTSIDE}:{port}" in page
    assert 'id="fingerprint"' in page
    assert (seen, after) == (True, False)


def test_a_certificate_is_made_once_for_its_owner_alone_and_anew_before_it_ends(tmp_path):
    db = tmp_path / "pit.db"
    first = certificate.of_pit(db, ["192.168.1.20"], now())
    assert first.key.stat().st_mode & 0o077 == 0
    assert certificate.of_pit(db, ["10.0.0.3"], now()) == first
    later = now() + certificate.LASTS - certificate.RENEWED
    assert certificate.of_pit(db, ["10.0.0.3"], later).fingerprint != first.fingerprint
    assert certificate.of_files(first.file, first.key).fingerprint == certificate.of_pit(db, [], now()).fingerprint


def test_what_is_no_certificate_is_said(tmp_path):
    (tmp_path / "a.pem").write_text("no")
    for file in ("a.pem", "none.pem"):
        with pytest.raises(InputError, match="no certificate and key as PEM"):
            certificate.of_files(tmp_path / file, tmp_path / file)


def test_only_addresses_of_a_local_network_are_opened_by_themselves(monkeypatch):
    class Adapter:
        def __init__(self, *ips):
            self.ips = [type("IP", (), {"ip": ip})() for ip in ips]

    has = [Adapter("127.0.0.1", ("::1", 0, 0)), Adapter("192.168.1.20", ("fe80::1", 0, 2)), Adapter("8.8.8.8")]
    monkeypatch.setattr("ifaddr.get_adapters", lambda: has)
    assert asked_for(module.EVERYWHERE) == ["192.168.1.20"]
    assert asked_for("8.8.8.8") == ["8.8.8.8"]
    with pytest.raises(InputError, match=r"no address: one of 192\.168\.1\.20"):
        asked_for("pit")
    monkeypatch.setattr("ifaddr.get_adapters", list)
    with pytest.raises(InputError, match="no address on a local network"):
        asked_for(module.EVERYWHERE)


def test_where_nothing_can_be_listened_on_it_is_said(store):
    with pytest.raises(InputError, match="not served on a port"):
        in_a_loop(Opening().open(create_app(store), [OUTSIDE], None))
    with pytest.raises(InputError, match="nothing can be listened on"):
        in_a_loop(Opening(port=1).open(create_app(store), ["192.0.2.250"], None))
