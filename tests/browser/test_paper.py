"""Paper: a tag in its size, its square read back from the page as a printer draws it."""

import io
import re

import pytest
import zxingcpp
from PIL import Image
from playwright.sync_api import expect

DOTS_PER_MM = 203 / 25.4  # of a label printer


@pytest.mark.long
@pytest.mark.parametrize(("size", "wide_mm"), [("label", 62), ("tape", 90), ("card", 85), ("passport", 128)])
def test_a_square_reads_back_as_a_label_printer_draws_it(own_page, size, wide_mm):
    page = own_page
    page.goto(f"/motors/VS-11/paper/{size}")
    drawn = page.locator(".paper")
    width, tall = (drawn.evaluate(f"e => e.{side}") / 96 * 25.4 for side in ("offsetWidth", "offsetHeight"))
    assert width == pytest.approx(wide_mm, abs=0.5)
    page.set_viewport_size({"width": 2800, "height": 2600})
    page.evaluate("document.body.style.zoom = 4")
    picture = Image.open(io.BytesIO(drawn.screenshot()))
    printed = picture.resize((round(width * DOTS_PER_MM), round(tall * DOTS_PER_MM)), Image.Resampling.LANCZOS)
    [code] = zxingcpp.read_barcodes(printed)
    page.goto("/")
    page.get_by_role("searchbox").fill(code.text)
    page.wait_for_url(re.compile("/motors/VS-11$"))


@pytest.mark.parametrize("path", ["/motors/VS-11/paper/report", "/motors/VS-11/paper/sheet", "/paper/rack"])
def test_what_goes_on_a4_is_an_a4_wide_and_stands_alone(own_page, path):
    page = own_page
    page.goto(path)
    width = page.locator(".paper").evaluate("e => e.offsetWidth") / 96 * 25.4
    assert width == pytest.approx(186, abs=0.5)
    page.emulate_media(media="print")
    expect(page.locator("body > header")).to_be_hidden()
    expect(page.locator("body > footer")).to_be_hidden()
    expect(page.locator(".paper")).to_be_visible()


def test_an_empty_sheet_has_every_step_and_field_in_the_order_it_is_typed_in(page):
    page.goto("/motors/VS-11/paper/sheet")
    steps = page.locator(".sheet-paper > strong").all_inner_texts()
    asked = page.locator(".sheet-blank").count() - 2  # but date and signature
    page.goto("/motors/VS-11/sheet")
    legends = [text.split(" ", 1)[1] for text in page.locator("legend").all_inner_texts()]
    assert steps == legends
    typed = page.locator("form .field :is(input, select)")
    assert typed.count() - 1 == asked


def test_a_report_says_what_the_page_says(page):
    page.goto("/motors/VS-11")
    headline = page.locator("main h1").inner_text()
    page.locator(".tab", has_text="Paper").click()
    page.get_by_role("link", name="Report, A4").click()
    expect(page.locator(".paper-says")).to_have_text(headline)
    expect(page.locator(".paper .lane").first).to_be_visible()


@pytest.mark.long
def test_a_sheet_is_typed_in_by_keyboard_alone(page):
    page.goto("/motors/VS-04/sheet")
    keys = page.keyboard
    expect(page.locator("#at")).to_be_focused()
    rig = page.locator("#rigs option").first.get_attribute("value")
    wanted = {
        "setup-1-rig": rig,
        "setup-1-method": "f",
        "setup-1-motor_c": "24",
        "setup-1-ambient_c": "21",
        "first_spin-1-heard": "s",
        "pull-1-volts": "7.38",
        "pull-1-amps": "2.31",
        "pull-1-rpm": "25120",
        "pull-2-volts": "7.38",
        "pull-2-amps": "2.3",
        "pull-2-rpm": "25090",
        "noise-1-background": "48",
        "noise-1-full": "81.2",
    }
    for _ in range(150):
        name = page.evaluate("document.activeElement.name")
        if name in wanted:
            keys.type(wanted.pop(name))
        if not wanted:
            break
        keys.press("Tab")
    assert wanted == {}
    keys.press("Control+Enter")
    page.wait_for_url(re.compile("/checks/.*step=answer"))
    page.goto("/motors/VS-04")
    expect(page.locator(".lane", has_text="no-load current")).to_contain_text("2.3")


def test_nonsense_on_a_sheet_is_said_beside_its_field_and_nothing_is_stored(page):
    page.goto("/motors/VS-04/sheet")
    page.locator("#at").fill("2999-01-01")
    page.locator("#pull-1-volts").fill("plenty")
    page.get_by_role("button", name="Take the sheet").click()
    expect(page.locator("#wrong-at")).to_contain_text("2999")
    page.locator("#at").fill("")
    page.get_by_role("button", name="Take the sheet").click()
    expect(page.locator("#wrong-pull-1-volts")).to_contain_text("not a number")
    expect(page.locator("#wrong-pull-1-amps")).to_contain_text("still to come")
    expect(page.locator("#pull-1-volts")).to_have_value("plenty")
    page.goto("/motors/VS-04")
    expect(page.get_by_role("button", name="Full check")).to_be_visible()  # none is open


def test_a_tag_of_another_pit_is_taken_in_with_its_name(page):
    page.goto("/motors/VS-11")
    page.locator(".tab", has_text="Paper").click()
    page.get_by_role("link", name="Label, 62").click()
    expect(page.locator(".paper-tag")).to_have_text("VS-11")
    expect(page.locator(".paper-says")).to_contain_text("repair")
    page.goto("/?find=WH1:torn")
    expect(page.locator("main")).to_contain_text("scan it again")
