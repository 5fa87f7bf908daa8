"""The next test: what to read to know more, how often, and whether its set-up has to be made anew first.

By what it is expected to save (see `worth`) for its time; where a fault is named by one evidence source alone, a second
one. A set-up that was made anew twice is not asked for again.

References
----------
.. [1] Bench practice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core.base.vocabulary import SetUp, Verdict
from waldhorn.core.judging import hands, plan
from waldhorn.core.judging.case import Case
from waldhorn.core.judging.change import SURE
from waldhorn.core.judging.evidence import DRIFT_SHARE, Evidence
from waldhorn.core.judging.evidence_sources import Residual, shows, would_have_shown
from waldhorn.core.judging.faults import ENTRY, SIGNATURES
from waldhorn.core.judging.remedies import FOR_GOOD, MENDABLE, due_at
from waldhorn.core.judging.visits import ONE_SITTING
from waldhorn.core.measuring import inspection
from waldhorn.core.measuring.measures import JUDGED, QUANTITIES
from waldhorn.core.measuring.quantity import BenchTest

ANOTHER_WITNESS = 2.0  # one that shares no set-up with what was read already settles twice as much
_SETTING_UP_S = 120  # what any test costs before it starts (bench practice)
_WORTH_A_MINUTE = 0.0005  # of a new motor: less is no reason to name a test
_MOST_REPEATS = 4
MADE_ANEW = 2  # a set-up is worth making anew so often; after that it is another kind of test, or the hands [1]


@dataclass(frozen=True, slots=True)
class Proposed:
    """A test to do next: what to do, how often, for how long in all, in which step, and of what; `anew` when it was
    read already and the set-up is to be made anew, `cool` when the motor has to cool down first."""

    words: str
    seconds: int
    step: str
    times: int = 1
    quantity: str = ""
    anew: SetUp | None = None
    cool: bool = False


def worth_of_each(case: Case) -> dict[str, float]:
    """What each test this motor allows is expected to save, in the unit of the prices, by quantity."""
    residuals = {e.quantity.name: e.residual for e in case.judged if e.residual}
    return {n: case.deciding.of(n, _u_of(case, n), residuals.get(n)) for n in _candidates(case)}


def telling(case: Case) -> Proposed | None:
    """The test worth most for its time, how often to do it, and whether it means clamping anew."""
    minutes = {n: (_SETTING_UP_S + t.seconds) / 60 for n, t in _candidates(case).items()}
    residuals = {e.quantity.name: e.residual for e in case.judged if e.residual}
    told = {QUANTITIES[n].set_up for n in residuals}
    worth: dict[str, float] = {}
    for name, saves in worth_of_each(case).items():
        again = ANOTHER_WITNESS if QUANTITIES[name].set_up in told else 1.0
        if saves / minutes[name] / again > _WORTH_A_MINUTE:
            worth[name] = saves / minutes[name] / again
    if not worth:
        return None
    best = max(worth, key=lambda name: (worth[name], name))
    before = residuals.get(best)
    gains = [case.deciding.of(best, _u_of(case, best) / n**0.5, before) for n in range(1, _MOST_REPEATS + 1)]
    times = next(n for n, gain in enumerate(gains, 1) if gain >= 0.9 * gains[-1] or n == _MOST_REPEATS)
    return _proposed(case, best, times)


def showing(case: Case) -> Proposed | None:
    """The test after which most of what could be wrong would have shown, for its time."""
    told = [e.residual for e in case.judged if e.residual and not e.against_label]

    def gain(name: str) -> tuple[float, str]:
        more = [*told, Residual(name, 0.0, _u_of(case, name))]
        shown = sum(would_have_shown(more, f) for f in case.hidden)
        return shown / (_SETTING_UP_S + plan.TESTS[name].seconds), name

    done = {e.quantity.name for e in case.judged if e.residual}
    bare = {e.quantity.name for e in case.evidence if not e.expected}
    left = [n for n in _candidates(case) if n not in done | bare]
    best = max(left, key=gain, default=None)
    return _proposed(case, best, 1) if best and gain(best)[0] > 0 else None


def second_source(case: Case) -> Proposed | None:
    """Where something due is named by one evidence source alone: the test of another that it would show in most, for
    its time."""
    for verdict, among in ((Verdict.RETIRE, FOR_GOOD), (Verdict.REPAIR, MENDABLE)):
        mine = [f for f in among if f in case.possible]
        if case.posterior.any_of(mine) >= SURE and case.posterior.any_due(mine) > due_at(case.prices, verdict):
            leading, told = case.parts(mine)[0], {e.quantity.set_up for e in case.judged if e.residual}
            showing = [
                (seen / (_SETTING_UP_S + test.seconds), n)
                for n, test in _candidates(case).items()
                if QUANTITIES[n].set_up not in told and (seen := shows(leading, n, _u_of(case, n))) > 0
            ]
            if showing:
                return _proposed(case, max(showing)[1], 1)
    return None


def anew(case: Case, past: Sequence[Evidence]) -> Proposed | None:
    """What raised the question, to be read again with its set-up made anew.

    Parameters
    ----------
    case : Case
    past : sequence of Evidence
        What lies past a limit.
    """
    leading = case.parts(case.possible)[0]
    asked = past or [e for e in case.judged if e.residual and e.quantity.name in SIGNATURES[leading]]
    done = exhausted(case)
    able = [e for e in asked if e.quantity.test and e.change and e.quantity.set_up not in done]
    if not able:
        return by_hand(case)
    worst = min(able, key=lambda e: (e.change.headroom if e.change else 1.0, e.quantity.name))
    return once_more(worst, worst.quantity.set_up)


def once_more(e: Evidence, anew: SetUp | None = None) -> Proposed:
    """What was read, once more; `anew` is the set-up that is to be made anew first.

    Parameters
    ----------
    e : Evidence
    anew : SetUp or None
    """
    test = e.quantity.test or plan.TESTS["kv"]
    return Proposed(test.words, test.seconds, test.step, quantity=e.quantity.name, anew=anew)


def exhausted(case: Case) -> frozenset[SetUp]:
    """The set-ups that were made anew twice, in one sitting or with the same shown each time: once more tells nothing
    new."""
    last = max((c.at for c in case.known.checks), default=None)
    lately = [c for c in case.known.checks if last is not None and last - c.at <= ONE_SITTING]

    def visits(e: Evidence) -> int:
        return sum(any(r.measure in e.quantity.primaries for r in c.readings) for c in lately)

    return frozenset(e.quantity.set_up for e in case.judged if e.residual and max(e.seen, visits(e)) > MADE_ANEW)


def by_hand(case: Case) -> Proposed | None:
    """Where no test is left: what eyes and hands have not looked at and would most likely find."""
    looked = {f.sense for f in case.hands}
    items = {i.name: i for i in inspection.items_for(case.known.motor)}
    chances = [
        (case.presence(fault) * bad / hands.SENSES[name].false_bad, name)
        for fault in case.possible
        for name, (bad, _) in ENTRY[fault].found_by.items()
        if name in items and name not in looked
    ]
    if not chances:
        return None
    best = items[max(chances)[1]]
    return Proposed(f"look at {best.title}" if "hand" not in best.title else f"try {best.title}", 60, "look")


def _candidates(case: Case) -> Mapping[str, BenchTest]:
    """The tests this motor allows, but those that were done and have nothing to compare with, or whose set-up was made
    anew twice."""
    idle = {e.quantity.name for e in case.evidence if e.now is not None and not e.expected}
    done = exhausted(case)
    idle |= {e.quantity.name for e in case.judged if e.residual and e.quantity.set_up in done}
    return plan.possible(case.known.motor, idle)


def _proposed(case: Case, name: str, times: int) -> Proposed:
    test = plan.TESTS[name]
    mine = next((e for e in case.evidence if e.quantity.name == name), None)
    anew = QUANTITIES[name].set_up if mine and mine.residual else None
    warm = any(e.quantity.set_up is QUANTITIES[name].set_up and e.warmer for e in case.evidence)
    return Proposed(test.words, times * test.seconds, test.step, times, name, anew, warm)


def _u_of(case: Case, name: str) -> float:
    """Uncertainty a test would have as evidence: one visit against a baseline of two, and a sound motor's drift;
    against a sibling where the motor has no past."""
    quantity = JUDGED[name]
    past = any(e.quantity.name == name and e.expected for e in case.evidence)
    apart = 0.0 if past else quantity.natural_spread
    once = 1.5 * 2 * quantity.repeatability**2 + quantity.resolution**2 / 6
    return float((once + apart**2 + (DRIFT_SHARE * quantity.limits.watch) ** 2) ** 0.5)
