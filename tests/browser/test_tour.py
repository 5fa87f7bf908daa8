"""The first five minutes: the tour on the rack is followed, ticked and put away."""

import re

import pytest
from playwright.sync_api import expect

from waldhorn.store import motors
from waldhorn.web.screens.rack import routes


def done(page, count):
    page.goto("/")
    expect(page.locator(".tour-bead.done")).to_have_count(count)


@pytest.fixture
def pit_box(monkeypatch):
    """The demo's three motors, as if they lay clamped."""
    tour = routes._tour
    monkeypatch.setattr(routes, "_tour", lambda found, _: tour(found, ("PB-1", "PB-2", "PB-3")))


@pytest.mark.long
def test_the_tour_is_followed_from_bead_to_bead_and_put_away(own_page, pit_box):
    page = own_page
    done(page, 0)
    page.get_by_role("link", name=re.compile("^Open VS-")).click()
    page.keyboard.press("w")
    expect(page.locator("#why")).to_be_visible()
    done(page, 1)
    expect(page.locator(".tour-step:visible")).to_contain_text("To try, 2 of 6: Run one live.")
    page.get_by_role("link", name="Open PB-2").click()
    for key, leads_to in (("c", "**/checks/*"), ("Enter", "**"), ("l", "**/live")):
        page.keyboard.press(key)
        page.wait_for_url(leads_to)
    done(page, 2)
    page.get_by_role("link", name="PB-1 and PB-2").click()
    expect(page.locator("h1")).to_contain_text("PB-")
    done(page, 3)
    page.get_by_role("link", name="Bring one in").click()
    page.get_by_label("files: choose them").set_input_files(
        {"name": "a.csv", "mimeType": "text/csv", "buffer": b"motor,no_load_current\nZZ-1,2.5\n"}
    )
    page.get_by_role("button", name="Look at them").click()
    expect(page).to_have_url(re.compile("/bring-in/."))
    done(page, 4)
    page.get_by_role("link", name=re.compile("^The tag of")).click()
    expect(page.locator(".paper-tag")).to_be_visible()
    done(page, 5)
    page.get_by_role("link", name="Limits and prices").click()
    expect(page.get_by_text(re.compile(r"\d+ signed, \d+ differed"))).to_be_visible()
    done(page, 6)
    expect(page.locator(".tour-step:visible")).to_contain_text("That was the tour.")
    page.keyboard.press("t")
    expect(page.locator(".tour")).to_be_hidden()
    page.reload()
    expect(page.locator("[data-hook]").first).to_be_visible()
    expect(page.locator(".tour")).to_be_hidden()


def test_an_empty_rack_begins_with_ones_own_first_motor(own_page, demo_store):
    page = own_page
    with demo_store.writing() as session:
        motors.hide(session, list(motors.ids_by_tag(session).values()))
    page.goto("/")
    expect(page.locator(".tour-step:visible")).to_contain_text("Take in your first motor.")
    page.get_by_role("link", name="Take it in", exact=True).click()
    page.locator("#tag").fill("A-1")
    page.keyboard.press("Control+Enter")
    expect(page).to_have_url(re.compile("/motors/A-1$"))
    done(page, 1)
    expect(page.locator(".tour-step:visible")).to_contain_text("Check it.")
