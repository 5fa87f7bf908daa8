"""What follows from the evidence: one of the five answers, its cause and the next test.

Repair and retire are said of a fault that is due and named by two witnesses that share no set-up, or by one that was
clamped anew; keep is said when what could be wrong would have shown. Not the weighing itself (see `faults`), not the
worth of a test (see `worth`) and not the words (see `sentences`).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from waldhorn.core import faults, inspection, noticed, plan, pole_question
from waldhorn.core.change import SURE, UNSURE
from waldhorn.core.evidence import DRIFT_SHARE, Evidence
from waldhorn.core.faults import SPEAKS_FROM, Fault, Posterior, shows, would_have_shown
from waldhorn.core.history import Event, History
from waldhorn.core.measures import JUDGED, QUANTITIES, BenchTest
from waldhorn.core.pole_question import PoleQuestion
from waldhorn.core.remedies import FOR_GOOD, MENDABLE, Prices, due_at
from waldhorn.core.repairs import NoBetter
from waldhorn.core.trend import Trend
from waldhorn.core.vocabulary import FAULTS, GRAVE, FaultKind, NoteKind, SetUp, Verdict
from waldhorn.core.worth import Deciding

PERHAPS_DUE = 0.2  # more than this and a test is asked for ...
WORTH_WATCHING = 0.05  # ... more than this, and an eye is kept on it
ANOTHER_WITNESS = 2.0  # one that shares no set-up with what was read already settles twice as much
_SETTING_UP_S = 120  # what any test costs before it starts (bench practice)
_WORTH_A_MINUTE = 0.0005  # of a new motor: less is no reason to name a test
_MOST_REPEATS = 4
_WORTH_NAMING = 0.15  # of a part that may have to be changed


class Cause(StrEnum):
    """Why an answer is what it is."""

    POWER_FORBIDDEN = "power_forbidden"
    NOTHING_MEASURED = "nothing_measured"
    NOTHING_TO_COMPARE = "nothing_to_compare"
    NOT_SINCE_EVENT = "not_since_event"
    POLE_SETTING = "pole_setting"
    CONDEMNED = "condemned"
    NOT_WORTH_REPAIR = "not_worth_repair"
    TELL_APART = "tell_apart"
    MISREAD = "misread"
    THIRD_RUN = "third_run"
    NO_BETTER = "no_better"
    SET_UP = "set_up"
    MORE_RUNS = "more_runs"
    TEST_SETTLES = "test_settles"
    NOT_SETTLED = "not_settled"
    NOT_SHOWN = "not_shown"
    WHAT_WAS_DONE = "what_was_done"
    WORTH_RUNNING_ON = "worth_running_on"
    CREEPING = "creeping"
    WATCHING = "watching"
    CAME_BACK_SOUND = "came_back_sound"
    SOUND = "sound"


@dataclass(frozen=True)
class Case:
    """What an answer is made from."""

    known: History
    evidence: tuple[Evidence, ...]
    judged: tuple[Evidence, ...]
    posterior: Posterior
    weighed: tuple[Fault, ...]
    impossible: tuple[FaultKind, ...] = ()
    prices: Prices = field(default_factory=Prices)
    no_better: tuple[NoBetter, ...] = ()
    trends: tuple[Trend, ...] = ()

    def none(self) -> float:
        """Probability that nothing is wrong with the motor."""
        return next(f.probability for f in self.weighed if f.fault is FaultKind.NONE)

    @property
    def possible(self) -> tuple[FaultKind, ...]:
        """The faults this motor can have."""
        return tuple(f for f in FAULTS if f not in self.impossible)

    @cached_property
    def hidden(self) -> tuple[FaultKind, ...]:
        """The faults that would not have shown, had they been there at their act limit."""
        told = [e.residual for e in self.judged if e.residual and not e.against_label]
        return tuple(f for f in self.possible if not would_have_shown(told, f))

    @cached_property
    def first_look(self) -> bool:
        """Whether it was never on the bench before, so that nothing of its own is there to compare with."""
        return len([c for c in self.known.checks if c.readings]) < 2

    @cached_property
    def timing_unseen(self) -> bool:
        """Whether there is no earlier timing to compare with, so that nothing can show that it moved."""
        return not any(e.quantity.name == "timing_mean" and e.residual for e in self.judged) and any(
            e.quantity.name == "timing_mean" and not e.expected for e in self.evidence
        )

    @cached_property
    def deciding(self) -> Deciding:
        """What tests are worth."""
        return Deciding(self.posterior, self.prices)


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


@dataclass(frozen=True, slots=True)
class Answer:
    """One of the five answers and why; what its sentence needs travels along. `confidence` is the probability of what
    it says: that something is due (repair, retire), that nothing is (keep, watch), or whichever is likelier."""

    verdict: Verdict
    cause: Cause
    confidence: float
    test: Proposed | None = None
    runs: int = 0
    parts: tuple[FaultKind, ...] = ()
    other: FaultKind | None = None
    items: tuple[inspection.Item, ...] = ()
    event: Event | None = None
    poles: PoleQuestion | None = None
    about: Evidence | None = None


def answer(case: Case) -> Answer:
    """The answer a case calls for.

    Parameters
    ----------
    case : Case
        Everything known and weighed.

    Returns
    -------
    Answer

    Notes
    -----
    Source: bench practice.
    """
    if stop := inspection.forbidding(noticed.standing_findings(case.known)):
        return Answer(Verdict.UNPROVEN, Cause.POWER_FORBIDDEN, 1.0, items=tuple(stop))
    if not any(e.residual for e in case.judged):
        return _misread(case) or _torn(case) or _nothing(case)
    if asked := _pole_question(case):
        test = Proposed("count the poles", 60, "poles")
        return Answer(Verdict.UNPROVEN, Cause.POLE_SETTING, _sure(case), test, poles=asked)
    return (
        _condemned(case) or _misread(case) or _torn(case) or _no_better(case) or _unsettled(case) or _not_shown(case)
        or _healed(case) or _watched(case) or _kept(case)
    )  # fmt: skip


def _sure(case: Case, verdict: Verdict = Verdict.UNPROVEN) -> float:
    due = case.posterior.any_due()
    if verdict in (Verdict.REPAIR, Verdict.RETIRE):
        return due
    return 1 - due if verdict in (Verdict.KEEP, Verdict.WATCH) else max(due, 1 - due)


def _condemned(case: Case) -> Answer | None:
    """Repair or retire: something is due, and it or the part to be changed is named by two witnesses."""
    for verdict, among in ((Verdict.RETIRE, FOR_GOOD), (Verdict.REPAIR, MENDABLE)):
        mine = [f for f in among if f in case.possible]
        due = case.posterior.any_due(mine)
        if case.posterior.any_of(mine) < SURE or due < WORTH_WATCHING or not _witnessed(case, mine):
            continue
        parts = _parts(case, mine)
        sure = [f for f in parts if _presence(case, f) >= 0.5]
        too_dear = verdict is Verdict.REPAIR and case.prices.repair * max(1, len(sure)) >= case.prices.new
        done = Verdict.RETIRE if too_dear else verdict
        if due <= due_at(case.prices, done):
            usual = due > due_at(Prices(), verdict)
            return Answer(Verdict.WATCH, Cause.WORTH_RUNNING_ON, 1 - due, _telling_test(case)) if usual else None
        if too_dear:
            return Answer(Verdict.RETIRE, Cause.NOT_WORTH_REPAIR, due, parts=parts)
        worse = _worse_as_well(case) if verdict is Verdict.REPAIR else None
        test = _telling_test(case) if worse or len(sure) != len(parts) else None
        return Answer(verdict, Cause.CONDEMNED, due, test, parts=parts, other=worse)
    return None


def _worse_as_well(case: Case) -> FaultKind | None:
    """What may be wrong besides that no repair mends."""
    likeliest = max(FOR_GOOD, key=lambda f: (_presence(case, f), f))
    return likeliest if case.posterior.any_due(FOR_GOOD) > UNSURE else None


def _presence(case: Case, fault: FaultKind) -> float:
    return faults.presence(case.posterior, fault).probability


def _parts(case: Case, among: Sequence[FaultKind]) -> tuple[FaultKind, ...]:
    """The faults that may be it, likeliest first."""
    by = {f: _presence(case, f) for f in among}
    order = sorted(by, key=lambda f: (-by[f], f))
    return tuple(f for f in order if by[f] >= _WORTH_NAMING) or tuple(order[:1])


def _witnessed(case: Case, among: Sequence[FaultKind]) -> bool:
    """Whether two witnesses that share no set-up speak for these faults, or one whose set-up was made anew."""
    likely = _parts(case, among)
    telling = {one for one, odds in case.posterior.speaking(likely).items() if odds >= SPEAKS_FROM}
    warm = any(e.quantity.name == "kv" and e.has(NoteKind.TEMPERATURE_ASSUMED) for e in case.judged)
    if warm and telling == {SetUp.SUPPLY, SetUp.LEVER}:
        telling = {SetUp.SUPPLY}  # a warm motor turns faster and clicks weaker: one cause of both
    again = any(e.residual and e.residual.visits > 1 and e.quantity.set_up in telling for e in case.judged)
    seen = noticed.pointing_to(case.known)
    pointed = any(faults.NOTICED_WEIGHT[s].get(f, 1.0) >= 3 for f in likely for s in seen.get(f, ()))
    return len(telling) >= 2 or again or bool(telling and pointed)


def _misread(case: Case) -> Answer | None:
    """A reading that no fault explains: a unit, a meter, a decimal point."""
    odd = next((e for e in case.judged if e.has(NoteKind.MISREAD)), None)
    return Answer(Verdict.UNPROVEN, Cause.MISREAD, _sure(case), _once_more(odd), about=odd) if odd else None


def _torn(case: Case) -> Answer | None:
    """Two runs so far apart that one of them would be past a limit."""
    torn = next((e for e in case.evidence if e.torn and e.fresh), None)
    return Answer(Verdict.UNPROVEN, Cause.THIRD_RUN, _sure(case), _once_more(torn), about=torn) if torn else None


def _once_more(e: Evidence, anew: SetUp | None = None) -> Proposed:
    test = e.quantity.test or plan.TESTS["kv"]
    return Proposed(test.words, test.seconds, test.step, quantity=e.quantity.name, anew=anew)


def _nothing(case: Case) -> Answer:
    test = plan.TESTS["kv"]
    asked = Proposed(test.words, test.seconds, test.step, quantity="kv")
    measured = [e for e in case.evidence if e.now is not None]
    grave = [e for e in case.known.events if e.event in GRAVE]
    if measured and grave and not any(e.fresh for e in measured):
        event = max(grave, key=lambda e: e.at)
        return Answer(Verdict.UNPROVEN, Cause.NOT_SINCE_EVENT, 0.0, asked, event=event)
    if measured:
        return Answer(Verdict.UNPROVEN, Cause.NOTHING_TO_COMPARE, 0.0, _showing_test(case) or asked)
    return Answer(Verdict.UNPROVEN, Cause.NOTHING_MEASURED, 0.0, asked)


def _no_better(case: Case) -> Answer | None:
    if not case.no_better:
        return None
    first = case.no_better[0]
    about = next((e for e in case.evidence if e.quantity.name == first.quantity), None)
    return Answer(Verdict.UNPROVEN, Cause.NO_BETTER, _sure(case), _telling_test(case), event=first.event, about=about)


def _unsettled(case: Case) -> Answer | None:
    """Something may be due, or a quantity lies past its act limit that nothing else explains."""
    past = [e for e in case.judged if e.change and e.residual and e.change.p_past_act >= 0.5]
    if case.posterior.any_due() < PERHAPS_DUE and not past:
        return None
    test = _second_witness(case) or _telling_test(case)
    kinds = [k for k in (MENDABLE, FOR_GOOD) if case.posterior.any_due(k) > UNSURE]
    if test and len(kinds) == 2 and case.posterior.any_of(FAULTS) >= SURE:
        first, other = sorted((_parts(case, k)[0] for k in kinds), key=lambda f: (-_presence(case, f), f))
        return Answer(Verdict.UNPROVEN, Cause.TELL_APART, _sure(case), test, parts=(first,), other=other)
    if test and test.anew:
        return Answer(Verdict.UNPROVEN, Cause.SET_UP, _sure(case), test)
    near = [e for e in case.judged if e.residual and e.change and UNSURE < e.change.p_past_act < SURE]
    if test is None and near and case.none() < 0.5:
        nearest = max(near, key=lambda e: (e.change.p_past_act if e.change else 0.0, e.quantity.name))
        if nearest.change and nearest.change.further_runs:
            runs = nearest.change.further_runs
            return Answer(Verdict.UNPROVEN, Cause.MORE_RUNS, _sure(case), _once_more(nearest), runs=runs)
    if test:
        return Answer(Verdict.UNPROVEN, Cause.TEST_SETTLES, _sure(case), test)
    again = _anew(case, past)
    return Answer(Verdict.UNPROVEN, Cause.SET_UP if again else Cause.NOT_SETTLED, _sure(case), again)


def _second_witness(case: Case) -> Proposed | None:
    """Where something due is named by one witness alone: the test of another that it would show in most, for its
    time."""
    for verdict, among in ((Verdict.RETIRE, FOR_GOOD), (Verdict.REPAIR, MENDABLE)):
        mine = [f for f in among if f in case.possible]
        if case.posterior.any_of(mine) >= SURE and case.posterior.any_due(mine) > due_at(case.prices, verdict):
            leading, told = _parts(case, mine)[0], {e.quantity.set_up for e in case.judged if e.residual}
            showing = {
                n: (shows(leading, n, _u_of(case, n)) / (_SETTING_UP_S + t.seconds), n)
                for n, t in _candidates(case).items() if QUANTITIES[n].set_up not in told
            }  # fmt: skip
            best = max(showing, key=lambda n: showing[n], default=None)
            if best and showing[best][0] > 0:
                return _proposed(case, best, 1)
    return None


def _anew(case: Case, past: Sequence[Evidence]) -> Proposed | None:
    """What raised the question, to be read again with its set-up made anew."""
    leading = _parts(case, case.possible)[0]
    asked = past or [e for e in case.judged if e.residual and leading in e.quantity.signature]
    able = [e for e in asked if e.quantity.test and e.change]
    if not able:
        return None
    worst = min(able, key=lambda e: (e.change.headroom if e.change else 1.0, e.quantity.name))
    return _once_more(worst, worst.quantity.set_up)


def _not_shown(case: Case) -> Answer | None:
    """Nothing seen, but not everything that could be wrong would have shown."""
    hidden = case.hidden
    if case.timing_unseen:  # nothing can show a timing that moved before it was ever seen
        hidden = tuple(f for f in hidden if f is not FaultKind.TIMING_MOVED)
    if not hidden:
        return None
    return Answer(Verdict.UNPROVEN, Cause.NOT_SHOWN, _sure(case), _showing_test(case), parts=hidden)


def _healed(case: Case) -> Answer | None:
    """Retired, and measured fine since, with no repair on record."""
    event = noticed.retired_and_nothing_done(case.known)
    return Answer(Verdict.UNPROVEN, Cause.WHAT_WAS_DONE, _sure(case), event=event) if event else None


def _watched(case: Case) -> Answer | None:
    near = any(e.change and e.residual and e.change.p_past_watch >= SURE for e in case.judged)
    confidence = _sure(case, Verdict.WATCH)
    if any(t.creeping_since for t in case.trends):
        return Answer(Verdict.WATCH, Cause.CREEPING, confidence, _telling_test(case))
    if near or case.none() < 0.5 or case.posterior.any_due() > WORTH_WATCHING:
        return Answer(Verdict.WATCH, Cause.WATCHING, confidence, _telling_test(case))
    return None


def _kept(case: Case) -> Answer:
    cause = Cause.CAME_BACK_SOUND if noticed.came_back(case.known) else Cause.SOUND
    return Answer(Verdict.KEEP, cause, _sure(case, Verdict.KEEP))


def _telling_test(case: Case) -> Proposed | None:
    """The test worth most for its time, how often to do it, and whether it means clamping anew."""
    worth: dict[str, float] = {}
    minutes = {n: (_SETTING_UP_S + t.seconds) / 60 for n, t in _candidates(case).items()}
    residuals = {e.quantity.name: e.residual for e in case.judged if e.residual}
    told = {QUANTITIES[n].set_up for n in residuals}
    for name, length in minutes.items():
        gain = case.deciding.of(name, _u_of(case, name), residuals.get(name)) / length
        if QUANTITIES[name].set_up in told:
            gain /= ANOTHER_WITNESS
        if gain > _WORTH_A_MINUTE:
            worth[name] = gain
    if not worth:
        return None
    best = max(worth, key=lambda name: (worth[name], name))
    before = residuals.get(best)
    gains = [case.deciding.of(best, _u_of(case, best) / n**0.5, before) for n in range(1, _MOST_REPEATS + 1)]
    times = next(n for n, gain in enumerate(gains, 1) if gain >= 0.9 * gains[-1] or n == _MOST_REPEATS)
    return _proposed(case, best, times)


def _showing_test(case: Case) -> Proposed | None:
    """The test after which most of what could be wrong would have shown, for its time."""
    told = [e.residual for e in case.judged if e.residual and not e.against_label]

    def gain(name: str) -> tuple[float, str]:
        more = [*told, faults.Residual(name, 0.0, _u_of(case, name))]
        shown = sum(would_have_shown(more, f) for f in case.hidden)
        return shown / (_SETTING_UP_S + plan.TESTS[name].seconds), name

    done = {e.quantity.name for e in case.judged if e.residual}
    bare = {e.quantity.name for e in case.evidence if not e.expected}
    left = [n for n in _candidates(case) if n not in done | bare]
    best = max(left, key=gain, default=None)
    return _proposed(case, best, 1) if best and gain(best)[0] > 0 else None


def _candidates(case: Case) -> Mapping[str, BenchTest]:
    """The tests this motor allows, but those that were done and have nothing to compare with."""
    idle = {e.quantity.name for e in case.evidence if e.now is not None and not e.expected}
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


def _pole_question(case: Case) -> PoleQuestion | None:
    """Whether another pole count would explain KV."""
    found = next((e for e in case.judged if e.quantity.name == "kv"), None)
    if found is None or found.now is None or found.change is None:
        return None
    others = [e.residual for e in case.judged if e.residual and e.quantity.name != "kv"]
    speaking = case.posterior.speaking([f for f in FOR_GOOD if f in case.possible])
    besides = any(odds >= SPEAKS_FROM for one, odds in speaking.items() if one is not SetUp.SUPPLY)
    sound = not besides and faults.nothing_wrong(faults.weigh(others)) > 0.5
    return pole_question.question(case.known, found.now, found.change.value, found.baseline, sound)
