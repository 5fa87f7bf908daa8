"""Judges simulated motors whose truth is known, and prints how well: by evidence and by limits, side by side.

The motors are those of the simulated bench's motor model, broken by physical cause; every sign but the most direct
one of a fault is scattered by ±40 %, motors drift a little from check to check, meters are noisy. Nothing here reads
the table of signs that judging uses.
"""

import argparse
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise

import numpy as np

from waldhorn.core.conditions import Conditions
from waldhorn.core.history import Check, Event, History, Motor, Reading
from waldhorn.core.verdict import Judgement, judge
from waldhorn.core.vocabulary import CONDEMNED, EventKind
from waldhorn.link.fault_injection import CAUSES, broken, together
from waldhorn.link.motor_model import Build, Condition, MotorModel

START = datetime(2026, 3, 1, 10, tzinfo=UTC)
SEVERITIES = (0.3, 0.5, 0.8, 1.0, 1.3, 1.6, 2.0)
SCATTER = 0.4
HEALTHY = (
    "plain", "warm motor", "timing changed", "discordant run", "missing measures", "wrong label", "wrong pole setting",
    "another rig", "part replaced", "one check only", "crashed, nothing broke",
)  # fmt: skip
INRUNNER = Build(3430, 0.016, 7.4, 2.25, 4, 12, timing_deg=28, detent_nmm=18.4, noise_db=81)
OUTRUNNER = Build(905, 0.11, 11.1, 0.55, 14, 12, detent_nmm=4.6, noise_db=74)
# The sign by which a fault is known first; it alone is not scattered.
DIRECT = {
    "demagnetised_rotor": "rpm", "cracked_magnet": "rpm_p2p", "worn_bearing": "noise", "bent_shaft": "gap",
    "shorted_turn": "amps", "timing_moved": "timing", "failing_sensor": "spread", "none": "",
}  # fmt: skip


@dataclass
class Case:
    """One motor history with its truth: faults with severities, none when sound."""

    history: History
    truth: dict[str, float]
    scene: str
    complete: bool = True
    noisy: dict[str, float] = field(default_factory=dict)


def measured(sound: MotorModel, now: MotorModel, direct: set[str], rng: np.random.Generator) -> dict[str, float]:
    """What a motor shows, its changes from the sound one scattered."""

    def strays(name: str) -> float:
        return 1.0 if name in direct else 1 + SCATTER * float(rng.uniform(-1, 1))

    def between(name: str, before: float, after: float) -> float:
        return before + (after - before) * strays(name)

    volts = sound.build.rated_v
    a, b = sound.spin(volts), now.spin(volts)
    ta, tb = sound.timing(), now.timing()
    mean_a, mean_b = float(np.mean(ta)), float(np.mean(tb))
    spread = strays("spread")
    phases = [between("timing", mean_a, mean_b) + (x - mean_a) + ((y - mean_b) - (x - mean_a)) * spread
              for x, y in zip(ta, tb, strict=True)]  # fmt: skip
    pa, pb = sound.detent_peaks()[:14], now.detent_peaks()[:14]
    level, shape = strays("detent"), strays("variation")
    lost = float(np.median(pb) - np.median(pa))
    peaks = [x + lost * level + (y - x - lost) * shape for x, y in zip(pa, pb, strict=True)]
    gap = strays("gap")
    found = {
        "rpm": between("rpm", a.rpm, b.rpm), "amps": between("amps", a.amps, b.amps),
        "rpm_p2p": between("rpm_p2p", a.rpm_p2p, b.rpm_p2p),
        "noise": between("noise", sound.sound_db(1), now.sound_db(1)),
        "rise": between("rise", sound.rise_k(), now.rise_k()), "volts": volts,
    }  # fmt: skip
    found |= {f"timing_{p}": v for p, v in zip("abc", phases, strict=True)}
    found |= {f"peak{i}": v for i, v in enumerate(peaks)}
    found |= {f"gap{d}": sound.gap_mm(d) + (now.gap_mm(d) - sound.gap_mm(d)) * gap for d in (0, 90, 180, 270)}
    return found


