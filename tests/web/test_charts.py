"""Over time: what is drawn of a motor's life beside its readings."""

from dataclasses import replace

from made import NOW, day, full, history
from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging.verdict import judge
from waldhorn.web.drawing.charts import chart


def test_everything_that_happened_is_marked_but_runs():
    kinds = [EventKind.CRASH, EventKind.RUN, EventKind.RUN, EventKind.TIMING_CHANGED]
    events = tuple(Event(kind, day(5 + number)) for number, kind in enumerate(kinds))
    known = replace(history(full(0), full(14)), events=events)
    drawn = chart(known, judge(known, NOW))
    assert len(drawn.happenings) == 2


def test_before_the_first_check_nothing_is_drawn():
    known = history()
    assert chart(known, judge(known, NOW)) is None
