"""An instrument that only prints: its lines heard, a line format kept, a run taken with the throttle in the hand."""

import asyncio
import json
import re
import threading

import pytest
from playwright.sync_api import expect

from typing_keys import bench_of
from waldhorn.simulator.analyser import BenchServer
from waldhorn.simulator.clamped import simulated
from waldhorn.simulator.csv_output import PlainMouth


@pytest.fixture
def mouth():
    """Where a simulated bench prints plain lines."""
    found, started = {}, threading.Event()

    async def print_them():
        plain = PlainMouth(BenchServer(simulated(3, "none", 1.0), speed=2.5))
        found.update({"port": await plain.start(), "loop": asyncio.get_running_loop(), "over": asyncio.Event()})
        started.set()
        await found["over"].wait()
        await plain.stop()

    thread = threading.Thread(target=asyncio.run, args=(print_them(),))
    thread.start()
    assert started.wait(10)
    yield f"127.0.0.1:{found['port']}"
    found["loop"].call_soon_threadsafe(found["over"].set)
    thread.join(10)


def made(page, mouth, name="a plain meter"):
    page.goto("/settings#programs")
    page.get_by_role("link", name="Say how its lines are read").click()
    page.get_by_label("where it prints").fill(mouth)
    page.get_by_role("button", name="Listen for three seconds").click()
    expect(page.get_by_role("heading", level=2)).to_have_text(re.compile(r"^\d+ of \d+ lines are understood"))
    page.get_by_label("keep it as").fill(name)
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("link", name=name)).to_be_visible()


@pytest.mark.long
def test_lines_are_heard_read_and_kept_and_a_run_is_taken_by_hand(page, mouth):
    made(page, mouth)
    bench_of(page, "PB-1")
    page.get_by_role("button", name="Go on").click()
    page.wait_for_url(re.compile("/checks/"))
    page.goto(f"{page.url.split('?')[0]}/live")
    page.keyboard.press("y")
    expect(page.get_by_role("button", name="Off, clamped")).to_have_count(0)
    page.get_by_label("or an instrument at").fill(mouth)
    page.get_by_label("read by").select_option("a plain meter")
    page.get_by_role("button", name="Connect").click()
    expect(page.locator("main")).to_contain_text("This instrument only prints. You hold the throttle")
    expect(page.get_by_role("button", name="Sweep timing")).to_have_count(0)
    expect(page.locator("#live-words")).to_contain_text("15 % captured", timeout=40_000)
    expect(page.locator("#live-words")).to_contain_text("100 % captured", timeout=40_000)
    page.keyboard.press(" ")
    expect(page.locator("#live-words")).to_contain_text("this instrument cannot stop the motor")


@pytest.mark.long
def test_nonsense_is_said_and_a_line_format_travels_as_json(page, mouth):
    page.goto("/instruments")
    page.get_by_role("button", name="Listen for three seconds").click()
    expect(page.locator("#wrong-where")).to_contain_text("is no instrument")
    page.get_by_label("its lines").fill("11820;7,38;1,92\nrubbish")
    page.get_by_label("parted by").select_option("semicolon")
    for name, at in (("rpm", "1"), ("volts", "2"), ("amps", "third")):
        page.get_by_label(f"where {name} stands").fill(at)
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#wrong-recipe")).to_contain_text("“third” is no column: count them from 1")
    page.get_by_label("where amps stands").fill("3")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#wrong-recipe")).to_contain_text("give it a name")
    page.get_by_role("button", name="See what that makes of them").click()
    expect(page.get_by_role("heading", level=2)).to_have_text("1 of 2 lines are understood.")
    expect(page.locator("main")).to_contain_text("rpm 11820, volts 7.38, amps 1.92")
    page.get_by_label("keep it as").fill("by column")
    page.get_by_role("button", name="Keep it").click()
    line_format = page.request.get("/instruments/by%20column.json").text()
    assert json.loads(line_format)["told"]["amps"]["at"] == "3"
    page.get_by_role("button", name="Let it go").click()
    expect(page.get_by_role("link", name="by column")).to_have_count(0)
    page.locator("summary", has_text="A line format of another pit").click()
    page.get_by_label("its JSON").fill(line_format)
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_role("link", name="by column", exact=True)).to_be_visible()


@pytest.mark.long
def test_an_instrument_that_lacks_what_a_run_needs_says_what(page):
    page.goto("/instruments")
    page.get_by_label("where rpm stands").fill("1")
    page.get_by_label("keep it as").fill("tachometer")
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("tr", has_text="tachometer")).to_contain_text("lacks volts, amps")
    bench_of(page, "PB-1")
    page.goto(f"{page.url.split('?')[0]}/live")
    page.get_by_label("or an instrument at").fill("127.0.0.1:8701")
    page.get_by_label("read by").select_option("tachometer")
    page.get_by_role("button", name="Connect").click()
    expect(page.locator("#wrong-instrument")).to_contain_text("tells no volts, amps: a run needs them")
