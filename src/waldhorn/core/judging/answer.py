"""What follows from the evidence: one of the five answers, its cause and the next test.

Repair and retire are said of a fault that is due and named by two evidence sources that share no set-up, or by one that
was clamped anew; keep is said when what could be wrong would have shown. Not the weighing itself (see `faults`), not
the next test (see `next_test`) and not the words (see `headlines`).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from waldhorn.core.base.history import Event
from waldhorn.core.base.vocabulary import FAULTS, GRAVE, FaultKind, Look, NoteKind, SetUp, Verdict
from waldhorn.core.judging import hands, next_test, noticed, plan, questions
from waldhorn.core.judging.case import Case
from waldhorn.core.judging.change import SURE, UNSURE
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.evidence_sources import SPEAKS_FROM
from waldhorn.core.judging.next_test import Proposed
from waldhorn.core.judging.pole_question import PoleQuestion
from waldhorn.core.judging.questions import Question, Why, first_blocking
from waldhorn.core.judging.remedies import FOR_GOOD, MENDABLE, Prices, due_at
from waldhorn.core.measuring import inspection

PERHAPS_DUE = 0.2  # more than this and a test is asked for ...
WORTH_WATCHING = 0.05  # ... more than this, and an eye is kept on it
# What is done at a step that reads no quantity.
LOOKS = {"look": "look at it again", "sensors": "watch the Hall lamps", "first_spin": "first spin",
         "swap": "swap motor and controller", "poles": "count the poles"}  # fmt: skip


class Cause(StrEnum):
    """Why an answer is what it is."""

    POWER_FORBIDDEN = "power_forbidden"
    NOTHING_MEASURED = "nothing_measured"
    NOTHING_TO_COMPARE = "nothing_to_compare"
    NOT_SINCE_EVENT = "not_since_event"
    RIG_OUT = "rig_out"
    POLE_SETTING = "pole_setting"
    ASKED = "asked"
    CONDEMNED = "condemned"
    NOT_WORTH_REPAIR = "not_worth_repair"
    TELL_APART = "tell_apart"
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
    question: Question | None = None


def answer(case: Case, asked: Sequence[Question] = ()) -> Answer:
    """The answer a case calls for.

    Parameters
    ----------
    case : Case
        Everything known and weighed.
    asked : sequence of Question
        What has to be asked of it, first things first.

    Returns
    -------
    Answer

    Notes
    -----
    Source: bench practice.
    """
    if stop := inspection.forbidding(hands.open_findings(case.known)):
        return Answer(Verdict.UNPROVEN, Cause.POWER_FORBIDDEN, 1.0, items=tuple(stop))
    if not any(e.residual for e in case.judged):
        return _rig_out(case) or _asked(case, asked) or _torn(case) or _nothing(case)
    if slip := _asked(case, asked, Why.SLIP):
        return slip
    if case.poles:
        test = Proposed("count the poles", 60, "poles")
        return Answer(Verdict.UNPROVEN, Cause.POLE_SETTING, _sure(case), test, poles=case.poles)
    return (
        _condemned(case)
        or _rig_out(case)
        or _asked(case, asked, Why.BASELINE, Why.RIG)
        or _torn(case)
        or _asked_by_hand(case, asked)
        or _no_better(case)
        or _unexplained(case, asked)
        or _unsettled(case)
        or _asked(case, asked)
        or _not_shown(case)
        or _healed(case)
        or _watched(case)
        or _kept(case)
    )


def _asked(case: Case, asked: Sequence[Question], *why: Why) -> Answer | None:
    """What has to be asked first."""
    one = first_blocking(asked, *why)
    if one is None:
        return None
    about = next((e for e in case.evidence if e.quantity.name == one.quantity), None)
    test = _test_at(one.step, about)
    return Answer(Verdict.UNPROVEN, Cause.ASKED, _sure(case), test, about=about, question=one)


def _asked_by_hand(case: Case, asked: Sequence[Question]) -> Answer | None:
    """What eyes and hands found and no test has settled yet is said before any test that would tell more."""
    unread = [f for f in case.hands if f.state is not Look.OK and questions.unsettled(case, f)]
    return _asked(case, asked, Why.HAND) if unread else None


def _unexplained(case: Case, asked: Sequence[Question]) -> Answer | None:
    """A change that no fault explains, where nothing else may be due."""
    return _asked(case, asked, Why.SETUP) if case.posterior.any_due() < PERHAPS_DUE else None


def _test_at(step: str, about: Evidence | None) -> Proposed | None:
    """The test of a step."""
    if about is not None and about.quantity.test and about.quantity.test.step == step:
        return next_test.once_more(about)
    named = next((n for n, t in plan.TESTS.items() if t.step == step), None)
    if named is None:
        return Proposed(LOOKS.get(step, "look at it again"), 60, step)
    test = plan.TESTS[named]
    return Proposed(test.words, test.seconds, test.step, quantity=named)


def _sure(case: Case, verdict: Verdict = Verdict.UNPROVEN) -> float:
    due = case.posterior.any_due()
    if verdict in (Verdict.REPAIR, Verdict.RETIRE):
        return due
    return 1 - due if verdict in (Verdict.KEEP, Verdict.WATCH) else max(due, 1 - due)


def _condemned(case: Case) -> Answer | None:
    """Repair or retire: something is due, and it or the part to be changed is named by two evidence sources."""
    for verdict, among in ((Verdict.RETIRE, FOR_GOOD), (Verdict.REPAIR, MENDABLE)):
        mine = [f for f in among if f in case.possible]
        due = case.posterior.any_due(mine)
        if case.posterior.any_of(mine) < SURE or due < WORTH_WATCHING or not _corroborated(case, mine):
            continue
        parts = case.parts(mine)
        sure = case.sure(parts)
        too_dear = verdict is Verdict.REPAIR and case.prices.repair * max(1, len(sure)) >= case.prices.new
        done = Verdict.RETIRE if too_dear else verdict
        if due <= due_at(case.prices, done):
            usual = due > due_at(Prices(), verdict)
            return Answer(Verdict.WATCH, Cause.WORTH_RUNNING_ON, 1 - due, next_test.telling(case)) if usual else None
        if too_dear:
            return Answer(Verdict.RETIRE, Cause.NOT_WORTH_REPAIR, due, parts=parts)
        worse = _worse_as_well(case) if verdict is Verdict.REPAIR else None
        test = next_test.telling(case) if worse or len(sure) != len(parts) else None
        return Answer(verdict, Cause.CONDEMNED, due, test, parts=parts, other=worse)
    return None


def _worse_as_well(case: Case) -> FaultKind | None:
    """What may be wrong besides that no repair mends."""
    likeliest = max(FOR_GOOD, key=lambda f: (case.presence(f), f))
    return likeliest if case.posterior.any_due(FOR_GOOD) > UNSURE else None


def _corroborated(case: Case, among: Sequence[FaultKind]) -> bool:
    """Whether two evidence sources that share no set-up speak for these faults, or one whose set-up was made anew."""
    likely = case.parts(among)
    telling = {one for one, odds in case.posterior.speaking(likely).items() if odds >= SPEAKS_FROM}
    warm = any(e.quantity.name == "kv" and e.has(NoteKind.TEMPERATURE_ASSUMED) for e in case.judged)
    if warm and telling == {SetUp.SUPPLY, SetUp.LEVER}:
        telling = {SetUp.SUPPLY}  # a warm motor turns faster and clicks weaker: one cause of both
    again = any(e.residual and e.residual.visits > 1 and e.quantity.set_up in telling for e in case.judged)
    return len(telling) >= 2 or again


def _rig_out(case: Case) -> Answer | None:
    """What was read on a rig that its reference motor shows to be out tells nothing: the rig first."""
    about = next((e for e in case.judged if e.has(NoteKind.RIG_OUT)), None)
    if about is None:
        return None
    return Answer(Verdict.UNPROVEN, Cause.RIG_OUT, _sure(case), next_test.once_more(about), about=about)


def _torn(case: Case) -> Answer | None:
    """Two runs so far apart that one of them would be past a limit."""
    torn = next((e for e in case.evidence if e.torn and e.fresh), None)
    return (
        Answer(Verdict.UNPROVEN, Cause.THIRD_RUN, _sure(case), next_test.once_more(torn), about=torn) if torn else None
    )


def _nothing(case: Case) -> Answer:
    test = plan.TESTS["kv"]
    asked = Proposed(test.words, test.seconds, test.step, quantity="kv")
    measured = [e for e in case.evidence if e.now is not None]
    grave = [e for e in case.known.events if e.event in GRAVE]
    if measured and grave and not any(e.fresh for e in measured):
        event = max(grave, key=lambda e: e.at)
        return Answer(Verdict.UNPROVEN, Cause.NOT_SINCE_EVENT, 0.0, asked, event=event)
    if measured:
        return Answer(Verdict.UNPROVEN, Cause.NOTHING_TO_COMPARE, 0.0, next_test.showing(case) or asked)
    return Answer(Verdict.UNPROVEN, Cause.NOTHING_MEASURED, 0.0, asked)


def _no_better(case: Case) -> Answer | None:
    if not case.no_better:
        return None
    first = case.no_better[0]
    about = next((e for e in case.evidence if e.quantity.name == first.quantity), None)
    return Answer(
        Verdict.UNPROVEN, Cause.NO_BETTER, _sure(case), next_test.telling(case), event=first.event, about=about
    )


def _unsettled(case: Case) -> Answer | None:
    """Something may be due, or a quantity lies past its act limit that nothing else explains."""
    past = [e for e in case.judged if e.change and e.residual and e.change.p_past_act >= 0.5 and not e.against_label]
    if case.posterior.any_due() < PERHAPS_DUE and not past:
        return None
    test = next_test.second_source(case) or next_test.telling(case)
    kinds = [k for k in (MENDABLE, FOR_GOOD) if case.posterior.any_due(k) > UNSURE]
    if test and len(kinds) == 2 and case.posterior.any_of(FAULTS) >= SURE:
        first, other = sorted((case.parts(k)[0] for k in kinds), key=lambda f: (-case.presence(f), f))
        return Answer(Verdict.UNPROVEN, Cause.TELL_APART, _sure(case), test, parts=(first,), other=other)
    if test and test.anew:
        return Answer(Verdict.UNPROVEN, Cause.SET_UP, _sure(case), test)
    near = [e for e in case.judged if e.residual and e.change and UNSURE < e.change.p_past_act < SURE]
    if test is None and near and case.none() < 0.5:
        nearest = max(near, key=lambda e: (e.change.p_past_act if e.change else 0.0, e.quantity.name))
        if nearest.change and nearest.change.further_runs:
            runs = nearest.change.further_runs
            return Answer(Verdict.UNPROVEN, Cause.MORE_RUNS, _sure(case), next_test.once_more(nearest), runs=runs)
    if test:
        return Answer(Verdict.UNPROVEN, Cause.TEST_SETTLES, _sure(case), test)
    again = next_test.anew(case, past)
    cause = Cause.NOT_SETTLED if again is None else Cause.SET_UP if again.anew else Cause.TEST_SETTLES
    return Answer(Verdict.UNPROVEN, cause, _sure(case), again)


def _not_shown(case: Case) -> Answer | None:
    """Nothing seen, but not everything that could be wrong would have shown."""
    hidden = case.hidden
    if case.timing_unseen:  # nothing can show a timing that moved before it was ever seen
        hidden = tuple(f for f in hidden if f is not FaultKind.TIMING_MOVED)
    if not hidden:
        return None
    return Answer(Verdict.UNPROVEN, Cause.NOT_SHOWN, _sure(case), next_test.showing(case), parts=hidden)


def _healed(case: Case) -> Answer | None:
    """Retired, and measured fine since, with no repair on record."""
    event = noticed.retired_and_nothing_done(case.known)
    return Answer(Verdict.UNPROVEN, Cause.WHAT_WAS_DONE, _sure(case), event=event) if event else None


def _watched(case: Case) -> Answer | None:
    near = any(e.change and e.residual and e.change.p_past_watch >= SURE for e in case.judged)
    confidence = _sure(case, Verdict.WATCH)
    by = {e.quantity.name: e for e in case.judged if e.residual}
    if any(t.creeping_since and t.quantity in by for t in case.trends):
        return Answer(Verdict.WATCH, Cause.CREEPING, confidence, next_test.telling(case))
    if near or case.none() < 0.5 or case.posterior.any_due() > WORTH_WATCHING:
        return Answer(Verdict.WATCH, Cause.WATCHING, confidence, next_test.telling(case))
    return None


def _kept(case: Case) -> Answer:
    cause = Cause.CAME_BACK_SOUND if noticed.came_back(case.known) else Cause.SOUND
    return Answer(Verdict.KEEP, cause, _sure(case, Verdict.KEEP))
