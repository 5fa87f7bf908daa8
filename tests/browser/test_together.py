"""Several people at one pit: the bench's own screen, a technician with a phone, an owner who looks."""

import io
import re

import pytest
import segno
from PIL import Image
from playwright.sync_api import expect

from screens import DESK
from waldhorn.exchange import tag_code
from waldhorn.pit.judging import judging
from waldhorn.store import motors
from waldhorn.store.models import ChangeRow, ReadingRow
from waldhorn.store.seats import Role
from waldhorn.web.common.pages import now

TAG = "VS-02"  # it hangs on the rack


def bench_at(page, tag=TAG):
    """Lay a motor on the bench and note the rig, as it stands; returns where its check is."""
    page.goto(f"/motors/{tag}")
    page.get_by_role("button", name=re.compile("Check it|Back to the bench")).click()
    expect(page.locator("#bench")).to_be_visible()
    check = re.search(r"/checks/[^/?]+", page.url)[0]
    page.goto(f"{check}?step=setup")
    page.locator("#rig").fill("green bench")
    page.keyboard.press("Control+Enter")
    expect(page.locator("#bench")).not_to_have_attribute("data-step", "setup")
    return check


def looking_at(page, path):
    """Open a page, and wait until the others can know of it."""
    with page.expect_response("**/events?*"):
        page.goto(path)


def full_throttle(page, rpm, amps="2.3", volts="7.4"):
    for name, value in (("volts", volts), ("amps", amps), ("rpm", str(rpm))):
        page.locator(f"#{name}").fill(value)
    page.keyboard.press("Control+Enter")


def speeds(store):
    """Every speed that was read today, by who read it."""
    with store.reading() as session:
        rows = session.query(ReadingRow.value, ChangeRow.who).join(ChangeRow, ChangeRow.id == ReadingRow.change_id)
        return sorted((value, who) for value, who in rows.filter(ReadingRow.measure == "rpm", ChangeRow.who != ""))


def test_what_one_does_is_on_the_screens_of_the_others_without_a_reload(page, others, demo_store):
    phone, owner = others("JK", Role.TECHNICIAN), others("R. Winter", Role.LOOK, DESK)
    page.goto("/")
    page.evaluate("window.stillHere = true")
    check = bench_at(phone)
    expect(page.locator(f"[data-tag={TAG}]")).to_contain_text("on the bench: JK")
    owner.goto(check)
    expect(owner.locator("#here")).to_have_text("JK is here too")
    expect(phone.locator("#here")).to_have_text("R. Winter is here too")
    phone.goto(f"{check}?step=pull")
    full_throttle(phone, 25_160)
    expect(owner.locator("#wire")).to_contain_text("1 run")
    expect(owner.get_by_role("heading", level=1)).to_have_text("Full throttle: read all of it.")
    expect(owner.locator("form[method=post]:visible")).to_have_count(0)
    assert page.evaluate("window.stillHere")
    owner.goto(f"/motors/{TAG}")
    expect(owner.locator("#motor-answer")).to_contain_text("JK has it on the bench")
    phone.locator("#bench").get_by_role("button", name="undo").click()
    owner.goto(check)
    expect(owner.locator("#wire")).not_to_contain_text("1 run")


@pytest.mark.long
def test_two_in_one_check_lose_nothing_of_each_other(page, others, demo_store):
    phone = others("JK", Role.TECHNICIAN)
    check = bench_at(phone)
    for one in (page, phone):
        one.goto(f"{check}?step=pull")
    expect(page.locator("#here")).to_have_text("JK is here too")
    page.locator("#volts").fill("7.41")
    page.locator("#amps").fill("2.35")
    full_throttle(phone, 25_160)
    expect(page.locator("#at-step")).to_have_text("Full throttle, run 2")
    expect(page.locator("#take")).to_have_text("Take run 2")
    expect(page.locator("#volts")).to_have_value("7.41")
    expect(page.locator("#amps")).to_have_value("2.35")
    expect(page.locator("#wire")).to_contain_text("1 run")
    full_throttle(page, 25_190, amps="2.35", volts="7.41")
    expect(phone.locator("#wire")).to_contain_text("2 runs")
    with demo_store.reading() as session:
        taken = session.query(ReadingRow.run, ReadingRow.value).filter(ReadingRow.measure == "rpm")
        mine = taken.filter(ReadingRow.check_id == check.split("/")[-1]).all()
    assert sorted(tuple(row) for row in mine) == [(1, 25_160.0), (2, 25_190.0)]


