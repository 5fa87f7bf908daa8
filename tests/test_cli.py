"""The commands as a script would use them: exit status, standard error, JSON."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from waldhorn import cli
from waldhorn.exchange.judgement import JudgementJson

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


def inside(capsys, monkeypatch, *args, cwd: Path):
    """The same without a process of its own: exit status and standard error."""
    monkeypatch.chdir(cwd)
    monkeypatch.setattr(sys, "argv", ["waldhorn", *map(str, args)])
    try:
        cli.main()
    except SystemExit as left:
        return left.code or 0, capsys.readouterr().err
    return 0, capsys.readouterr().err


@pytest.fixture
def files(tmp_path):
    (tmp_path / "motors.csv").write_text("tag,model,label_kv,poles\nVS-01,Skerry 36,3450,4\n")
    rows = [
        f"VS-01,{c},2026-0{5 + c}-02T10:00:00+02:00,{m},{v},{r},8,bench"
        for c in (0, 1)
        for r in (1, 2)
        for m, v in (("supply_volts", 7.4), ("rpm", 25160), ("no_load_current", 2 + c))
    ]
    (tmp_path / "readings.csv").write_text("\n".join(["motor,check,at,measure,value,run,step,rig", *rows]) + "\n")
    return tmp_path


def test_import_judge_export_from_end_to_end(files):
    done = waldhorn("import", "readings.csv", "motors.csv", "--db", "pit.db", cwd=files)
    assert done.returncode == 0, done.stderr
    assert "readings: 12 stored, 0 ignored" in done.stdout
    assert "100 %" in done.stderr
    assert (
        "readings: 0 stored, 12 ignored"
        in waldhorn("import", "readings.csv", "motors.csv", "--db", "pit.db", cwd=files).stdout
    )

    found = json.loads(waldhorn("judge", "--db", "pit.db", "--json", cwd=files).stdout)
    judged = JudgementJson.model_validate(found[0])
    assert (judged.motor, judged.verdict) == ("VS-01", "unproven")
    current = next(e for e in found[0]["evidence"] if e["measure"] == "no_load_current")
    assert (current["state"], current["baseline"], current["now"], current["change"], current["unit"]) == (
        "past",
        2,
        3,
        50,
        "%",
    )
    assert current["headroom"] == pytest.approx(1 - 50 / 30, rel=1e-4)

    before = json.loads(
        waldhorn("judge", "vs-01", "--db", "pit.db", "--json", "--as-of", "2026-05-20T00:00:00+02:00", cwd=files).stdout
    )
    assert (before[0]["verdict"], before[0]["as_of"]) == ("keep", "2026-05-20T00:00:00+02:00")

    assert waldhorn("export", "out", "--db", "pit.db", cwd=files).returncode == 0
    assert sorted(p.name for p in (files / "out").iterdir()) == [
        "backup.json",
        "datapackage.json",
        "events.csv",
        "motors.csv",
        "readings.csv",
    ]
    assert waldhorn("import", "out/backup.json", "--db", "two.db", cwd=files).returncode == 0
    again = json.loads(
        waldhorn("judge", "--db", "two.db", "--json", "--as-of", "2026-05-20T00:00:00+02:00", cwd=files).stdout
    )
    assert again == before


def test_a_dry_run_stores_nothing(files):
    assert "would be stored" in waldhorn("import", "motors.csv", "--db", "pit.db", "--dry-run", cwd=files).stdout
    assert waldhorn("judge", "--db", "pit.db", "--json", cwd=files).stdout.strip() == "[]"


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
        (("dance",), 2, "No such command"),
        (("bench", "--fault", "gremlins"), 1, "is no fault"),
        (("bench", "--fault", "worn_bearing:much"), 1, "is no severity"),
        (("replay", "none.ndjson"), 1, "there is no such file"),
        (("serve", "--port", "70000"), 2, "65535"),
    ],
)
def test_refusals_are_one_line_a_problem_and_wrong_usage_is_told_apart(files, capsys, monkeypatch, args, status, says):
    (files / "bad.csv").write_text("tag,poles\nVS-02,7\n")
    inside(capsys, monkeypatch, "import", "motors.csv", "--db", "made.db", cwd=files)
    code, error = inside(capsys, monkeypatch, *args, cwd=files)
    assert code == status
    assert says in error
    assert "Traceback" not in error
