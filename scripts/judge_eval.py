"""Judges simulated motors whose truth is known, and prints how well: by evidence and by limits, side by side.

The motors are those of the simulated bench's motor model, broken by physical cause; every sign but the most direct
one of a fault is scattered by ±40 %, every visit clamps anew, runs repeat as runs do, and what plagues a pit (a loose
clamp, a lever that slipped, another cell) comes along. Nothing here reads the table of signs that judging uses. The
rigs' repeatability is learned from the same checks, as the application learns it.
"""

import argparse
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, timedelta
from functools import partial

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Check, Event, History, Inspected, Motor, Reading
from waldhorn.core.base.vocabulary import CONDEMNED, EventKind, FaultKind, Look
from waldhorn.core.judging.assessment import moved_from_own
from waldhorn.core.judging.baseline import Baseline, own_references
from waldhorn.core.judging.evidence import default_repeatability
from waldhorn.core.judging.faults import SIGNATURES
from waldhorn.core.judging.verdict import Judgement, JudgingContext, judge
from waldhorn.core.judging.weighing import FAULTY
from waldhorn.core.measuring.losses import MOTOR_AMPS
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.core.measuring.observations import all_groups
from waldhorn.core.rigs import learning
from waldhorn.core.rigs.day_shift import Moved, shifts
from waldhorn.core.rigs.repeatability import Repeatability
from waldhorn.simulator.fault_injection import CAUSES, broken, together
from waldhorn.simulator.motor_model import Build, Condition, MotorModel

START = datetime(2026, 3, 1, 10, tzinfo=UTC)
SEVERITIES = (0.3, 0.5, 0.8, 1.0, 1.3, 1.6, 2.0)
SCATTER = 0.4
HEALTHY = (
    "plain", "warm motor", "timing changed", "missing measures", "wrong label", "wrong pole setting", "part replaced",
    "one check only", "crashed, nothing broke", "one check, with siblings",
)  # fmt: skip
TROUBLES = (
    "loose clamp", "slipped lever", "another cell", "hot start", "another rig", "another placement",
    "instrument set to other poles", "one wild run",
)  # fmt: skip
# What clamping anew strays, and what a run strays within a visit; one sigma, relative or in the unit.
VISIT = {
    "rpm": 0.004,
    "amps": 0.03,
    "noise": 1.1,
    "rise": 1.5,
    "lever": 0.04,
    "timing": 0.4,
    "wander": 0.12,
    "gap": 0.008,
}
RUN = {"rpm": 0.003, "amps": 0.02, "noise": 0.5, "rise": 1.0, "peak": 0.03, "timing": 0.3, "wander": 0.12, "gap": 0.006}
SIBLINGS = 8
WITH_FOUR_WIRES = 0.5  # of the checks of those: the winding is measured as well
PART_THROTTLE = (15, 30, 50, 75)  # percent: the settings below full of those that are spun up by settings
INRUNNER = Build(3430, 0.016, 7.4, 2.25, 4, 12, timing_deg=28, detent_nmm=18.4, noise_db=81)
OUTRUNNER = Build(905, 0.11, 11.1, 0.55, 14, 12, detent_nmm=4.6, noise_db=74)
# The sign by which a fault is known first; it alone is not scattered.
DIRECT = {
    "demagnetised_rotor": "rpm", "cracked_magnet": "rpm_p2p", "worn_bearing": "noise", "bent_shaft": "gap",
    "shorted_turn": "amps", "timing_moved": "timing", "failing_sensor": "spread", "none": "",
}  # fmt: skip


Good = Callable[[Judgement], bool]


@dataclass
class Case:
    """One motor history with its truth: faults with severities, none when sound."""

    history: History
    truth: dict[str, float]
    scene: str
    complete: bool = True
    siblings: tuple[History, ...] = ()


