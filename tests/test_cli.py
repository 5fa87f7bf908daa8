"""The commands as a script would use them: exit status, standard error, JSON."""

import io
import json
import os
import random
import re
import resource
import shutil
import signal
import socket
import sqlite3
import stat
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import pytest

from waldhorn import cli
from waldhorn.core.base.history import Motor
from waldhorn.exchange.judgement import JudgementJson
from waldhorn.pit.settings import seats
from waldhorn.store import motors
from waldhorn.store.engine import open_store
from waldhorn.store.writing import Writing
from waldhorn.web.common.pages import now

ENV = os.environ | {"PYTHONDONTWRITEBYTECODE": "1", "TZ": "Europe/Zurich"}


def waldhorn(*args, cwd: Path):
    return subprocess.run(
        [sys.executable, "-m", "waldhorn.cli", *map(str, args)],
        cwd=cwd,
        env=ENV,
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.fixture
def inside(files, capsys, monkeypatch):
    """The same without a process of its own: exit status, standard output and standard error."""
    monkeypatch.chdir(files)

    def run(*args):
        monkeypatch.setattr(sys, "argv", ["waldhorn", *map(str, args)])
        try:
            cli.main()
            status = 0
        except SystemExit as left:
            status = left.code or 0
        return status, *capsys.readouterr()

    return run


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """A store with the motor of motors.csv, one that a newer Waldhorn wrote, and files that are none."""
    folder = tmp_path_factory.mktemp("made")
    store = open_store(folder / "made.db")
    with store.writing() as session:
        motors.add(session, [Motor("VS-01", "Skerry 36")])
    store.close()
    shutil.copy(folder / "made.db", folder / "newer.db")
    with closing(sqlite3.connect(folder / "newer.db")) as newer, newer:
        newer.execute("UPDATE alembic_version SET version_num = '9999'")
    (folder / "bad.csv").write_text("tag,poles\nVS-02,7\n")
    (folder / "torn.db").write_bytes(b"SQLite format 3\0" + b"torn" * 400)
    for name, tables in {
        "list": "[]",
        "null": '{"motor": null}',
        "rows": '{"motor": [7]}',
        "nan": '{"owner_prices": [{"owner": "Oda", "new": NaN, "repair": 1, "failure": 1}]}',
    }.items():
        (folder / f"{name}.json").write_text(f'{{"waldhorn_backup": 3, "tables": {tables}}}')
    return folder


@pytest.fixture
def files(tmp_path):
    (tmp_path / "motors.csv").write_text("tag,model,label_kv,poles\nVS-01,Skerry 36,3450,4\n")
    rows = [
        f"VS-01,{c},2026-0{5 + c}-02T10:00:00+02:00,{m},{v},{r},100,bench"
        for c in (0, 1)
        for r in (1, 2)
        for m, v in (("supply_volts", 7.4), ("rpm", 25160), ("no_load_current", 2 + c))
    ]
    (tmp_path / "readings.csv").write_text(
        "\n".join(["motor,check,at,measure,value,run,throttle_pct,rig", *rows]) + "\n"
    )
    return tmp_path


def test_import_judge_export_from_end_to_end(files, inside):
    done = waldhorn("import", "readings.csv", "motors.csv", "--db", "pit.db", cwd=files)
    assert done.returncode == 0, done.stderr
    assert "readings: 12 stored, 0 ignored" in done.stdout
    assert "100 %" in done.stderr
    again = inside("import", "readings.csv", "motors.csv", "--db", "pit.db")
    assert "readings: 0 stored, 12 ignored" in again[1]

    def judged(*args):
        status, out, _ = inside("judge", *args, "--json")
        assert status == 0
        return json.loads(out)

    found = judged("--db", "pit.db")
    answer = JudgementJson.model_validate(found[0])
    assert (answer.motor, answer.verdict) == ("VS-01", "unproven")
    current = next(e for e in found[0]["evidence"] if e["measure"] == "no_load_current")
    shown = [current[name] for name in ("state", "baseline", "now", "change", "unit")]
    assert shown == ["past", 2, 3, 50, "%"]
    assert current["headroom"] == pytest.approx(1 - 50 / 30, rel=1e-4)

    past = "2026-05-20T00:00:00+02:00"
    before = judged("vs-01", "--db", "pit.db", "--as-of", past)
    assert (before[0]["verdict"], before[0]["as_of"]) == ("unproven", past)

    assert inside("export", "out", "--db", "pit.db")[0] == 0
    tables = {f"{t}.csv" for t in ("events", "findings", "motors", "packs", "propellers", "readings")}
    written = tables | {"backup.json", "datapackage.json", "pictures", "sounds"}
    assert {p.name for p in (files / "out").iterdir()} == written
    assert inside("import", "out/backup.json", "--db", "two.db")[0] == 0
    assert judged("--db", "two.db", "--as-of", past) == before


def test_a_dry_run_stores_nothing(inside):
    assert "would be stored" in inside("import", "motors.csv", "--db", "pit.db", "--dry-run")[1]
    assert inside("judge", "--db", "pit.db", "--json")[1].strip() == "[]"


@pytest.mark.long
@pytest.mark.parametrize(
    ("args", "status", "says"),
    [
        (("import", "nowhere.csv"), 1, "nowhere.csv: there is no such file"),
        (("import", "bad.csv", "--db", "pit.db"), 1, "bad.csv:2: poles: 7 poles cannot be"),
        (("import", "bad.csv", "motors.csv", "--db", "pit.db"), 1, "nothing stored: 1 bad row"),
        (("judge", "--db", "none.db"), 1, "there is no store here"),
        (("judge", "VS-99", "--db", "made.db"), 1, "no motor “VS-99”"),
        (("judge", "--db", "made.db", "--as-of", "soon"), 1, "is not a time"),
        (("export", "out", "--db", "none.db"), 1, "there is no store here"),
        (("judge", "--loudly"), 2, "No such option"),
        (("match", "VS-01", "--db", "made.db"), 1, "1 to compare: name two to 40"),
        (("match", "VS-01", "VS-99", "--db", "made.db"), 1, "no motor VS-99 on this rack"),
        (("loads", "VS-99", "--db", "made.db"), 1, "no motor “VS-99” on this rack"),
        (("dance",), 2, "No such command"),
        (("bench", "--fault", "gremlins"), 1, "is no fault"),
        (("bench", "--fault", "worn_bearing:much"), 1, "is no severity"),
        (("replay", "none.ndjson"), 1, "there is no such file"),
        (("serve", "--port", "70000"), 2, "65535"),
        (("serve", "--host", "0.0.0.0"), 1, "set a passphrase first"),
        (("serve", "--cert", "a.pem"), 1, "--cert and --key go together"),
        (("passphrase", "owner"), 1, "is no role: look, technician, keeper"),
        (("serve", "--db", "made.db", "--port", "{taken}"), 1, "is taken"),
        (("judge", "--db", "torn.db"), 1, "cannot be opened as a store"),
        (("judge", "--db", "newer.db"), 1, "newer Waldhorn"),
        (("serve", "--db", "bad.csv/pit.db"), 1, "its folder cannot be made"),
        (("import", "list.json", "--db", "new.db"), 1, "no object of tables"),
        (("import", "null.json", "--db", "new.db"), 1, "motor: is no list of rows"),
        (("import", "rows.json", "--db", "new.db"), 1, "motor: row 1:"),
        (("import", "nan.json", "--db", "new.db"), 1, "owner_prices: row 1: new: input should be a finite number"),
    ],
)
def test_refusals_are_one_line_a_problem_and_wrong_usage_is_told_apart(made, files, inside, args, status, says):
    shutil.copytree(made, files, dirs_exist_ok=True)
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        code, _, error = inside(*(a.format(taken=taken.getsockname()[1]) for a in args))
    assert code == status
    assert says in error
    assert "Traceback" not in error


def test_a_foreign_sheet_comes_in_with_its_saved_mapping(inside, tmp_path):
    sheet, saved = tmp_path / "pit.csv", tmp_path / "pit.map.json"
    sheet.write_text("Motor;Krach\nZZ-1;81,2\nZZ-2;82\n", encoding="utf-8")
    columns = [{"header": "Motor", "means": "tag"}, {"header": "Krach", "means": "noise_avg"}]
    saved.write_text(json.dumps({"columns": columns}), encoding="utf-8")
    status, said, _ = inside("import", sheet, "--map", saved, "--db", tmp_path / "pit.db")
    assert (status, "readings: 2 stored" in said) == (0, True)
    columns[1]["header"] = "Noise"
    saved.write_text(json.dumps({"columns": columns}), encoding="utf-8")
    status, _, complained = inside("import", sheet, "--map", saved, "--db", tmp_path / "pit.db")
    assert (status, "no sheet in it has the header Motor, Noise" in complained) == (1, True)


@pytest.mark.long
@pytest.mark.parametrize("name", ["kept.db", "kept.json"])
def test_a_backup_becomes_a_new_store_and_nothing_is_overwritten(inside, files, name):
    assert inside("import", "motors.csv", "readings.csv", "--db", "pit.db")[0] == 0
    assert inside("backup", name, "--db", "pit.db")[0] == 0
    status, _, said = inside("backup", name, "--db", "pit.db")
    assert (status, "is there already" in said) == (1, True)
    assert inside("restore", name, "--db", "new.db")[0] == 0
    at = "2026-09-01T12:00:00+02:00"
    before, after = (inside("judge", "--json", "--as-of", at, "--db", db)[1] for db in ("pit.db", "new.db"))
    assert before == after
    status, _, said = inside("restore", name, "--db", "new.db")
    assert (status, "becomes a new store" in said) == (1, True)
    assert inside("restore", "nothing.db", "--db", "other.db")[0] == 1


@pytest.fixture
def full_disk():
    """No file may grow beyond what a small store takes."""
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    held = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (40_000, before[1]))
    yield
    resource.setrlimit(resource.RLIMIT_FSIZE, before)
    signal.signal(signal.SIGXFSZ, held)