@pytest.mark.long
def test_of_a_field_that_both_type_into_both_see_both_values(page, others):
    phone = others("JK", Role.TECHNICIAN)
    check = bench_at(phone)
    for one in (page, phone):
        looking_at(one, f"{check}?step=pull")
    page.locator("#volts").fill("7.41")
    expect(page.locator("#wrong-amps")).to_have_count(1)
    with phone.expect_response("**/draft"):
        phone.locator("#volts").fill("7.38")
    expect(phone.locator("#wrong-volts")).to_have_text("also typed here: 7.41")
    expect(page.locator("#wrong-volts")).to_have_text("also typed here: 7.38")
    expect(page.locator("#volts")).to_have_value("7.41")


@pytest.mark.long
def test_a_phone_that_loses_the_network_keeps_what_was_taken_and_sends_it_once(page, others, demo_store):
    phone, owner = others("JK", Role.TECHNICIAN), others("R. Winter", Role.LOOK, DESK)
    check = bench_at(phone)
    owner.goto(check)
    phone.goto(f"{check}?step=pull")
    page.goto(f"{check}?step=pull")
    expect(phone.locator("#here")).to_be_visible()
    phone.context.set_offline(True)
    full_throttle(phone, 25_160)
    expect(phone.locator("#waiting")).to_contain_text("1 taken, waiting for Waldhorn")
    expect(phone.locator("#rpm")).to_have_value("")
    full_throttle(phone, 25_180)
    expect(phone.locator("#waiting")).to_contain_text("2 taken, waiting for Waldhorn")
    expect(phone.locator("#waiting")).to_contain_text("25180")
    phone.locator("#volts").fill("7.3")
    expect(phone.locator("#offline")).to_be_visible()
    phone.goto("about:blank")  # a reload while away
    full_throttle(page, 25_200)
    expect(page.locator("#at-step")).to_contain_text("run 2")
    phone.context.set_offline(False)
    phone.goto(f"{check}?step=pull")
    expect(phone.locator("#waiting")).to_be_hidden()
    expect(phone.locator("#volts")).to_have_value("7.3")
    expect(page.locator("#at-step")).to_contain_text("run 4")
    expect(owner.locator("#wire")).to_contain_text("3 runs")
    phone.reload()
    expect(phone.locator("#wire")).to_contain_text("3 runs")
    assert speeds(demo_store) == [(25_160.0, "JK"), (25_180.0, "JK")]


@pytest.mark.long
def test_an_answer_that_is_lost_on_the_way_back_does_not_take_twice(others, demo_store):
    phone = others("JK", Role.TECHNICIAN)
    check = bench_at(phone)
    phone.goto(f"{check}?step=pull")

    def swallow(route):
        route.fetch()  # it arrives, and is stored
        route.abort()

    phone.route("**/steps/pull", swallow)
    full_throttle(phone, 25_160)
    expect(phone.locator("#waiting")).to_contain_text("1 taken")
    phone.unroute("**/steps/pull")
    expect(phone.locator("#waiting")).to_be_hidden()
    assert speeds(demo_store) == [(25_160.0, "JK")]


@pytest.mark.long
def test_what_cannot_be_taken_any_more_is_said_and_let_go(page, others, demo_store):
    phone = others("JK", Role.TECHNICIAN)
    check = bench_at(phone)
    phone.goto(f"{check}?step=pull")
    phone.context.set_offline(True)
    full_throttle(phone, 25_160)
    expect(phone.locator("#waiting")).to_contain_text("1 taken")
    page.goto(f"{check}?step=answer")
    page.get_by_role("button", name="Hang it back unsigned").click()
    expect(page.locator("#rack")).to_be_visible()
    phone.context.set_offline(False)
    expect(phone.locator("#waiting")).to_contain_text("was not taken: this check is closed")
    phone.get_by_role("button", name="Let it go").click()
    expect(phone.locator("#waiting")).to_be_hidden()
    assert speeds(demo_store) == []


@pytest.mark.long
def test_a_motor_is_handed_from_the_phone_to_the_bench_and_back(page, others):
    phone = others("JK", Role.TECHNICIAN)
    looking_at(page, "/help")
    looking_at(phone, "/motors/VS-07")
    phone.get_by_role("button", name="Open at the bench screen").click()
    expect(page).to_have_url(re.compile("/motors/VS-07$"))
    expect(phone.get_by_role("status").filter(has_text="It opens at the bench screen.")).to_be_visible()
    page.goto("/motors/VS-01")
    expect(page.get_by_role("button", name="Open at JK’s screen")).to_be_visible()
    page.keyboard.press("h")
    expect(phone).to_have_url(re.compile("/motors/VS-01$"))


