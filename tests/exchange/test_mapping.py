"""Foreign sheets: what their columns mean, what their rows become, and that nothing is swapped in silence."""

import csv
import io
import random
from datetime import UTC, datetime

import openpyxl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from waldhorn.core.base.conditions import CONDITIONS
from waldhorn.core.base.errors import InputError
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.exchange import mapping, sheets
from waldhorn.exchange.guessing import guess
from waldhorn.exchange.mapping import Column, Mapping

NOW = datetime(2026, 9, 12, 14, 0, tzinfo=UTC)
MEANT = (
    "tag",
    "at",
    "model",
    "owner",
    "label_kv",
    "supply_volts",
    "no_load_current",
    "rpm",
    "timing_mean",
    "noise_avg",
    "noise_background",
    "temperature",
    "temperature_before",
    "ambient_c",
)
DIALECTS = {
    "en": ("Motor", "Date", "Model", "Owner", "Label KV", "Volts", "No-load current", "rpm", "Timing", "Noise",
           "Background noise", "Temp after", "Temp before", "Air temperature"),
    "de": ("Motor-Nr.", "Datum", "Typ", "Besitzer", "KV soll", "Spannung", "Leerlaufstrom", "Drehzahl", "Vorlauf",
           "Geräuschpegel", "Hintergrund", "Temperatur nachher", "Temperatur vorher", "Umgebung"),
    "fr": ("Numéro", "Date", "Modèle", "Propriétaire", "KV nominal", "Tension", "Courant à vide", "Régime", "Avance",
           "Bruit", "Bruit de fond", "Température après", "Température avant", "Température ambiante"),
    "es": ("Etiqueta", "Fecha", "Modelo", "Dueño", "KV nominal", "Voltaje", "Corriente en vacío", "rpm",
           "Avance medio", "Ruido", "Ruido de fondo", "Temperatura después", "Temperatura antes",
           "Temperatura ambiente"),
    "short": ("id", "day", "type", "driver", "rated KV", "volts", "I0", "revs", "advance", "sound", "background",
              "temp", "start temperature", "ambient"),
}  # fmt: skip
UNITS = {
    "supply_volts": "V",
    "no_load_current": "A",
    "noise_avg": "dB",
    "noise_background": "dB",
    "temperature": "°C",
    "temperature_before": "°C",
    "ambient_c": "°C",
}
TRUE = {
    "label_kv": 3450.0,
    "supply_volts": 7.4,
    "no_load_current": 2.31,
    "rpm": 25310.0,
    "timing_mean": 28.4,
    "noise_avg": 81.2,
    "noise_background": 55.1,
    "temperature": 43.6,
    "temperature_before": 22.4,
    "ambient_c": 21.3,
}


def foreign(folder, dialect, seed):
    """A sheet of one dialect with its columns shuffled, and what each means."""
    rng = random.Random(f"{dialect} {seed}")
    order = rng.sample(range(len(MEANT)), len(MEANT))
    comma, separator = rng.choice([True, False]), rng.choice(";\t|")
    bracket = rng.choice(["[{}]", "({})", "{}"])
    heads = [
        f"{DIALECTS[dialect][i]} {bracket.format(UNITS[MEANT[i]])}"
        if MEANT[i] in UNITS and rng.random() < 0.7
        else DIALECTS[dialect][i]
        for i in order
    ]
    lines = [["", "Season 2026", *[""] * (len(MEANT) - 2)], heads]
    for row in range(6):
        cells = []
        for i in order:
            means = MEANT[i]
            text = {"tag": f"M-{row}", "at": f"1{row}.06.2026", "model": "Example 36", "owner": "Ada"}.get(means)
            value = f"{TRUE.get(means, 0) * (1 + 0.01 * row):.2f}".rstrip("0").rstrip(".")
            cells.append(text or (value.replace(".", ",") if comma else value))
        lines += [cells, [""] * len(MEANT)] if row == 2 else [cells]
    file = folder / f"{dialect}-{seed}.csv"
    text = io.StringIO()
    csv.writer(text, delimiter=separator).writerows(lines)
    file.write_bytes(text.getvalue().encode(rng.choice(["utf-8", "utf-8-sig", "cp1252"])))
    return file, [MEANT[i] for i in order]


def test_the_columns_of_foreign_sheets_are_recovered_and_never_swapped(tmp_path):
    right = wrong = count = 0
    for dialect in DIALECTS:
        for seed in range(12):
            file, truth = foreign(tmp_path, dialect, seed)
            [sheet] = sheets.read(file)
            found = mapping.guessed(sheet)
            for column, means in zip(found.columns, truth, strict=True):
                count += 1
                right += column.means == means
                wrong += column.means in MEASURES and column.means != means
    assert wrong == 0
    assert right >= 0.95 * count


