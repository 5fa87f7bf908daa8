"""Whatever is typed, sent or uploaded: refused with a sentence, or stored and found again; never a broken page."""

import io
import json
import re
import zipfile

import numpy as np
import openpyxl
import pytest
from PIL import Image
from starlette.testclient import TestClient

from loops import in_a_loop
from routes import changing
from waldhorn.core.base.errors import InputError
from waldhorn.core.motors.facts import NOT_IN_A_TAG
from waldhorn.exchange import sheets, workbook_reader
from waldhorn.pit.files import upload_staging
from waldhorn.store import api_keys, findings, motors, readings
from waldhorn.store.models import PictureRow
from waldhorn.web.app import create_app
from waldhorn.web.common import guard
from waldhorn.web.common.pages import now

FACTS = {"kind": "inrunner", "magnet": "neodymium", "sensored": "yes", "reference": "no"}


@pytest.fixture
def client(store):
    with TestClient(
        create_app(store), base_url="http://127.0.0.1:8700", follow_redirects=False, raise_server_exceptions=False
    ) as client:
        client.get("/help")
        client.headers[guard.HEADER] = client.cookies[guard.COOKIE]
        yield client


def tags(store):
    with store.reading() as session:
        return motors.all_tags(session)


@pytest.mark.long
@pytest.mark.parametrize("tag", ["Ω-1", "motör 7", "a b", "日本", "x" * 40, "VS.07", "a&b", "a'b", 'a"b', "+1", "~"])
def test_any_printable_tag_is_stored_and_its_pages_are_reached(client, store, tag):
    taken = client.post("/motors/new", data=FACTS | {"tag": tag})
    assert taken.status_code == 303
    where = taken.headers["location"]
    assert client.get(where).status_code == 200
    check = client.post(f"{where}/checks").headers["location"]
    assert client.get(check).status_code == 200
    assert client.get(f"{where}/file").status_code == 200
    assert client.post(f"{where}/facts", data=FACTS | {"tag": tag, "machine": "a/b?"}).headers["location"] == where
    assert client.get("/machines/a%2Fb%3F").status_code == 200
    assert f'href="{where}"' in client.get("/").text
    hung = client.post(f"{check}/hang")
    assert client.get(hung.headers["location"]).status_code == 200
    assert tags(store) == [tag]


@pytest.mark.parametrize(
    "tag", [*(f"VS{sign}1" for sign in NOT_IN_A_TAG), ".", "..", "new", "NEW", "x" * 41, "a\u202eb", "a\u200bb"]
)
def test_a_tag_that_cannot_be_is_refused_at_the_field_with_what_would_do(client, store, tag):
    page = client.post("/motors/new", data=FACTS | {"tag": tag})
    assert page.status_code == 422
    said = re.search(r'id="wrong-tag"[^>]*>([^<]+)', page.text)[1]
    assert "would do" in said or "at most 40" in said
    assert tags(store) == []


def test_what_would_do_does(client, store):
    page = client.post("/motors/new", data=FACTS | {"tag": "VS/07?"}).text
    would_do = re.search(r"cannot hold / \?: (.+?) would do", page)[1]
    assert client.post("/motors/new", data=FACTS | {"tag": would_do}).status_code == 303
    assert tags(store) == ["VS-07"]


def test_control_characters_are_refused_on_entry_and_dropped_on_export(client, store):
    client.post("/motors/new", data=FACTS | {"tag": "VS-01"})
    refused = client.post("/motors/VS-01/events", data={"event": "crash", "detail": "lo\x1b[31mud"})
    assert refused.status_code == 422
    assert "U+001B cannot be printed" in refused.text
    assert "\x1b" not in refused.text
    with store.writing() as session:  # as an earlier edition stored it
        motors.find(session, "VS-01").note = "lo\x1bud"
    book = openpyxl.load_workbook(io.BytesIO(client.get("/take-out/workbook.xlsx").content))
    assert "loud" in [cell.value for row in book["motors"].rows for cell in row]
    with zipfile.ZipFile(io.BytesIO(client.get("/take-out/package.zip").content)) as package:
        assert b"\x1b" not in package.read("motors.csv")


def test_the_api_refuses_them_too(client, store):
    with store.writing() as session:
        key = api_keys.make(session, "script", now())
    sent = {"tag": "VS-01", "note": "a\x07b"}
    answer = client.post("/api/v1/motors", json=sent, headers={"Authorization": f"Bearer {key}"})
    assert answer.status_code == 422
    assert "u+0007" in answer.text


ELSEWHERE = (
    {"origin": "http://pit.example"},
    {"origin": "http://127.0.0.1:8701"},
    {"origin": "null"},
    {"sec-fetch-site": "cross-site"},
    {"sec-fetch-site": "same-site"},
)


