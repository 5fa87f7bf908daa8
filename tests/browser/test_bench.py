"""A check from the motor in the hand to the signed answer, as a person does it."""

import re

import pytest
from playwright.sync_api import Page, expect

from typing_keys import Keys, bench_of


def pull(page: Page, *texts: str) -> None:
    keys = Keys(page)
    for field, text in zip(("volts", "amps", "rpm"), texts, strict=True):
        expect(page.locator(f"#{field}")).to_be_focused()
        keys.enter(text)
    expect(page.locator("#p2p")).to_be_focused()
    keys.press("Enter")


def test_a_quick_check_takes_at_most_forty_keys_beyond_the_digits(page):
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("heron")
    expect(page.locator("[data-found]").first).to_contain_text("VS-01")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/motors/VS-01$"))
    keys = Keys(page)
    keys.press("c")
    keys.at("setup", "motor_c")
    keys.enter("25", "22", "")
    keys.at("look")
    keys.press("a")
    keys.press("Enter")
    keys.at("first_spin", "rpm")
    keys.enter("3150")
    keys.at("pull", "volts")
    keys.enter("7,40", "2.25", "25150", "50")
    expect(page.locator(".is-watch").first).to_have_text("Full throttle, run 2")
    keys.at("pull", "volts")
    keys.enter("7.4", "2.27", "25160", "60")
    keys.at("noise", "background")
    keys.enter("60", "63.5", "73", "81.5")
    keys.at("answer", "signed_by")
    expect(page.locator("#answer")).to_contain_text("Keep.")
    page.locator("#signed_by").fill("Ines")
    keys.press("Enter")
    expect(page.locator("#rack")).to_contain_text("VS-01 hangs back on the rack.")
    assert keys.pressed <= 40
    page.goto("/motors/VS-01")
    page.locator(".tab", has_text="Signed").click()
    expect(page.get_by_text("keep, Ines")).to_be_visible()


@pytest.mark.long
def test_a_full_check_takes_at_most_ninety_keys_beyond_the_digits(page):
    keys = bench_of(page, "VS-03", "f")
    keys.at("setup", "motor_c")
    keys.enter("24", "22", "")
    keys.at("look")
    keys.press(*"oooodo", "a", "Enter")
    keys.at("gap", "gaps")
    keys.enter("0.6 0.61 0.6 0.59", "")
    keys.at("detent", "peaks")
    keys.enter("18.4 18.2 18.9 18.1 18.6 18.3 18.5 18.2 18.8 18.4 18.1 18.7")
    keys.at("sensors", "states")
    keys.enter("101 100 110 010 011 001")
    keys.at("poles", "counted")
    keys.press("Enter", "Enter", "Enter", "Enter", "Enter")
    keys.at("first_spin", "rpm")
    keys.enter("3100")
    for _ in range(2):
        keys.at("pull", "volts")
        keys.enter("7.4", "2.2", "25200", "50")
    for _ in range(2):
        keys.at("timing", "a")
        keys.enter("28.1", "27.6", "28.0")
    keys.at("noise", "background")
    keys.enter("60", "63", "73", "81")
    keys.at("heat", "surface_c")
    keys.enter("45", "", "")
    keys.at("answer", "signed_by")
    assert keys.pressed <= 90
    expect(page.locator("#answer")).to_contain_text(re.compile("Keep|Watch"))


def test_meaning_appears_while_typing_and_nothing_is_stored(page):
    keys = bench_of(page, "VS-07")
    keys.at("pull", "volts")
    keys.enter("7.38", "2.71")
    expect(page.locator("#meaning")).to_contain_text("2.71")
    keys.type("25 320")
    row = page.locator("#meaning tr.typed")
    expect(row).to_contain_text("3\u2009431")
    expect(page.locator("#meaning")).to_contain_text("more than in")
    expect(page.locator("#answer")).to_contain_text("Bearings")
    expect(page.locator(".bead.now .bead-said")).to_have_text("1 run")


def test_a_reload_or_another_browser_in_the_middle_loses_nothing(page, browser, address):
    keys = bench_of(page, "VS-07")
    keys.at("pull", "volts")
    keys.enter("7.38")
    keys.type("2.71")
    expect(page.locator("#meaning")).to_contain_text("2.71")
    page.reload()
    expect(page.locator("#volts")).to_have_value("7.38")
    expect(page.locator("#amps")).to_have_value("2.71")
    expect(page.locator("#rpm")).to_be_focused()
    other = browser.new_context(base_url=address).new_page()
    other.goto(page.url)
    expect(other.locator("#amps")).to_have_value("2.71")
    other.context.close()