def test_every_row_becomes_what_it_says(tmp_path):
    file, _ = foreign(tmp_path, "de", 3)
    [sheet] = sheets.read(file)
    found = list(mapping.apply(sheet, mapping.guessed(sheet), NOW))
    assert len(found) == 6
    assert not [b.wrong for b in found if b.wrong]
    assert found[0].motor == {"tag": "M-0", "model": "Example 36", "owner": "Ada", "label_kv": "3450"}
    values = {r["measure"]: float(r["value"]) for r in found[0].readings}
    assert values == pytest.approx({m: v for m, v in TRUE.items() if m in MEASURES})
    assert {(r["at"][:10], r["ambient_c"], r["run"]) for r in found[0].readings} == {("2026-06-10", "21.3", "1")}
    assert all(
        ("method" in r) == (r["measure"] in ("rpm", "supply_volts", "no_load_current")) for r in found[0].readings
    )


def sheet_of(header, *rows):
    return sheets.Sheet("", tuple(header), tuple((i, tuple(r)) for i, r in enumerate(rows, 2)))


def test_rows_of_one_motor_and_day_are_its_runs_and_a_header_may_say_the_run():
    long = sheet_of(
        ["motor", "date", "KV"], ("A", "2026-05-02", "3400"), ("a", "2026-05-02", "3410"), ("A", "2026-05-03", "3420")
    )
    runs = [b.readings[0]["run"] for b in mapping.apply(long, mapping.guessed(long), NOW)]
    assert runs == ["1", "2", "1"]
    wide = sheet_of(["motor", "KV run 1", "KV run 2"], ("A", "3400", "3410"))
    [became] = mapping.apply(wide, mapping.guessed(wide), NOW)
    assert [(r["value"], r["run"]) for r in became.readings] == [("3400", "1"), ("3410", "2")]


def test_a_reading_a_row_is_read_too():
    long = sheet_of(
        ["motor", "measure", "value", "unit"], ("A", "no-load current", "2310", "mA"), ("A", "smell", "3", "")
    )
    first, second = mapping.apply(long, mapping.guessed(long), NOW)
    assert [(r["measure"], r["value"]) for r in first.readings] == [("no_load_current", "2.31")]
    [(place, means, words)] = second.wrong
    assert (place, means) == (1, "measure")
    assert "“smell” is no measure" in words


def test_what_cannot_be_is_said_in_the_sentence_of_every_field():
    one = sheet_of(
        ["motor", "date", "Temp (F)", "I0 (A)"],
        ("A", "31.02.2026", "110", "2.3"),
        ("", "", "110", "2.2"),
        ("B", "2026-05-02", "hot", "9999"),
    )
    chosen = Mapping(
        columns=[
            Column(header="motor", means="tag"),
            Column(header="date", means="at"),
            Column(header="Temp (F)", means="temperature", unit="F"),
            Column(header="I0 (A)", means="no_load_current", unit="A"),
        ]
    )
    day, nobody, hot = mapping.apply(one, chosen, NOW)
    assert (1, "at", "“31.02.2026” is no day: is it the day or the month that comes first?") in day.wrong
    assert nobody.wrong == [(None, "tag", "no motor is named in this row")]
    assert [(place, means) for place, means, _ in hot.wrong] == [(2, "temperature"), (3, "no_load_current")]
    assert (day.readings, hot.readings) == ([], [])


@pytest.mark.parametrize(
    ("columns", "says"),
    [
        ([("a", "kv")], "say which column names the motor"),
        ([("a", "tag"), ("b", "tag")], "exactly one does"),
        ([("a", "tag"), ("b", "kv"), ("c", "kv")], "two columns are KV of the same run"),
        ([("a", "tag"), ("b", "measure")], "needs one with its value"),
        ([("a", "tag"), ("b", "colour")], "no meaning is called colour"),
    ],
)
def test_a_mapping_that_lacks_something_says_what(columns, says):
    found = mapping.problems(Mapping(columns=[Column(header=h, means=m) for h, m in columns]))
    assert any(says in words for words in found)


def test_two_columns_that_could_be_the_same_are_left_open():
    one = sheet_of(["motor", "temp", "temp"], ("A", "43", "22"))
    assert [c.means for c in mapping.guessed(one).columns] == ["tag", "", ""]
    lettered = sheet_of(["motor", "A", "B", "C"], ("X", "28", "28.4", "27.9"))
    assert [c.means for c in mapping.guessed(lettered).columns] == ["tag", "", "", ""]
    powered = sheet_of(["motor", "V", "A"], ("X", "7.4", "1.9"))
    assert [c.means for c in mapping.guessed(powered).columns] == ["tag", "supply_volts", "no_load_current"]
    assert guess("KV", ["seven"]).means == ""
    assert guess("Noise (A)", ["81"]).means == ""


@pytest.mark.parametrize(
    ("days", "first"), [(["03/04/2026"], True), (["03/14/2026"], False), (["14/03/2026", "01/02/2026"], True)]
)
def test_whether_the_day_comes_first_is_seen_where_it_can_be(days, first):
    one = sheet_of(["motor", "date", "KV"], *[("A", d, "3400") for d in days])
    assert mapping.guessed(one).day_first is first