@pytest.mark.long
def test_what_is_typed_is_not_taken_away_by_what_is_handed_over(page, others):
    phone = others("JK", Role.TECHNICIAN)
    looking_at(page, "/motors/new")
    page.locator("#tag").fill("NEW-1")
    phone.goto("/motors/VS-07")
    phone.get_by_role("button", name="Open at the bench screen").click()
    page.get_by_role("link", name="JK sent VS-07: open it").click()
    expect(page).to_have_url(re.compile("/motors/VS-07$"))


def test_what_a_seat_may_not_do_is_said_where_one_tries_it(others):
    phone = others("JK", Role.TECHNICIAN)
    bench_at(phone)
    phone.route(
        "**/steps/*", lambda route: route.fulfill(status=403, content_type="text/plain", body="This one looks.")
    )
    phone.keyboard.press("Control+Enter")
    expect(phone.locator("#busy")).to_have_text("This one looks.")


@pytest.mark.long
def test_whoever_is_put_out_sees_nothing_more(page, others):
    phone = others("JK", Role.TECHNICIAN)
    page.goto("/settings#others")
    page.get_by_role("button", name="Put out JK").click()
    expect(phone).to_have_url(re.compile("/join"))
    expect(phone.get_by_role("heading", level=1)).to_have_text("Who are you?")


@pytest.mark.long
def test_what_was_marked_on_the_rack_stays_marked_when_it_hangs_anew(page, others):
    phone = others("JK", Role.TECHNICIAN)
    page.goto("/")
    page.locator("[data-tag=VS-01]").focus()
    page.keyboard.press("x")
    page.locator("[data-tag=VS-04]").focus()
    bench_at(phone)
    expect(page.locator(f"[data-tag={TAG}]")).to_contain_text("on the bench: JK")
    expect(page.locator("[data-tag=VS-01]")).to_have_attribute("data-marked", "true")
    expect(page.locator("[data-tag=VS-04]")).to_be_focused()


# scanning


@pytest.fixture
def camera(with_devices, tmp_path):
    """A page of a browser before whose camera a tag is held."""

    def before(code):
        frame = io.BytesIO()
        drawn = io.BytesIO()
        segno.make(code, error="m", micro=False).save(drawn, kind="png", scale=6, border=6)
        with Image.open(drawn) as tag:
            picture = Image.new("RGB", (1280, 720), "grey")
            picture.paste(tag.convert("RGB"), (40, 20))
            picture.save(frame, "JPEG", quality=90)
        film = tmp_path / "tag.mjpeg"
        film.write_bytes(frame.getvalue() * 30)
        return with_devices(f"--use-file-for-fake-video-capture={film}")

    return before


@pytest.mark.long
def test_a_tag_held_before_the_camera_opens_its_motor(camera, demo_store):
    with demo_store.reading() as session:
        history, judged = judging.judge_motor(session, motors.find(session, "VS-07").id, now())
    page = camera(tag_code.encode(history.motor, judged))
    page.goto("/scan")
    page.get_by_role("button", name="Use the camera").click()
    expect(page).to_have_url(re.compile("/motors/VS-07$"))


def test_a_tag_that_was_scanned_opens_at_the_bench(page, others):
    phone = others("JK", Role.TECHNICIAN)
    looking_at(page, "/help")
    phone.goto("/scan")
    phone.get_by_label("what stands on the tag").fill("vs-07")
    phone.get_by_label("opens").select_option(label="at the bench screen")
    phone.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/motors/VS-07$"))
    expect(phone.locator("#scanned")).to_have_text("It opens at the bench screen.")


def test_without_tls_the_camera_is_not_asked_for_and_the_code_works(own_page):
    page = own_page
    page.add_init_script("Object.defineProperty(window, 'isSecureContext', {value: false})")
    page.goto("/scan")
    expect(page.get_by_role("button", name="Use the camera")).to_be_hidden()
    expect(page.get_by_text("encrypted pages only")).to_be_visible()
    page.get_by_label("what stands on the tag").fill("nonsense")
    page.keyboard.press("Enter")
    expect(page.locator("#wrong-code")).to_have_text("no motor “nonsense” hangs on this rack")
    page.get_by_label("what stands on the tag").fill("VS-07")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/motors/VS-07$"))
