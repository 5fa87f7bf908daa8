"""A check from the motor in the hand to the signed answer, as a person does it."""

import re

from playwright.sync_api import Page, expect


def bench_of(page: Page, tag: str) -> None:
    page.goto(f"/motors/{tag}")
    page.keyboard.press("c")
    expect(page.locator("#bench")).to_be_visible()


def pull(page: Page, volts: str, amps: str, rpm: str) -> None:
    for field, text in (("volts", volts), ("amps", amps), ("rpm", rpm)):
        expect(page.locator(f"#{field}")).to_be_focused()
        page.keyboard.type(text)
        page.keyboard.press("Enter")


def test_a_whole_check_by_keyboard_alone(page):
    page.goto("/")
    page.keyboard.press("/")
    page.keyboard.type("heron")
    expect(page.locator("[data-hook]")).to_have_count(1)
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/motors/VS-01$"))
    page.keyboard.press("c")
    expect(page.locator("#motor_c")).to_be_focused()
    page.keyboard.type("25")
    page.keyboard.press("Enter")
    page.keyboard.type("22")
    page.keyboard.press("Enter")
    expect(page.locator(".instruction")).to_have_text("Hold full throttle and read all three.")
    pull(page, "7,40", "2.25", "25 150")
    expect(page.locator(".instruction")).to_have_text("Hold full throttle and read all three.")
    expect(page.locator("#volts")).to_have_value("")
    pull(page, "7.4", "2.27", "25.16k")
    expect(page.locator(".instruction")).to_have_text("Sign it and hang it back.")
    expect(page.locator("#answer")).to_contain_text("Keep.")
    page.locator("#signed_by").focus()
    page.keyboard.type("Ines")
    page.keyboard.press("Enter")
    expect(page.locator("#rack")).to_contain_text("VS-01 hangs back on the rack.")
    page.goto("/motors/VS-01")
    page.get_by_text("Signed (1)").click()
    expect(page.get_by_text("keep, Ines")).to_be_visible()


def test_meaning_appears_while_typing_and_nothing_is_stored(page):
    bench_of(page, "VS-07")
    page.keyboard.type("7.38")
    page.keyboard.press("Enter")
    page.keyboard.type("2.71")
    expect(page.locator("#meaning")).to_contain_text("2.71")
    page.keyboard.press("Enter")
    page.keyboard.type("25 320")
    row = page.locator("#meaning tr.typed")
    expect(row).to_contain_text("3\u2009431")
    expect(page.locator("#meaning")).to_contain_text("more than in")
    expect(page.locator("#answer")).to_contain_text("noise at step one")
    expect(page.locator(".bead.now .bead-said")).to_have_text("1 run")


def test_a_reload_or_another_browser_in_the_middle_loses_nothing(page, browser, address):
    bench_of(page, "VS-07")
    page.keyboard.type("7.38")
    page.keyboard.press("Enter")
    page.keyboard.type("2.71")
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


def test_discordant_runs_ask_for_a_third_and_the_odd_one_stands_aside_until_undone(page):
    bench_of(page, "VS-07")
    pull(page, "7.38", "2.71", "27 900")
    expect(page.locator("#meaning")).to_contain_text("Take a third.")
    pull(page, "7.4", "2.65", "25 400")
    expect(page.locator("#meaning tr.aside")).to_have_count(1)
    expect(page.locator("#meaning tr.why")).to_contain_text("odd one out: KV")
    page.locator("#main, #bench").first.click(position={"x": 100, "y": 400})
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


def test_overruling_asks_why_and_both_answers_stand(page):
    bench_of(page, "VS-01")
    page.get_by_role("button", name="Go on").click()
    for _ in range(2):
        pull(page, "7.4", "2.26", "25 160")
    page.get_by_label("retire").check()
    page.get_by_label("signed").fill("Oda")
    page.keyboard.press("Enter")
    expect(page.locator("#wrong-reason")).to_contain_text("Waldhorn says keep, you say retire")
    expect(page.locator("#signed_by")).to_have_value("Oda")
    page.locator("#reason").fill("rattles when shaken")
    page.keyboard.press("Enter")
    expect(page.locator('a[href="/motors/VS-01"]')).to_contain_text("Retire, says Oda.")
    expect(page.locator('a[href="/motors/VS-01"]')).to_contain_text("Waldhorn: Keep.")


def test_a_wrong_pole_setting_is_asked_about_first(page):
    page.goto("/motors/VS-21")
    expect(page.locator("h1")).to_have_text("Unproven: pole setting?")
    expect(page.get_by_text("With 14 poles instead of 12")).to_be_visible()


def test_a_server_that_went_away_is_said_and_typing_goes_on(page):
    bench_of(page, "VS-07")
    page.route("**/draft", lambda route: route.abort())
    page.locator("#volts").fill("7.4")
    expect(page.get_by_role("alert")).to_be_visible()
    page.unroute("**/draft")
    page.locator("#amps").fill("2.6")
    expect(page.get_by_role("alert")).to_be_hidden()
    expect(page.locator("#volts")).to_have_value("7.4")


def test_a_check_in_the_hand_by_touch(phone):
    phone.goto("/motors/VS-07")
    phone.get_by_role("button", name="Back to the bench").tap()
    for name, text in (("volts", "7.4"), ("amps", "2.7"), ("rpm", "25200")):
        phone.locator(f"#{name}").tap()
        phone.locator(f"#{name}").type(text)
    number, instruction = phone.locator("#volts").bounding_box(), phone.locator(".instruction").bounding_box()
    assert number["y"] < 844 / 2
    assert instruction["y"] < number["y"] < phone.locator("#drawing").bounding_box()["y"]
    phone.get_by_role("button", name="Take run 2").tap()
    expect(phone.locator(".instruction")).to_have_text(re.compile("Sign it|Hold full"))
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth")