@pytest.mark.parametrize("headers", ELSEWHERE, ids=str)
def test_no_changing_route_takes_a_form_of_another_site_even_with_the_token(client, headers):
    for path in changing(client.app):
        assert client.post(path, headers=headers).status_code == 403, path


def test_a_form_of_this_server_is_taken_as_browsers_send_it(client, store):
    own = {"origin": "http://127.0.0.1:8700", "sec-fetch-site": "same-origin"}
    assert client.post("/motors/new", data=FACTS | {"tag": "A"}, headers=own).status_code == 303


def test_a_missing_token_is_refused_and_the_cookie_stays_with_this_site(client, store):
    assert client.post("/motors/new", data=FACTS | {"tag": "A"}, headers={guard.HEADER: ""}).status_code == 403
    assert tags(store) == []
    client.cookies.clear()
    assert client.post("/motors/new", data=FACTS | {"tag": "A"}, headers={guard.HEADER: ""}).status_code == 403
    assert tags(store) == []
    client.cookies.clear()
    cookie = client.get("/help").headers["set-cookie"].lower()
    assert "samesite=strict" in cookie
    assert "httponly" in cookie


def asgi(app, method, path, chunks, headers=()):
    """Send a body in chunks, without a length; returns the status and how many chunks were taken."""
    taken, answered = [0], []

    async def receive():
        taken[0] += 1
        return {"type": "http.request", "body": chunks[taken[0] - 1], "more_body": taken[0] < len(chunks)}

    async def send(message):
        answered.append(message)

    scope = {
        "type": "http",
        "method": method,
        "path": path,
        "raw_path": path.encode(),
        "query_string": b"",
        "headers": [(b"host", b"127.0.0.1:8700"), *headers],
        "server": ("127.0.0.1", 8700),
        "client": ("127.0.0.1", 1),
        "scheme": "http",
        "http_version": "1.1",
        "asgi": {"version": "3.0"},
        "root_path": "",
    }
    in_a_loop(app(scope, receive, send))
    return answered[0]["status"], taken[0]


def test_a_body_without_a_length_is_cut_off_as_it_streams_in(store):
    app = create_app(store)
    chunks = [b"x=" + b"y" * 65_536] * 100
    status, taken = asgi(app, "POST", "/motors/new", chunks, [(b"content-type", b"application/x-www-form-urlencoded")])
    assert status == 413
    assert taken <= guard.MOST_BYTES // 65_536 + 2


def test_a_key_is_asked_for_before_a_body_is_read(store):
    chunks = [b"[" + b" " * 65_536] * 50
    assert asgi(create_app(store), "POST", "/api/v1/readings", chunks) == (401, 0)


@pytest.mark.parametrize(
    "path",
    ["/checks/%E2%98%83", "/checks/%E2%98%83/live", "/checks/%E2%98%83/live/meaning", "/checks/x/steps/none",
     "/pictures/%E2%98%83", "/studies/%E2%98%83", "/rigs/%00", "/motors/%E2%98%83", "/nowhere"],
)  # fmt: skip
def test_an_odd_path_is_not_there(client, path):
    page = client.get(path)
    assert page.status_code == 404
    assert page.headers["content-security-policy"] == guard.CONTENT_POLICY
    assert client.get("/checks/%E2%98%83/live/recording").status_code == 200


def test_every_answer_has_the_headers_and_the_api_is_never_kept(client, monkeypatch):
    monkeypatch.setattr("waldhorn.web.screens.rigs.routes.page", lambda *_, **__: 1 / 0)
    broken = client.get("/rigs")
    assert broken.status_code == 500
    assert broken.headers["content-security-policy"] == guard.CONTENT_POLICY
    for path in ("/api/v1/motors", "/api/v1/motors/none", "/api/v1/openapi.json", "/api/v1/nowhere"):
        answer = client.get(path)
        assert answer.headers["cache-control"] == "no-store"
        assert answer.headers["x-content-type-options"] == "nosniff"


def far_workbook():
    book = openpyxl.Workbook()
    book.active["A1"], book.active["XFD1048576"] = "motor", "far"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def bomb():
    """A workbook of a few kilobytes whose sheet unpacks to half a gigabyte."""
    out = io.BytesIO(far_workbook())
    with zipfile.ZipFile(out, "a", zipfile.ZIP_DEFLATED) as packed, packed.open("xl/media/image1.png", "w") as stream:
        for _ in range(500):
            stream.write(b"\0" * (1 << 20))
    return out.getvalue()


