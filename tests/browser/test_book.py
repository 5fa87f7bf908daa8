"""The book of a motor in the browser: by keyboard alone, with nonsense typed in, and what a correction does."""

import re

import pytest
from playwright.sync_api import expect


@pytest.mark.long
def test_a_reading_is_put_right_by_keyboard_alone_and_the_answer_is_said(page):
    page.goto("/motors/VS-07")
    page.keyboard.press("b")
    expect(page.locator("h1")).to_contain_text("The book of VS-07")
    page.get_by_label("only").select_option("noise_avg")
    page.get_by_role("button", name="Show").press("Enter")
    first = page.get_by_role("link", name="put right").first
    before = first.inner_text()
    first.press("Enter")
    field = page.get_by_label("noise, dB")
    expect(field).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.type("loud")
    page.keyboard.press("Enter")
    expect(page.locator("#wrong-reading")).to_contain_text("is not a number")
    expect(field).to_have_value("loud")
    expect(field).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.type("79,5")
    page.keyboard.press("Enter")
    expect(page.locator("td", has_text=f"was {before}").first).to_contain_text("79.5")
    expect(page.get_by_label("only")).to_have_value("noise_avg")
    expect(page.locator("main")).to_contain_text("The answer stands")
    page.get_by_role("link", name="put right").nth(1).press("Enter")
    page.get_by_label("or set it aside, because").press("Enter")
    expect(page.locator("#wrong-reading")).to_contain_text("say why")
    page.keyboard.type("somebody shouted")
    page.keyboard.press("Enter")
    expect(page.locator("td", has_text="aside: somebody shouted")).to_have_count(1)
    page.get_by_text("What was done, the last first").press("Enter")
    page.get_by_role("button", name=re.compile("^undo noise .* corrected to 79.5 dB")).press("Enter")
    expect(page.get_by_role("link", name="put right").first).to_have_text(before)
    expect(page.locator("td", has_text="aside: somebody shouted")).to_have_count(1)
    expect(page.get_by_label("only")).to_have_value("noise_avg")
    page.keyboard.press("u")
    expect(page.locator("td", has_text="aside: somebody shouted")).to_have_count(0)


def test_a_closed_check_opens_as_it_was_and_loads_stay_in_sight(page):
    page.goto("/motors/VS-01/book?step=load")
    expect(page.locator("th", has_text="V·A").or_(page.locator("th", has_text="watts")).first).to_be_visible()
    expect(page.locator("td", has_text="38 x 52").first).to_be_visible()
    page.get_by_role("link", name="Load run").first.press("Enter")
    expect(page.locator("h1")).to_contain_text("Read on ")
    expect(page.locator(".bench-work")).to_contain_text("38 x 52 propeller")
    expect(page.locator(".bench-work input[name=amps]")).to_have_count(0)
    page.locator(".bead", has_text="Answer").press("Enter")
    expect(page.locator(".bench-work")).to_contain_text("This check is closed")


def test_under_what_a_line_was_read_is_put_right_by_keyboard_alone(page):
    page.goto("/motors/VS-07")
    page.keyboard.press("b")
    expect(page.locator("h1")).to_contain_text("The book of VS-07")
    page.keyboard.press("c")
    throttle = page.get_by_label("throttle, %")
    expect(throttle).to_be_focused()
    page.keyboard.press("Control+a")
    page.keyboard.type("half")
    page.keyboard.press("Enter")
    expect(page.locator("#wrong-under_throttle_pct")).to_contain_text("is not a number")
    expect(throttle).to_have_value("half")
    throttle.fill("55")
    throttle.press("Enter")
    expect(page.locator("td", has_text="55 %").first).to_be_visible()
    expect(page.locator(".undo-line")).to_contain_text("throttle 100 corrected to 55")
    page.keyboard.press("u")
    expect(page.locator("td", has_text="55 %")).to_have_count(0)
