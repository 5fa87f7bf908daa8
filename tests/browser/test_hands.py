"""What a hand does by mistake or in a hurry: one rule for Enter, what a key has just done, and its undo."""

import re
import sqlite3
from contextlib import closing
from datetime import datetime, timedelta

import pytest
from playwright.sync_api import expect

from typing_keys import bench_of


@pytest.fixture
def still(own_page):
    """A page whose clock stands still until it is told to go on: two seconds pass quickly on a busy machine."""
    own_page.clock.install()
    own_page.clock.pause_at(datetime.now() + timedelta(seconds=1))
    return own_page


def test_what_a_key_has_done_is_said_with_its_undo_and_goes_away(still):
    page = still
    keys = bench_of(page, "VS-01")
    told = page.locator("#did")
    expect(told).to_contain_text("Check opened.")
    expect(told).to_be_visible()
    page.clock.run_for(2_100)
    expect(told).to_be_hidden()
    page.get_by_role("button", name="Go on").click()
    keys.at("look")
    expect(told).to_contain_text("Rig and warmth noted.")
    told.get_by_role("button", name="undo").click()
    keys.at("setup")
    expect(told).to_contain_text("Undone: rig and warmth noted.")
    expect(page.locator("#did-undo")).to_be_hidden()


def test_a_check_opened_by_a_letter_meant_for_a_field_is_closed_at_once(still):
    page = still
    page.goto("/motors/VS-12")
    page.keyboard.press("c")
    expect(page.locator("#bench")).to_be_visible()
    page.locator("#did").get_by_role("button", name="undo").click()
    expect(page).to_have_url(re.compile("/motors/VS-12"))
    expect(page.locator("#did")).to_contain_text("Undone: check opened.")
    expect(page.get_by_role("button", name="Check it")).to_be_visible()


def test_hanging_back_by_mistake_is_undone_from_the_rack(still):
    page = still
    bench_of(page, "VS-07")
    page.goto(f"{page.url.split('?')[0]}?step=answer")
    page.get_by_role("button", name="Hang it back unsigned").click()
    expect(page.locator("#did")).to_contain_text("Hung back unsigned.")
    page.locator("#did").get_by_role("button", name="undo").click()
    expect(page.get_by_role("button", name="Back to the bench")).to_be_visible()


def test_what_is_said_stays_while_a_hand_is_on_it(still):
    page = still
    bench_of(page, "VS-01")
    told = page.locator("#did")
    told.hover()
    page.clock.run_for(5_000)
    expect(told).to_be_visible()
    page.reload()
    expect(told).to_be_visible()
    page.mouse.move(5, 5)
    page.clock.run_for(2_100)
    expect(told).to_be_hidden()


@pytest.mark.parametrize(
    ("path", "first", "then"), [("/motors/new", "tag", "model"), ("/machines/camera%20drone", None, None)]
)
def test_enter_goes_on_and_with_ctrl_it_takes(page, path, first, then):
    page.goto(path)
    if first:
        page.locator(f"#{first}").fill("VS-31")
        page.keyboard.press("Enter")
        expect(page.locator(f"#{then}")).to_be_focused()
    else:
        fields = page.locator("[id^=shakes-]")
        fields.nth(0).fill("1")
        fields.nth(0).press("Enter")
        expect(fields.nth(1)).to_be_focused()
        fields.nth(1).fill("4")
    page.keyboard.press("Control+Enter")
    expect(page).not_to_have_url(re.compile(path + "$"))


def test_a_screw_too_long_closes_the_power_from_the_keyboard(page):
    bench_of(page, "VS-12")
    page.get_by_role("button", name="Go on").click()
    page.get_by_text("Do the screws reach the windings?").click()
    page.locator("#screw_mm").click()
    for length in ("8", "3", "4"):
        page.keyboard.type(length)
        page.keyboard.press("Enter" if length != "4" else "Control+Enter")
    expect(page.locator(".is-retire").first).to_contain_text("Screws found bad")


def test_only_what_is_known_of_a_motor_is_drawn(page):
    page.goto("/motors/new")
    sketch = page.locator("#sketch")
    expect(sketch).to_contain_text("? poles")
    expect(sketch).to_contain_text("? slots")
    expect(sketch.locator(".d-magnet")).to_have_count(0)
    page.get_by_text("Everything else").click()
    page.locator("#poles").fill("6")
    expect(sketch.locator(".d-magnet")).to_have_count(6)
    expect(sketch).not_to_contain_text("? poles")
    bench_of(page, "VS-01")
    expect(page.locator(".d-lamp")).to_have_count(0)


def test_a_machine_from_above_shakes_where_its_motor_sits(page):
    page.goto("/machines/camera%20drone")
    above = page.locator(".from-above")
    at = {tag: above.locator("text", has_text=tag).bounding_box() for tag in ("VS-20", "VS-21", "VS-22", "VS-23")}
    assert at["VS-20"]["x"] == pytest.approx(at["VS-21"]["x"], abs=2)  # both left, one behind the other
    assert at["VS-20"]["y"] < at["VS-21"]["y"]
    assert at["VS-23"]["x"] > at["VS-20"]["x"]
    for field, shakes in zip(page.locator("[id^=shakes-]").all(), ("0", "1", "1", "5"), strict=True):
        field.fill(shakes)
    expect(above.locator(".shakes-5")).to_have_count(1)
    expect(above.locator(".above-worst")).to_have_count(1)


@pytest.mark.long
def test_a_rotor_faster_than_rated_is_refused_live_until_somebody_says_why(page):
    page.goto("/motors/PB-1/facts")
    page.locator("#rated_rpm").fill("20000")
    page.keyboard.press("Control+Enter")
    page.wait_for_url(re.compile("/motors/PB-1$"))
    keys = bench_of(page, "PB-1")
    page.get_by_role("button", name="Go on").click()
    keys.at("look")
    page.goto(f"{page.url.split('?')[0]}/live")
    expect(page.get_by_text(re.compile("above its rated 20000 rpm"))).to_be_visible()
    keys.press("y")
    expect(page.get_by_role("button", name="Off, clamped")).to_have_count(0)
    keys.press("i")
    expect(page.locator("#live-words")).to_have_text(re.compile("is ready"))
    keys.press("1")
    expect(page.locator("#live-words")).to_contain_text("15 % captured")
    keys.press("5")
    expect(page.locator("#live-wrong")).to_contain_text("above its rated 20000 rpm")
    page.get_by_text("It may turn faster").click()
    page.get_by_role("button", name="Overrule").click()
    expect(page.locator("#wrong-overrule")).to_contain_text("say why")
    page.locator("#overrule").fill("the sleeve is new")
    page.get_by_role("button", name="Overrule").click()
    expect(page.get_by_text("It may turn faster")).to_have_count(0)
    page.wait_for_load_state()
    keys.press("5")
    expect(page.locator("#live-words")).to_contain_text("100 % captured")


@pytest.mark.long
def test_a_store_that_is_busy_for_a_moment_loses_no_run(page, demo_store):
    keys = bench_of(page, "VS-07")
    keys.at("pull", "volts")
    with closing(sqlite3.connect(demo_store.engine.url.database, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        for name, text in (("volts", "7.4"), ("amps", "2.7"), ("rpm", "25150"), ("p2p", "50")):
            page.locator(f"#{name}").fill(text)
        page.locator("#p2p").press("Enter")
        expect(page.locator("#busy")).to_contain_text("Somebody else is writing")
        expect(page.locator("#rpm")).to_have_value("25150")
    expect(page.locator(".bead", has_text="Full throttle")).to_contain_text("2 runs")
    expect(page.locator("#busy")).to_be_hidden()
