"""Motors beside each other: from the rack by keyboard, a set put into its machine, and what is refused."""

import re

from playwright.sync_api import expect

from typing_keys import Keys


def test_two_motors_are_compared_within_six_keys(page):
    page.goto("/?find=Heron")
    page.goto("/?find=Skerry")
    keys = Keys(page)
    page.locator("body").press("Escape")
    for key in ("ArrowDown", "x", "ArrowDown", "x", "b"):
        keys.press(key)
    page.wait_for_url(re.compile(r"/compare\?tags="))
    assert keys.pressed <= 6
    expect(page.locator("h1")).to_contain_text(re.compile("alike"))
    expect(page.locator(".between-bar").first).to_be_visible()


def test_a_peg_marks_by_thumb_and_lets_go_again(page):
    page.goto("/?find=Gannet")
    pegs = page.locator(".hook-peg")
    pegs.nth(0).click()
    pegs.nth(1).click()
    expect(page.locator("#marked")).to_contain_text("2 motors marked")
    pegs.nth(1).click()
    expect(page.locator("#marked")).to_contain_text("one motor marked")
    expect(page.locator("h1")).not_to_contain_text("Between")


def test_a_set_of_three_is_put_into_its_machine_and_can_be_undone(page):
    page.goto("/compare?tags=VS-12,VS-13,VS-14,VS-16,VS-17&take=3")
    expect(page.locator("h1")).to_contain_text("alike")
    page.locator("#machine").fill("")
    page.get_by_role("button", name="Put it in").click()
    expect(page.locator("#wrong-machine")).to_contain_text("name the machine")
    page.locator("#machine").fill("Pintail")
    page.get_by_role("button", name="Put it in").click()
    page.wait_for_url("**/machines/Pintail")
    expect(page.locator(".head-facts")).to_have_text("3 motors")
    tag = page.locator(".big label").first.inner_text().split()[0]
    page.goto(f"/motors/{tag}")
    page.keyboard.press("u")
    expect(page.get_by_text("Which motor on Pintail shakes?")).to_have_count(0)


def test_what_cannot_be_compared_is_said_beside_the_field(page):
    for tags, words in (
        ("VS-01", "name two to 12"),
        ("VS-01,VS-20", "an inrunner and an outrunner"),
        ("VS-01,vs-01", "the same motor twice"),
        ("VS-01,XX-9", "no motor XX-9"),
    ):
        page.goto(f"/compare?tags={tags}")
        expect(page.locator("#wrong-tags")).to_contain_text(words)
        expect(page.locator("#tags")).to_have_value(tags)
    page.goto("/compare?tags=VS-01,VS-03&take=5")
    expect(page.locator("h1 + p")).to_contain_text("a set of 5 out of 2")


def test_a_model_shows_its_motors_and_compares_them(page):
    page.goto("/motors/VS-12")
    page.get_by_role("link", name="Gannet 28").click()
    expect(page.locator("h1")).to_contain_text("its label")
    page.keyboard.press("b")
    page.wait_for_url(re.compile(r"/compare\?tags="))
    expect(page.locator(".between-bar").first).to_be_visible()


def test_a_rig_says_what_it_is_worth(page):
    page.goto("/")
    page.get_by_role("link", name="Rigs").click()
    page.get_by_role("link", name="green bench").click()
    expect(page.locator("h1")).to_have_text("How well green bench repeats.")
    expect(page.locator("tr", has_text="no-load current")).to_contain_text("repeats")
