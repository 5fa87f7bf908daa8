"""Over time: what is drawn of a motor's life beside its readings."""

from dataclasses import replace

import pytest

from made import NOW, day, full, history
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging.trend import Crossing, Trend
from waldhorn.core.judging.verdict import judge
from waldhorn.web.common.words import EVENT_WORDS
from waldhorn.web.drawing.charts import chart, trend_words


def test_everything_that_happened_is_marked_but_runs():
    kinds = [EventKind.CRASH, EventKind.RUN, EventKind.RUN, EventKind.TIMING_CHANGED]
    events = tuple(Event(kind, day(5 + number)) for number, kind in enumerate(kinds))
    known = replace(history(full(0), full(14)), events=events)
    drawn = chart(known, judge(known, NOW))
    assert [h.words for h in drawn.happenings] == [EVENT_WORDS[EventKind.CRASH], EVENT_WORDS[EventKind.TIMING_CHANGED]]


def test_before_the_first_check_nothing_is_drawn():
    known = history()
    assert chart(known, judge(known, NOW)) is None


@pytest.mark.parametrize(
    ("trend", "words"),
    [
        ({"kind": "steady"}, ""),
        (
            {"kind": "step", "step_at": day(7), "step_event": "crash"},
            f"noise jumped on {day(7).day} {day(7):%B}, when it was crashed; it does not creep.",
        ),
        ({"kind": "step", "step_at": day(7)}, f"noise jumped on {day(7).day} {day(7):%B}; it does not creep."),
        (
            {"kind": "creep", "watch": Crossing(1.2, 0.4, 5.0), "act": Crossing(20.0, 12.0, None)},
            "noise creeps +0.10 dB a run; past watch in about 1 run (0 to 5); past act in about 20 runs (12 or more).",
        ),
        ({"kind": "creep", "creeping_since": day(7)}, f"noise creeps +0.10 dB a run since {day(7).day} {day(7):%B}."),
    ],
)
def test_a_trend_is_one_sentence(trend, words):
    judged = judge(history(full(0), full(14)), NOW)
    noise = next(e for e in judged.evidence if e.quantity.name == "noise_avg")
    none = {"watch": None, "act": None}
    found = Trend("noise_avg", "runs", 6, slope=0.1, slope_low=0.05, slope_high=0.2, **none | trend)
    assert trend_words(found, noise) == words