def measured(
    sound: MotorModel, now: MotorModel, direct: set[str], rng: np.random.Generator, spin_up: np.random.Generator | None
) -> dict[str, float]:
    """What a motor shows, its changes from the sound one scattered; by settings too where it is spun up so."""

    def strays(name: str) -> float:
        return 1.0 if name in direct else 1 + SCATTER * float(rng.uniform(-1, 1))

    def between(name: str, before: float, after: float) -> float:
        return before + (after - before) * strays(name)

    volts = sound.build.rated_v
    a, b = sound.spin(volts), now.spin(volts)
    ta, tb = sound.timing(), now.timing()
    mean_a, mean_b = float(np.mean(ta)), float(np.mean(tb))
    spread = strays("spread")
    phases = [
        between("timing", mean_a, mean_b) + (x - mean_a) + ((y - mean_b) - (x - mean_a)) * spread
        for x, y in zip(ta, tb, strict=True)
    ]
    pa, pb = (around(m.detent_peaks()) for m in (sound, now))
    level, shape = strays("detent"), strays("variation")
    lost = float(np.median(pb) - np.median(pa))
    peaks = [x + lost * level + (y - x - lost) * shape for x, y in zip(pa, pb, strict=True)]
    gap = strays("gap")
    rpm, amps = between("rpm", a.rpm, b.rpm), between("amps", a.amps, b.amps)
    found = {
        "rpm": rpm,
        "amps": amps,
        "rpm_p2p": between("rpm_p2p", a.rpm_p2p, b.rpm_p2p),
        "noise": between("noise", sound.sound_db(1), now.sound_db(1)),
        "rise": between("rise", sound.rise_k(), now.rise_k()),
        "volts": volts,
    }
    found |= {f"timing_{p}": v for p, v in zip("abc", phases, strict=True)}
    found |= {f"peak{i}": v for i, v in enumerate(peaks)}
    found |= {f"gap{d}": sound.gap_mm(d) + (now.gap_mm(d) - sound.gap_mm(d)) * gap for d in (0, 90, 180, 270)}
    if spin_up is not None:
        found |= {f"ohms_{p}": 1000 * ohm for p, ohm in zip(("ab", "bc", "ca"), now.winding_pairs(), strict=True)}
        grown = (amps - a.amps) / (b.amps - a.amps) if abs(b.amps - a.amps) > 1e-9 else 1.0
        bent = 1 + SCATTER / 2 * float(spin_up.uniform(-1, 1))  # no two bearings bind alike at low speed
        for pct in PART_THROTTLE:
            was, since = (m.spin(volts * pct / 100) for m in (sound, now))
            stray = grown * (bent + (1 - bent) * pct / 100)
            found |= {f"amps{pct}": was.amps + (since.amps - was.amps) * stray, f"rpm{pct}": since.rpm * rpm / b.rpm}
    return found


def around(peaks: list[float]) -> list[float]:
    """A dozen of the peaks of a turn, one after the other as they are felt."""
    return peaks[:12]


