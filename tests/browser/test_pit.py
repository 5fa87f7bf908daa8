"""Taking in, finding, what happened, day and night, and whether everybody can use it."""

import re

import pytest
from playwright.sync_api import expect

from typing_keys import bench_of


def test_a_motor_is_taken_in_by_keyboard_in_one_go(page):
    page.goto("/")
    page.keyboard.press("n")
    expect(page.locator("#tag")).to_be_focused()
    typed = {
        "tag": "VS-07",
        "model": "Skerry 36",
        "kind": None,
        "label_kv": "3450",
        "machine": "Grebe",
        "position": "",
        "everything else": "\n",
        "owner": "Ines",
        "sensored": None,
        "turns": "",
        "poles": "5",
        "poles_known_by": None,
        "slots": "12",
    }
    for text in typed.values():
        if text:
            page.keyboard.type(text)
        page.keyboard.press("Tab")
    expect(page.locator("#wrong-tag")).to_contain_text("next free is VS-31")
    expect(page.locator("#wrong-poles")).to_contain_text("4 or 6")
    page.keyboard.press("Control+Enter")
    expect(page.locator("#tag")).to_be_focused()
    expect(page.locator("#owner")).to_have_value("Ines")
    page.locator("#tag").fill("VS-31")
    page.locator("#poles").fill("4")
    expect(page.locator("#sketch .d-magnet")).to_have_count(4)
    page.keyboard.press("Enter")
    expect(page.locator("#mass_g")).to_be_focused()
    page.keyboard.press("Control+Enter")
    expect(page).to_have_url(re.compile("/motors/VS-31$"))
    expect(page.locator("h1")).to_have_text("Unproven: nothing to judge by yet.")
    page.goto("/motors/new")
    expect(page.locator("#owner")).to_have_value("")


def test_what_is_typed_about_a_new_motor_survives_a_reload(page):
    page.goto("/motors/new")
    with page.expect_response("**/draft"):
        page.locator("#tag").fill("VS-40")
    page.get_by_text("Everything else").click()
    with page.expect_response("**/draft"):
        page.locator("#slots").fill("10")
    expect(page.locator("#wrong-slots")).to_contain_text("cannot carry three phases")
    page.reload()
    expect(page.locator("#tag")).to_have_value("VS-40")
    expect(page.locator("#wrong-slots")).to_contain_text("cannot carry three phases")


def test_the_second_and_four_more_of_a_model_are_on_the_rack_in_a_few_strokes(page):
    page.goto("/motors/VS-07")
    page.keyboard.press("n")
    expect(page.locator("#model")).to_have_value("Skerry 36")
    expect(page.locator("#machine")).to_have_value("")
    first = int(page.locator("#tag").input_value().removeprefix("VS-"))
    assert first > 30
    page.keyboard.press("Control+Enter")
    expect(page.locator("h1, .head-tag").first).to_contain_text(f"VS-{first}")
    page.keyboard.press("n")
    page.get_by_label("how many").fill("4")
    page.keyboard.press("Control+Enter")
    page.wait_for_url(lambda url: "/motors/VS-" in url and int(url.rpartition("-")[2]) >= first + 4)
    page.goto(f"/motors/VS-{first}")
    expect(page.locator("header")).to_contain_text("Skerry 36")
    page.goto("/motors/new?like=VS-07")
    page.get_by_label("how many").fill("many")
    page.keyboard.press("Control+Enter")
    expect(page.locator("#wrong-count")).to_contain_text("is not a number")


def test_the_drawing_is_true_to_the_motor(page):
    page.goto("/motors/VS-20")
    drawing = page.get_by_role("img", name="outrunner VS-20 seen along its shaft, 12 slots, 14 poles")
    expect(drawing.locator(".d-magnet")).to_have_count(14)
    assert drawing.locator(".d-slot").get_attribute("d").count("M") == 12
    expect(drawing.get_by_text("sensors")).to_have_count(0)
    page.goto("/motors/VS-11")
    expect(page.locator(".d-ring-past, .d-ring-watch")).to_have_count(1)