@pytest.mark.long
@pytest.mark.parametrize(
    ("made", "words"),
    [(far_workbook, "has 16,384 columns"), (bomb, "unpacks to more than 400 MB|16,384"),
     (lambda: b"PK\x03\x04" + b"torn" * 100, "cannot be read as a workbook")],
)  # fmt: skip
def test_a_workbook_that_asks_for_more_than_there_is_is_refused(tmp_path, made, words):
    file = tmp_path / "odd.xlsx"
    file.write_bytes(made())
    with pytest.raises(InputError, match=words):
        sheets.read(file)


def test_a_reader_that_dies_or_hangs_is_said(tmp_path, monkeypatch):
    file = tmp_path / "odd.xlsx"
    file.write_bytes(far_workbook())
    monkeypatch.setattr(workbook_reader, "LONGEST_S", 0.01)
    with pytest.raises(InputError, match="split it"):
        sheets.read(file)
    monkeypatch.undo()
    monkeypatch.setattr(workbook_reader.sys, "executable", "/bin/false")
    with pytest.raises(InputError, match="too large to be read"):
        sheets.read(file)


def test_a_million_columns_are_refused_at_the_header(tmp_path):
    file = tmp_path / "wide.csv"
    file.write_text("motor," + ",".join("x" for _ in range(1_000_000)) + "\n1,2\n")
    with pytest.raises(InputError, match="a line has over 1,048,576 characters"):
        sheets.read(file)


def test_an_archive_is_counted_as_it_unpacks_not_by_what_it_declares(monkeypatch):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("motors.csv", "tag\n" + "A\n" * 2_000_000)
    monkeypatch.setattr(upload_staging, "MOST_UNPACKED", 1 << 20)
    with pytest.raises(InputError, match="unpacks to more than 1 MB"):
        upload_staging.lay_aside([("package.zip", out.getvalue())])


def test_a_sound_is_given_whole_or_in_the_range_that_a_player_asks_for(client):
    client.post("/motors/new", data=FACTS | {"tag": "A"})
    check = client.post("/motors/A/checks").headers["location"].split("/")[-1]
    hum = (0.1 * np.sin(np.arange(32_000))).astype("<f4").tobytes()
    sent = client.post(f"/checks/{check}/sounds/noise", data={"rate_hz": "16000"}, files={"sound": ("a.f32", hum)})
    assert sent.status_code == 303
    where = re.search(r'src="(/sounds/[^"]+)"', client.get(f"/checks/{check}?step=noise").text)[1]
    whole = client.get(where)
    assert (whole.headers["content-type"], whole.content[:4]) == ("audio/flac", b"fLaC")
    size = len(whole.content)
    for asked, part in (
        ("bytes=0-3", whole.content[:4]),
        ("bytes=4-", whole.content[4:]),
        ("bytes=0-999999999", whole.content),
    ):
        answer = client.get(where, headers={"Range": asked})
        assert (answer.status_code, answer.content) == (206, part)
        assert answer.headers["content-range"].endswith(f"/{size}")
    assert client.get(where, headers={"Range": f"bytes={size}-"}).status_code == 416
    for odd in ("bytes=5-2", "bytes=-5", "lines=1-2", "bytes=0-1,3-4"):
        assert client.get(where, headers={"Range": odd}).status_code in (200, 416)
    assert client.get("/sounds/nothing").status_code == 404


def test_a_damaged_picture_is_said_on_its_page_and_in_the_export(client, store, tmp_path):
    client.post("/motors/new", data=FACTS | {"tag": "A"})
    check = client.post("/motors/A/checks").headers["location"].split("/")[-1]
    out = io.BytesIO()
    Image.new("RGB", (400, 300), "red").save(out, "PNG")
    client.post(f"/checks/{check}/pictures/shaft", files={"picture": ("a.png", out.getvalue())})
    with store.writing() as session:
        [row] = session.query(PictureRow).all()
        picture_id = row.id
        assert findings.picture(session, picture_id)
        row.image = row.image[: len(row.image) // 2]
        assert readings.check(session, check)
    shown = client.get(f"/pictures/{picture_id}")
    assert shown.status_code == 200
    assert shown.headers["content-type"].startswith("image/svg+xml")
    assert "damaged" in shown.text
    with zipfile.ZipFile(io.BytesIO(client.get("/take-out/package.zip").content)) as package:
        assert json.loads(package.read("datapackage.json"))["damaged"] == [f"pictures/{picture_id}.webp"]


def test_scripts_are_kept_by_a_browser_under_an_address_that_changes_with_them(client):
    [address] = re.findall(r'src="(/static/[0-9a-f]{12}/app/page.js)"', client.get("/").text)
    assert "immutable" in client.get(address).headers["Cache-Control"]
    gone = client.get(address.replace("page.js", "gone.js"))
    assert (gone.status_code, gone.headers["Cache-Control"]) == (404, "no-store")
    assert "Cache-Control" not in client.get("/static/app/page.js").headers
