"""What it can do: all of it is where it is said to be, near the rack, and told in the docs."""

import os
import re
import shutil
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from waldhorn.store.engine import open_store
from waldhorn.web.app import create_app
from waldhorn.web.common.places import MORE, PLACES
from waldhorn.web.screens.find import things

DOC = Path(__file__).parents[2] / "docs/what-it-does.md"
HREF = re.compile(r'(?:href|action)="([^"]+)"')
EVERY = [t for group in things.THINGS.values() for t in group]


@pytest.fixture(scope="module")
def client(demo_file, tmp_path_factory):
    store = open_store(Path(shutil.copy(demo_file, tmp_path_factory.mktemp("does") / "demo.db")))
    with TestClient(create_app(store), base_url="http://127.0.0.1:8700") as client:
        yield client
    store.close()


@pytest.mark.parametrize("thing", EVERY, ids=lambda t: t.name)
def test_each_thing_is_where_it_is_said_to_be(client, thing):
    path, _, anchor = thing.url_of("VS-11").partition("#")
    answer = client.get(path)
    assert answer.status_code == 200
    assert not anchor or f'id="{anchor}"' in answer.text


def test_each_thing_is_two_touches_from_the_rack(client):
    def links(path):
        text = client.get(path).text
        page = path.partition("#")[0]
        return {page + u if u.startswith("#") else u for u in HREF.findall(text)} | {
            f"{page}#{i}" for i in re.findall(r'id="(take|take-out|prices)"', text)
        }

    first = links("/")
    second = set().union(*(links(u) for u in first if u == "/motors/VS-11" or u in {p.url for p in (*PLACES, *MORE)}))
    near = {u.replace("?take=2", "") for u in first | second}
    far = [t.name for t in EVERY if t.url_of("VS-11").partition("?")[0] not in near]
    assert far == []


def test_the_docs_tell_of_each_thing():
    lines = [
        "# What it does",
        "",
        "Everything below is found by `/` and a word or two, from every page. The links work while `make demo` runs;",
        "what is done with one motor is shown with VS-11.",
    ]
    for group, mine in things.THINGS.items():
        lines += ["", f"## {group}", ""]
        lines += [f"- [{t.name}](http://127.0.0.1:8700{t.url_of('VS-11')})" for t in mine]
    told = "\n".join(lines) + "\n"
    if os.environ.get("APPROVE"):
        DOC.write_text(told, encoding="utf-8")
    assert DOC.read_text(encoding="utf-8") == told


def found(client, words, **asked):
    answer = client.get("/find", params={"q": words, **asked}, headers={"HX-Request": "true"})
    assert answer.status_code == 200
    lines = re.findall(r'href="([^"]+)" data-found>.*?<strong>(.*?)</strong>', answer.text, re.DOTALL)
    return [(name, url.replace("&amp;", "&")) for url, name in lines]


@pytest.mark.parametrize(
    ("words", "name", "url"),
    [
        ("vs-07", "VS-07", "/motors/VS-07"),
        ("VS-07 kv", "KV", "/motors/VS-07#strip-kv"),
        ("kv vs-07", "KV", "/motors/VS-07#strip-kv"),
        ("vs-07 book", "Every reading and event", "/motors/VS-07/book"),
        ("compare", "Compare", "/compare"),
        ("take in", "Take in a motor", "/motors/new"),
        ("set timing", "Set the timing", "/find?do=Set+the+timing"),
        ("print tag", "Print its tag", "/find?do=Print+its+tag"),
        ("spreadsheet", "Bring in a spreadsheet", "/bring-in"),
        ("set", "Settings", "/settings"),
        ("heron", "VS-01", "/motors/VS-01"),
    ],
)
def test_the_likeliest_comes_first_and_enter_opens_it(client, words, name, url):
    assert found(client, words)[0] == (name, url)
    assert client.get("/find", params={"q": words}, follow_redirects=False).headers["location"] == url


@pytest.mark.parametrize(
    ("words", "line"),
    [
        ("heron", ("Heron", "/machines/Heron")),
        ("petrel", ("Petrel 22", "/models/Petrel%2022")),
        ("green", ("green bench", "/rigs/green%20bench")),
        ("pell", ("Pell", "/?find=Pell")),
        ("marten", ("Marten", "/machines/Marten")),
        ("what is kv", ("KV", "/help#word-kv")),
        ("bearings", ("Worn bearings", "/help#fault-worn_bearing")),
    ],
)
def test_everything_with_a_name_is_found(client, words, line):
    assert line in found(client, words)


def test_on_a_motors_page_what_is_done_with_it_comes_first(client):
    assert found(client, "timing", of="VS-11")[0] == ("timing", "/motors/VS-11#strip-timing_mean")
    assert found(client, "passport", of="VS-11")[0] == ("Print its passport", "/motors/VS-11/paper/passport")
    assert 'name="of" value="VS-11"' in client.get("/motors/VS-11").text


def test_more_than_are_shown_are_one_line(client):
    lines = found(client, "vs-")
    hung = len(re.findall(r'data-tag="VS-', client.get("/?find=vs-").text))
    assert (f"All {hung} with “vs-”", "/?find=vs-") in lines
    assert len([u for _, u in lines if u.startswith("/motors/")]) == 8


@pytest.mark.parametrize("words", ["<b>&\"'", "%_", "…", "x" * 400, "   ", "what is"])
def test_nonsense_is_no_fault(client, words):
    assert all("<" not in name for name, _ in found(client, words))


def test_a_thing_of_a_motor_asks_of_which(client):
    told = client.get("/find", params={"do": "Set the timing"}).text
    assert "Set the timing: of which motor?" in told
    assert 'href="/motors/VS-11#take"' in told


def test_a_scanned_code_goes_to_its_motor(client):
    sent = client.get("/find", params={"q": "WH1:torn"}, follow_redirects=False)
    assert sent.status_code == 303
    assert sent.headers["location"] == "/?find=WH1%3Atorn"


def test_one_thing_alone_is_taken_from_the_motors_page(client):
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/motors/VS-16").text)[1]
    for step, leads_to in (
        ("noise", r"/checks/[^/?]+$"),  # a check of its own, which begins with the rig
        ("live", r"/live$"),
        ("gap", r"/checks/[^/?]+\?step=gap$"),
        ("nonsense", r"/checks/[^/?]+$"),
    ):
        sent = client.post("/motors/VS-16/checks", data={"csrf_token": token, "step": step}, follow_redirects=False)
        assert re.search(leads_to, sent.headers["location"])
        said = client.get(sent.headers["location"].partition("?")[0].removesuffix("/live")).text
        assert "Only noise" in said