ON_A_FULL_DISK = [
    ("import", "motors.csv", "readings.csv", "--db", "made.db"),
    ("import", "motors.csv", "--db", "fresh.db"),
    ("import", "whole.json", "--db", "fresh.db"),
    ("backup", "copy.db", "--db", "made.db"),
    ("backup", "copy.json", "--db", "made.db"),
    ("restore", "whole.db", "--db", "new.db"),
    ("restore", "whole.json", "--db", "new.db"),
    ("export", "out", "--db", "made.db"),
    ("demo", "--db", "demo.db"),
    ("serve", "--db", "serve.db"),
]


@pytest.mark.long
@pytest.mark.parametrize("args", ON_A_FULL_DISK, ids=" ".join)
def test_a_full_disk_is_a_sentence_and_leaves_nothing_half(made, files, inside, args, request):
    shutil.copytree(made, files, dirs_exist_ok=True)
    (files / "motors.csv").write_text("tag\n" + "".join(f"A-{i}\n" for i in range(500)))
    assert inside("import", "motors.csv", "--db", "source.db")[0] == 0
    for kept in ("whole.json", "whole.db"):
        assert inside("backup", kept, "--db", "source.db")[0] == 0
    if "made.db" in args and args[0] != "import":
        shutil.copy(files / "whole.db", files / "made.db")
    there = {p.name for p in files.iterdir()}
    request.getfixturevalue("full_disk")
    code, _, error = inside(*args)
    assert (code, "Traceback" in error) == (1, False), error
    assert error.strip()
    left = {p.name for p in files.iterdir()} - there
    assert not {"copy.db", "copy.json", "new.db"} & left
    assert not [name for name in left if name.endswith(".part")]


