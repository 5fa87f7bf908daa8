"""Every figure that explains itself is what its own inputs give."""

from dataclasses import asdict, is_dataclass
from datetime import datetime

import pytest

from waldhorn.pit.bench import checks, stepper
from waldhorn.pit.bench import view as bench
from waldhorn.pit.bench.context import load
from waldhorn.pit.judging import judging
from waldhorn.store import cached_verdicts, motors
from waldhorn.web.drawing.evidence_figures import figures_of


def results(figure):
    """What its function makes of its inputs: the number, or the numbers it has to offer."""
    found = figure.function(**figure.inputs)
    return list(asdict(found).values()) if is_dataclass(found) else [found]


@pytest.mark.long
def test_what_the_evidence_of_every_motor_says(demo_store):
    seen = 0
    with demo_store.reading() as session:
        for motor_id in motors.ids_by_tag(session).values():
            evidence = judging.judge_motor(session, motor_id, datetime.now().astimezone())[1].evidence
            for figure in figures_of(evidence, evidence):
                seen += 1
                scale = 100 if figure.title.startswith("beyond") else 1  # a probability, shown in percent
                assert [scale * r for r in results(figure)] == pytest.approx([figure.value]), figure.title
    assert seen > 500


def test_what_the_steps_of_a_check_show(demo_store):
    seen = set()
    with demo_store.reading() as session:
        (check_id,) = cached_verdicts.open_checks(session, None).values()
        ctx = load(session, check_id, datetime.now().astimezone(), with_fleet=True)
        for step in stepper.planned(ctx):
            view = bench.view(ctx, checks.typed_so_far(session, ctx, step), step.name).view
            for figure in view.figures:
                seen.add(figure.title)
                assert any(r == pytest.approx(figure.value) for r in results(figure)), figure.title
    assert {"KV as read", "KV at 25 °C"} <= seen