def check(
    name: str, at: datetime, values: dict[str, float], facts: Motor, rng: np.random.Generator, scene: str = "",
    last: bool = False,
) -> Check:  # fmt: skip
    """One check of two runs, as a meter with its noise and a hand with its haste would log it."""
    drift = {"rpm": 1 + 0.002 * rng.standard_normal(), "amps": 1 + 0.02 * rng.standard_normal(),
             "noise": 0.5 * rng.standard_normal(), "rise": 1.0 * rng.standard_normal()}  # fmt: skip
    other = scene == "another rig" and last
    rig = "other bench" if other else "bench"
    warm = float(rng.uniform(50, 65)) if scene == "warm motor" and last else float(rng.uniform(21, 27))
    by_hand = Conditions(rig=rig, motor_c=warm, ambient_c=22.0)
    timing_set = 24.0 if scene == "timing changed" and last else 20.0 if facts.sensored else None
    full = Conditions(rig, "loaded-supply", 100.0, motor_c=warm, ambient_c=22.0, timing_set_deg=timing_set)
    readings = []
    for run in (1, 2):
        slip = 1.05 if scene == "discordant run" and last and run == 2 else 1.0
        rig_amps = 1.25 if other else 1.0
        rpm = values["rpm"] * drift["rpm"] * slip * (1 + 0.003 * rng.standard_normal()) * (1 + 0.0011 * (warm - 25))
        shown = facts.poles and (14 if facts.kind == "outrunner" else 4) / facts.poles
        for measure, value in (
            ("supply_volts", values["volts"]),
            ("no_load_current", values["amps"] * drift["amps"] * rig_amps * (1 + 0.02 * rng.standard_normal())),
            ("rpm", rpm * (shown or 1.0)),
            ("rpm_p2p", values["rpm_p2p"] * (1 + 0.15 * rng.standard_normal()) * (shown or 1.0)),
        ):
            readings.append(Reading(measure, float(value), at, run, full))
        if facts.sensored:
            readings += [Reading(f"timing_{p}", float(values[f"timing_{p}"] + 0.3 * rng.standard_normal()), at, run,
                                 replace(by_hand, timing_set_deg=timing_set)) for p in "abc"]  # fmt: skip
    if scene == "missing measures" and last:
        return Check(name, at, tuple(r for r in readings if r.measure in ("supply_volts", "no_load_current", "rpm")))
    loud = values["noise"] + drift["noise"] + 0.7 * rng.standard_normal() + (4.0 if other else 0.0)
    stand = Conditions(rig=rig, throttle_pct=100.0, placement="stand")
    readings.append(Reading("noise_background", 55.0, at, 1, Conditions(rig=rig, placement="stand")))
    readings.append(Reading("noise_avg", float(loud), at, 1, stand))
    hot = 22.0 + values["rise"] + drift["rise"] + 1.0 * rng.standard_normal()
    readings.append(Reading("temperature", float(hot), at, 1, Conditions(rig=rig, ambient_c=22.0)))
    cold = replace(by_hand, motor_c=23.0)
    for i in range(12):
        peak = values[f"peak{i}"] * (1 + 0.03 * rng.standard_normal())
        readings.append(Reading("detent_peak", float(peak), at, 1, cold, position=i + 1))
    for clock in (0, 90, 180, 270):
        gap = values[f"gap{clock}"] + 0.006 * rng.standard_normal()
        readings.append(Reading("gap", float(gap), at, 1, by_hand, angle_deg=float(clock)))
    return Check(name, at, tuple(readings))


