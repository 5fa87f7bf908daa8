"""Every step of the run on its own: by keyboard alone at a desk, by touch in the hand."""

import io
import math
import re
from collections.abc import Callable

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from typing_keys import Keys, bench_of
from waldhorn.store import cached_verdicts
from waldhorn.store.engine import Store

TRACE = "s, rpm\n" + "\n".join(f"{t / 10:.1f}, {1000 + 400 * t}" for t in range(11))
# step: what is typed into which field, what the page then says
STEPS = {
    "gap": ({"gaps": "0.62 0.60 0.50 0.52"}, "Opens towards 34°."),
    "gap_turned": ({"gaps": "0.62 0.60 0.50 0.52"}, "Gauge it as it stands first"),
    "detent": ({"peaks": "18.2 18.6 18.1 18.9 18.4 18.3"}, "50 % of a turn covered."),
    "sensors": ({"states": "101 100 110 111 101 100"}, "A is stuck high"),
    "resistance": ({"ab": "16.2", "bc": "16.2", "ca": "15.4", "winding_c": "25"}, "3.35 %"),
    "poles": ({"frequency_hz": "33.1 33.4", "shaft_rpm": "1000 1002"}, "4 poles."),
    "first_spin": ({"rpm": "3150"}, ""),
    "timing": ({"a": "27.8", "b": "32.9", "c": "28.1"}, "Phases 5.1"),
    "noise": ({"background": "60", "lowest": "64", "full": "88.9"}, "louder than in"),
    "back_emf": ({"rpm": "1000", "a": "0.3", "b": "0.292", "c": "0.292"}, "Phase C stands 5.4 % below the others"),
    "coast_down": ({"rpm": "25000", "seconds": "1.4"}, "The first of its kind"),
    "heat": ({"surface_c": "61"}, "past 60 °C: stop"),
    "set_timing": ({"setting": "24", "amps": "2.3", "target": "3"}, "Set 29°: current grows 5.0 % a degree"),
    "load": ({"what": "two-blade 42", "load_v": "7.1", "amps": "31", "watts": "240"}, "not to be believed"),
    "flywheel": ({"trace": TRACE, "inertia": "0.0001", "at_rpm": "3000"}, "torque"),
}


@pytest.fixture
def at(demo_store: Store) -> Callable[[Page, str], str]:
    """Goes to a step of the check of VS-07, which lies on the bench, and returns its address."""
    with demo_store.reading() as session:
        [check_id] = cached_verdicts.open_checks(session, None).values()

    def go(page: Page, step: str) -> str:
        page.goto(f"/checks/{check_id}?step={step}")
        expect(page.locator("#bench")).to_have_attribute("data-step", step)
        return f"/checks/{check_id}"

    return go


@pytest.mark.long
@pytest.mark.parametrize("step", STEPS)
def test_a_step_by_keyboard_alone(page, at, step):
    at(page, step)
    typed, said = STEPS[step]
    for field, text in typed.items():
        for _ in range(12):
            if page.evaluate("document.activeElement.id") == field:
                break
            page.keyboard.press("Tab")
        expect(page.locator(f"#{field}")).to_be_focused()
        page.keyboard.press("Control+a")
        page.keyboard.insert_text(text)
    expect(page.locator("#meaning")).to_contain_text(said)
    page.get_by_role("button", name=re.compile("Take")).focus()
    page.keyboard.press("Enter")
    expect(page.locator(f".bead.done[href='?step={step}']")).to_have_count(1)


@pytest.mark.long
@pytest.mark.parametrize("step", STEPS)
def test_a_step_by_touch_in_the_hand(phone, at, step):
    at(phone, step)
    typed, said = STEPS[step]
    for field, text in typed.items():
        phone.locator(f"#{field}").tap()
        phone.locator(f"#{field}").fill(text)
    expect(phone.locator("#meaning")).to_contain_text(said)
    assert phone.evaluate("document.documentElement.scrollWidth <= innerWidth")
    phone.get_by_role("button", name=re.compile("Take")).tap()
    expect(phone.locator(f".bead.done[href='?step={step}']")).to_have_count(1)


def test_a_propeller_row_takes_at_most_six_keys_beyond_the_digits_and_stays_in_view(page, at):
    at(page, "load")
    keys, rows = Keys(page), page.locator(".runs tbody tr")
    for number, (propeller, volts, amps, grams) in enumerate(
        (("8x4.5", "11.1", "12.3", "640"), ("9x4.5", "11.0", "14.8", "790")), 1
    ):
        before = keys.pressed
        keys.at("load", "what")
        keys.enter(propeller, volts, amps)
        keys.type(grams)
        keys.press("Control+Enter")
        expect(rows).to_have_count(number)
        assert keys.pressed - before <= 6
    expect(rows.nth(0)).to_contain_text("640")
    expect(rows.nth(1)).to_contain_text("790")
    ray = page.locator("#drawing").get_by_text("4 g/W", exact=True)
    slope = ray.evaluate("""({previousElementSibling: ray}) => {
        const [from, to] = [ray.getPointAtLength(0), ray.getPointAtLength(ray.getTotalLength())];
        return (from.y - to.y) / (to.x - from.x);
    }""")
    dot = page.locator("#drawing circle").first
    across, up = (float(dot.get_attribute(n)) for n in ("cx", "cy"))
    assert 4 * (104 - up) / (across - 44) / slope == pytest.approx(640 / (11.1 * 12.3), rel=0.01)