def test_events_stand_on_the_axis_and_can_be_undone(page):
    page.goto("/motors/VS-01")
    before = page.locator(".c-letter").count()
    page.locator(".tab", has_text="Happened").click()
    page.get_by_label("what", exact=True).select_option("crash")
    page.get_by_label("detail").fill("met the jetty")
    page.get_by_role("button", name="Log it").click()
    expect(page.locator("td", has_text="met the jetty")).to_be_visible()
    page.keyboard.press("o")
    expect(page.locator(".c-letter.grave")).to_have_count(before + 1)
    expect(page.get_by_text("crashed today (met the jetty)")).to_be_visible()
    page.keyboard.press("u")
    expect(page.locator(".c-letter")).to_have_count(before)


def test_every_check_stands_in_its_lane_with_its_words(page):
    page.goto("/motors/VS-11#over-time")
    lane = page.get_by_role("img", name="no-load current over time, 9 checks")
    expect(lane.locator(".c-mark")).to_have_count(9)
    page.get_by_text("In figures").click()
    expect(page.locator(".wide-table tbody tr").filter(has_text=re.compile(r"\d\.\d\d"))).to_have_count(9)


def test_the_rack_is_walked_with_the_arrows(page):
    page.goto("/")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    second = page.locator("[data-hook]").nth(1)
    expect(second).to_be_focused()
    href = second.get_attribute("href")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(f"{href}$"))
    page.keyboard.press("Escape")
    expect(page.locator("#rack")).to_be_visible()


def test_finding_nothing_says_so_and_letters_in_the_search_are_letters(page):
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("nnn")
    expect(page.locator("#found")).to_contain_text("Nothing is called “nnn”.")
    expect(page).to_have_url(re.compile(r"/$"))
    page.goto("/?find=nnn")
    expect(page.locator("h1")).to_have_text("Nothing on the rack has “nnn”.")
    page.get_by_role("link", name="The whole rack").click()
    expect(page.locator("[data-hook]")).to_have_count(35)


def test_facts_are_corrected_and_the_correction_undone(page):
    page.goto("/motors/VS-21")
    page.locator(".tab", has_text="Facts").click()
    page.get_by_role("link", name="Correct the facts").click()
    page.get_by_label("poles known by").select_option("counted")
    page.locator("#poles").fill("14")
    page.keyboard.press("Control+Enter")
    expect(page.locator("main")).to_contain_text("the instrument seems to be set to 12 poles, the motor has 14")
    page.keyboard.press("u")
    expect(page.locator("main")).to_contain_text("With 14 poles instead of 12 it would be")


def test_day_and_night_are_switched_and_remembered(page):
    page.goto("/")
    paper = "getComputedStyle(document.documentElement).backgroundColor"
    day = page.evaluate(paper)
    page.get_by_role("button", name="More").click()
    page.get_by_role("button", name="Day or night").click()
    night = page.evaluate(paper)
    assert night != day
    page.reload()
    assert page.evaluate(paper) == night


@pytest.mark.long
@pytest.mark.parametrize("path", ["/", "/motors/VS-11", "/motors/new", "{bench}", "{bench}/live", "/limits", "/help"])
def test_the_skip_link_leads_to_the_work(page, path):
    bench_of(page, "VS-07")
    page.goto(path.format(bench=page.url.split("?")[0]))
    page.evaluate("document.activeElement.blur()")
    page.locator(".skip").focus()
    page.keyboard.press("Enter")
    assert page.evaluate("document.activeElement.id") == "main"


@pytest.mark.long
def test_there_is_one_scroll_on_every_step(page):
    bench_of(page, "VS-07")
    url = page.url.split("?")[0]
    for step in (
        "setup",
        "look",
        "gap",
        "detent",
        "sensors",
        "poles",
        "resistance",
        "back_emf",
        "first_spin",
        "pull",
        "timing",
        "noise",
        "coast_down",
        "heat",
        "set_timing",
        "load",
        "flywheel",
        "answer",
    ):
        page.goto(f"{url}?step={step}")
        assert page.evaluate("document.documentElement.scrollHeight - innerHeight") <= 0, step


def test_what_a_key_did_is_announced_and_heard(page):
    keys = bench_of(page, "VS-07")
    keys.at("pull", "volts")
    keys.enter("7.38", "2.71", "25320", "50")
    expect(page.locator("#announce")).to_contain_text("Full throttle")
    page.evaluate("document.activeElement.blur()")
    keys.press("u")
    expect(page.locator("#announce")).to_contain_text("Undone: ")