def check(
    name: str,
    at: datetime,
    values: dict[str, float],
    facts: Motor,
    rng: np.random.Generator,
    scene: str = "",
    last: bool = False,
    scatter: float = 1.0,
    spin_up: np.random.Generator | None = None,
) -> Check:
    """One check of two runs, as a meter with its noise and a hand with its haste would log it."""
    v = {k: scatter * sigma * float(rng.standard_normal()) for k, sigma in VISIT.items()}

    def run(what: str) -> float:
        return scatter * RUN[what] * float(rng.standard_normal())

    trouble = scene if last else ""
    rig = "other bench" if trouble == "another rig" else "bench"
    warm = float(rng.uniform(50, 65)) if trouble in ("warm motor", "hot start") else float(rng.uniform(21, 27))
    noted = None if trouble == "hot start" else warm
    by_hand = Conditions(rig=rig, motor_c=noted, ambient_c=22.0)
    timing_set = 24.0 if trouble == "timing changed" else 20.0 if facts.sensored else None
    full = Conditions(rig, "loaded-supply", 100.0, motor_c=noted, ambient_c=22.0, timing_set_deg=timing_set)
    loose = float(rng.uniform(4, 10)) if trouble == "loose clamp" else 0.0
    slipped = float(rng.uniform(0.78, 0.9)) if trouble == "slipped lever" else 1.0
    shown = (facts.poles or 4) / (14 if facts.kind == "outrunner" else 4)
    shown = (1.5 if facts.kind == "inrunner" else 14 / 12) if trouble == "instrument set to other poles" else shown
    readings = []
    for number in (1, 2):
        wild = trouble == "one wild run" and number == 2
        rpm = values["rpm"] * (1 + v["rpm"] + run("rpm")) * (1 + 0.0011 * (warm - 25)) * (0.85 if wild else 1.0)
        off = 1.25 if rig == "other bench" else 2.0 if wild else 1.0
        amps = values["amps"] * (1 + v["amps"] + run("amps")) * off
        wander = values["rpm_p2p"] * max(0.2, 1 + v["wander"] + run("wander")) * (1 + 0.5 * loose)
        for measure, value in (
            ("supply_volts", values["volts"]),
            ("no_load_current", amps),
            ("rpm", rpm / shown),
            ("rpm_p2p", wander / shown),
        ):
            readings.append(Reading(measure, float(value), at, number, full))
        if spin_up is not None:
            for pct in PART_THROTTLE:
                under = replace(full, throttle_pct=float(pct), meter=MOTOR_AMPS)
                strays = scatter * spin_up.standard_normal(2)
                drawn = values[f"amps{pct}"] * (1 + v["amps"] + RUN["amps"] * strays[0]) * off
                turned = values[f"rpm{pct}"] * (1 + v["rpm"] + RUN["rpm"] * strays[1]) * (0.85 if wild else 1.0)
                for measure, value in (
                    ("supply_volts", values["volts"] * pct / 100),
                    ("no_load_current", drawn),
                    ("rpm", turned / shown),
                ):
                    readings.append(Reading(measure, float(value), at, number, under))
        if facts.sensored:
            readings += [
                Reading(
                    f"timing_{p}",
                    float(values[f"timing_{p}"] + v["timing"] + run("timing")),
                    at,
                    number,
                    replace(by_hand, timing_set_deg=timing_set),
                )
                for p in "abc"
            ]
    if spin_up is not None and spin_up.random() < WITH_FOUR_WIRES:
        for pair in ("ab", "bc", "ca"):
            ohms = values[f"ohms_{pair}"] * (1 + 0.003 * scatter * spin_up.standard_normal())
            readings.append(Reading(f"winding_resistance_{pair}", float(ohms), at, 1, by_hand))
    if scene == "missing measures" and last:
        return Check(name, at, tuple(r for r in readings if r.measure in ("supply_volts", "no_load_current", "rpm")))
    hand = trouble == "another placement"
    for number in (1, 2):
        loud = values["noise"] + v["noise"] + run("noise") + loose + (4.0 if rig == "other bench" else 0.0)
        loud += 7.0 * hand + (12.0 if trouble == "one wild run" and number == 2 else 0.0)
        where = Conditions(rig=rig, throttle_pct=100.0, placement="hand" if hand else "stand", distance_cm=10.0)
        readings.append(Reading("noise_background", 55.0, at, number, where))
        readings.append(Reading("noise_avg", float(loud), at, number, where))
    started = 0.5 * (warm - 25) if warm > 40 else 0.0
    hot = 22.0 + values["rise"] + v["rise"] + run("rise") + started
    readings.append(Reading("temperature", float(hot), at, 1, Conditions(rig=rig, ambient_c=22.0)))
    cold = replace(by_hand, motor_c=None if noted is None else 23.0)
    clicks = slipped * (1 + v["lever"]) * (1 - 0.0022 * (warm - 25) if noted is None else 1.0)
    for i in range(12):
        readings.append(
            Reading("detent_peak", float(values[f"peak{i}"] * clicks * (1 + run("peak"))), at, 1, cold, position=i + 1)
        )
    seat = v["gap"]
    for clock in (0, 90, 180, 270):
        gap = values[f"gap{clock}"] + run("gap") + seat * float(np.cos(np.radians(clock)))
        readings.append(Reading("gap", float(gap), at, 1, by_hand, angle_deg=float(clock)))
    return Check(name, at, tuple(readings))


