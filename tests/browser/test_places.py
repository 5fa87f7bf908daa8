"""The way round: the bar of places, find, and the rack together by what one asks for."""

import re

import pytest
from playwright.sync_api import expect

from waldhorn.web.common.places import MORE, PLACES


@pytest.mark.long
@pytest.mark.parametrize("place", [*PLACES, *MORE], ids=lambda p: p.name)
def test_g_and_a_letter_lead_to_each_place(page, place):
    page.goto("/motors/VS-11")
    page.keyboard.press("g")
    expect(page.locator(".places kbd").first).to_be_visible()
    page.keyboard.press(place.key)
    expect(page).to_have_url(re.compile(re.escape(place.url) + "$"))
    marked = page.locator(".place[aria-current=page]")
    expect(marked).to_have_count(1)
    expect(marked).to_contain_text(place.name if place in PLACES else "More")


def test_g_and_another_letter_is_nothing_and_a_letter_alone_is_itself(page):
    page.goto("/")
    page.keyboard.press("g")
    page.keyboard.press("q")
    page.keyboard.press("v")
    expect(page).to_have_url(re.compile(r"by=machine$"))
    expect(page.locator(".rack-group").first).to_have_text("Auk")


def test_the_letters_under_more_are_shown_and_escape_shuts_it(page):
    page.goto("/rigs")
    page.keyboard.press("g")
    page.keyboard.press("o")
    expect(page.locator("#more")).to_be_visible()
    expect(page.locator(".more-place kbd")).to_have_text([p.key for p in MORE])
    page.keyboard.press("Escape")
    expect(page.locator("#more")).to_be_hidden()
    expect(page).to_have_url(re.compile("/rigs$"))
    page.keyboard.press("Escape")
    expect(page.locator("#rack")).to_be_visible()


def test_in_the_hand_the_places_lie_under_the_thumb(phone):
    for path in ("/", "/motors/VS-11", "/compare", "/help"):
        phone.goto(path)
        box = phone.locator(".places").bounding_box()
        assert box["y"] + box["height"] == phone.viewport_size["height"], path
        assert all(link.bounding_box()["height"] >= 44 for link in phone.locator(".place").all())
    phone.get_by_role("button", name="More").tap()
    phone.get_by_role("link", name="Settings").tap()
    expect(phone.locator(".place[aria-current=page]")).to_contain_text("More")


def test_in_the_hand_the_section_one_is_in_is_in_sight(phone):
    phone.goto("/motors/VS-11#hand-over")
    expect(phone.locator("#hand-over")).to_be_visible()
    box = phone.locator(".tab[aria-current]").bounding_box()
    assert box["x"] >= 0
    assert box["x"] + box["width"] <= phone.viewport_size["width"]


def test_what_is_found_is_walked_with_the_arrows_and_opened_by_enter(page):
    page.goto("/rigs")
    page.keyboard.press("/")
    page.keyboard.type("marten")
    expect(page.locator("[data-found]").first).to_be_visible()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    second = page.locator("[data-found]").nth(1)
    expect(second).to_be_focused()
    href = second.get_attribute("href")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(f"{href}$"))


def test_enter_before_the_answer_waits_for_it(page):
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("vs-07 kv")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/motors/VS-07#strip-kv$"))
    expect(page.locator("#strip-kv")).to_be_visible()
    expect(page.locator(".tab[aria-current]")).to_have_text("Over time")


def test_escape_and_leaving_shut_what_was_found(page):
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("vs-")
    expect(page.locator("[data-found]").first).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.locator("[data-found]")).to_have_count(0)
    expect(page.locator("#find")).to_have_value("")
    page.keyboard.press("/")
    page.keyboard.type("vs-")
    expect(page.locator("[data-found]").first).to_be_visible()
    page.locator("h1").click(position={"x": 5, "y": 5})
    expect(page.locator("[data-found]")).to_have_count(0)
    expect(page).to_have_url(re.compile("/$"))


def test_a_thing_that_wants_a_motor_asks_which_by_keyboard_alone(page):
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("passport")
    expect(page.locator("[data-found]").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.locator("h1")).to_have_text("Print its passport: of which motor?")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/paper/passport$"))


def test_the_sections_of_a_motor_are_one_at_a_time_and_go_back(page):
    page.goto("/motors/VS-11")
    expect(page.locator("#now")).to_be_visible()
    expect(page.locator("#why")).to_be_hidden()
    page.keyboard.press("w")
    expect(page.locator("#why")).to_be_visible()
    expect(page.locator("#now")).to_be_hidden()
    expect(page.locator("h1")).to_be_in_viewport()
    row = page.locator(".grid-of-signs tr", has_text="no-load current")
    expect(row.get_by_role("img", name="up much")).to_have_count(2)
    page.go_back()
    expect(page.locator("#now")).to_be_visible()
    expect(page.locator(".tab[aria-current]")).to_have_text("Now")


def test_more_motors_come_as_one_scrolls(page, demo_store):
    from waldhorn.core.base.history import Motor
    from waldhorn.store import motors

    with demo_store.writing() as session:
        motors.add(session, [Motor(f"ZZ-{i:03}", "Skerry 36") for i in range(60)])
    page.goto("/?find=zz-&by=model")
    expect(page.locator("[data-hook]")).to_have_count(40)
    page.locator("#following").scroll_into_view_if_needed()
    expect(page.locator("[data-hook]")).to_have_count(60)
    expect(page.locator(".rack-group")).to_have_count(1)
