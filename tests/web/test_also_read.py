"""What stands on no strip is on the motor's page and on its report all the same."""

import re

from starlette.testclient import TestClient

from made import day
from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Motor, Reading
from waldhorn.core.base.vocabulary import Purpose
from waldhorn.core.measuring.measures import MEASURES
from waldhorn.store import motors, readings
from waldhorn.web.app import create_app


def test_the_last_of_every_measure_is_on_the_motors_page_its_passport_and_its_report(store):
    under = Conditions(rig="bench", on_shaft="6x4.5", throttle_pct=50.0)
    values = {m.name: (m.low + min(m.high, 50)) / 2 + 0.125 for m in MEASURES.values()}
    with store.writing() as session:
        [motor_id] = motors.add(session, [Motor("B-1")])
        ids = readings.check_ids(session, [(motor_id, "c", day(0), under)])
        taken = [Reading(n, v, day(0), 1, under, Purpose.LOAD) for n, v in values.items()]
        readings.add(session, ((ids[motor_id, "c"], r) for r in taken))
        motors.touch(session, [motor_id])
    with TestClient(create_app(store), base_url="http://127.0.0.1:8700") as client:
        for path in ("/motors/B-1", "/motors/B-1/paper/passport", "/motors/B-1/paper/report"):
            rows = re.findall(r"<tr>(.*?)</tr>", client.get(path).text, re.S)
            plain = [" ".join(re.sub(r"<[^>]*>", " ", row).split()) for row in rows]
            for name, value in values.items():
                title = MEASURES[name].title
                assert any(title in row and f"{value:.7g}" in row and "6x4.5, 50 %" in row for row in plain), (
                    path,
                    name,
                )
