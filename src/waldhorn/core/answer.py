"""What follows from the evidence: one of the five answers, its cause and the next test.

Repair and retire are said only of what is past a limit and explained by a fault, and only when they cost less than
running on. Not the weighing itself (see `faults`) and not the words (see `sentences`).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from waldhorn.core import evidence as ev
from waldhorn.core import faults, inspection, noticed, plan, poles
from waldhorn.core.change import SURE, UNSURE
from waldhorn.core.evidence import Evidence
from waldhorn.core.faults import Fault, Posterior
from waldhorn.core.history import Event, History
from waldhorn.core.hypotheses import SIGNATURES
from waldhorn.core.measures import MAGNET_STRENGTH, QUANTITIES
from waldhorn.core.vocabulary import FAULTS, GRAVE, FaultKind, PolesBy, Source, State, Verdict

# What is done about each fault.
REMEDIES: Mapping[FaultKind, Verdict] = {
    FaultKind.DEMAGNETISED_ROTOR: Verdict.RETIRE,
    FaultKind.CRACKED_MAGNET: Verdict.RETIRE,
    FaultKind.WORN_BEARING: Verdict.REPAIR,
    FaultKind.BENT_SHAFT: Verdict.REPAIR,
    FaultKind.SHORTED_TURN: Verdict.RETIRE,
    FaultKind.TIMING_MOVED: Verdict.REPAIR,
    FaultKind.FAILING_SENSOR: Verdict.REPAIR,
}
FAILS_PAST_ACT = 0.8  # how often a motor past an act limit fails its heat (bench practice) ...
FAILS_BEFORE = 0.1  # ... and one with a smaller fault
# Both hang on supply, controller and timing: between them they clear a motor or raise a question, never condemn one.
SHARED = ("kv", "no_load_current")
_SETTING_UP_S = 120  # what any test costs before it starts (bench practice)
_NO_FAULT_MOVES_KV_SO_PCT = 25.0
_WORTH_TESTING = 0.05  # nats
_MOST_REPEATS = 4


class Cause(StrEnum):
    """Why an answer is what it is."""

    POWER_FORBIDDEN = "power_forbidden"
    NOTHING_MEASURED = "nothing_measured"
    NOT_SINCE_EVENT = "not_since_event"
    POLE_SETTING = "pole_setting"
    CONDEMNED = "condemned"
    NOT_WORTH_REPAIR = "not_worth_repair"
    TELL_APART = "tell_apart"
    WORTH_RUNNING_ON = "worth_running_on"
    MORE_RUNS = "more_runs"
    TEST_SETTLES = "test_settles"
    REPEAT_SETTLES = "repeat_settles"
    WATCHING = "watching"
    CAME_BACK_SOUND = "came_back_sound"
    SOUND = "sound"


@dataclass(frozen=True, slots=True)
class Prices:
    """What the owner sets against each other: a new motor, the repair, a failure in a heat."""

    new: float = 1.0
    repair: float = 0.3
    failure: float = 1.5


@dataclass(frozen=True, slots=True)
class Case:
    """What an answer is made from."""

    known: History
    evidence: tuple[Evidence, ...]
    judged: tuple[Evidence, ...]
    posterior: Posterior
    weighed: tuple[Fault, ...]
    prices: Prices

    def none(self) -> float:
        """Probability that nothing is wrong with the motor."""
        return next(f.probability for f in self.weighed if f.fault is FaultKind.NONE)

    def states(self) -> set[State]:
        """The states of all judged quantities."""
        return {e.state for e in self.judged}


@dataclass(frozen=True, slots=True)
class Proposed:
    """A test to do next: what to do, how often, for how long in all, and in which step."""

    words: str
    seconds: int
    step: str
    times: int = 1


@dataclass(frozen=True, slots=True)
class PoleQuestion:
    """A pole count that would explain a KV: KV shown and expected, the count on record and the one that fits."""

    shown: float
    expected: float
    on_record: int
    poles: int
    kv: float


@dataclass(frozen=True, slots=True)
class Answer:
    """One of the five answers and why; what its sentence needs travels along."""

    verdict: Verdict
    cause: Cause
    confidence: float
    test: Proposed | None = None
    runs: int = 0
    other: Fault | None = None
    items: tuple[inspection.Item, ...] = ()
    event: Event | None = None
    poles: PoleQuestion | None = None


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
    if not case.judged:
        return _nothing(case)
    if asked := _pole_question(case):
        test = Proposed("count the poles", 60, "poles")
        return Answer(Verdict.UNPROVEN, Cause.POLE_SETTING, case.none(), test, poles=asked)
    return _condemned(case) or _cleared(case)


def _cleared(case: Case) -> Answer:
    any_act = case.posterior.any_act()
    near_act = [e for e in case.judged if e.change and e.change.p_past_act > UNSURE]
    if State.PAST in case.states() or any_act > UNSURE or (near_act and case.none() < SURE):
        return _unproven(case, near_act)
    if State.WATCH in case.states() or case.none() < 0.5:
        sure = max((e.change.p_past_watch for e in case.judged if e.change), default=0.0)
        return Answer(Verdict.WATCH, Cause.WATCHING, max(sure, 1 - case.none()), _telling_test(case))
    cause = Cause.CAME_BACK_SOUND if noticed.came_back(case.known) else Cause.SOUND
    return Answer(Verdict.KEEP, cause, 1 - any_act)


def _condemned(case: Case) -> Answer | None:
    """Repair or retire: something is past its limit, a fault explains it, and keeping it costs more."""
    leading = case.weighed[0]
    besides = [e for e in case.judged if e.residual and e.quantity.name not in SHARED]
    if leading.fault is FaultKind.NONE or case.none() > UNSURE or not besides:
        return None
    explained = {q for f in leading.names for q in SIGNATURES[f]} | {MAGNET_STRENGTH.name}
    past = any(e.state is State.PAST and e.quantity.name in explained for e in case.judged)
    if not past and case.posterior.any_act() < SURE:
        return None
    for_good = [f for f in FAULTS if REMEDIES[f] is Verdict.RETIRE]
    gone = sum(h.probability for h in case.weighed if any(n in for_good for n in h.names))
    if UNSURE < gone < SURE and (test := _telling_test(case)):
        return Answer(Verdict.UNPROVEN, Cause.TELL_APART, leading.probability, test, other=_other(case))
    costs = _costs(case, leading, past)
    verdict = min(costs, key=lambda name: (costs[name], name))
    if verdict is Verdict.KEEP:
        return Answer(Verdict.WATCH, Cause.WORTH_RUNNING_ON, 1 - case.none(), _telling_test(case))
    mendable = all(REMEDIES[f] is Verdict.REPAIR for f in leading.names)
    cause = Cause.NOT_WORTH_REPAIR if verdict is Verdict.RETIRE and mendable else Cause.CONDEMNED
    return Answer(verdict, cause, _sure_of(case, verdict, leading))


def _costs(case: Case, leading: Fault, past: bool) -> dict[Verdict, float]:
    """Expected cost of running on, of the repair that mends the leading fault, and of a new motor.

    A fault that has carried a quantity past its act limit is at its act limit, whatever its other signs say.
    """
    price = case.prices
    act = 1 - case.none() if past else case.posterior.any_act()
    small = 1 - case.none() - act
    costs = {
        Verdict.KEEP: price.failure * (FAILS_PAST_ACT * act + FAILS_BEFORE * max(0.0, small)),
        Verdict.RETIRE: price.new,
    }
    if all(REMEDIES[f] is Verdict.REPAIR for f in leading.names):
        left = case.posterior.any_act([f for f in FAULTS if f not in leading.names])
        costs[Verdict.REPAIR] = price.repair * len(leading.names) + price.failure * FAILS_PAST_ACT * left
    return costs


def _sure_of(case: Case, verdict: Verdict, leading: Fault) -> float:
    """Probability of what the answer rests on: the named fault is there, or any that calls for the same answer."""
    if verdict is Verdict.RETIRE and REMEDIES[leading.fault] is not Verdict.RETIRE:
        return 1 - case.none()
    same = [f for f in FAULTS if REMEDIES[f] is REMEDIES[leading.fault]]
    return min(1.0, sum(h.probability for h in case.weighed if any(n in same for n in h.names)))


def _other(case: Case) -> Fault:
    """The likeliest hypothesis that calls for another answer than the leading one."""
    leads = REMEDIES[case.weighed[0].fault]
    return next(f for f in case.weighed[1:] if REMEDIES.get(f.fault) is not leads)


def _nothing(case: Case) -> Answer:
    test = plan.TESTS["kv"]
    asked = Proposed(test.words, test.seconds, test.step)
    measured = [e for e in case.evidence if e.now is not None]
    grave = [e for e in case.known.events if e.event in GRAVE]
    if measured and grave and not any(e.fresh for e in measured):
        event = max(grave, key=lambda e: e.at)
        return Answer(Verdict.UNPROVEN, Cause.NOT_SINCE_EVENT, 0.0, asked, event=event)
    return Answer(Verdict.UNPROVEN, Cause.NOTHING_MEASURED, 0.0, asked)


def _unproven(case: Case, near_act: Sequence[Evidence]) -> Answer:
    first = next((e for e in near_act if e.change and e.change.further_runs), None)
    test = _telling_test(case)
    confidence = max(case.weighed[0].probability, 0.0)
    if first and first.change and first.change.further_runs and (not test or State.PAST not in case.states()):
        again = first.change.further_runs
        repeat = plan.TESTS.get(first.quantity.name, plan.TESTS["kv"])
        asked = Proposed(repeat.words, again * repeat.seconds, repeat.step)
        return Answer(Verdict.UNPROVEN, Cause.MORE_RUNS, confidence, asked, runs=again)
    if test:
        return Answer(Verdict.UNPROVEN, Cause.TEST_SETTLES, confidence, test)
    worst = min(case.judged, key=lambda e: e.change.headroom if e.change else 1.0)
    repeat = plan.TESTS.get(worst.quantity.name, plan.TESTS["kv"])
    asked = Proposed(repeat.words, repeat.seconds, repeat.step)
    return Answer(Verdict.UNPROVEN, Cause.REPEAT_SETTLES, confidence, asked)


def _telling_test(case: Case) -> Proposed | None:
    """The test that tells most about what is wrong for its time, and how often to do it."""
    done = {e.quantity.name for e in case.judged}
    worth: dict[str, float] = {}
    for name, test in plan.possible(case.known.motor, done).items():
        gain = faults.expected_information(case.posterior, name, _u_of(name), calls_for)
        if gain > _WORTH_TESTING:
            worth[name] = gain / (_SETTING_UP_S + test.seconds)
    if not worth:
        return None
    best = max(worth, key=lambda name: (worth[name], name))
    gains = [faults.expected_information(case.posterior, best, _u_of(best) / n**0.5, calls_for)
             for n in range(1, _MOST_REPEATS + 1)]  # fmt: skip
    times = next(n for n, gain in enumerate(gains, 1) if gain >= 0.9 * gains[-1] or n == _MOST_REPEATS)
    test = plan.TESTS[best]
    return Proposed(test.words, times * test.seconds, test.step, times)


def calls_for(members: tuple[FaultKind, ...]) -> str:
    """The answer that faults call for: keep when there are none, retire when one cannot be mended."""
    answers = {REMEDIES[f] for f in members}
    return Verdict.RETIRE if Verdict.RETIRE in answers else Verdict.REPAIR if answers else Verdict.KEEP


def _u_of(name: str) -> float:
    """Uncertainty of a test as evidence: its own, and the drift a sound motor is allowed."""
    return float((plan.TESTS[name].u ** 2 + (ev.DRIFT_SHARE * QUANTITIES[name].limits.watch) ** 2) ** 0.5)


def _pole_question(case: Case) -> PoleQuestion | None:
    """Whether another pole count would explain KV; the label is not asked once the poles were counted."""
    motor = case.known.motor
    found = next((e for e in case.judged if e.quantity.name == "kv"), None)
    if found is None or found.now is None or found.change is None or not motor.poles:
        return None
    if abs(found.change.value) < _NO_FAULT_MOVES_KV_SO_PCT and not _otherwise_sound(case):
        return None
    own = found.baseline.value if found.baseline and found.baseline.source is Source.OWN else None
    label = None if motor.poles_known_by in (PolesBy.COUNTED, PolesBy.ELECTRICAL) else motor.label_kv
    for expected in (own, label):
        asked = poles.wrong_setting(found.now, expected, motor.poles) if expected else None
        if asked and expected:
            return PoleQuestion(found.now, expected, motor.poles, asked.poles, asked.kv)
    return None


def _otherwise_sound(case: Case) -> bool:
    """Whether everything but KV says that nothing is wrong: only then is the setting the better question."""
    others = [e.residual for e in case.judged if e.residual and e.quantity.name != "kv"]
    return faults.nothing_wrong(faults.weigh(others)) > 0.5
