"""Ten people's sheets, each in a layout of its own: no value in a wrong place, and none silently lost."""

import pytest

from made import NOW
from waldhorn.exchange import mapping, sheets

LOADED = {"purpose": "load", "pack": "red 1300", "cells": "3"}
# What each wrote; every reading (measure, value, what it was under); facts; and the columns that are left to be asked.
SHEETS = {
    "an analyser, a row a throttle": (
        "Motor;Throttle %;rpm;Volts;Amps\nT-1;25;6100;7,40;0,9\nT-1;100;25150;7,36;2,31\n",
        [
            ("rpm", 6100, {"throttle_pct": "25"}), ("supply_volts", 7.4, {"throttle_pct": "25"}),
            ("no_load_current", 0.9, {"throttle_pct": "25"}), ("rpm", 25150, {"throttle_pct": "100"}),
            ("supply_volts", 7.36, {"throttle_pct": "100"}), ("no_load_current", 2.31, {"throttle_pct": "100"}),
        ],
        {}, [],
    ),
    "a propeller stand without rpm": (
        "motor,propeller,battery,cells,V,A,W,thrust (g)\nT-1,5045,red 1300,3S,11.9,9.6,114,430\n",
        [
            ("load_volts", 11.9, LOADED | {"on_shaft": "5045"}), ("load_current", 9.6, LOADED),
            ("load_watts", 114, LOADED), ("thrust", 430, LOADED),
        ],
        {}, [],
    ),
    "a scale": (
        "tag,model,weight g,poles,kv label\nT-1,Petrel 22,56.4,14,920\n",
        [], {"model": "Petrel 22", "mass_g": "56.4", "poles": "14", "label_kv": "920"}, [],
    ),
    "timing pulls with two meters": (
        "motor,end bell,amps clamp,amps analyser\nT-1,20,2.0,2.2\n",
        [], {}, ["end bell", "amps clamp", "amps analyser"],
    ),
    "a hand on four arms": (
        "motor,date,shake\nT-1,2026-05-01,4\n", [("vibration", 4, {"at": "2026-05-01"})], {}, [],
    ),
    "detent, a column a peak": (
        "motor,detent 1,detent 2,detent 3\nT-1,18.2,18.6,18.1\n",
        [("detent_peak", 18.2, {"run": "1"}), ("detent_peak", 18.6, {"run": "2"}), ("detent_peak", 18.1, {"run": "3"})],
        {}, [],
    ),
    "long, each line its unit": (
        "motor,measure,value,unit\nT-1,noise_avg,81.2,dB\nT-1,detent_peak,2.6,oz-in\n",
        [("noise_avg", 81.2, {}), ("detent_peak", 2.6 * 7.0615518, {})], {}, [],
    ),
    "in another language": (
        "Motor;Datum;Drehzahl;Spannung;Leerlaufstrom;Geräusch dB;Temperatur nachher\n"
        "T-1;12.05.2026;25120;7,41;2,3;81,5;43\n",
        [
            ("rpm", 25120, {}), ("supply_volts", 7.41, {}), ("no_load_current", 2.3, {}), ("noise_avg", 81.5, {}),
            ("temperature", 43, {}),
        ],
        {}, [],
    ),
    "ears and a level meter": (
        "motor,background dB,noise dB,peak dB,distance cm\nT-1,52,81.4,92,10\n",
        [("noise_background", 52, {}), ("noise_avg", 81.4, {}), ("noise_peak", 92, {})], {}, ["distance cm"],
    ),
    "a milliohm meter and a thumb": (
        "motor,AB mΩ,BC mΩ,CA mΩ,bearings\nT-1,40.1,40.3,40.2,gritty\n",
        [
            ("winding_resistance_ab", 40.1, {}), ("winding_resistance_bc", 40.3, {}),
            ("winding_resistance_ca", 40.2, {}),
        ],
        {}, [],
    ),
    "two propellers side by side": (
        "motor,throttle %,thrust 5045 (g),thrust 5x4.5x3 (g),V\nT-1,50,310,402,14.9\nT-1,100,845,1010,14.1\n",
        [
            (measure, value, {"on_shaft": shaft, "throttle_pct": throttle, "run": run, "purpose": "load"})
            for throttle, run, shaft, thrust, volts in (
                ("50", "1", "5 x 4.5", 310, 14.9), ("50", "2", "5 x 4.5 x 3", 402, 14.9),
                ("100", "3", "5 x 4.5", 845, 14.1), ("100", "4", "5 x 4.5 x 3", 1010, 14.1),
            )
            for measure, value in (("thrust", thrust), ("load_volts", volts))
        ],
        {}, [],
    ),
    "two header rows, a wide cell and a mean": (
        "motor,throttle,green,,grey,\n,%,thrust g,amps,thrust g,amps\nT-1,100,845,31.2,803,29.9\n"
        "mean,,845,31.2,803,29.9\n",
        [
            ("thrust", 845, {"on_shaft": "green", "run": "1"}), ("load_current", 31.2, {"on_shaft": "green"}),
            ("thrust", 803, {"on_shaft": "grey", "run": "2"}), ("load_current", 29.9, {"on_shaft": "grey"}),
        ],
        {}, [],
    ),
    "two propellers under one wide cell, days without a year": (
        "Motor;Date;V;A;Thrust;;sound?\n;;;;5x4.5;6x4;\nGR-1;3.4.;11,1;14,2;612;-;ok\nGR-1;3.4.;11,0;n/a;598;701;x\n",
        [
            ("thrust", 612, {"on_shaft": "5 x 4.5", "at": "2026-04-03", "run": "1"}),
            ("load_volts", 11.1, {"on_shaft": "5 x 4.5"}), ("load_current", 14.2, {"on_shaft": "5 x 4.5"}),
            ("thrust", 598, {"on_shaft": "5 x 4.5", "run": "2"}), ("load_volts", 11, {"run": "2"}),
            ("thrust", 701, {"on_shaft": "6 x 4", "run": "3"}), ("load_volts", 11, {"run": "3"}),
        ],
        {}, [],
    ),
    "decibels, and words where it was plain": (
        "motor,noise,remarks\nT-1,81,hall busy\nT-1,\"rough, grinding\",\n",
        [("noise_avg", 81, {})],
        {"note": "hall busy"}, [],
    ),
}  # fmt: skip
HEARD = {
    "two propellers under one wide cell, days without a year": [("by_ear", "ok", "ok")],
    "a milliohm meter and a thumb": [("bearings", "bad", "gritty")],
    "decibels, and words where it was plain": [("by_ear", "bad", "rough, grinding")],
}