def motor_case(
    number: int,
    scene: str,
    truth: dict[str, float],
    rng: np.random.Generator,
    scatter: float = 1.0,
    by_settings: float = 0,
) -> Case:
    """One motor: two or three sound checks, then the one that is judged; spun up by settings in a share of cases."""
    aside = rng.spawn(1)[0]
    spin_up = aside if aside.random() < by_settings else None
    checked = partial(check, scatter=scatter, spin_up=spin_up)
    needs_sensors = {"timing_moved", "failing_sensor"} & set(truth) or scene == "timing changed"
    sensored = bool(needs_sensors) or bool(rng.random() < 0.6)
    base = INRUNNER if sensored else OUTRUNNER
    build = _as_built(base, rng)
    sound = MotorModel(build)
    condition = together(*(broken(f, s, rng) for f, s in truth.items())) if truth else Condition()
    label = base.kv * (1.08 if scene == "wrong label" else 1.01)
    poles = base.poles + 2 if scene == "wrong pole setting" else base.poles
    known_by = "assumed" if scene == "wrong pole setting" else "counted"
    facts = Motor(
        f"E-{number}",
        kind="inrunner" if sensored else "outrunner",
        sensored=sensored,
        label_kv=label,
        poles=poles,
        poles_known_by=known_by,
    )
    before = measured(sound, sound, set(), rng, spin_up)
    now_motor = MotorModel(build, condition)
    if scene == "timing changed":
        now_motor = MotorModel(build, replace(condition, board_turned_deg=4.0))
    direct = {DIRECT[f] for f in truth}
    after = measured(sound, now_motor, direct, rng, spin_up)
    if scene == "another cell":
        cell = 3.7 * (1 if rng.random() < 0.5 else -1)
        other = MotorModel(replace(build, rated_v=build.rated_v), condition)
        spun = other.spin(build.rated_v + cell)
        share = (build.rated_v + cell) / build.rated_v
        louder, hotter = 28 * float(np.log10(share)), share**1.6
        after |= {
            "rpm": spun.rpm,
            "amps": spun.amps,
            "rpm_p2p": spun.rpm_p2p,
            "volts": build.rated_v + cell,
            "noise": after["noise"] + louder,
            "rise": after["rise"] * hotter,
        }
        for pct in PART_THROTTLE:
            spun = other.spin((build.rated_v + cell) * pct / 100)
            after |= {f"rpm{pct}": spun.rpm, f"amps{pct}": spun.amps}
    count = 1 if "one check" in scene or "first look" in scene else int(rng.integers(2, 4))
    days = [14 * i for i in range(count)]
    checks = [checked(f"c{d}", START + timedelta(days=d), before, facts, rng) for d in days] if count > 1 else []
    events: list[Event] = []
    at = START + timedelta(days=60)
    if scene == "part replaced":
        worn = measured(sound, MotorModel(build, broken("worn_bearing", 1.4)), {"noise"}, rng, spin_up)
        checks.append(checked("worn", START + timedelta(days=45), worn, facts, rng))
        events.append(Event(EventKind.BEARINGS_REPLACED, START + timedelta(days=50)))
        checks.append(checked("new", START + timedelta(days=52), before, facts, rng))
    if scene == "timing changed":
        events.append(Event(EventKind.TIMING_CHANGED, START + timedelta(days=55)))
    if scene == "crashed, nothing broke":
        events.append(Event(EventKind.CRASH, START + timedelta(days=55)))
    events += _told(truth, rng)
    checks.append(checked("last", at, after, facts, rng, scene, True))
    siblings = []
    if "siblings" in scene:
        for other in range(SIBLINGS):
            theirs = _as_built(base, rng)
            like = measured(MotorModel(theirs), MotorModel(theirs), set(), rng, spin_up)
            siblings.append(
                History(
                    replace(facts, tag=f"{facts.tag}-{other}"),
                    (checked("c", START + timedelta(days=3), like, facts, rng),),
                )
            )
    complete = scene != "missing measures" and "first look" not in scene
    return Case(History(facts, tuple(checks), tuple(events)), truth, scene, complete, tuple(siblings))


def _as_built(base: Build, rng: np.random.Generator) -> Build:
    """No two motors of a model are alike."""
    return replace(
        base,
        kv=base.kv * (1 + 0.01 * rng.standard_normal()),
        no_load_a=base.no_load_a * (1 + 0.06 * rng.standard_normal()),
        noise_db=base.noise_db + rng.standard_normal(),
    )


def _told(truth: dict[str, float], rng: np.random.Generator) -> list[Event]:
    """Half of the faults come with the event that made them, half with none."""
    made_by = {
        "demagnetised_rotor": "overheated",
        "shorted_turn": "overheated",
        "worn_bearing": "dunked",
        "cracked_magnet": "crash",
        "bent_shaft": "crash",
        "timing_moved": "crash",
        "failing_sensor": "dunked",
    }
    return [Event(EventKind(made_by[f]), START + timedelta(days=50)) for f in truth if rng.random() < 0.5]


def cases(count: int, seed: int, scatter: float = 1.0, by_settings: float = 0.5) -> Iterator[Case]:
    """Scenes in fixed shares: a quarter sound, a sixth with a trouble that is none of the motor's, single faults,
    pairs, half measured, never seen before."""
    case = partial(motor_case, scatter=scatter, by_settings=by_settings)
    names = sorted(CAUSES)
    for number in range(count):
        rng = np.random.default_rng([seed, number])
        turn, kind = divmod(number, 24)
        if kind < 6:
            yield case(number, HEALTHY[(turn * 6 + kind) % len(HEALTHY)], {}, rng)
            continue
        if kind < 10:
            yield case(number, TROUBLES[(turn * 4 + kind - 6) % len(TROUBLES)], {}, rng)
            continue
        fault = names[int(rng.integers(len(names)))]
        severity = SEVERITIES[int(rng.integers(len(SEVERITIES)))]
        if kind == 10:
            second = names[int(rng.integers(len(names)))]
            yield case(number, "pair", {fault: 1.4} | ({second: 1.4} if second != fault else {}), rng)
        else:
            scene = {11: "missing measures", 12: "first look", 13: "first look", 14: "first look, with siblings"}
            yield case(number, scene.get(kind, "fault"), {fault: severity}, rng)


