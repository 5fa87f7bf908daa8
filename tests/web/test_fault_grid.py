"""What each fault would do, drawn beside what was seen; and what was read with nothing to compare it with."""

import re

import pytest
from fastapi.testclient import TestClient

from made import NOW, full, history
from waldhorn.core.base.history import Motor
from waldhorn.core.judging.faults import SIGNATURES
from waldhorn.core.judging.verdict import judge
from waldhorn.pit.judging import judging
from waldhorn.store import motors, readings
from waldhorn.web.app import create_app
from waldhorn.web.drawing.fault_grid import MOST_FAULTS, fault_grid, sign


@pytest.mark.parametrize(
    ("share", "size", "words"),
    [
        (1.0, 3, "up much"),
        (0.99, 2, "up somewhat"),
        (-0.5, 2, "down somewhat"),
        (0.15, 1, "up a little"),
        (-3.0, 3, "down much"),
        (0.14, 0, "as it was"),
        (0.0, 0, "as it was"),
    ],
)
def test_a_sign_is_as_large_as_its_share_of_the_limit(share, size, words):
    found = sign(share)
    assert (found.size, found.words, found.down) == (size, words, words.startswith("down"))


def test_the_grid_holds_every_quantity_that_was_compared_against_the_likeliest_faults():
    judged = judge(history(full(0), full(7), full(60, amps=2.9, noise=88.0, wander=1.5)), NOW)
    grid = fault_grid(judged)
    assert 0 < len(grid.faults) <= MOST_FAULTS
    compared = {e.quantity.title: e for e in judged.evidence if e.change}
    assert {row.title for row in grid.rows} == set(compared)
    amps = next(row for row in grid.rows if row.title == "no-load current")
    assert (amps.seen.words, amps.change) == ("up much", "+45.0 %")
    act = compared["no-load current"].limits.act
    expected = [sign(SIGNATURES[f.fault].get("no_load_current", 0.0) / act) for f in grid.faults]
    assert list(amps.cells) == expected


def test_a_first_reading_stays_in_sight_on_the_motors_page(store):
    with store.writing() as session:
        [motor] = motors.add(session, [Motor("Q-1", poles=4)])
        check = full(0)
        keys = readings.check_ids(session, [(motor, check.id, check.at, check.readings[0].conditions)])
        readings.add(session, [(keys[motor, check.id], r) for r in check.readings])
        motors.touch(session, [motor])
        judging.settle(session, NOW)
    with TestClient(create_app(store), base_url="http://127.0.0.1:8700") as client:
        now = " ".join(client.get("/motors/Q-1?as_of=2026-05-02").text.split())
    alone = re.search(r"Nothing to compare with yet:(.*?)</p>", now)[1]
    assert "KV <strong>3" in alone
    not_read = re.search(r"Not read lately: ([^<]*)\.", now)[1]
    assert "KV" not in not_read.split(", ")
