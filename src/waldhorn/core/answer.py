"""What follows from the evidence: one of the five answers, its sentence, its reasons and the next test.

Repair and retire are said only of what is past a limit and explained by a fault, and only when they cost less than
running on. Not the weighing itself (see `faults`).
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core import evidence as ev
from waldhorn.core import faults, inspection, noticed, plan, poles
from waldhorn.core.change import SURE, UNSURE, Z_SURE
from waldhorn.core.evidence import Evidence
from waldhorn.core.faults import Fault, Posterior
from waldhorn.core.history import History
from waldhorn.core.hypotheses import NONE, SIGNS
from waldhorn.core.measures import QUANTITIES

# What is done about each fault: the answer, what to do in words, and what it is called in a sentence.
DONE: Mapping[str, tuple[str, str]] = {
    "demagnetised_rotor": ("retire", "the magnets have weakened"),
    "cracked_magnet": ("retire", "a magnet is cracked or loose"),
    "worn_bearing": ("repair", "replace the bearings"),
    "bent_shaft": ("repair", "replace the shaft or bell"),
    "shorted_turn": ("retire", "a turn is shorted"),
    "timing_moved": ("repair", "set the timing back and tighten the end bell"),
    "failing_sensor": ("repair", "replace the sensor board"),
}
LOOK_ELSEWHERE = "sensor cable, controller, pack, gearing"
FAILS_PAST_ACT = (
    0.8  # how often a motor past an act limit fails its heat, and one with a smaller fault (bench practice)
)
FAILS_BEFORE = 0.1
# Both hang on supply, controller and timing: between them they clear a motor or raise a question, never condemn one.
SHARED = ("kv", "no_load_current")
_SETTING_UP_S = 120  # what any test costs before it starts (bench practice)
_NO_FAULT_MOVES_KV_SO_PCT = 25.0
_WORTH_TESTING = 0.05  # nats
_MOST_REPEATS = 4


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
        return next(f.probability for f in self.weighed if f.fault == NONE)

    def states(self) -> set[str]:
        """The states of all judged quantities."""
        return {e.state for e in self.judged}


@dataclass(frozen=True, slots=True)
class Answer:
    verdict: str
    headline: str
    reason: str
    confidence: float
    test: tuple[str, int, str] | None = None


def answer(case: Case) -> Answer:
    if stop := inspection.forbidding(noticed.looked_at(case.known)):
        names = ", ".join(i.title for i in stop)
        return Answer("unproven", f"No power: {names}. Mend it first.", f"Found bad: {names}.", 1.0)
    if not case.judged:
        return _nothing(case)
    if setting := _pole_question(case):
        return Answer("unproven", "Unproven: pole setting?", setting, case.none(), ("count the poles", 60, "poles"))
    if condemned := _condemned(case):
        return condemned
    reasons = _reasons(case.judged)
    any_act = case.posterior.any_act()
    near_act = [e for e in case.judged if e.change and e.change.p_past_act > UNSURE]
    if "past" in case.states() or any_act > UNSURE or (near_act and case.none() < SURE):
        return _unproven(case, reasons, near_act)
    if "watch" in case.states() or case.none() < 0.5:
        sure = max((e.change.p_past_watch for e in case.judged if e.change), default=0.0)
        test = _telling_test(case)
        return Answer("watch", _watch_headline(case), reasons, max(sure, 1 - case.none()), test)
    if noticed.came_back(case.known):
        headline = "Keep. Fine on the bench: look at the machine."
        return Answer("keep", headline, f"{reasons} Next suspects: {LOOK_ELSEWHERE}.", 1 - any_act)
    return Answer("keep", "Keep.", reasons, 1 - any_act)


def _condemned(case: Case) -> Answer | None:
    """Repair or retire: something is past its limit, a fault explains it, and keeping it costs more."""
    leading = case.weighed[0] if case.weighed[0].fault != NONE else None
    besides = [e for e in case.judged if e.witness and e.quantity.name not in SHARED]
    if leading is None or case.none() > UNSURE or not besides:
        return None
    explained = {q for f in leading.names for q in SIGNS[f]} | {"magnet_strength"}
    past = any(e.state == "past" and e.quantity.name in explained for e in case.judged)
    if not past and case.posterior.any_act() < SURE:
        return None
    answers = {f: DONE[f][0] for f in SIGNS}
    for_good = [f for f, a in answers.items() if a == "retire"]
    gone = sum(h.probability for h in case.weighed if any(n in for_good for n in h.names))
    if UNSURE < gone < SURE and (test := _telling_test(case)):
        words = f"Unproven: {test[0]} would tell {_name(case.weighed[0])} from {_name(_other(case))}."
        return Answer("unproven", words, _reasons(case.judged), case.weighed[0].probability, test)
    costs = _costs(case, leading, past)
    verdict = min(costs, key=lambda name: (costs[name], name))
    if verdict == "keep":
        words = "Watch: by your prices it is worth running on."
        return Answer("watch", words, _reasons(case.judged), 1 - case.none(), _telling_test(case))
    return Answer(verdict, _headline(verdict, leading), _reasons(case.judged), _sure_of(case, verdict, leading))


def _costs(case: Case, leading: Fault, past: bool) -> dict[str, float]:
    """Expected cost of running on, of the repair that mends the leading fault, and of a new motor.

    A fault that has carried a quantity past its act limit is at its act limit, whatever its other signs say.
    """
    price = case.prices
    act = 1 - case.none() if past else case.posterior.any_act()
    small = 1 - case.none() - act
    costs = {
        "keep": price.failure * (FAILS_PAST_ACT * act + FAILS_BEFORE * max(0.0, small)),
        "retire": price.new,
    }
    if all(DONE[f][0] == "repair" for f in leading.names):
        left = case.posterior.any_act([f for f in SIGNS if f not in leading.names])
        costs["repair"] = price.repair * len(leading.names) + price.failure * FAILS_PAST_ACT * left
    return costs


def _sure_of(case: Case, verdict: str, leading: Fault) -> float:
    """Probability of what the answer rests on: the named fault is there, or any that calls for the same answer."""
    if verdict == "retire" and DONE[leading.fault][0] != "retire":
        return 1 - case.none()
    same = [f for f in SIGNS if DONE[f][0] == DONE[leading.fault][0]]
    return min(1.0, sum(h.probability for h in case.weighed if any(n in same for n in h.names)))


def _headline(verdict: str, leading: Fault) -> str:
    words = " and ".join(DONE[f][1] for f in leading.names)
    if verdict == "retire" and all(DONE[f][0] == "repair" for f in leading.names):
        return f"Retire: not worth the repair ({words})."
    return f"{verdict.capitalize()}: {words}."


def _other(case: Case) -> Fault:
    return next(f for f in case.weighed[1:] if DONE.get(f.fault, ("",))[0] != DONE[case.weighed[0].fault][0])


def _name(fault: Fault) -> str:
    return "nothing wrong" if fault.fault == NONE else " and ".join(fault.names).replace("_", " ")


def _nothing(case: Case) -> Answer:
    measured = [e for e in case.evidence if e.now is not None]
    test = plan.TESTS["kv"]
    asked = (test.words, test.seconds, test.step)
    grave = [e for e in case.known.events if e.event in ev.GRAVE]
    if measured and grave and not any(e.fresh for e in measured):
        event = max(grave, key=lambda e: e.at)
        happened = {"crash": "crashed", "dunked": "dunked", "overheated": "overheated"}[event.event]
        words = f"Unproven: {happened} since it was last checked."
        return Answer(
            "unproven", words, f"On {event.at.day} {event.at:%B}: {happened}. Nothing measured since.", 0.0, asked
        )
    reason = "No full-throttle pull since it came in, or since a part was replaced."
    if measured:
        reason = ". ".join(e.reason for e in measured) + "."
    return Answer("unproven", "Unproven: nothing to judge by yet.", reason, 0.0, asked)


def _unproven(case: Case, reasons: str, near_act: Sequence[Evidence]) -> Answer:
    again = next((e.change.further_runs for e in near_act if e.change and e.change.further_runs), None)
    test = _telling_test(case)
    confidence = max(case.weighed[0].probability, 0.0)
    if again and (not test or not any(e.state == "past" for e in case.judged)):
        first = next(e for e in near_act if e.change and e.change.further_runs)
        repeat = plan.TESTS.get(first.quantity.name, plan.TESTS["kv"])
        words = f"{again} more {repeat.words}{'s' if again > 1 else ''}"
        asked = (words, again * repeat.seconds, repeat.step)
        return Answer("unproven", f"Unproven: {words} would settle it.", reasons, confidence, asked)
    worst = min(case.judged, key=lambda e: e.change.headroom if e.change else 1.0)
    repeat = plan.TESTS.get(worst.quantity.name, plan.TESTS["kv"])
    test = test or (f"once more the {repeat.words}", repeat.seconds, repeat.step)
    return Answer("unproven", f"Unproven: {test[0]} would settle it.", reasons, confidence, test)


def _telling_test(case: Case) -> tuple[str, int, str] | None:
    """The test that tells most about what is wrong for its time, and how often to do it."""
    done = {e.quantity.name for e in case.judged}
    worth: dict[str, tuple[float, plan.Test]] = {}
    for test in plan.possible(case.known.motor, done):
        gain = faults.expected_information(case.posterior, test.quantity, _u_of(test), _calls_for)
        if gain > _WORTH_TESTING:
            worth[test.quantity] = (gain / (_SETTING_UP_S + test.seconds), test)
    if not worth:
        return None
    best = max(worth.values(), key=lambda w: (w[0], w[1].quantity))[1]
    goal = 0.9 * faults.expected_information(
        case.posterior, best.quantity, _u_of(best) / _MOST_REPEATS**0.5, _calls_for
    )
    times = next(
        (n for n in range(1, _MOST_REPEATS)
         if faults.expected_information(case.posterior, best.quantity, _u_of(best) / n**0.5, _calls_for) >= goal),
        _MOST_REPEATS,
    )  # fmt: skip
    often = {1: "", 2: ", twice,", 3: ", three times,", 4: ", four times,"}[times]
    return best.words + often, times * best.seconds, best.step


def _calls_for(members: tuple[str, ...]) -> str:
    """The answer that faults call for: keep when there are none, retire when one cannot be mended."""
    answers = {DONE[f][0] for f in members}
    return "retire" if "retire" in answers else "repair" if answers else "keep"


def _u_of(test: plan.Test) -> float:
    """Uncertainty of a test as evidence: its own, and the drift a sound motor is allowed."""
    return float((test.u**2 + (ev.WANDER * QUANTITIES[test.quantity].limits.watch) ** 2) ** 0.5)


def _pole_question(case: Case) -> str | None:
    """Whether another pole count would explain KV; the label is not asked once the poles were counted."""
    motor = case.known.motor
    found = next((e for e in case.judged if e.quantity.name == "kv"), None)
    if found is None or found.now is None or found.change is None:
        return None
    if abs(found.change.value) < _NO_FAULT_MOVES_KV_SO_PCT and not _otherwise_sound(case):
        return None
    own = found.baseline.value if found.baseline and found.baseline.source == "own" else None
    label = None if motor.poles_known_by in ("counted", "electrical") else motor.label_kv
    for reference in (own, label):
        asked = poles.wrong_setting(found.now, reference, motor.poles) if reference else None
        if asked and reference:
            change = f"{100 * (found.now / reference - 1):+.0f}".replace("-", "−")
            return (
                f"KV {found.now:.0f} is {change} % from {reference:.0f}. "
                f"With {asked.poles} poles instead of {motor.poles} it would be {asked.kv:.0f}."
            )
    return None


def _otherwise_sound(case: Case) -> bool:
    """Whether everything but KV says that nothing is wrong: only then is the setting the better question."""
    others = [e.witness for e in case.judged if e.witness and e.quantity.name != "kv"]
    return next(f.probability for f in faults.faults_of(faults.weigh(others)) if f.fault == NONE) > 0.5


def _reasons(judged: Sequence[Evidence]) -> str:
    """What moved, the gravest first, then what did not."""
    moved = [e for e in judged if e.change and (e.state in ("past", "watch") or _has_moved(e))]
    moved.sort(key=lambda e: e.change.headroom if e.change else 1.0)
    same = [e.quantity.title for e in judged if e not in moved]
    if not moved and len(judged) <= 3:
        return ". ".join(e.reason for e in judged) + "."
    said = ". ".join(e.reason for e in moved[:4]) + "." if moved else ""
    still = f"{_list(same)} as {'it was' if len(same) == 1 else 'they were'}." if same else ""
    return f"{said} {still[0].upper()}{still[1:]}".strip() if still else said


def _has_moved(e: Evidence) -> bool:
    if e.change is None or e.quantity.absolute:
        return False
    return abs(e.change.value) >= max(Z_SURE * e.change.u, 0.4 * (e.limits or e.quantity.limits).watch)


def _list(names: Sequence[str]) -> str:
    return " and ".join(names) if len(names) < 3 else f"{', '.join(names[:-1])} and {names[-1]}"


def _watch_headline(case: Case) -> str:
    worst = [e for e in case.judged if e.state == "watch" and e.change]
    worst.sort(key=lambda e: e.change.headroom if e.change else 1.0)
    if worst:
        reason = worst[0].reason
        return f"Watch: {reason if reason.startswith('KV') else reason[0].lower() + reason[1:]}."
    leading = next(f for f in case.weighed if f.fault != NONE)
    return f"Watch: perhaps {_name(leading)}, not yet past a limit."