def test_a_workbook_is_read_sheet_by_sheet(tmp_path):
    book = openpyxl.Workbook()
    book.active.title = "Heat one"
    for row in (["Motor", "Date", "KV"], ["A", datetime(2026, 5, 2), 3400], ["B", datetime(2026, 5, 2), 3411.5]):
        book.active.append(row)
    book.create_sheet("empty")
    book.save(tmp_path / "book.xlsx")
    [sheet] = sheets.read(tmp_path / "book.xlsx")
    assert (sheet.name, sheet.rows[1]) == ("Heat one", (3, ("B", "2026-05-02", "3411.5")))
    found = list(mapping.apply(sheet, mapping.guessed(sheet), NOW))
    assert [(b.motor["tag"], b.readings[0]["value"]) for b in found] == [("A", "3400"), ("B", "3411.5")]


@pytest.mark.parametrize("content", [b"", b"\0\0\0", b"only one line", b"\x89PNG\r\n\x1a\n\0\0"])
def test_what_is_no_sheet_is_refused(tmp_path, content):
    file = tmp_path / "thing.csv"
    file.write_bytes(content)
    with pytest.raises(InputError):
        sheets.read(file)
    other = tmp_path / "thing.xlsx"
    other.write_bytes(content)
    with pytest.raises(InputError, match=r"thing\.xlsx"):
        sheets.read(other)


@pytest.mark.long
@given(st.lists(st.lists(st.text(max_size=12), min_size=1, max_size=6), min_size=1, max_size=8))
def test_any_rows_are_read_or_refused_and_never_half_understood(tmp_path_factory, rows):
    file = tmp_path_factory.mktemp("fuzz") / "any.csv"
    text = io.StringIO()
    csv.writer(text, delimiter=";").writerows(rows)
    file.write_text(text.getvalue(), encoding="utf-8", newline="")
    try:
        found = sheets.read(file)
    except InputError:
        return
    for sheet in found:
        chosen = mapping.guessed(sheet)
        if mapping.problems(chosen):
            continue
        for became in mapping.apply(sheet, chosen, NOW):
            assert became.wrong or became.motor["tag"]
            assert not (became.wrong and became.readings)


def test_a_bad_cell_costs_the_cell_and_nothing_is_nothing():
    sheet = sheet_of(
        ["motor", "date", "KV", "I0 (A)", "note"],
        ("A", "2026-05-02", "3400", "hot", "x"),
        ("B", "2026-05-02", "n/a", "2.1", "-"),
        ("C", "2026-05-02", "?", "None", "fine"),
    )
    chosen = mapping.guessed(sheet)
    chosen.columns[3].means = "no_load_current"
    a, b, c = mapping.apply(sheet, chosen, NOW)
    assert [(r["measure"], r["value"]) for r in a.readings] == [("kv", "3400")]
    assert [(place, means) for place, means, _ in a.wrong] == [(3, "no_load_current")]
    assert [(r["measure"], r["value"]) for r in b.readings] == [("no_load_current", "2.1")]
    assert (b.wrong, c.wrong, c.readings, c.motor["note"]) == ([], [], [], "fine")
    assert "note" not in a.motor
    right = chosen.model_copy(update={"corrected": {f"{a.number}:3": "2.3"}})
    assert [r["value"] for r in next(mapping.apply(sheet, right, NOW)).readings] == ["3400", "2.3"]


def test_what_makes_thrust_is_no_pull_without_a_load():
    sheet = sheet_of(["motor", "thrust (g)", "amps", "volts", "throttle"], ("A", "812", "21.3", "11.1", "100"))
    [became] = mapping.apply(sheet, mapping.guessed(sheet), NOW)
    assert {r["measure"] for r in became.readings} == {"thrust", "load_current", "load_volts"}
    assert {r["purpose"] for r in became.readings} == {"load"}


@pytest.mark.parametrize("name", CONDITIONS)
def test_every_condition_of_a_sheet_comes_along(name):
    condition = CONDITIONS[name]
    cell = condition.choices[0].upper() if condition.choices else "12.5" if condition.dimension else "otter"
    sheet = sheet_of(["motor", "noise", "under"], ("A", "81.5", cell))
    columns = [Column(header=h, means=m) for h, m in (("motor", "tag"), ("noise", "noise_avg"), ("under", name))]
    [became] = mapping.apply(sheet, Mapping(columns=columns), NOW)
    assert became.readings[0][name] == (cell.lower() if condition.choices else cell)
    if condition.choices or condition.dimension:
        [bad] = mapping.apply(sheet_of(["m", "n", "u"], ("A", "81.5", "moon!")), Mapping(columns=columns), NOW)
        assert ([place for place, _, _ in bad.wrong], len(bad.readings)) == ([2], 1)