def learned(motors: Sequence[Case]) -> Repeatability:
    """What the rigs have shown over all these motors."""
    known: dict[tuple[str, str], learning.Sums] = defaultdict(learning.Sums)
    for one in motors:
        for taught in learning.of_motor(all_groups(one.history), one.history.events):
            known[taught.rig, taught.quantity] += taught.sums
    return lambda rig, quantity: learning.spread(known.get((rig, quantity), learning.Sums()), quantity)


def judging_context(one: Case, repeatability: Repeatability) -> JudgingContext:
    """What a motor is judged by besides its own readings."""
    peers: dict[str, list[Baseline]] = defaultdict(list)
    for sibling in one.siblings:
        for name, mine in own_references(all_groups(sibling), sibling.events).items():
            peers[name] += mine
    return JudgingContext(peers, repeatability)


def share(found: list[bool]) -> str:
    """A share with its count."""
    return f"{100 * sum(found) / len(found):5.1f} % of {len(found)}" if found else "    – of 0"


def main() -> None:
    """Simulate, judge, print."""
    options = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    options.add_argument("--count", type=int, default=2400)
    options.add_argument("--seed", type=int, default=20261)
    options.add_argument("--scatter", type=float, default=1.0, help="how far visits and runs stray, against the usual")
    options.add_argument("--defaults", action="store_true", help="do not learn the rigs, judge by the defaults")
    options.add_argument("--by-settings", type=float, default=0.5, help="share of motors spun up by settings")
    given = options.parse_args()
    at = START + timedelta(days=61)
    motors = list(cases(given.count, given.seed, given.scatter, given.by_settings))
    rigs = default_repeatability if given.defaults else learned(motors)
    judged = [(c, judge(c.history, at, judging_context(c, rigs))) for c in motors]
    print(
        f"{len(judged)} motors, seed {given.seed}, scatter {given.scatter:g}, rigs "
        f"{'by default' if given.defaults else 'learned'}\n"
    )
    must_hold(judged)
    caught_and_condemned(judged)
    named(judged)
    at_one_false_alarm_rate(judged)
    calibration(judged)
    by_scene(judged)
    notebook(given.seed, rigs, at)


Judged = list[tuple[Case, Judgement]]


def must_hold(judged: Judged) -> None:
    """The figures the judge is held to."""

    def of(*scenes: str, least: float = 0.0, most: float = 9.0, whole: bool = False) -> Judged:
        return [
            (c, j)
            for c, j in judged
            if (not scenes or c.scene in scenes)
            and least <= max(c.truth.values(), default=0.0) <= most
            and (c.complete or not whole)
        ]

    def condemned(some: Judged) -> list[bool]:
        return [j.verdict in CONDEMNED for _, j in some]

    past, at_limit = of(least=1.3, whole=True), of("fault", least=1.0, most=1.0)
    print(f"{'caught at 1.3 and more, all measures':<46}{share(condemned(past)):>20}  (98)")
    print(f"{'severity 1.0 condemned':<46}{share(condemned(at_limit)):>20}  (80)")
    asked = [
        j.verdict in CONDEMNED or bool(j.verdict == "unproven" and j.next_test) or j.verdict == "watch"
        for _, j in at_limit
    ]
    print(f"{'severity 1.0 condemned, watched or asked for':<46}{share(asked):>20}  (97)")
    for trouble in (*TROUBLES, "wrong pole setting"):
        print(f"{trouble + ', condemned':<46}{share(condemned(of(trouble, most=0.0))):>20}  (2)")
    print(f"{'sound, condemned':<46}{share(condemned([x for x in of(most=0.0) if x[0].scene in HEALTHY])):>20}  (0.3)")
    kept = [(c, j) for c, j in of(least=1.3) if not (set(c.truth) == {"timing_moved"} and "first look" in c.scene)]
    print(f"{'faulty at 1.3 and more, called keep':<46}{share([j.verdict == 'keep' for _, j in kept]):>20}  (0.5)")
    wrong = Counter((c.scene, *c.truth) for c, j in kept if j.verdict == "keep")
    print("".join(f"    {n} {' '.join(k)}\n" for k, n in wrong.items()))


