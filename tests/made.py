"""Motors, checks and histories made in a line."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Check, Event, History, Motor, Reading
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.core.judging.baseline import own_references
from waldhorn.core.judging.verdict import JudgingContext
from waldhorn.core.measuring.observations import all_groups
from waldhorn.store.writing import Writing

START = datetime(2026, 5, 1, 10, 0, tzinfo=UTC)
NOW = datetime(2026, 9, 12, 14, 0, tzinfo=UTC)
BY = Writing(NOW)
PULL = Conditions(rig="bench", method="loaded-supply", throttle_pct=100.0, motor_c=25.0)


def day(number: float) -> datetime:
    """A time so many days after the season's start."""
    return START + timedelta(days=number)


def pulls(number: float, *runs: tuple[float, float, float], conditions: Conditions = PULL, name: str = "") -> Check:
    """A check with full-throttle runs given as (volts, amps, rpm), the speed as steady as a sound motor's."""
    readings = [
        Reading(measure, value, day(number), run, conditions)
        for run, values in enumerate(runs, 1)
        for measure, value in zip(
            ("supply_volts", "no_load_current", "rpm", "rpm_p2p"), (*values, 0.002 * values[2]), strict=True
        )
    ]
    return Check(name or f"c{number}", day(number), tuple(readings))


def history(*checks: Check, events: tuple[tuple[float, str], ...] = (), motor: Motor | None = None) -> History:
    """A history of a 3450 KV inrunner with 4 poles, known by counting."""
    motor = motor or Motor("VS-07", "Skerry 36", label_kv=3450, poles=4, poles_known_by="counted", slots=12)
    return History(motor, checks, tuple(Event(EventKind(name), day(at)) for at, name in events))


SOUND = {
    "kv": 3400.0, "amps": 2.0, "wander": 0.2, "noise": 81.0, "surface": 44.0, "peaks": (18.0, 18.3, 18.1, 18.4) * 3,
    "timing": (20.3, 19.7, 20.0),
}  # fmt: skip


def full(number: float, name: str = "", runs: int = 2, leave: tuple[str, ...] = (), **changed: object) -> Check:
    """A check of the quick list of a sensored inrunner with its detent, sound but for what is changed: a value, or one
    a run; `leave` is not measured, `gaps` and `energy` are only measured when given, `under` changes the conditions."""
    volts, at = 7.4, day(number)
    given = SOUND | {"volts": volts, "gaps": None, "energy": None, "background": 55.0} | changed
    under = replace(PULL, ambient_c=22.0, **given.pop("under", {}))  # type: ignore[arg-type]
    noted = replace(under, throttle_pct=None, method="")
    stand = replace(under, placement="stand", distance_cm=10.0, method="", motor_c=None)
    readings: list[Reading] = []

    def of(what: str, run: int) -> float:
        value = given[what]
        return float(value[run - 1] if isinstance(value, tuple) else value)  # type: ignore[arg-type]

    for run in range(1, runs + 1):
        rpm = of("kv", run) * of("volts", run)
        pulled = {
            "volts": ("supply_volts", of("volts", run)),
            "amps": ("no_load_current", of("amps", run)),
            "kv": ("rpm", rpm),
            "wander": ("rpm_p2p", rpm * of("wander", run) / 100),
        }
        readings += [Reading(m, v, at, run, under) for what, (m, v) in pulled.items() if what not in leave]
        if "timing" not in leave:
            phases = zip("abc", given["timing"], strict=True)  # type: ignore[call-overload]
            readings += [Reading(f"timing_{p}", v, at, run, noted) for p, v in phases]
        if "noise" not in leave:
            readings += [
                Reading("noise_background", 55.0, at, run, stand),
                Reading("noise_avg", of("noise", run), at, run, stand),
            ]
    if "surface" not in leave:
        readings.append(Reading("temperature", of("surface", 1), at, 1, noted))
        if given["energy"]:
            readings.append(Reading("run_energy", of("energy", 1), at, 1, noted))
    if "peaks" not in leave:
        cold = replace(noted, motor_c=22.0)
        readings += [Reading("detent_peak", p, at, 1, cold, position=i) for i, p in enumerate(given["peaks"], 1)]  # type: ignore[arg-type,var-annotated]
    if given["gaps"]:
        clock = zip((0.0, 90.0, 180.0, 270.0), given["gaps"], strict=True)  # type: ignore[call-overload]
        readings += [Reading("gap", g, at, 1, noted, angle_deg=angle) for angle, g in clock]
    return Check(name or f"c{number}", at, tuple(readings))


WORN = {"noise": 88.0, "amps": 2.7, "wander": 1.6, "surface": 52.0}
BEARING = {"noise": 88.2, "amps": 2.72, "wander": 1.64, "surface": 53.6}  # worn to 1.2 of its act limit


def siblings(**changed):
    """Six sound motors of the model, as something to compare with."""
    peers = {}
    for _ in range(6):
        theirs = history(full(3, **changed))
        for name, found in own_references(all_groups(theirs), theirs.events).items():
            peers.setdefault(name, []).extend(found)
    return JudgingContext(peers)
