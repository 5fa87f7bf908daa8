"""Big and odd files: whatever they unpack to or declare, they cost little and are said to be what they are."""

import io
import json
import subprocess
import sys
import zipfile

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from waldhorn.cli import app
from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.exchange import sheets
from waldhorn.exchange.backup import read_document
from waldhorn.exchange.importing import MOST_REJECTED, Outcome, import_tables, recognise
from waldhorn.pit.bench import sounds
from waldhorn.pit.motors import paper
from waldhorn.store import motors
from waldhorn.web.app import create_app

LOOK = """
import resource, sys
from datetime import datetime
from pathlib import Path
from waldhorn.pit.files import bringing_in, upload_staging
from waldhorn.store.engine import open_store

store = open_store(Path(sys.argv[1]))
peak = lambda: resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
before = peak()
token = upload_staging.lay_aside([("pit.zip", Path(sys.argv[2]).read_bytes())])
with store.reading() as session:
    print(bringing_in.look(session, token, datetime.now().astimezone()).wrong)
upload_staging.forget(token)
print(peak() - before)
"""


@pytest.mark.long
@pytest.mark.parametrize(
    ("line", "says"), [(b"\0" * (1 << 20), "no text"), (b"0,1\n" * (1 << 18), "over 1,500,000 cells")]
)
def test_what_unpacks_to_much_is_read_as_a_stream(store, tmp_path, line, says):
    packed = tmp_path / "zeros.zip"
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("motors.csv", "w") as out:
        out.write(b"Motor,Thrust g\n" if b"," in line else b"")
        for _ in range(390):
            out.write(line)
    assert packed.stat().st_size < 500_000
    command = [sys.executable, "-c", LOOK, str(store.file.path), str(packed)]
    said, megabytes = subprocess.run(command, capture_output=True, text=True, check=True).stdout.splitlines()
    assert says in said
    assert int(megabytes) < 200


@pytest.mark.parametrize("head", ["tag", "Motor name"])
def test_no_table_has_more_columns_than_are_looked_at(tmp_path, head):
    file = tmp_path / "wide.csv"
    file.write_text(",".join([head, *(f"c{i}" for i in range(20_000))]) + "\nA,1\n")
    with pytest.raises(InputError, match="20,001 columns: 1000 at most"):
        recognise(file, Outcome()) if head == "tag" else sheets.read(file)


def test_a_table_of_bad_rows_is_given_up(session, tmp_path):
    file = tmp_path / "motors.csv"
    file.write_text("tag,kind\n" + "x,neither\n" * (MOST_REJECTED + 10))
    with pytest.raises(InputError, match="over 20,000 bad rows: look at it first"):
        import_tables(session, [file], lambda *_: None)


def test_a_line_that_no_table_has_is_said(session, tmp_path):
    file = tmp_path / "motors.csv"
    file.write_text("tag,model\n" + "x" * (1 << 21))
    outcome = import_tables(session, [file], lambda *_: None)
    assert outcome.rejected[0].sentences() == [f"{file}:2: row: cannot be read: it has over 1,048,576 bytes"]


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_a_text_is_read_in_its_encoding(tmp_path, encoding):
    file = tmp_path / "sheet.csv"
    file.write_bytes("Motor;Länge mm\nA-1;34,5\nA-2;36\n".encode(encoding))
    [sheet] = sheets.read(file)
    assert (sheet.header, sheet.rows[0]) == (("Motor", "Länge mm"), (2, ("A-1", "34,5")))


def test_a_workbook_without_a_mapping_is_told_what_it_needs(tmp_path):
    import openpyxl

    book = openpyxl.Workbook()
    book.active.append(["Motor", "KV"])
    book.active.append(["A-1", 3450])
    book.save(tmp_path / "pit.xlsx")
    told = CliRunner().invoke(app, ["import", str(tmp_path / "pit.xlsx"), "--db", str(tmp_path / "pit.db")])
    assert told.exit_code == 1
    assert (
        told.output == "pit.xlsx: a workbook needs its mapping: save it on the page Bring in, then name it with --map\n"
    )


def test_a_document_with_an_editor_s_mark_in_front_is_read(tmp_path):
    file = tmp_path / "VS-01.waldhorn.json"
    file.write_bytes(b"\xef\xbb\xbf" + json.dumps({"waldhorn_motor": 1}).encode())
    assert read_document(file) == {"waldhorn_motor": 1}


def recorded(seconds, rate):
    out = io.BytesIO()
    noise = np.random.default_rng(1).normal(0, 0.1, int(seconds * rate))
    soundfile.write(out, noise, rate, format="FLAC")
    return out.getvalue()


@pytest.mark.parametrize(
    ("seconds", "rate", "says"),
    [(0.5, 48_000, "it is 0.5 s long"), (47.3, 16_000, "it is 47.3 s long"), (1.2, 8_000, "8000 values a second")],
)
def test_a_recording_that_is_refused_is_told_its_true_length_and_rate(seconds, rate, says):
    with pytest.raises(InputError, match=says):
        sounds._read(recorded(seconds, rate), None)


def test_a_rate_beyond_what_is_kept_is_told_as_it_is():
    out = io.BytesIO()
    soundfile.write(out, np.zeros(300_000), 250_000, format="WAV")
    with pytest.raises(InputError, match="250000 values a second"):
        sounds._read(out.getvalue(), None)


def test_a_rack_that_fills_more_than_one_print_says_so(store, monkeypatch):
    monkeypatch.setattr(paper, "MOST_ON_RACK", 3)
    with store.writing() as session:
        motors.add(session, [Motor(f"A-{i}") for i in range(7)])
    with TestClient(create_app(store), base_url="http://127.0.0.1") as client:
        first, last = client.get("/paper/rack").text, client.get("/paper/rack?skip=6").text
        assert "Motors 1 to 3 of 7." in first
        assert ": 1 to 3 of 7" in first
        assert "Motors 7 to 7 of 7." in last
        assert "Those after" not in last
        assert "of 7" not in client.get("/paper/rack?tags=A-6").text
        assert "A-6" in client.get("/paper/rack?tags=A-6").text
