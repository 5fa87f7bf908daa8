"""Bringing in a foreign sheet by hand: looked at, mapped, stored, taken back."""

import pytest
from playwright.sync_api import expect

SHEET = """Season;;;
Motor;Datum;Krach;Leerlaufstrom (A)
ZZ-1;02.05.2026;81,2;2,31
ZZ-2;02.05.2026;82,0;2,28
ZZ-3;02.05.2026;82,4;heiss
ZZ-4;02.05.2026;n/a;2,25
ZZ-5;02.05.2026;81,7;2,27
;02.05.2026;80,1;2,30
"""


def chosen(page, name, text):
    page.goto("/bring-in")
    page.locator("#files").set_input_files({"name": name, "mimeType": "text/csv", "buffer": text.encode()})
    page.get_by_role("button", name="Look at them").click()


def test_a_foreign_sheet_is_mapped_on_screen_brought_in_and_taken_back(page):
    chosen(page, "pit.csv", SHEET)
    expect(page.locator("h1")).to_have_text("2 rows have a cell that cannot be, 4 are good.")
    expect(page.locator("main")).to_contain_text("no motor is named in this row")
    expect(page.get_by_label("Leerlaufstrom (A) means")).to_have_value("no_load_current")
    page.get_by_label("Krach means").select_option("noise_avg")
    expect(page.get_by_text("noise 81.2 dB")).to_be_visible()
    cell = page.get_by_label("row 5, Leerlaufstrom (A)")
    expect(cell).to_have_value("heiss")
    cell.fill("2,26")
    cell.press("Tab")
    expect(page.locator("h1")).to_have_text("1 row has a cell that cannot be, 5 are good.")
    expect(page.get_by_label("Krach means")).to_have_value("noise_avg")
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator("h1")).to_have_text("Brought in.")
    expect(page.locator("tr", has_text="readings")).to_contain_text("9 stored")
    expect(page.locator("main")).to_contain_text("pit.csv, row 8: no motor is named in this row")
    page.get_by_role("link", name="To the rack").click()
    page.goto("/?find=ZZ-")
    expect(page.locator(".hook")).to_have_count(5)
    page.goto("/bring-in")
    page.get_by_role("button", name="Take back").first.click()
    expect(page.get_by_role("status").filter(has_text="Taken back: pit.csv.")).to_be_visible()
    page.goto("/?find=ZZ-")
    expect(page.locator("h1")).to_contain_text("Nothing on the rack")


def test_what_cannot_be_read_is_said_beside_the_field_and_nothing_is_stored(page):
    page.goto("/bring-in")
    page.get_by_role("button", name="Look at them").click()
    expect(page.locator("#wrong-files")).to_contain_text("choose a file")
    chosen(page, "picture.csv", "\0\0")
    expect(page.locator("h1")).to_have_text("This cannot be brought in.")
    expect(page.get_by_role("button", name="Bring in")).to_have_count(0)


@pytest.mark.long
def test_a_motor_is_handed_over_with_its_file_and_comes_back_with_it(page, tmp_path):
    page.goto("/motors/VS-04")
    page.locator(".tab", has_text="Hand over").click()
    page.get_by_role("button", name="Hand it over").click()
    expect(page.locator("#wrong-to")).to_contain_text("say to whom it goes")
    page.get_by_label("to whom").fill("Alder")
    page.get_by_role("button", name="Hand it over").click()
    expect(page.locator("main")).to_contain_text("Handed over to Alder. It hangs on this rack no more.")
    with page.expect_download() as taken:
        page.get_by_role("link", name="Its own file").click()
    file = tmp_path / taken.value.suggested_filename
    taken.value.save_as(file)
    assert file.name == "VS-04.waldhorn.json"
    page.goto("/?find=VS-04")
    expect(page.locator(".hook")).to_contain_text("Handed over to Alder.")
    page.goto("/bring-in")
    page.locator("#files").set_input_files(file)
    page.get_by_role("button", name="Look at them").click()
    expect(page.locator("main")).to_contain_text("VS-04 of another pit: ")
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator("h1")).to_have_text("Brought in.")
    page.goto("/?find=VS-04")
    expect(page.locator(".hook")).not_to_contain_text("Handed over")


@pytest.mark.long
def test_everything_can_be_taken_out(page):
    page.goto("/bring-in")
    for name, ending in (("The tables, packed", ".zip"), ("A workbook", ".xlsx"), ("A backup", ".json")):
        with page.expect_download() as taken:
            page.get_by_role("link", name=name).click()
        assert taken.value.suggested_filename.endswith(ending)
        assert taken.value.path().stat().st_size > 1000


def test_a_thrust_sheet_of_two_propellers_asks_what_it_must_and_comes_in(page):
    head = "motor,throttle %,green,,grey,\n,,thrust g,amps,thrust g,amps\n"
    sheet = f"{head}VS 20,100,845,31.2,803,29.9\nmean,,845,31,803,30\n"
    chosen(page, "thrust.csv", sheet)
    expect(page.locator("h1")).to_have_text("Is VS 20 the motor VS-20?")
    expect(page.get_by_label("propeller of green thrust g")).to_have_value("green")
    page.get_by_label("VS 20 is").select_option("VS-20")
    expect(page.locator("h1")).to_have_text("1 row has a cell that cannot be, 1 is good.")
    expect(page.get_by_label("row 4 counts")).not_to_be_checked()
    expect(page.get_by_text("thrust 803 g on grey (run 2)")).to_be_visible()
    expect(page.locator("tr", has_text="thrust 803 g").last).to_contain_text("29.9 A on grey (run 2) on 20")
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator("h1")).to_have_text("Brought in.")
    page.goto("/motors/VS-20/loads")
    expect(page.locator("tr", has_text="grey").first).to_contain_text("803")
