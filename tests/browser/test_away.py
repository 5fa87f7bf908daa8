"""What is typed and taken is what is stored, once, under the name of who typed it: without Waldhorn, late, or left."""

import re

import pytest
from playwright.sync_api import expect

from screens import DESK
from waldhorn.pit.bench import checks, typed_not_taken
from waldhorn.pit.bench.context import load
from waldhorn.pit.bench.steps import STEPS
from waldhorn.store import drafts, motors, readings
from waldhorn.store.models import ChangeRow
from waldhorn.store.seats import Role
from waldhorn.web.common.pages import now

RUN = {"volts": "7.4", "amps": "2.3", "rpm": "25160"}
SOON_MS = 400  # longer than a draft waits


@pytest.fixture
def check(demo_store):
    """A check of VS-02 with its rig noted."""
    at = now()
    with demo_store.writing() as session:
        opened = checks.open_check(session, motors.find(session, "VS-02"), at, "full")
        rig = {"rig": "pier bench", "method": "loaded-supply"}
        checks.take_step(session, load(session, opened.id, at), STEPS["setup"], rig)
        return f"/checks/{opened.id}"


def typed(page, **fields):
    for name, value in fields.items():
        page.locator(f"#{name}").fill(value)


def take(page):
    page.keyboard.press("Control+Enter")


def runs(store, check):
    with store.reading() as session:
        return [r.value for r in readings.of_check(session, check.split("/")[-1]) if r.measure == "rpm"]


def draft_with(field):
    """The answer to a draft that holds a field, and not to one that was sent before it was typed."""
    return lambda answer: answer.url.endswith("/draft") and field in (answer.request.post_data or "")


def fail_drafts(page):
    page.route("**/draft", lambda route: route.fulfill(status=503, content_type="text/plain", body="busy"))


def test_a_draft_that_failed_does_not_become_the_next_run(page, check, demo_store):
    fail_drafts(page)
    page.goto(f"{check}?step=pull")
    typed(page, **RUN)
    page.wait_for_timeout(SOON_MS)
    take(page)
    expect(page.locator("#at-step")).to_contain_text("run 2")
    assert [page.locator(f"#{name}").input_value() for name in RUN] == ["", "", ""]
    page.reload()
    assert [page.locator(f"#{name}").input_value() for name in RUN] == ["", "", ""]
    assert runs(demo_store, check) == [25160.0]


@pytest.mark.long
def test_a_draft_that_arrives_after_the_taking_fills_no_field(page, check, demo_store):
    """Enter follows the last digit at once, and the page is loaded again while the taking travels."""
    page.goto(f"{check}?step=other")
    page.locator("#measure").select_option("gap")
    late = []
    page.route("**/draft", lambda route: (late.append(route.request.post_data), route.continue_()))
    page.locator("#value").fill("0.3")
    with page.expect_response(re.compile("steps/other$")):
        take(page)
    sent = late[0] if late else ""
    form = {n: v for n, _, v in (part.partition("=") for part in sent.split("&"))}
    with demo_store.writing() as session:
        change = session.query(ChangeRow).order_by(ChangeRow.id.desc()).first()
        [taken] = [d["_taken"] for _, d in drafts.of_check(session, check.split("/")[-1]).values() if "_taken" in d]
        assert checks.keep_draft(session, change.check_id, "other", {"value": "0.3"}, form.get("form_id", taken)) == {}
        ctx = load(session, change.check_id, now())
        assert checks.typed_so_far(session, ctx, STEPS["other"]) == {}
    page.goto(f"{check}?step=other")
    assert page.locator("#value").input_value() == ""


@pytest.mark.long
def test_the_newer_typing_wins_over_what_waldhorn_had_before(page, check):
    page.goto(f"{check}?step=pull")
    with page.expect_response("**/draft"):
        page.locator("#volts").fill("7.1")
    fail_drafts(page)
    page.locator("#volts").fill("7.9")
    page.wait_for_timeout(SOON_MS)
    page.unroute("**/draft")
    with page.expect_response("**/draft"):
        page.reload()
    expect(page.locator("#volts")).to_have_value("7.9")
    expect(page.locator("#wrong-volts")).to_have_text("")
    page.reload()
    expect(page.locator("#volts")).to_have_value("7.9")