def caught_and_condemned(judged: Judged) -> None:
    """Faults caught by severity, and sound motors condemned, by both ways of judging."""
    print(f"{'caught: repair or retire, all measures there':<46}{'by evidence':>20}{'by limits':>20}")
    for severity in SEVERITIES:
        mine = [(c, j) for c, j in judged if c.complete and list(c.truth.values()) == [severity]]
        print(
            f"  severity {severity:<35g}{share([j.verdict in CONDEMNED for _, j in mine]):>20}"
            f"{share([j.by_limits in CONDEMNED for _, j in mine]):>20}"
        )
    missed = Counter(
        next(iter(c.truth))
        for c, j in judged
        if c.complete and len(c.truth) == 1 and max(c.truth.values()) >= 1.3 and j.verdict not in CONDEMNED
    )
    past = [(c, j) for c, j in judged if c.complete and len(c.truth) == 1 and max(c.truth.values()) >= 1.3]
    print(
        f"  {'severity 1.3 and more':<44}{share([j.verdict in CONDEMNED for _, j in past]):>20}"
        f"{share([j.by_limits in CONDEMNED for _, j in past]):>20}"
    )
    if missed:
        print("    missed by evidence: " + ", ".join(f"{n} {f}" for f, n in missed.items()))
    sound = [j for c, j in judged if not c.truth]
    print(
        f"{'sound motors condemned':<46}{share([j.verdict in CONDEMNED for j in sound]):>20}"
        f"{share([j.by_limits in CONDEMNED for j in sound]):>20}"
    )
    print(
        f"{'left unproven, all motors':<46}{share([j.verdict == 'unproven' for _, j in judged]):>20}"
        f"{share([j.by_limits == 'unproven' for _, j in judged]):>20}\n"
    )


def named(judged: Judged) -> None:
    """Whether the fault named is the true one, of those caught."""
    caught = [(c, j) for c, j in judged if c.truth and j.verdict in CONDEMNED]
    single = [(c, j) for c, j in caught if len(c.truth) == 1]
    pairs = [(c, j) for c, j in caught if len(c.truth) == 2]
    right = [bool(set(c.truth) & set(_named(j))) for c, j in single]
    print(f"right fault named, single faults caught:  {share(right)}")
    print(f"one of the pair named:                    {share([bool(set(c.truth) & set(_named(j))) for c, j in pairs])}")
    print(f"both of the pair named:                   {share([set(c.truth) == set(_named(j)) for c, j in pairs])}")
    wrong = [(c, j) for c, j in single if not set(c.truth) & set(_named(j))]
    mistaken = Counter((next(iter(c.truth)), "+".join(_named(j))) for c, j in wrong)
    for (true, said), count in mistaken.most_common(5):
        print(f"    {true} called {said}: {count}")
    print()


def _named(j: Judgement) -> tuple[str, ...]:
    return j.faults[0].names


def at_one_false_alarm_rate(judged: Judged) -> None:
    """Both ways as alarms with a threshold set so that one sound motor in a hundred raises it."""

    def scores(j: Judgement) -> tuple[float, float]:
        none = sum(f.probability for f in j.faults if f.fault == "none")
        return 1 - none, max((1 - e.change.headroom for e in j.evidence if e.change and e.fresh), default=0.0)

    for title, least in (("severity 0.8 and more", 0.8), ("severity 1 and more", 1.0), ("severity 1.3 and more", 1.3)):
        found = []
        for way in (0, 1):
            sound = sorted(scores(j)[way] for c, j in judged if not c.truth and c.scene == "plain")
            threshold = sound[int(0.99 * len(sound))]
            found.append([scores(j)[way] > threshold for c, j in judged if c.truth and max(c.truth.values()) >= least])
        print(f"alarm at 1 % false alarms, {title:<22} by evidence {share(found[0])}   by limits {share(found[1])}")
    print()


def as_in_a_pit(judged: Judged) -> NDArray[np.float64]:
    """What each motor weighs so that one in five has a fault."""
    faulty = np.array([bool(c.truth) for c, _ in judged])
    return np.where(faulty, FAULTY / (1 - FAULTY) * (~faulty).sum() / faulty.sum(), 1.0)


def calibration(judged: Judged) -> None:
    """Stated p_fault_act against how often it was true: as these motors are, and as in a pit where one in five has a
    fault."""
    stated = np.array([j.p_fault_act for _, j in judged])
    true = np.array([max(c.truth.values(), default=0.0) >= 1.0 for c, _ in judged])
    for title, weight in (("these motors", np.ones(len(stated))), ("one in five faulty", as_in_a_pit(judged))):
        print(f"p_fault_act, {title:<30} stated   true      of")
        for low in np.arange(0, 1, 0.1):
            inside = (stated >= low) & (stated < low + 0.1 + (low > 0.85))
            if inside.any():
                mean, seen = (float(np.average(x[inside], weights=weight[inside])) for x in (stated, true))
                off = "  <" if inside.sum() >= 50 and abs(mean - seen) > 0.07 else ""
                print(
                    f"  {low:3.1f} to {low + 0.1:3.1f}                            {mean:7.3f} {seen:7.3f} "
                    f"{inside.sum():6d}{off}"
                )
        print(f"Brier score {np.average((stated - true) ** 2, weights=weight):.4f}\n")


