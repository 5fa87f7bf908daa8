"""Limits with their what-if, prices, trends, the answer of a past day, and who was right."""

import re

import pytest
from playwright.sync_api import expect

from typing_keys import bench_of


@pytest.mark.long
def test_a_limit_shows_what_it_would_change_before_it_is_saved_and_is_versioned(page):
    page.goto("/limits?class=one-design")
    for name in ("noise_avg", "no_load_current", "friction", "speed_ripple"):
        page.locator(f"[name=act-{name}]").fill("900")
    expect(page.locator("#what-if")).to_contain_text(re.compile("VS-11.*repair to"))
    page.goto("/motors/VS-11")
    expect(page.locator("h1")).to_have_text("Repair: replace the bearings.")
    page.goto("/limits?class=one-design")
    for name in ("noise_avg", "no_load_current", "friction", "speed_ripple"):
        page.locator(f"[name=act-{name}]").fill("900")
    page.locator("#signed_by").fill("Oda")
    page.get_by_role("button", name="Save as a new version").click()
    expect(page.locator("td", has_text="wander 0.5 / 900")).to_be_visible()
    page.goto("/motors/VS-11")
    expect(page.locator("h1")).not_to_have_text("Repair: replace the bearings.")


def test_limits_that_cannot_be_are_said_and_kept(page):
    page.goto("/limits?class=one-design")
    page.locator("[name=watch-kv]").fill("9")
    expect(page.locator("#what-if")).to_contain_text("watch 9 must lie below act 6")
    page.get_by_role("button", name="Save as a new version").click()
    expect(page.locator("#wrong-watch-kv")).to_contain_text("must lie below")
    expect(page.locator("[name=watch-kv]")).to_have_value("9")


@pytest.mark.long
def test_an_owners_prices_change_the_answer(page):
    page.goto("/limits")
    page.locator("#owner").fill("Jorun")
    for name, price in (("new", "1"), ("repair", "3"), ("failure", "1,5")):
        page.locator(f"#{name}").fill(price)
    page.get_by_role("button", name="Keep these prices").click()
    expect(page.locator("td", has_text="1 : 3 : 1.5, 20 % with a fault")).to_be_visible()
    page.goto("/motors/VS-11")
    expect(page.locator("h1")).to_contain_text("Retire: not worth the repair")


def test_a_creep_is_drawn_and_said(page):
    page.goto("/motors/VS-11#over-time")
    expect(page.locator(".c-fan").first).to_be_attached()
    expect(page.get_by_text(re.compile(r"No-load current creeps \+\d\.\d\d % a run"))).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_text("speaks for bearings").first).to_be_visible()


def test_the_answer_of_a_past_day_knows_only_that_day(page):
    page.goto("/motors/VS-19")
    expect(page.locator("h1")).to_contain_text("Retire")
    page.keyboard.press("w")
    day = page.evaluate("new Date(Date.now() - 90 * 864e5).toISOString().slice(0, 10)")
    page.locator("#as_of").fill(day)
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_have_text("Keep.")
    expect(page.get_by_text("As it was judged on")).to_be_visible()
    page.locator("#as_of").fill("some day")
    page.keyboard.press("Enter")
    expect(page.get_by_text("is not a day: write it like")).to_be_visible()


@pytest.mark.long
def test_who_was_right_is_counted_once_a_later_check_tells(page):
    keys = bench_of(page, "VS-11")
    page.get_by_role("button", name="Go on").click()
    keys.at("look")
    page.goto(f"{page.url.split('?')[0]}?step=answer")
    page.get_by_label("keep").check()
    page.locator("#reason").fill("runs well enough")
    page.locator("#signed_by").fill("Pell")
    page.keyboard.press("Enter")
    expect(page.locator("#rack")).to_be_visible()
    page.goto("/limits")
    expect(page.get_by_text("11 signed, 5 differed.")).to_be_visible()
    expect(page.get_by_text("3 still open")).to_be_visible()


def test_what_would_turn_an_answer_is_shown_on_request(page):
    page.goto("/motors/VS-11")
    expect(page.get_by_text("What would turn it")).to_have_count(0)
    page.keyboard.press("w")
    page.locator("#turning").scroll_into_view_if_needed()
    expect(page.get_by_text("What would turn it")).to_be_visible()


def test_motor_or_controller_is_told_by_swapping(page):
    bench_of(page, "VS-15")
    page.goto(f"{page.url.split('?')[0]}?step=swap")
    page.locator("#own_machine").select_option("poorly")
    page.locator("#own_bench").select_option("well")
    expect(page.locator("#meaning")).to_contain_text("Most likely the machine's controller")
    page.keyboard.press("Control+Enter")
    page.goto(f"{page.url.split('?')[0]}?step=swap")
    expect(page.locator("#own_machine")).to_have_value("poorly")
    expect(page.locator("#known_machine")).to_have_value("not tried")


@pytest.mark.long
def test_the_share_of_motors_with_a_fault_is_its_owners_to_set(page):
    page.goto("/limits")
    page.locator("#owner").fill("Jorun")
    for name, price in (("new", "1"), ("repair", "0,3"), ("failure", "1,5"), ("faulty", "200")):
        page.locator(f"#{name}").fill(price)
    page.get_by_role("button", name="Keep these prices").click()
    expect(page.locator("#wrong-faulty")).to_be_visible()
    page.locator("#faulty").fill("30")
    page.get_by_role("button", name="Keep these prices").click()
    expect(page.locator("td", has_text="1 : 0.3 : 1.5, 30 % with a fault")).to_be_visible()


def test_what_it_is_worth_used_is_told_on_its_page(page):
    page.goto("/motors/VS-11")
    page.locator(".tab", has_text="Worth").click()
    told = page.locator("#worth")
    expect(told).to_contain_text(re.compile(r"About \d\d % of new: \d\d"))
    expect(told).to_contain_text("something is to be mended (worn bearings), at 30 % of new.")
    expect(told).to_contain_text("what a buyer pays is between the two of you")