def case(number: int, scene: str, truth: dict[str, float], rng: np.random.Generator) -> Case:
    """One motor: two or three sound checks, then the one that is judged."""
    needs_sensors = {"timing_moved", "failing_sensor"} & set(truth) or scene == "timing changed"
    sensored = bool(needs_sensors) or bool(rng.random() < 0.6)
    base = INRUNNER if sensored else OUTRUNNER
    build = replace(base, kv=base.kv * (1 + 0.01 * rng.standard_normal()),
                    no_load_a=base.no_load_a * (1 + 0.06 * rng.standard_normal()),
                    noise_db=base.noise_db + rng.standard_normal())  # fmt: skip
    sound = MotorModel(build)
    condition = together(*(broken(f, s, rng) for f, s in truth.items())) if truth else Condition()
    label = base.kv * (1.08 if scene == "wrong label" else 1.01)
    poles = base.poles + 2 if scene == "wrong pole setting" else base.poles
    known_by = "assumed" if scene == "wrong pole setting" else "counted"
    facts = Motor(f"E-{number}", kind="inrunner" if sensored else "outrunner", sensored=sensored, label_kv=label,
                  poles=poles, poles_known_by=known_by)  # fmt: skip
    before = measured(sound, sound, set(), rng)
    now_motor = MotorModel(build, condition)
    if scene == "timing changed":
        now_motor = MotorModel(build, replace(condition, board_turned_deg=4.0))
    direct = {DIRECT[f] for f in truth}
    after = measured(sound, now_motor, direct, rng)
    count = 1 if scene == "one check only" else int(rng.integers(2, 4))
    days = [14 * i for i in range(count)]
    checks = [check(f"c{d}", START + timedelta(days=d), before, facts, rng) for d in days] if count > 1 else []
    events: list[Event] = []
    at = START + timedelta(days=60)
    if scene == "part replaced":
        worn = measured(sound, MotorModel(build, broken("worn_bearing", 1.4)), {"noise"}, rng)
        checks.append(check("worn", START + timedelta(days=45), worn, facts, rng))
        events.append(Event(EventKind.BEARINGS_REPLACED, START + timedelta(days=50)))
        checks.append(check("new", START + timedelta(days=52), before, facts, rng))
    if scene == "timing changed":
        events.append(Event(EventKind.TIMING_CHANGED, START + timedelta(days=55)))
    if scene == "crashed, nothing broke":
        events.append(Event(EventKind.CRASH, START + timedelta(days=55)))
    events += _told(truth, rng)
    checks.append(check("last", at, after, facts, rng, scene, last=True))
    return Case(History(facts, tuple(checks), tuple(events)), truth, scene, scene != "missing measures")


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


