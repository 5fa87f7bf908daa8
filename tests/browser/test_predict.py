"""What a motor will do: asked by hand, held against its ratings, others beside it, and refused in words."""

import pytest
from playwright.sync_api import expect

from waldhorn.store import motors


@pytest.mark.long
def test_it_is_asked_for_a_propeller_and_a_pack_and_held_against_ratings(page, demo_store):
    with demo_store.writing() as session:
        motors.find(session, "VS-01").rated_a = 40.0
        motors.find(session, "VS-12").rated_a = 45.0
        motors.find(session, "VS-03").rated_a = 60.0
    page.goto("/motors/VS-01")
    page.get_by_role("link", name="What it will do").click()
    expect(page.locator("h1")).to_contain_text("38 x 52 propeller on VS-01: 3")
    expect(page.locator(".curve-beyond").first).to_be_visible()
    expect(page.locator("figure", has_text="amps over volts").first.locator(".curve-point")).to_have_count(2)
    expect(page.locator("tr", has_text="VS-12")).to_contain_text("above its rated 45 A")
    page.get_by_label("pack, volts at rest").fill("8.4")
    page.keyboard.press("Control+Enter")
    expect(page.locator("p", has_text="is above its rated 40 A.")).to_be_visible()
    expect(page.get_by_text("VS-03 gives")).to_have_count(0)
    page.get_by_label("gear, motor turns to one").fill("2")
    page.keyboard.press("Control+Enter")
    expect(page.locator("p", has_text="is above its rated 40 A.")).to_have_count(0)
    expect(page.locator("h1")).to_contain_text("A, 2")


def test_nonsense_is_said_beside_its_field(page):
    page.goto("/motors/VS-01/predict")
    page.get_by_label("pack, volts at rest").fill("plenty")
    page.get_by_role("button", name="Predict").click()
    expect(page.locator("#wrong-volts")).to_contain_text("is not a number")
    page.get_by_label("pack, volts at rest").fill("1")
    page.get_by_label("gear, motor turns to one").fill("0.1")
    page.get_by_role("button", name="Predict").click()
    expect(page.locator("h1")).to_contain_text("VS-01")


def test_a_motor_without_a_row_under_load_gets_a_guess_and_says_what_is_missing(page):
    page.goto("/motors/VS-07/predict")
    expect(page.locator("h1")).to_contain_text("on VS-07: ")
    expect(page.locator("main")).to_contain_text("A guess, from its pulls and its siblings VS-")
    expect(page.get_by_text("Its constants")).to_have_count(0)
    expect(page.locator("main")).to_contain_text(
        "without load cannot tell R: add one under load, or measure it with four"
    )
    page.goto("/motors/VS-18/predict")
    expect(page.locator("main")).to_contain_text("No pull at full throttle with volts, amps and rpm yet")


def test_other_windings_and_the_price_of_a_degree_stand_below(page):
    page.goto("/motors/VS-01/predict")
    other = page.get_by_role("region", name="The same motor with other windings")
    expect(other.locator("tbody tr")).to_have_count(4)
    timing = page.get_by_role("region", name="What comes out with the end bell turned")
    expect(timing.locator("tbody tr")).to_have_count(6)
    expect(page.get_by_text("No best for economy within 5°")).to_be_visible()
    expect(page.locator("figure", has_text="VS-03, amps over volts").locator(".curve-point")).to_have_count(1)