def test_a_bad_finding_closes_the_power_until_it_is_overruled_with_a_reason(page, at):
    at(page, "look")
    keys = Keys(page)
    page.locator("[name=magnets][value=ok]").focus()
    keys.press("b")
    expect(page.locator("#meaning")).to_contain_text("No power until mended: magnets.")
    keys.press("Enter")
    expect(page.locator("#bench")).to_have_attribute("data-step", "pull")
    expect(page.locator("#answer")).to_contain_text("No power before it is mended: magnets.")
    expect(page.get_by_text("no power until it is mended")).to_be_visible()
    expect(page.locator("#volts")).to_have_count(0)
    page.get_by_role("button", name="Overrule").click()
    expect(page.locator("#wrong-overrule")).to_contain_text("say why")
    page.locator("#overrule-magnets").fill("looked again with Oda, only dirt")
    page.locator("#overrule-magnets").press("Enter")
    expect(page.locator("#volts")).to_be_visible()


@pytest.mark.long
def test_a_mended_finding_opens_the_power_again(page, at):
    url = at(page, "look")
    page.locator("label:has([name=wrap][value=bad])").click()
    page.get_by_role("button", name="Go on").click()
    expect(page.locator("#answer")).to_contain_text("No power")
    for event, item in (("rotor_replaced", ""), ("mended", "wrap")):
        page.goto("/motors/VS-07")
        page.keyboard.press("e")
        page.get_by_label("what", exact=True).select_option(event)
        page.get_by_label("what was mended").select_option(item)
        with page.expect_response("**/events"):
            page.get_by_role("button", name="Log it").click()
        page.goto(f"{url}?step=pull")
        expect(page.locator("#bench")).to_have_attribute("data-step", "pull")
        expect(page.locator("#volts")).to_have_count(1 if item else 0)


def test_a_doubt_shortens_the_hold(page, at):
    at(page, "pull")
    expect(page.get_by_role("button", name="Hold 5 s")).to_be_visible()
    page.keyboard.press("t")
    expect(page.locator("[data-hold]")).to_contain_text("s left")


def test_the_lamps_are_tapped_and_the_drawing_follows(phone):
    phone.goto("/motors/VS-01")
    phone.get_by_role("button", name="Check it").tap()
    phone.wait_for_selector("#bench")
    phone.goto(f"{phone.url.split('?')[0]}?step=sensors")
    for state in ("101", "100", "110", "010", "011", "001"):
        phone.get_by_role("button", name=f"lamps {state}").tap()
    expect(phone.locator("#meaning")).to_contain_text("All six states, in order.")
    expect(phone.locator("#drawing .d-lamp-lit")).to_have_count(1)


def test_a_motor_without_sensors_never_sees_them(page):
    bench_of(page, "VS-20", "f")
    page.get_by_role("button", name="Go on").click()
    expect(page.locator("#bench")).to_have_attribute("data-step", "look")
    for name in ("Sensors", "Timing"):
        expect(page.locator(".bead", has_text=name)).to_have_count(0)


def test_a_peak_that_stands_apart_is_offered_and_set_aside(page, at):
    at(page, "detent")
    page.locator("#peaks").fill("18.2 18.6 18.1 18.9 29 18.3")
    expect(page.locator("#drawing .d-teeth-odd")).to_have_count(1)
    expect(page.locator("#meaning")).to_contain_text("Peak 5 (29.0 N·mm) stands apart")
    page.keyboard.press("Enter")
    page.get_by_role("link", name=re.compile("Detent")).first.click()
    with page.expect_response("**/outliers"):
        page.get_by_role("button", name="Set 1 peak aside").click()
    page.get_by_role("link", name=re.compile("Detent")).first.click()
    expect(page.locator("#meaning")).not_to_contain_text("stands apart")


def test_run_out_leans_the_rotor(page, at):
    at(page, "gap")
    page.locator("#gaps").fill("0.7 0.6 0.5 0.6")
    expect(page.locator("#drawing g[transform^='translate(']").first).to_have_attribute(
        "transform", re.compile(r"translate\(-?\d\S* [1-9]")
    )


def test_the_timing_is_set_in_three_pulls_and_written_down(page, at):
    at(page, "set_timing")
    amps = lambda setting: 2.0 * 2.718281828 ** (0.045 * (setting - 20))  # noqa: E731 -- the motor, in a line
    page.locator("#target").fill("3")
    page.locator("#setting").fill("20")
    for pulls in range(1, 5):
        setting = float(page.locator("#setting").input_value())
        page.locator("#amps").fill(f"{amps(setting):.2f}")
        with page.expect_response("**/steps/set_timing"):
            page.get_by_role("button", name="Take it").click()
        expect(page.locator("#meaning tbody tr")).to_have_count(pulls)
        if page.get_by_role("button", name="Write it down").count():
            break
    assert pulls in (3, 4)
    with page.expect_response("**/timing-event"):
        page.get_by_role("button", name="Write it down").click()
    page.goto("/motors/VS-07")
    page.keyboard.press("e")
    expect(page.locator("td", has_text="end bell set to 29°")).to_be_visible()


