"""A motor without a label: what was seen and measured of it, and what that tells."""

from playwright.sync_api import expect


def seen(page, **typed):
    page.goto("/identify")
    for name, text in typed.items():
        if name == "kind":
            page.locator("#kind").select_option(text)
        else:
            page.locator(f"#{name}").fill(text)
    page.get_by_role("button", name="What does that tell?").click()


def test_its_like_on_the_rack_is_named_and_its_facts_are_handed_to_taking_in(page):
    page.goto("/motors/new")
    page.get_by_role("link", name="No label? What is this motor?").click()
    expect(page.locator("h1")).to_have_text("Say what you can see and measure.")
    seen(page, kind="inrunner", mass_g="178", slots="12", poles="4", kv="3430", ohm="16")
    expect(page.locator("h1")).to_have_text("It could be a Skerry 36.")
    expect(page.locator("main")).to_contain_text("same KV, mass, slots, poles")
    expect(page.locator("main")).to_contain_text("Its motor constant is 22.0 mN·m/√W")
    expect(page.locator("main")).to_contain_text("by mass against its like on the rack: as its mass promises.")
    page.get_by_role("link", name="Take it in with that").click()
    expect(page.get_by_label("KV by the drill, its first reading")).to_have_value("3430")
    expect(page.get_by_label("label KV")).to_have_value("")
    expect(page.locator("#slots")).to_have_value("12")
    expect(page.get_by_label("poles known by")).to_have_value("counted")


def test_a_size_name_is_read_both_ways_and_what_would_tell_more_is_said_in_its_order(page):
    seen(page, size="2212", can_mm="27.8")
    expect(page.locator("h1")).to_have_text("2212 is the size of its stator.")
    expect(page.locator("figcaption", has_text="of the stator: 22 mm across, 12 mm long")).to_contain_text("fits")
    expect(page.locator("figcaption", has_text="of the can: 22 mm across")).to_contain_text("does not fit")
    expect(page.locator("ol li").first).to_have_text("Turn it with the drill and read two leads: KV tells the winding.")


def test_what_is_typed_is_drawn_and_answered_without_a_button(page):
    page.goto("/identify")
    expect(page.get_by_role("img", name="unknown number of slots, unknown number of poles")).to_be_visible()
    page.locator("#kind").select_option("outrunner")
    page.locator("#slots").press_sequentially("12")
    expect(page.locator("h1")).to_have_text("So far: outrunner, 12 slots.")
    page.locator("#poles").press_sequentially("13")
    expect(page.locator("#wrong-poles")).to_contain_text("they come in pairs")
    page.locator("#poles").fill("14")
    expect(page.get_by_role("img", name="outrunner seen along its shaft, 12 slots, 14 poles")).to_be_visible()
    expect(page.locator("#wrong-poles")).to_be_empty()
    assert "poles=14" in page.url


def test_what_cannot_be_is_said(page):
    seen(page, slots="12", poles="6.5", kv="fast")
    expect(page.locator("#wrong-poles")).to_contain_text("a whole number")
    expect(page.locator("#wrong-kv")).to_contain_text("is not a number")
    seen(page, slots="12", poles="12", mass_g="178", kv="3430", ohm="60", kind="inrunner")
    expect(page.locator("main")).to_contain_text(
        "12 slots with 12 poles cannot be: each pole pair meets its teeth in 2 positions"
    )
    expect(page.locator("main")).to_contain_text("So weak for its mass")


def test_the_example_says_what_it_tells(page):
    page.goto("/identify")
    page.get_by_role("link", name="An example").click()
    expect(page.locator("#can_mm")).to_have_value("27.9 mm")
    expect(page.locator("main")).to_contain_text("of the stator: 22 mm across, 12 mm long: fits what was measured")
    expect(page.locator(".wrong:not(:empty)")).to_have_count(0)