def test_nonsense_is_answered_beside_the_field_and_kept(page):
    bench_of(page, "VS-07")
    page.locator("#amps").fill("two and a bit")
    expect(page.locator("#wrong-amps")).to_contain_text("is not a number")
    page.locator("#rpm").fill("-3")
    page.get_by_role("button", name="Take run 2").click()
    expect(page.locator("#wrong-volts")).to_contain_text("still to come")
    expect(page.locator("#wrong-rpm")).to_contain_text("is below 0")
    expect(page.locator("#amps")).to_have_value("two and a bit")


@pytest.mark.long
def test_discordant_runs_ask_for_a_third_and_the_odd_one_stands_aside_until_undone(page):
    bench_of(page, "VS-07")
    pull(page, "7.38", "2.71", "27 900")
    expect(page.locator("#meaning")).to_contain_text("Take a third.")
    pull(page, "7.4", "2.65", "25 400")
    expect(page.locator("#bench")).to_have_attribute("data-step", "noise")
    page.get_by_role("link", name=re.compile("Full throttle")).click()
    expect(page.locator("#meaning tr.aside")).to_have_count(1)
    expect(page.locator("#meaning tr.why")).to_contain_text("odd one out: KV")
    page.locator("#bench").click(position={"x": 100, "y": 500})
    page.keyboard.press("u")
    expect(page.locator("#meaning tr.aside")).to_have_count(0)
    expect(page.locator("#rpm")).to_have_value("25 400")


def test_a_run_set_aside_by_hand_keeps_its_reason(page):
    bench_of(page, "VS-07")
    page.get_by_text("Set a run aside").click()
    page.get_by_role("button", name="Set aside").click()
    expect(page.locator("#wrong-aside")).to_contain_text("say why")
    page.locator("#reason-1").fill("clip slipped")
    page.keyboard.press("Enter")
    expect(page.locator("#meaning tr.why")).to_have_text("clip slipped")


@pytest.mark.long
def test_overruling_asks_why_and_both_answers_stand(page):
    bench_of(page, "VS-01")
    page.get_by_role("button", name="Go on").click()
    page.goto(f"{page.url}?step=pull")
    for _ in range(2):
        pull(page, "7.4", "2.26", "25 160")
    page.goto(f"{page.url.split('?')[0]}?step=answer")
    page.get_by_label("retire").check()
    page.get_by_label("signed").fill("Oda")
    page.keyboard.press("Enter")
    expect(page.locator("#wrong-reason")).to_contain_text("Waldhorn says unproven, you say retire")
    expect(page.locator("#signed_by")).to_have_value("Oda")
    expect(page.locator("#reason")).to_be_focused()
    page.keyboard.type("rattles when shaken")
    page.keyboard.press("Enter")
    expect(page.locator('a[href="/motors/VS-01"]')).to_contain_text("Retire, says Oda.")
    expect(page.locator('a[href="/motors/VS-01"]')).to_contain_text("Waldhorn: Unproven")


@pytest.mark.long
def test_a_wrong_pole_setting_is_asked_about_first_and_put_right(page):
    page.goto("/motors/VS-21")
    expect(page.locator("h1")).to_have_text("Unproven: is the instrument set to its poles?")
    expect(page.get_by_text("With 14 poles instead of 12")).to_be_visible()
    keys = bench_of(page, "VS-21")
    page.get_by_role("button", name="Go on").click()
    expect(page.locator("#bench")).to_have_attribute("data-step", "look")
    page.goto(f"{page.url.split('?')[0]}?step=poles")
    page.locator("#frequency_hz").fill("116.8 116.5")
    page.locator("#reference_hz").fill("33.4 33.3")
    page.locator("#reference_poles").fill("4")
    expect(page.locator("#meaning")).to_contain_text("14 poles.")
    page.get_by_role("button", name="Take it").click()
    expect(page.locator("#bench")).to_have_attribute("data-step", "look")
    page.get_by_role("link", name=re.compile("Poles")).click()
    with page.expect_response("**/rebase"):
        page.get_by_role("button", name="Re-base them to 14").click()
    page.goto("/motors/VS-21")
    expect(page.locator("h1")).to_have_text("Keep.")
    expect(page.get_by_text("1\u2009042", exact=True)).to_have_count(0)
    keys.press("u")
    expect(page.get_by_text("1\u2009042", exact=True).first).to_be_visible()


def test_a_server_that_went_away_is_said_and_typing_goes_on(page):
    bench_of(page, "VS-07")
    page.route("**/draft", lambda route: route.abort())
    page.locator("#volts").fill("7.4")
    expect(page.get_by_role("alert")).to_be_visible()
    page.unroute("**/draft")
    page.locator("#amps").fill("2.6")
    expect(page.get_by_role("alert")).to_be_hidden()
    expect(page.locator("#volts")).to_have_value("7.4")