@pytest.mark.parametrize("who", SHEETS)
def test_a_sheet_comes_in_whole_or_asks(tmp_path, who):
    text, expected, facts, asked = SHEETS[who]
    file = tmp_path / "sheet.csv"
    file.write_text(text, encoding="utf-8")
    [sheet] = sheets.read(file)
    chosen = mapping.guessed(sheet)
    rows = list(mapping.apply(sheet, chosen, NOW))
    wrong = [words for row in rows for _, _, words in row.wrong]
    assert [w for w in wrong if "worked out of the other rows" not in w] == []
    assert len(wrong) == text.count("mean,")
    heard = [(f["item"], f["state"], f["note"]) for row in rows for f in row.findings]
    assert heard == HEARD.get(who, [])
    found = [r for row in rows for r in row.readings]
    assert [r["measure"] for r in found] == [measure for measure, _, _ in expected]
    for reading, (_, value, under) in zip(found, expected, strict=True):
        assert float(reading["value"]) == pytest.approx(value)
        assert {n: str(reading.get(n))[: len(v)] for n, v in under.items()} == under
    assert {n: v for n, v in rows[0].motor.items() if n != "tag"} == facts
    assert [c.header for c in chosen.columns if not c.means] == asked


def test_a_row_that_looks_like_a_mean_counts_where_somebody_says_so(tmp_path):
    file = tmp_path / "sheet.csv"
    file.write_text("motor,KV\nmax,3400\nT-1,3410\n", encoding="utf-8")
    [sheet] = sheets.read(file)
    chosen = mapping.guessed(sheet)
    asked, _ = mapping.apply(sheet, chosen, NOW)
    assert (asked.readings, asked.wrong[0][2]) == ([], "“max”: worked out of the other rows? It is left out")
    counted, _ = mapping.apply(sheet, chosen.model_copy(update={"counted": [2]}), NOW)
    assert (counted.wrong, counted.motor["tag"], counted.readings[0]["value"]) == ([], "max", "3400")


def test_a_word_among_decibels_that_nobody_uses_of_sound_is_a_slip_and_no_finding(tmp_path):
    file = tmp_path / "sheet.csv"
    file.write_text("motor,noise dB\nT-1,81\nT-1,82\nT-1,83\nT-1,80\nT-1,heiss\n", encoding="utf-8")
    [sheet] = sheets.read(file)
    *_, last = mapping.apply(sheet, mapping.guessed(sheet), NOW)
    assert (last.readings, last.findings, len(last.wrong)) == ([], [], 1)
