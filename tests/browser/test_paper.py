"""Paper: a tag in its size, its square read back from the page as a printer draws it."""

import io
import re

import pytest
import zxingcpp
from PIL import Image
from playwright.sync_api import expect

DOTS_PER_MM = 203 / 25.4  # of a label printer


@pytest.mark.parametrize(("size", "wide_mm"), [("label", 62), ("tape", 90), ("card", 85), ("passport", 128)])
def test_a_square_reads_back_as_a_label_printer_draws_it(page, size, wide_mm):
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


def test_a_tag_of_another_pit_is_taken_in_with_its_name(page):
    page.goto("/motors/VS-11")
    page.get_by_role("link", name="Print its tag").click()
    expect(page.locator(".paper-tag")).to_have_text("VS-11")
    expect(page.locator(".paper-says")).to_contain_text("repair")
    page.goto("/?find=WH1:torn")
    expect(page.locator("main")).to_contain_text("scan it again")