@pytest.mark.long
def test_cooling_says_a_time_of_day_that_survives_leaving_the_page(page, at):
    at(page, "heat")
    page.locator("#surface_c").fill("52")
    with page.expect_response("**/steps/heat"):
        page.get_by_role("button", name="Take it").click()
    page.wait_for_timeout(1100)
    page.goto(f"{page.url.split('?')[0]}?step=heat")
    page.locator("#surface_c").fill("51")
    with page.expect_response("**/steps/heat"):
        page.get_by_role("button", name="Take it").click()
    page.goto(f"{page.url.split('?')[0]}?step=heat")
    when = page.locator("[data-until]").get_attribute("data-until")
    expect(page.locator("[data-until]")).to_have_text(re.compile(r"^\d\d:\d\d, (in \d+:\d\d|now)$"))
    page.goto("/")
    page.go_back()
    assert page.locator("[data-until]").get_attribute("data-until") == when


def test_every_number_says_how_it_was_computed(page, at):
    at(page, "pull")
    page.keyboard.press("h")
    shown = page.locator(".figure[open]", has_text="KV as read")
    expect(shown).to_contain_text("KV = rpm / V")
    expect(shown).to_contain_text(re.compile(r"volts = 7\.\d+"))
    expect(shown).to_contain_text("Source: definition.")


def test_a_run_is_stopped_with_a_reason_and_a_step_skipped(page, at):
    at(page, "noise")
    page.keyboard.press("k")
    expect(page.locator(".bead.skipped")).to_have_count(1)
    page.get_by_text(re.compile("Quick check, ")).click()
    page.get_by_role("button", name="Stop the run").click()
    expect(page.locator("#wrong-stop")).to_contain_text("say why")
    page.locator("#stop-reason").fill("called to the heat")
    page.locator("#stop-reason").press("Enter")
    expect(page.locator("#bench")).to_have_attribute("data-step", "answer")


def test_a_picture_is_attached_without_its_metadata(page, at, demo_store):
    at(page, "look")
    exif = Image.Exif()
    exif[0x010E] = "where I live"
    picture = io.BytesIO()
    Image.new("RGB", (64, 48), "teal").save(picture, "JPEG", exif=exif)
    page.get_by_text("Pictures (0)").click()
    page.locator("input[type=file]").first.set_input_files(
        {"name": "shaft.jpg", "mimeType": "image/jpeg", "buffer": picture.getvalue()}
    )
    page.get_by_role("button", name="Attach").first.click()
    page.goto(f"{page.url.split('?')[0]}?step=look")
    expect(page.locator("#drawing image")).to_have_count(1)
    page.get_by_text("Pictures (1)").click()
    source = page.locator("img.picture").get_attribute("src")
    kept = page.request.get(source).body()
    with Image.open(io.BytesIO(kept)) as opened:
        assert (opened.format, opened.size) == ("WEBP", (64, 48))
    assert b"where I live" not in kept


@pytest.mark.long
def test_the_culprit_on_a_machine_is_named_beside_the_eyes_suspect(page):
    page.goto("/machines/camera drone")
    expect(page.locator(".big input")).to_have_count(4)
    keys = Keys(page)
    keys.enter("1", "1")
    page.get_by_label("the eye suspects").select_option("VS-20 front left")
    page.locator(".big input").nth(2).fill("4,5")
    page.locator(".big input").nth(3).fill("1.5")
    expect(page.locator("#ranking")).to_contain_text("shakes: it stands clear")
    expect(page.locator("#ranking")).to_contain_text("The eye suspected VS-20 front left, the hand says")
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_text("Kept in each motor's history.")).to_be_visible()


def test_a_recording_is_taken_from_a_file(page, at):
    at(page, "back_emf")
    turns = [i / 5000 * 1000 / 60 * 2 for i in range(5000)]
    phases = [[0.0168 * math.sin(2 * math.pi * (turn - k / 3)) for k in range(3)] for turn in turns]
    rows = (f"{i / 5000:.4f},{a - b:.6f},{b - c:.6f}" for i, (a, b, c) in enumerate(phases))
    recording = "\n".join(("seconds,ab,bc", *rows)).encode()
    page.locator("#divider").fill("10")
    page.get_by_label("from a file").set_input_files(
        files=[{"name": "drill.csv", "mimeType": "text/csv", "buffer": recording}]
    )
    expect(page.locator("#meaning")).to_contain_text("The drill turned at 1000 rpm")
    expect(page.locator("#meaning")).to_contain_text("Its 2 pole pairs give the same")
    page.get_by_role("button", name=re.compile("Take")).click()
    expect(page.locator(".bead.done[href='?step=back_emf']")).to_have_count(1)
