"""Much at once: how far it is, called off, dropped on the page, done in a process of its own."""

import pytest
from playwright.sync_api import expect

from waldhorn.pit.files import import_worker
from waldhorn.store import motors, readings
from waldhorn.web.screens.bring_in import routes as bring_in

HEADER = "motor,at,measure,value\n"
ROW = "VS-04,2026-05-02T{:02}:{:02}:{:02}+02:00,noise_avg,{}\n"


@pytest.fixture(autouse=True)
def much(monkeypatch):
    """Whatever is brought in is much, and takes long."""
    monkeypatch.setattr(import_worker, "_MUCH", 0)
    monkeypatch.setattr(bring_in, "_AT_ONCE_S", 0.0)


def staged(page, tmp_path, text):
    """Dropped from the desktop on the page, and looked at."""
    page.goto("/bring-in")
    file = tmp_path / "r.csv"
    file.write_text(text)
    box = page.locator("#files").bounding_box()
    over = {"x": box["x"] + box["width"] / 2, "y": box["y"] + box["height"] / 2}
    dragged = {"items": [], "files": [str(file)], "dragOperationsMask": 1}
    browser = page.context.new_cdp_session(page)
    for kind in ("dragEnter", "dragOver", "drop"):
        browser.send("Input.dispatchDragEvent", {"type": kind, "data": dragged, **over})
    page.get_by_role("button", name="Look at them").click()
    expect(page.locator("h1")).to_have_text("r.csv: ready to be brought in.")


def known(store):
    with store.reading() as session:
        return len(readings.of_motor(session, motors.find(session, "VS-04").id, ["noise_avg"]))


@pytest.mark.long
def test_files_are_dropped_and_the_page_says_how_far_it_is(page, demo_store, tmp_path):
    before = known(demo_store)
    staged(page, tmp_path, HEADER + "".join(ROW.format(10, 0, i, 80 + i / 10) for i in range(9)))
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator("h1")).to_have_text("Bringing it in.")
    expect(page.get_by_role("progressbar")).to_be_visible()
    expect(page.locator("h1")).to_have_text("Brought in.", timeout=60_000)
    expect(page.locator("tr", has_text="readings")).to_contain_text("9 stored")
    assert known(demo_store) == before + 9


@pytest.mark.long
def test_it_is_called_off_and_nothing_of_it_stays(page, demo_store, tmp_path):
    before = known(demo_store)
    moments = ((h, m, s) for h in range(8, 20) for m in range(60) for s in range(60))
    staged(page, tmp_path, HEADER + "".join(ROW.format(h, m, s, 80 + s / 60) for h, m, s in moments))
    page.get_by_role("button", name="Bring in").click()
    expect(page.locator("h1")).to_have_text("Bringing it in.")
    page.keyboard.press("x")
    expect(page.locator("main")).to_contain_text("called off: nothing was stored", timeout=60_000)
    assert known(demo_store) == before


@pytest.mark.long
def test_what_is_wrong_in_it_is_said_as_ever(page, demo_store, tmp_path):
    staged(page, tmp_path, HEADER + "NOBODY,2026-05-02T10:00:00Z,kv,3400\n")
    page.get_by_role("button", name="Bring in").click()
    expect(page.get_by_role("alert")).to_contain_text("r.csv, row 2: motor: no motor “NOBODY”", timeout=60_000)
