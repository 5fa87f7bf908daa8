"""A live run from the simulated bench, as a person does it."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from typing_keys import Keys, bench_of


def live_of(page: Page, tag: str, caution: bool = True) -> Keys:
    """The live page of a motor on the simulated bench, ready to spin."""
    keys = bench_of(page, tag)
    page.locator("#motor_c").fill("22")
    page.get_by_role("button", name="Go on").click()
    keys.at("look")
    page.goto(f"{page.url.split('?')[0]}?step=pull")
    keys.press("l")
    page.wait_for_url("**/live")
    if caution:
        keys.press("y")
        expect(page.get_by_role("button", name="Off, clamped")).to_have_count(0)
    keys.press("i")
    expect(page.locator("#live-words")).to_have_text(re.compile("is ready"))
    return keys


def spun_up(page: Page, keys: Keys) -> None:
    """One setting after the other is asked for with N, and captured."""
    for percent in (15, 30, 50, 100):
        keys.press("n")
        expect(page.locator(".live")).to_contain_text(f"{percent} % captured")
        expect(page.get_by_role("button", name=f"throttle {percent} %")).to_have_attribute("aria-pressed", "true")


def test_a_hidden_fault_is_found_live_by_five_keys(page):
    keys = live_of(page, "PB-2")
    spun_up(page, keys)
    keys.press(" ")
    expect(page.locator("#live-words")).to_have_text("Stopped.")
    expect(page.locator("#live-meaning")).to_contain_text("Bearings")
    expect(page.locator("#live-meaning tbody tr")).to_have_count(4)
    expect(page.locator("#live-meaning")).to_contain_text(re.compile(r"Draws \d\d % more"))
    expect(page.locator("#live-meaning")).to_contain_text(re.compile(r"Friction \d\d % higher"))
    expect(page.locator("#live-meaning")).to_contain_text("Speed-dependent loss the same")
    expect(page.get_by_role("img", name="no-load current over speed, and as it was")).to_be_visible()
    keys.press("w")
    expect(page.locator("#live-words")).to_contain_text("Timing ")
    page.get_by_role("link", name="Back to the run").click()
    expect(page.locator(".bead", has_text="Full throttle")).to_contain_text("1 run")


@pytest.mark.long
def test_a_motor_is_let_go_at_full_throttle_and_timed_until_it_stands(page):
    keys = live_of(page, "PB-1")
    keys.press("o")
    expect(page.locator("#live-wrong")).to_contain_text("bring it to full throttle first")
    spun_up(page, keys)
    keys.press("o")
    said = page.locator("#live-words")
    expect(said).to_contain_text(re.compile(r"It stood 1\.\d\d s after it was let go at 2\d{4} rpm"))
    expect(said).to_contain_text("The first of its kind")
    page.get_by_role("link", name="Back to the run").click()
    page.goto(f"{page.url.split('?')[0]}?step=coast_down")
    expect(page.locator(".bead", has_text="Coast-down")).to_contain_text(re.compile(r"1\.\d\d s"))


@pytest.mark.long
def test_what_the_readme_says_to_press_leads_to_the_live_run(page):
    readme = (Path(__file__).parents[2] / "README.md").read_text(encoding="utf-8")
    said = re.search(
        r"three motors lie in the pit box \((.+?)\): open one, press (.+?), and run it live", " ".join(readme.split())
    )
    motors, presses = (part.split(", ") for part in said.groups())
    leads_to = {"C": "**/checks/*", "L": "**/live"}
    for motor in motors:
        page.goto(f"/motors/{motor}")
        for key in presses:
            page.keyboard.press(key.lower() if len(key) == 1 else key)
            page.wait_for_url(leads_to.get(key, "**"))
        expect(page).to_have_url(re.compile("/live$"))
        page.keyboard.press("i")
        expect(page.locator("#live-words")).to_have_text(re.compile("is ready"))
        page.get_by_role("button", name="Let the instrument go").click()
        expect(page.get_by_role("button", name="throttle 0 %")).to_have_attribute("aria-pressed", "true")


@pytest.mark.long
def test_no_power_before_the_caution_is_confirmed(page):
    keys = live_of(page, "PB-1", caution=False)
    keys.press("1")
    expect(page.locator("#live-wrong")).to_contain_text("confirm first")
    keys.press("y")
    expect(page.locator("#live-words")).to_have_text(re.compile("is ready"))
    keys.press("1")
    expect(page.locator("#live-words")).to_contain_text("15 % captured")


@pytest.mark.long
def test_full_throttle_held_too_long_is_stopped_and_stands_in_the_check(page):
    keys = live_of(page, "PB-1")
    keys.press("1")
    expect(page.locator("#live-words")).to_contain_text("15 % captured")
    keys.press("5")
    expect(page.locator("#live-words")).to_contain_text("100 % captured")
    expect(page.locator("#live-words")).to_contain_text("held for 10 s")
    page.get_by_role("link", name="Back to the run").click()
    page.get_by_role("link", name=re.compile("Full throttle")).first.click()
    expect(page.locator("#meaning")).to_contain_text("100 % held for 10 s")


@pytest.mark.long
def test_a_second_browser_sees_the_same_run_and_a_lost_instrument_is_said(page, browser, address):
    keys = live_of(page, "PB-3")
    keys.press("1")
    other = browser.new_context(base_url=address).new_page()
    other.goto(page.url.replace("/connect", ""))
    expect(other.locator("#live-words")).to_contain_text("15 % captured")
    expect(other.locator("#live-rpm")).to_have_text(re.compile(r"\d"))
    other.get_by_role("button", name="Let the instrument go").click()
    expect(page.get_by_role("button", name="throttle 0 %")).to_have_attribute("aria-pressed", "true")
    other.context.close()
    page.goto(page.url.replace("/connect", ""))
    expect(page.locator("#live-meaning tbody tr")).to_have_count(1)


def test_an_instrument_that_is_not_there_is_said_beside_the_field(page):
    bench_of(page, "VS-07")
    page.keyboard.press("l")
    page.locator("#instrument").fill("192.168.1.4:8701")
    page.get_by_role("button", name="Connect").click()
    expect(page.locator("#wrong-instrument")).to_contain_text("another machine")


@pytest.mark.long
def test_a_captured_run_is_set_aside_and_taken_again(phone):
    phone.goto("/motors/PB-1")
    phone.get_by_role("button", name="Check it").tap()
    phone.wait_for_selector("#bench")
    phone.get_by_role("button", name="Go on").tap()
    phone.goto(f"{phone.url.split('?')[0]}/live")
    phone.get_by_role("button", name="Off, clamped").tap()
    phone.get_by_role("button", name="Simulated bench").tap()
    expect(phone.locator("#live-words")).to_have_text(re.compile("is ready"))
    for percent in (15, 100):
        phone.get_by_role("button", name=f"throttle {percent} %").tap()
        expect(phone.locator("#live-words")).to_contain_text(f"{percent} % captured")
    phone.get_by_role("button", name="Take again").tap()
    expect(phone.locator("#live-meaning tbody tr")).to_have_count(2)
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth")