def by_scene(judged: Judged) -> None:
    """Answers by scene."""
    scenes: dict[str, Counter[str]] = defaultdict(Counter)
    for c, j in judged:
        scenes[("sound: " if not c.truth else "broken: ") + c.scene][j.verdict] += 1
    for scene, answers in sorted(scenes.items()):
        print(f"  {scene:<36}" + "  ".join(f"{v} {n}" for v, n in answers.most_common()))


EACH = 60  # motors of a family of notes
HAND_IS_WRONG = 0.1  # how often a hand cries wolf


def notebook(seed: int, rigs: Repeatability, at: datetime) -> None:
    """What a notebook holds besides rows of numbers, a family a line: how often it is answered as it should be."""
    print(f"\n{'notes':<58}{'as it should be':>20}{'sound condemned':>20}")
    for title, family in NOTES.items():
        right, condemned = [], []
        for number in range(EACH):
            rng = np.random.default_rng([seed, len(title), number])
            one, good = family(number, rng)
            j = judge(one.history, at, judging_context(one, rigs))
            right.append(good(j))
            if not one.truth:
                condemned.append(j.verdict in CONDEMNED)
        print(f"  {title:<56}{share(right):>20}{share(condemned):>20}")
    print(f"  {'the same set-up asked for a third time':<56}{share(loops(seed, rigs, at)):>20}")
    print(f"  {'motors of a day moved alike: any of them blamed':<56}{share(days(seed, rigs, at)):>20}")


def _last(one: Case, **changed: object) -> Case:
    """A case with something else about its last check."""
    h = one.history
    return replace(one, history=replace(h, checks=(*h.checks[:-1], replace(h.checks[-1], **changed))))


def _scaled(one: Case, measure: str, factor: float, at: int = -1) -> Case:
    """A case with a measure of one of its checks written as so many times what it was."""
    checks = list(one.history.checks)
    written = (replace(r, value=r.value * factor) if r.measure == measure else r for r in checks[at].readings)
    checks[at] = replace(checks[at], readings=tuple(written))
    return replace(one, history=replace(one.history, checks=tuple(checks)))


def _gritty(number: int, rng: np.random.Generator) -> tuple[Case, Good]:
    worn = rng.random() < 0.5
    one = motor_case(number, "plain" if not worn else "fault", {"worn_bearing": 1.3} if worn else {}, rng)
    feels = rng.random() < (0.7 if worn else HAND_IS_WRONG)
    last = one.history.checks[-1]
    found = Inspected(last.id, "bearings", Look.BAD if feels else Look.OK, last.at)
    one = replace(one, history=replace(one.history, inspected=(found,)))
    if worn:
        return one, lambda j: j.verdict in CONDEMNED
    return one, lambda j: j.verdict == "unproven" if feels else j.verdict in ("keep", "watch")


def _few_and_gritty(number: int, rng: np.random.Generator) -> tuple[Case, Good]:
    one = motor_case(number, "fault", {"worn_bearing": 1.3}, rng)
    kept = ("noise_avg", "noise_background", "supply_volts", "rpm")
    last = one.history.checks[-1]
    one = _last(one, readings=tuple(r for r in last.readings if r.measure in kept))
    found = Inspected(last.id, "bearings", Look.BAD, last.at)
    return replace(
        one, history=replace(one.history, inspected=(found,))
    ), lambda j: j.verdict in CONDEMNED or "spin up" in j.headline


def _few(number: int, rng: np.random.Generator) -> tuple[Case, Good]:
    fault = sorted(DIRECT)[number % 8]
    one = motor_case(number, "missing measures", {fault: 1.3} if fault != "none" else {}, rng)
    tells = SIGNATURES[FaultKind(fault)] if fault != "none" else {}
    asks = {q: QUANTITIES[q].test.step for q in tells if QUANTITIES[q].test}
    return one, lambda j: j.verdict in CONDEMNED or j.next_step in asks.values() or (not tells and bool(j.next_test))


def _asked(number: int, rng: np.random.Generator, why: str, spoil: Callable[[Case], Case]) -> tuple[Case, Good]:
    one = spoil(motor_case(number, "plain", {}, rng))
    return one, lambda j: j.verdict not in CONDEMNED and any(a.why == why for a in j.asks)