@pytest.mark.parametrize(
    "args",
    [
        ("import", "motors.csv", "--db", "/proc/none/pit.db"),
        ("serve", "--db", "/proc/none/pit.db"),
        ("demo", "--db", "/proc/none/pit.db"),
        ("judge", "--db", "."),
        ("export", "motors.csv", "--db", "made.db"),
        ("export", "/proc/none/out", "--db", "made.db"),
        ("backup", "/proc/none/kept.db", "--db", "made.db"),
        ("backup", "/proc/none/kept.json", "--db", "made.db"),
        ("restore", "made.db", "--db", "/proc/none/new.db"),
        ("restore", "torn.db", "--db", "new.db"),
        ("restore", "empty.db", "--db", "new.db"),
        ("restore", "bad.csv", "--db", "new.db"),
        ("replay", "."),
    ],
    ids=" ".join,
)
def test_what_is_not_there_or_cannot_be_written_is_a_sentence(made, files, inside, args):
    shutil.copytree(made, files, dirs_exist_ok=True)
    with closing(sqlite3.connect(files / "empty.db")) as empty, empty:
        empty.execute("CREATE TABLE other (x)")
    code, _, error = inside(*args)
    assert (code, "Traceback" in error) == (1, False), error
    assert error.strip()
    assert not [p.name for p in files.iterdir() if p.name.startswith(("new.db", ".new.db"))]