@pytest.mark.parametrize(
    ("step", "fields"), [("pull", RUN), ("load", {"what": "5x4", "load_v": "7.1", "amps": "9", "thrust_g": "640"})]
)
def test_what_is_typed_while_a_taking_travels_stays(page, check, step, fields):
    """Also where the page is loaded again before Waldhorn has it."""
    page.goto(f"{check}?step={step}")
    typed(page, **fields)
    page.wait_for_timeout(SOON_MS)
    slow = {"offline": False, "latency": 900, "downloadThroughput": -1, "uploadThroughput": -1}
    network = page.context.new_cdp_session(page)
    network.send("Network.emulateNetworkConditions", slow)
    take(page)
    name = list(fields)[-1]
    page.locator(f"#{name}").fill("777")
    expect(page.locator("#wire")).to_contain_text(re.compile("1 run|1 row"))
    expect(page.locator(f"#{name}")).to_have_value("777")
    network.send("Network.emulateNetworkConditions", slow | {"latency": 0})
    page.reload()
    expect(page.locator(f"#{name}")).to_have_value("777")


def test_what_is_typed_and_not_taken_is_said_before_signing_and_kept_after(page, check, demo_store):
    page.goto(f"{check}?step=pull")
    with page.expect_response(draft_with("rpm=25160")):
        typed(page, volts="7.4", rpm="25160")
    page.goto(f"{check}?step=answer")
    left = page.get_by_role("group", name="Typed and not taken: Full throttle")
    expect(left).to_contain_text("volts at the motor 7.4, rpm 25160")
    left.get_by_role("button", name="Take it").click()
    expect(left).to_have_count(0)
    assert runs(demo_store, check) == [25160.0]
    page.goto(f"{check}?step=pull")
    with page.expect_response(draft_with("rpm=25200")):
        typed(page, volts="7.3", rpm="25200")
    page.goto(f"{check}?step=answer")
    page.get_by_role("button", name="Hang it back unsigned").click()
    expect(page.locator("#rack")).to_be_visible()
    page.goto("/motors/VS-02/book")
    expect(page.get_by_text("Typed, not taken:").locator("..")).to_contain_text("volts at the motor 7.3, rpm 25200")


@pytest.mark.long
def test_what_is_typed_and_not_taken_is_let_go(page, check, demo_store):
    page.goto(f"{check}?step=pull")
    with page.expect_response("**/draft"):
        typed(page, volts="7.4")
    page.goto(f"{check}?step=answer")
    page.get_by_role("button", name="Let it go").click()
    expect(page.get_by_text("Typed and not taken")).to_have_count(0)
    with demo_store.reading() as session:
        assert typed_not_taken.of_check(session, load(session, check.split("/")[-1], now())) == []


@pytest.mark.long
def test_an_answer_to_a_check_without_readings_says_so_and_chooses_nothing(page, check):
    page.goto(f"{check}?step=answer")
    expect(page.get_by_text("Nothing was read in this check.")).to_be_visible()
    expect(page.locator("[name=verdict]:checked")).to_have_count(0)
    page.goto(f"{check}?step=pull")
    typed(page, **RUN)
    take(page)
    expect(page.locator("#at-step")).to_contain_text("run 2")
    page.goto(f"{check}?step=answer")
    expect(page.locator("[name=verdict]:checked")).to_have_count(1)
    expect(page.get_by_text("Nothing was read in this check.")).to_have_count(0)


@pytest.mark.long
def test_going_on_with_nothing_looked_at_is_not_done(page, check):
    page.goto(f"{check}?step=look")
    page.get_by_role("button", name="Go on").click()
    expect(page.locator("#bench")).not_to_have_attribute("data-step", "look")
    bead = page.locator(".bead", has_text="Look and turn")
    expect(bead).to_contain_text("skipped")
    expect(page.locator("#wire ~ *")).to_contain_text("1 of ")  # the rig alone
    page.goto(f"{check}?step=look")
    page.keyboard.press("a")
    take(page)
    expect(bead).to_contain_text("looked at")


