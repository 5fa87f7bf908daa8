"""Motors under load in the browser: the sheet, its charts by one key, a machine, files, and two side by side."""

import csv
import io
import re
from xml.etree import ElementTree

from playwright.sync_api import expect


def test_one_motor_says_what_it_makes_and_its_charts_change_by_one_key(page):
    page.goto("/motors/VS-20")
    page.keyboard.press("l")
    expect(page.locator("h1")).to_contain_text("VS-20: ")
    expect(page.locator("h1")).to_contain_text("g/W on 9 x 4.5 with 4S")
    chart = page.get_by_role("img", name="thrust over watts")
    expect(chart.locator(".loads-dot")).to_have_count(16)
    expect(chart).to_contain_text("4 g/W")
    seen = []
    for _ in range(6):
        seen.append(page.locator(".loads-chart").get_attribute("aria-label"))
        before = page.url
        page.keyboard.press("v")
        page.wait_for_url(lambda url, before=before: url != before)
    assert len(set(seen)) == 6
    assert page.locator(".loads-chart").get_attribute("aria-label") == seen[0]


def test_a_machine_is_asked_about_and_nonsense_is_answered_beside_its_field(page):
    page.goto("/motors/VS-20/loads")
    page.get_by_label("machine, g").fill("1400")
    page.get_by_label("pack, Ah").fill("2.2")
    page.get_by_label("pack, V").fill("11.1")
    page.get_by_role("button", name="In a machine").click()
    expect(page.locator("main")).to_contain_text("5.0 to 1.")
    expect(page.locator("main")).to_contain_text("min with a fifth of the pack kept back")
    page.get_by_label("machine, g").fill("heavy")
    page.get_by_role("button", name="In a machine").click()
    expect(page.locator("#wrong-mass")).to_contain_text("is not a number")


def test_two_on_one_propeller_are_answered_first_and_come_out_as_table_and_picture(page, phone):
    page.goto("/compare?tags=VS-20,VS-28")
    expect(page.locator("h1")).to_contain_text("On 9 x 4.5 with 4S VS-20 makes ")
    expect(page.locator("table").first).to_contain_text("9 x 4.5")
    answer = page.request.get(page.get_by_role("link", name="As a table (CSV)").get_attribute("href"))
    rows = list(csv.DictReader(io.StringIO(answer.text())))
    assert {r["motor"] for r in rows} == {"VS-20", "VS-28"}
    assert all(float(r["g_per_w"]) > 0 for r in rows)
    picture = page.request.get(page.get_by_role("link", name="The picture (SVG)").get_attribute("href"))
    assert picture.headers["content-type"] == "image/svg+xml"
    drawn = ElementTree.fromstring(picture.text())
    assert len(list(drawn.iter("{http://www.w3.org/2000/svg}circle"))) == 16
    phone.goto("/compare?tags=VS-20,VS-28")
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth")


def test_boats_without_a_thrust_stand_compare_by_speed_and_amps(page):
    page.goto("/compare?tags=VS-01,VS-03")
    expect(page.locator("h1")).to_contain_text("rpm faster than")
    expect(page.locator("main")).to_contain_text("Without load: ")
    # The last row of VS-01 was read on a pack half empty: what is compared is named.
    line = page.locator("tr", has_text="38 x 52")
    expect(line).to_contain_text(re.compile(r"−\d+ rpm\s+at like volts: \d+ rpm and \d+ rpm"))


def test_a_motor_without_a_row_shows_the_way_to_one(page):
    page.goto("/motors/VS-30/loads")
    expect(page.locator("h1")).to_have_text("No load row of VS-30 yet.")
    page.get_by_role("button", name="Type in load rows").click()
    page.wait_for_url("**/checks/**")
    assert page.request.get("/loads.csv?tags=XX").status == 404
    assert page.request.get("/loads.svg?tags=VS-30").status == 404


def test_propellers_get_their_names_by_keyboard_alone(page):
    page.goto("/")
    page.keyboard.press("g")
    page.keyboard.press("b")
    expect(page.locator("h1")).to_contain_text("each by one name")
    page.get_by_role("link", name="name 8 x 4.5").press("Enter")
    expect(page.get_by_label("name", exact=True)).to_be_focused()
    nickname = page.get_by_label("nickname").first
    page.get_by_label("blades").first.fill("many")
    nickname.fill("otter")
    nickname.press("Enter")
    expect(page.locator("#wrong-blades")).to_contain_text("is not a number")
    expect(nickname).to_have_value("otter")
    page.get_by_label("blades").first.fill("2")
    nickname.press("Enter")
    expect(page.locator("tr", has=page.get_by_role("link", name="correct 8 x 4.5"))).to_contain_text("otter")
    page.keyboard.press("u")
    expect(page.get_by_role("link", name="name 8 x 4.5")).to_be_visible()


def test_what_was_on_the_shaft_the_last_time_is_one_key_away(page):
    page.goto("/motors/VS-20")
    page.keyboard.press("c")
    page.wait_for_url("**/checks/*")
    page.goto(page.url.split("?")[0] + "?step=load")
    expect(page.get_by_label("propeller or wheel")).to_be_focused()
    page.keyboard.press("=")
    expect(page.get_by_label("propeller or wheel")).to_have_value(re.compile("x"))
    expect(page.get_by_label("volts under load")).to_be_focused()
