"""Whole judgements of two dozen simulated motors, sound and broken, word by word."""

from datetime import timedelta
from pathlib import Path

from approved import approve
from made_eval import evaluation
from waldhorn.core.judging.verdict import judge


def told(found):
    """What a page and the command say of a judgement."""
    return {
        "answer": [found.verdict, found.cause, found.confidence, found.headline, found.reason, found.brief],
        "limits": [found.by_limits, found.by_limits_reason],
        "next": [found.next_test, found.next_seconds, found.next_step, found.check_by.runs, found.check_by.date],
        "faults": [[*f.names, f.probability, f.severity] for f in found.faults[:4]],
        "speaks": found.speaks,
        "evidence": {
            e.quantity.name: [e.state, e.now, e.fresh, e.reason, *(_change(e.change) if e.change else ())]
            for e in found.evidence
        },
        "trends": [
            [t.quantity, t.axis, t.kind, t.slope, t.slope_low, t.slope_high, t.watch, t.act] for t in found.trends
        ],
    }


def _change(change):
    return change.value, change.u, change.p_past_watch, change.p_past_act, change.headroom, change.further_runs


def test_what_is_said_of_two_dozen_motors():
    made = evaluation()
    at = made.START + timedelta(days=61)
    found = {
        f"{number} {case.scene}: {', '.join(case.truth) or 'sound'}": told(judge(case.history, at))
        for number, case in enumerate(made.cases(48, 11))
        if number % 2 or number < 12
    }
    approve(Path(__file__).with_name("answers.json"), found)
