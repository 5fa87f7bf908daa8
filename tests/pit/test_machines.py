"""Which motor of a machine shakes: what the hand felt and whom the eye suspected are kept together."""

from made import NOW
from waldhorn.core.base.history import Motor
from waldhorn.pit.motors import machines
from waldhorn.store import motors, readings


def test_whom_the_eye_suspected_is_kept_beside_what_the_hand_felt(store):
    with store.writing() as session:
        ids = motors.add(session, [Motor(tag, machine="Otter") for tag in ("bow", "stern", "port")])
        felt = {f"shakes-{i}": str(points) for i, points in zip(ids, (1, 4, 1), strict=True)}
        machines.take_shaking(session, "Otter", {"way": "hand", "suspect": "bow", **felt}, NOW)
    with store.reading() as session:
        view = machines.view(session, "Otter", NOW)
        [row] = readings.of_motor(session, ids[1], ["vibration"])
    assert (view.suspect, view.ranking.culprit) == ("bow", "stern")
    assert "The eye suspected bow, the hand says stern" in view.ranking.words
    assert row.note == "the eye suspected bow"