@pytest.mark.long
@pytest.mark.parametrize("seed", range(8))
def test_a_store_with_bytes_turned_over_is_a_sentence(made, files, inside, seed):
    chance = random.Random(seed)
    assert inside("import", "motors.csv", "readings.csv", "--db", "torn.db")[0] == 0
    assert inside("backup", "whole.db", "--db", "torn.db")[0] == 0
    content = bytearray((files / "whole.db").read_bytes())
    for _ in range(40):
        content[chance.randrange(len(content))] = chance.randrange(256)
    (files / "whole.db").write_bytes(content)
    for args in (("judge",), ("export", "out"), ("backup", "kept.db")):
        code, _, error = inside(*args, "--db", "whole.db")
        assert code in (0, 1)
        assert "Traceback" not in error


def test_a_path_with_odd_signs_is_that_very_file_and_the_stores_files_are_their_owners(inside, files):
    name = "pit?mode=ro%41&#.db"
    assert inside("import", "motors.csv", "--db", name)[0] == 0
    assert (files / name).is_file()
    assert inside("judge", "--json", "--db", name)[0] == 0
    assert inside("backup", "kept?.db", "--db", name)[0] == 0
    for made in (name, "kept?.db"):
        assert stat.S_IMODE((files / made).stat().st_mode) == 0o600


LOADS = """motor,check,at,measure,value,unit,throttle_pct,on_shaft,cells,run,purpose
A,c,2026-05-02T10:00:00Z,thrust,1180,g,100,6x4.5,3,1,load
A,c,2026-05-02T10:00:00Z,load_watts,330,W,100,6x4.5,3,1,load
A,c,2026-05-02T10:00:00Z,load_volts,11.4,V,100,6x4.5,3,1,load
B,c,2026-05-02T10:00:00Z,thrust,1070,g,100,6045,3,1,load
B,c,2026-05-02T10:00:00Z,load_volts,11.4,V,100,6045,3,1,load
"""


def test_load_rows_are_put_side_by_side_with_and_without_json(inside, files):
    (files / "motors.csv").write_text("tag\nA\nB\n")
    (files / "readings.csv").write_text(LOADS)
    assert inside("import", "motors.csv", "readings.csv", "--db", "loads.db")[0] == 0
    status, out, _ = inside("loads", "A", "b", "--db", "loads.db", "--json")
    told = json.loads(out)
    assert status == 0
    assert set(told) == {"rows", "differences", "crossings"}
    assert told["rows"][0] == {
        "motor": "A", "propeller": "6 x 4.5", "pack": "", "cells": 3, "throttle_pct": 100.0, "volts": 11.4,
        "amps": None, "watts": 330.0, "rpm": None, "thrust_g": 1180.0, "g_per_w": pytest.approx(3.5758, abs=1e-4),
    }  # fmt: skip
    [found] = told["differences"]
    assert (found["propeller"], found["pack"], found["motors"]) == ("6 x 4.5", "3S", ["A", "B"])
    assert (found["thrust_g"], found["at_equal_volts_g"], round(found["per_cent_of_first"], 1)) == (-110, -110, -9.3)
    assert found["p"] < 0.01
    said = inside("loads", "A", "B", "--db", "loads.db")[1]
    assert said.splitlines()[0] == "On 6 x 4.5 with 3S A makes 110 g more."