def cases(count: int, seed: int) -> Iterator[Case]:
    """Scenes in fixed shares: a third sound, most of the rest single faults, some pairs, some half measured."""
    names = sorted(CAUSES)
    for number in range(count):
        rng = np.random.default_rng([seed, number])
        kind = number % 12
        if kind < 4:
            yield case(number, HEALTHY[(number // 12 * 4 + kind) % len(HEALTHY)], {}, rng)
            continue
        fault = names[int(rng.integers(len(names)))]
        severity = SEVERITIES[int(rng.integers(len(SEVERITIES)))]
        if kind == 10:
            second = names[int(rng.integers(len(names)))]
            pair = {fault: 1.4} | ({second: 1.4} if second != fault else {})
            yield case(number, "pair", pair, rng)
        else:
            yield case(number, "missing measures" if kind == 11 else "fault", {fault: severity}, rng)


def share(found: list[bool]) -> str:
    """A share with its count."""
    return f"{100 * sum(found) / len(found):5.1f} % of {len(found)}" if found else "    – of 0"


def main() -> None:
    """Simulate, judge, print."""
    options = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    options.add_argument("--count", type=int, default=2400)
    options.add_argument("--seed", type=int, default=20261)
    given = options.parse_args()
    at = START + timedelta(days=61)
    judged = [(c, judge(c.history, at)) for c in cases(given.count, given.seed)]
    print(f"{len(judged)} motors, seed {given.seed}\n")
    caught_and_condemned(judged)
    named(judged)
    at_one_false_alarm_rate(judged)
    calibration(judged)
    by_scene(judged)


Judged = list[tuple[Case, Judgement]]


def caught_and_condemned(judged: Judged) -> None:
    """Faults caught by severity, and sound motors condemned, by both ways of judging."""
    print(f"{'caught: repair or retire, all measures there':<46}{'by evidence':>20}{'by limits':>20}")
    for severity in SEVERITIES:
        mine = [(c, j) for c, j in judged if c.complete and list(c.truth.values()) == [severity]]
        print(f"  severity {severity:<35g}{share([j.verdict in CONDEMNED for _, j in mine]):>20}"
              f"{share([j.by_limits in CONDEMNED for _, j in mine]):>20}")  # fmt: skip
    missed = Counter(next(iter(c.truth)) for c, j in judged if c.complete and len(c.truth) == 1
                     and max(c.truth.values()) >= 1.3 and j.verdict not in CONDEMNED)  # fmt: skip
    past = [(c, j) for c, j in judged if c.complete and len(c.truth) == 1 and max(c.truth.values()) >= 1.3]
    print(f"  {'severity 1.3 and more':<44}{share([j.verdict in CONDEMNED for _, j in past]):>20}"
          f"{share([j.by_limits in CONDEMNED for _, j in past]):>20}")  # fmt: skip
    if missed:
        print("    missed by evidence: " + ", ".join(f"{n} {f}" for f, n in missed.items()))
    sound = [j for c, j in judged if not c.truth]
    print(f"{'sound motors condemned':<46}{share([j.verdict in CONDEMNED for j in sound]):>20}"
          f"{share([j.by_limits in CONDEMNED for j in sound]):>20}")  # fmt: skip
    print(f"{'left unproven, all motors':<46}{share([j.verdict == 'unproven' for _, j in judged]):>20}"
          f"{share([j.by_limits == 'unproven' for _, j in judged]):>20}\n")  # fmt: skip


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
            sound = sorted(scores(j)[way] for c, j in judged if not c.truth)
            threshold = sound[int(0.99 * len(sound))]
            found.append([scores(j)[way] > threshold for c, j in judged if c.truth and max(c.truth.values()) >= least])
        print(f"alarm at 1 % false alarms, {title:<22} by evidence {share(found[0])}   by limits {share(found[1])}")
    print()


def calibration(judged: Judged) -> None:
    """Stated probabilities against how often they were true, over all motors and faults."""
    stated: list[tuple[float, bool]] = []
    for c, j in judged:
        present: dict[str, float] = defaultdict(float)
        for f in j.faults:
            for name in f.names:
                present[name] += f.probability
        stated += [(present[name], name in c.truth) for name in CAUSES]
    edges = (0, 0.02, 0.1, 0.3, 0.5, 0.7, 0.9, 0.98, 1.0001)
    print("stated probability of a fault     mean stated   true     of")
    for low, high in pairwise(edges):
        inside = [(p, t) for p, t in stated if low <= p < high]
        if inside:
            mean, true = np.mean([p for p, _ in inside]), np.mean([t for _, t in inside])
            print(f"  {low:4.2f} to {min(high, 1):4.2f}                    {mean:8.3f} {true:8.3f} {len(inside):6d}")
    print(f"Brier score {np.mean([(p - t) ** 2 for p, t in stated]):.4f}\n")


def by_scene(judged: Judged) -> None:
    """Answers by scene."""
    scenes: dict[str, Counter[str]] = defaultdict(Counter)
    for c, j in judged:
        scenes[("sound: " if not c.truth else "broken: ") + c.scene][j.verdict] += 1
    for scene, answers in sorted(scenes.items()):
        print(f"  {scene:<36}" + "  ".join(f"{v} {n}" for v, n in answers.most_common()))


if __name__ == "__main__":
    main()
