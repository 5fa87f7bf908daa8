"""A machine from above: places by their words, rings where words say nothing, and how much each motor shakes."""

import pytest

from waldhorn.core.base.history import Motor
from waldhorn.core.measuring import machine as ranking
from waldhorn.pit.motors.machines import MachinePosition, MachineView
from waldhorn.web.drawing.from_above import REACH, box, spots


def seen(*places, values=(), way="hand"):
    values = (*values, *([None] * (len(places) - len(values))))
    seats = [
        MachinePosition(f"id-{i}", Motor(f"M-{i}", position=place), "", value, "")
        for i, (place, value) in enumerate(zip(places, values, strict=True))
    ]
    known = {s.name: s.value for s in seats if s.value is not None}
    ranked = ranking.rank(known, way == "accelerometer") if known else None
    return spots(MachineView("Otter", seats, ranked, way, ""))


@pytest.mark.parametrize(
    ("place", "x", "y"),
    [
        ("left", -REACH, 0),
        ("port", -REACH, 0),
        ("Starboard", REACH, 0),
        ("bow", 0, -REACH),
        ("stern", 0, REACH),
        ("front, right", REACH, -REACH),
        ("rear left", -REACH, REACH),
        ("middle", 0, 0),
    ],
)
def test_a_motor_sits_where_its_position_says(place, x, y):
    found = seen(place, "somewhere else" if place != "middle" else "left")
    assert (found[0].x, found[0].y) == (x, y)


def test_two_motors_on_one_spot_stand_in_a_ring_instead():
    for places in (("left", "left"), ("", ""), ("1", "2", "3")):
        found = seen(*places)
        assert len({(s.x, s.y) for s in found}) == len(places)
        assert all(s.x**2 + s.y**2 == pytest.approx(REACH**2, rel=0.01) for s in found)


def test_a_lone_motor_stands_in_the_middle():
    assert [(s.x, s.y, s.shakes) for s in seen("")] == [(0, 0, 0)]


def test_a_hand_shakes_by_its_points_and_a_meter_by_the_worst():
    by_hand = seen("left", "right", values=(1.0, 4.4))
    assert [s.shakes for s in by_hand] == [1, 4]
    metered = seen("left", "right", values=(0.1, 0.5), way="accelerometer")
    assert [s.shakes for s in metered] == [1, 5]
    assert [s.shakes for s in seen("left", "right")] == [0, 0]


def test_the_worst_is_marked_only_when_it_stands_clear():
    clear = seen("front left", "front right", "rear left", "rear right", values=(1.0, 1.0, 1.0, 4.5))
    assert [s.worst for s in clear] == [False, False, False, True]
    alike = seen("front left", "front right", "rear left", "rear right", values=(1.0, 1.5, 1.0, 1.5))
    assert not any(s.worst for s in alike)


def test_the_box_holds_every_motor_with_its_letters():
    found = seen("front left", "rear right")
    left, top, width, height = map(float, box(found).split())
    for s in found:
        assert left <= s.x - 50 <= s.x + 50 <= left + width
        assert top <= s.y - 50 <= s.y + 78 <= top + height
