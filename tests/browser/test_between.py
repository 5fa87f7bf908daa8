"""Motors beside each other: from the rack by keyboard, a set put into its machine, and what is refused."""

import re

import pytest
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
    expect(page.locator("h1")).to_contain_text("is better for")
    expect(page.locator("h1")).to_contain_text("VS-")
    expect(page.locator(".between-bar").first).to_be_visible()


def test_a_peg_marks_by_thumb_and_lets_go_again(phone):
    phone.goto("/?find=Gannet")
    pegs, marked = phone.locator(".hook-peg"), phone.locator("#marked")
    expect(marked).to_be_hidden()
    for place in range(3):
        pegs.nth(place).tap()
    expect(marked).to_contain_text("3 motors marked")
    expect(marked).to_be_in_viewport()
    box, places = marked.bounding_box(), phone.locator(".places").bounding_box()
    assert box["y"] + box["height"] <= places["y"] + 1
    expect(phone.locator("#print-marked")).to_have_attribute("href", re.compile(r"/paper/rack\?tags=VS-\d+,"))
    expect(phone.locator("#between-set")).to_have_attribute("href", re.compile(r"tags=VS-\d+,VS-\d+,VS-\d+&take=2$"))
    pegs.nth(1).tap()
    pegs.nth(0).tap()
    expect(marked).to_contain_text("one motor marked")
    expect(phone.locator("#between")).to_be_hidden()
    phone.get_by_role("button", name="none of them").tap()
    expect(marked).to_be_hidden()
    expect(phone.locator("[data-marked]")).to_have_count(0)


@pytest.mark.long
def test_a_set_of_three_is_put_into_its_machine_and_can_be_undone(page):
    page.goto("/compare?tags=VS-12,VS-13,VS-14,VS-16,PB-3&take=3")
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
        ("VS-01", "name two to 40"),
        ("VS-01,vs-01", "the same motor twice"),
        ("VS-01,XX-9", "no motor XX-9"),
    ):
        page.goto(f"/compare?tags={tags}")
        expect(page.locator("#wrong-tags")).to_contain_text(words)
        expect(page.get_by_role("checkbox", name="VS-01")).to_be_checked()
    page.goto("/compare?tags=VS-01,VS-20")
    expect(page.locator(".between-bar").first).to_be_visible()
    page.goto("/compare?tags=VS-01,VS-20&take=2")
    expect(page.locator("h1 + p")).to_contain_text("an inrunner and an outrunner make no set")
    page.goto("/compare?tags=VS-01,VS-03&take=5")
    expect(page.locator("h1 + p")).to_contain_text("a set of 5 out of 2")


def test_what_a_rig_read_while_it_was_out_is_said_and_who_is_not_among_the_sets(page):
    page.goto("/compare?tags=VS-01,VS-03,VS-06")
    says = page.locator("main")
    expect(says).to_contain_text("no-load current of VS-06: its rig was out when it was read, read it again.")
    page.goto("/compare?tags=VS-01,VS-03,VS-06&take=2")
    expect(says).to_contain_text("Not among them, since not read alike in all of it: VS-06.")
    page.goto("/compare?tags=VS-01,VS-06")
    expect(says).to_contain_text("no-load current of VS-06: its rig was out")


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
    expect(page.locator("h1")).to_have_text("green bench reads its reference motor as it did.")
    expect(page.locator(".between-row", has_text="no-load current")).to_contain_text("Right again; was out on")
    expect(page.get_by_label("stand, controller, meter")).to_have_value("the pit's own table")
    page.get_by_role("button", name="The rig was put right").click()
    expect(page.get_by_text("Last put right today.")).to_be_visible()
    expect(page.get_by_label("How well it repeats").locator("tr", has_text="no-load current")).to_contain_text(
        "repeats"
    )