def test_a_passphrase_is_read_from_a_pipe_made_and_dropped(files, inside, monkeypatch):
    monkeypatch.setattr(sys, "stdin", io.StringIO("what technicians know\n"))
    assert inside("passphrase", "technician", "--db", "pit.db") == (0, "Whoever knows it joins as technician.\n", "")
    monkeypatch.setattr(sys, "stdin", io.StringIO("short\n"))
    status, _, says = inside("passphrase", "keeper", "--db", "pit.db")
    assert (status, says) == (1, "a passphrase has 12 to 128 characters, this one has 5\n")
    status, made, _ = inside("passphrase", "look", "--make", "--db", "pit.db")
    assert status == 0
    store = open_store(files / "pit.db")
    joined = {
        phrase: seats.join(store, Writing(now()), "JK", phrase, "")
        for phrase in ("what technicians know", made.strip())
    }
    assert [seat.role for seat, _ in joined.values()] == ["technician", "look"]
    store.close()
    assert inside("passphrase", "look", "--drop", "--db", "pit.db")[1] == "Nobody joins as look any more.\n"
    store = open_store(files / "pit.db")
    assert seats.join(store, Writing(now()), "JK", made.strip(), "") is None
    store.close()


@pytest.mark.long
def test_an_opened_demo_says_its_passphrases_and_where_others_join(files, inside, monkeypatch):
    served = []
    monkeypatch.setattr("waldhorn.pit.demo.fill", lambda session, *_: None)
    monkeypatch.setattr("waldhorn.web.opening.of_local_network", lambda: ["192.168.1.20"])
    monkeypatch.setattr("uvicorn.Server.run", lambda server: served.append(server))
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    status, said, _ = inside("demo", "--open", "--tls", "--db", "demo.db", "--port", port)
    assert status == 0
    assert f"Others join at https://192.168.1.20:{port}/join\n" in said
    assert re.search(r"SHA-256 fingerprint: ([0-9A-F]{2}:){31}[0-9A-F]{2}\n", said)
    phrases = re.findall(r"The passphrase to join as (\w+): (\S+)", said)
    assert [role for role, _ in phrases] == ["look", "technician", "keeper"]
    [server] = served
    assert server.config.host == "127.0.0.1"
    server.handle_exit(signal.SIGINT, None)
    assert server.should_exit
    assert server.config.app.state.presence.closing.is_set()  # streams end by themselves


@pytest.mark.parametrize(
    ("told", "listens"),
    [
        (("--open",), "0.0.0.0"),
        (("--open", "--host", "192.168.1.20"), "192.168.1.20"),
        (("--host", "192.168.1.20"), "192.168.1.20"),
        ((), "127.0.0.1"),
    ],
)
def test_it_listens_where_it_was_told_to_and_nowhere_else(inside, monkeypatch, told, listens):
    asked = []
    monkeypatch.setattr("waldhorn.cli.serving._serve", lambda store, host, *_, **__: asked.append(host))
    assert inside("serve", *told, "--db", "pit.db")[0] == 0
    assert asked == [listens]


@pytest.mark.parametrize("told", [("serve", "--tls"), ("serve", "--tls", "--host", "localhost"), ("demo", "--tls")])
def test_what_cannot_be_encrypted_is_refused_and_never_served_plain(inside, told):
    status, said, says = inside(*told, "--db", "pit.db")
    assert (status, said) == (1, "")
    assert says.startswith("nothing is opened to others that could be encrypted: add --open")


def test_the_terminal_is_given_what_it_can_show(files, inside):
    (files / "motors.csv").write_text(f"tag,kind\nX-1,\x1b[2J{'long ' * 100}\n", encoding="utf-8")
    status, _, says = inside("import", "motors.csv", "--db", "pit.db")
    assert status == 1
    assert "\x1b" not in says
    assert max(map(len, says.splitlines())) <= 200