@pytest.mark.long
def test_a_step_opens_from_the_page_while_waldhorn_is_away(others, check, demo_store):
    phone = others("JK", Role.TECHNICIAN)
    with phone.expect_response(f"**{check}/steps"):
        phone.goto(f"{check}?step=pull")
    phone.wait_for_timeout(SOON_MS)
    phone.context.set_offline(True)
    typed(phone, **RUN)
    take(phone)
    expect(phone.locator("#waiting")).to_contain_text("1 taken")
    phone.locator(".bead", has_text="Timing").first.click()
    expect(phone.locator("#a")).to_be_visible()
    typed(phone, a="21", b="22", c="21.4")
    take(phone)
    expect(phone.locator("#waiting")).to_contain_text("2 taken")
    phone.locator(".bead", has_text="Full throttle").click()
    expect(phone.locator("#take")).to_have_text("Take run 2")
    phone.locator("#volts").fill("7.2")
    phone.context.set_offline(False)
    expect(phone.locator("#waiting")).to_be_hidden()
    assert runs(demo_store, check) == [25160.0]
    phone.goto(f"{check}?step=pull")
    expect(phone.locator("#volts")).to_have_value("7.2")


@pytest.mark.long
def test_a_page_that_is_loaded_again_while_away_opens_from_the_browser(others, check, demo_store):
    phone = others("JK", Role.TECHNICIAN, workers="allow")
    phone.goto(check)
    phone.evaluate("navigator.serviceWorker.ready")
    for _ in range(2):  # the first page came before the worker did
        with phone.expect_response(f"**{check}/steps"):
            phone.goto(f"{check}?step=pull")
    phone.wait_for_timeout(SOON_MS)
    phone.context.set_offline(True)
    phone.goto(f"{check}?step=timing")
    expect(phone.locator("#a")).to_be_visible()
    typed(phone, a="21", b="22", c="21.4")
    take(phone)
    expect(phone.locator("#waiting")).to_contain_text("1 taken")
    phone.goto("/machines")
    expect(phone.locator("h1")).to_have_text("Waldhorn does not answer.")
    phone.get_by_role("link", name="To the check on the bench").click()
    expect(phone.locator("#bench")).to_be_visible()
    phone.context.set_offline(False)
    expect(phone.locator("#waiting")).to_be_hidden()
    with demo_store.reading() as session:
        found = [r.value for r in readings.of_check(session, check.split("/")[-1]) if r.measure == "timing_a"]
    assert found == [21.0]


@pytest.mark.long
def test_what_waits_is_sent_in_the_name_of_who_typed_it(others, check, demo_store):
    phone = others("JK", Role.TECHNICIAN)
    phone.goto(f"{check}?step=pull")
    phone.context.set_offline(True)
    typed(phone, **RUN)
    take(phone)
    expect(phone.locator("#waiting")).to_contain_text("1 taken")
    expect(phone.locator("#throttle_pct")).to_have_value("100")  # what is usual stands there again
    expect(phone.locator("#take")).to_have_text("Take run 2")
    phone.route("**/draft", lambda route: route.abort())
    typed(phone, volts="7.7")
    phone.wait_for_timeout(SOON_MS)
    phone.goto("about:blank")
    phone.context.set_offline(False)
    phone.context.clear_cookies()
    phone.goto("/join")
    phone.get_by_label("your initials").fill("AB")
    phone.get_by_label("the passphrase").fill("the technician of this pit")
    phone.keyboard.press("Enter")
    expect(phone.locator("#waiting")).to_contain_text("was taken here by JK and waits. In that name:")
    assert runs(demo_store, check) == []
    phone.goto(f"{check}?step=pull")
    assert phone.locator("#volts").input_value() == ""  # typed by another
    phone.locator("#waiting").get_by_role("button", name="Send it").click()
    expect(phone.locator("#waiting")).to_be_hidden()
    with demo_store.reading() as session:
        assert [r.value for r in readings.of_check(session, check.split("/")[-1]) if r.measure == "rpm"] == [25160.0]
        who = session.query(ChangeRow).filter_by(step="pull").order_by(ChangeRow.id.desc()).first().who
    assert who == "JK, sent by AB"


@pytest.mark.long
def test_a_desk_can_leaf_through_the_steps(page, check):
    page.set_viewport_size(DESK)
    page.goto(f"{check}?step=pull")
    page.locator(".bead", has_text="Noise").click()
    expect(page.locator("#bench")).to_have_attribute("data-step", "noise")
    expect(page).to_have_url(re.compile("step=noise"))
    page.go_back()
    expect(page.locator("#bench")).to_have_attribute("data-step", "pull")