@pytest.mark.long
def test_a_study_with_typed_numbers_ends_with_what_the_rig_tells_apart(page):
    page.goto("/rigs/pier%20bench")
    study = page.locator("#study-motors")
    expect(study.locator(":checked")).to_have_count(5)
    by_noise = study.locator(":checked").evaluate_all("boxes => boxes.map((box) => box.value)")
    page.get_by_label("what is read").select_option(label="KV, rpm/V")
    expect(study.locator(f"[value={by_noise[0]}]:checked, [value={by_noise[-1]}]:checked")).not_to_have_count(2)
    page.get_by_label("what is read").select_option(label="noise, dB")
    expect(study.locator(f"[value={by_noise[0]}]:checked, [value={by_noise[-1]}]:checked")).to_have_count(2)
    for tag in by_noise:
        study.get_by_label(tag, exact=True).uncheck()
    study.get_by_label("VS-01", exact=True).check()
    page.get_by_role("button", name="Begin").click()
    expect(page.locator("#wrong-motors")).to_contain_text("tick 2 to 20")
    expect(study.locator(":checked")).to_have_count(1)
    for tag in ("VS-03", "VS-08"):
        study.get_by_label(tag, exact=True).check()
    page.locator("#visits").fill("2")
    page.get_by_role("button", name="Begin").click()
    page.wait_for_url("**/studies/*")
    keys = Keys(page)
    for visit in range(1, 7):
        expect(page.locator("main")).to_contain_text(f"Visit {visit} of 6")
        tag = page.locator("h1").inner_text().removeprefix("Clamp ").rstrip(".")
        level = {"VS-01": 80, "VS-03": 85, "VS-08": 91}[tag] + 0.5 * (visit > 3)
        keys.type(f"{level}")
        keys.press("Tab")
        keys.type(f"{level + 0.4}")
        keys.press("Enter")
    expect(page.locator("h1")).to_contain_text("groups of motors apart in noise")
    expect(page.locator(".chart-stroke")).to_have_count(6)
    page.locator("body").press("u")
    expect(page.get_by_role("status").filter(has_text="Taken back")).to_be_visible()
    expect(page.locator("h1")).to_contain_text("Clamp VS-")
    page.keyboard.press("Escape")
    page.wait_for_url("**/rigs/pier%20bench")


@pytest.mark.long
def test_two_sets_go_into_two_machines(page):
    page.goto("/compare?tags=VS-12,VS-13,VS-14,VS-16,PB-3&take=2&machines=2")
    expect(page.locator("h1 + p")).to_contain_text("No other partition is more alike. Left over: ")
    page.locator("#machine").fill("Pintail")
    page.get_by_role("button", name="Put it in").click()
    expect(page.locator("#wrong-machine")).to_contain_text("name 2 machines")
    expect(page.locator("#machine")).to_have_value("Pintail")
    page.locator("#machine").fill("Pintail, Smew")
    page.get_by_role("button", name="Put it in").click()
    page.wait_for_url("**/machines/Pintail")
    expect(page.locator(".head-facts")).to_have_text("2 motors")
    page.goto("/machines/Smew")
    page.keyboard.press("b")
    page.wait_for_url(re.compile(r"/compare\?tags="))
    expect(page.locator(".head-tag")).to_have_text("Between two")


@pytest.mark.long
def test_a_rig_that_was_typed_twice_becomes_one(page):
    page.goto("/rigs/pier%20bench")
    page.locator("#name").fill("Green Bench")
    page.get_by_role("button", name="Rename").click()
    expect(page.locator("#wrong-sure")).to_contain_text("green bench is there already")
    page.locator("#sure").select_option("green bench")
    page.get_by_role("button", name="Rename").click()
    page.wait_for_url("**/rigs/green%20bench")
    page.goto("/rigs")
    expect(page.get_by_role("link", name="pier bench")).to_have_count(0)


def test_the_rack_asks_for_the_reference_and_a_use_is_weighed_anew(page):
    page.goto("/")
    expect(page.locator("#rack")).to_contain_text("REF-1 was not read today")
    page.goto("/limits?class=twin%20hydroplane")
    page.locator("summary", has_text="hold").click()
    page.locator("#hold-detent_peak").fill("heavy")
    page.get_by_role("button", name="Keep what hold weighs").click()
    expect(page.locator("#wrong-weighs-detent_peak")).to_be_visible()
    page.locator("#hold-detent_peak").fill("2")
    page.get_by_role("button", name="Keep what hold weighs").click()
    expect(page.locator("summary", has_text="hold")).to_contain_text("detent +2")


def test_pages_between_motors_fit_a_phone(phone):
    for path in ("/compare?tags=VS-20,VS-22,VS-32", "/rigs", "/rigs/green%20bench", "/models/Skerry%2036"):
        phone.goto(path)
        wide = phone.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        assert wide <= 0, path