def _after(event: str) -> Callable[[int, np.random.Generator], tuple[Case, Good]]:
    def family(number: int, rng: np.random.Generator) -> tuple[Case, Good]:
        def spoil(one: Case) -> Case:
            happened = Event(EventKind(event), START + timedelta(days=59), detail="loud" if event == "returned" else "")
            last = one.history.checks[-1]
            left = tuple(r for r in last.readings if r.measure not in ("gap", "detent_peak"))
            one = _last(one, readings=left)
            return replace(one, history=replace(one.history, events=(*one.history.events, happened)))

        return _asked(number, rng, "event", spoil)

    return family


def _first_look(number: int, rng: np.random.Generator) -> tuple[Case, Good]:
    faults = [f for f in sorted(CAUSES) if f != "timing_moved"]
    fault = faults[number % len(faults)]
    one = motor_case(number, "first look, with siblings", {fault: 1.3}, rng)
    return one, lambda j: j.verdict in CONDEMNED or bool(j.verdict == "unproven" and j.next_test)


NOTES: Mapping[str, Callable[[int, np.random.Generator], tuple[Case, Good]]] = {
    "bearings felt, wrong in one of ten": _gritty,
    "gritty, noise and KV alone": _few_and_gritty,
    "few measures at 1.3: condemned, or the right test": _few,
    "amps a tenth, today": lambda n, r: _asked(n, r, "slip", lambda c: _scaled(c, "no_load_current", 0.1)),
    "amps a tenth, on the first of them": lambda n, r: _asked(
        n, r, "baseline", lambda c: _scaled(_thrice(c), "no_load_current", 0.1, 0)
    ),
    "detent in g·cm": lambda n, r: _asked(n, r, "slip", lambda c: _scaled(c, "detent_peak", 10.197)),
    "a crash, gap and detent not read": _after("crash"),
    "dunked, not turned by hand": _after("dunked"),
    "overheated, no ohms": _after("overheated"),
    "came back with a complaint": _after("returned"),
    "first look at 1.3 among siblings: condemned, or asked": _first_look,
}


def _thrice(one: Case) -> Case:
    """A case whose last check was made again twice, some days apart."""
    last = one.history.checks[-1]
    again = [
        replace(
            last,
            id=f"again{day}",
            at=last.at - timedelta(days=day),
            readings=tuple(replace(r, at=r.at - timedelta(days=day)) for r in last.readings),
        )
        for day in (9, 6)
    ]
    return replace(one, history=replace(one.history, checks=(*one.history.checks[:-1], *again, last)))


def loops(seed: int, rigs: Repeatability, at: datetime) -> list[bool]:
    """Whether a set-up is asked for a third time, of motors of which one number alone stays off."""
    found = []
    for number in range(EACH):
        rng = np.random.default_rng([seed, 77, number])
        measure, factor = (("noise_avg", 1.1), ("no_load_current", 1.4), ("detent_peak", 0.8))[number % 3]
        one = motor_case(number, "plain", {}, rng)
        for visits in range(1, 6):
            last = one.history.checks[-1]
            more = [replace(last, id=f"v{k}", at=last.at + timedelta(minutes=9 * k)) for k in range(visits)]
            checks = (*one.history.checks[:-1], *more)
            spoilt = replace(one, history=replace(one.history, checks=checks))
            for k in range(visits):
                spoilt = _scaled(spoilt, measure, factor, len(checks) - visits + k)
            j = judge(spoilt.history, at + timedelta(days=1), judging_context(one, rigs))
            if visits > 2:
                found.append(
                    any(w in (j.next_test or "") for w in ("again, repeat", "anew, repeat", "supply and timing"))
                )
    return found


def days(seed: int, rigs: Repeatability, at: datetime) -> list[bool]:
    """Whether any of four motors is blamed that a rig moved by as much on one day."""
    found = []
    for number in range(EACH // 4):
        rng = np.random.default_rng([seed, 78, number])
        measure, factor = (("rpm", 1.06), ("no_load_current", 1.35))[number % 2]
        day = [_scaled(motor_case(4 * number + k, "plain", {}, rng), measure, factor) for k in range(4)]
        moved: dict[tuple[str, str, date], list[Moved]] = defaultdict(list)
        for one in day:
            groups = all_groups(one.history)
            for name, m in moved_from_own(one.history, groups, rigs).items():
                moved["bench", name, groups[name][-1].at.date()].append(m)
        for one in day:
            context = replace(judging_context(one, rigs), shifts=shifts(moved))
            found.append(judge(one.history, at, context).verdict in CONDEMNED)
    return found


if __name__ == "__main__":
    main()
