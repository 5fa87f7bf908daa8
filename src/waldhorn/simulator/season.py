"""The demo season: an invented regatta's pit, about thirty motors and half a year of checks, from a fixed seed.

Every reading comes from the motor model with the noise of a rig, so that the faults are true. Nothing in it
exists: no lake, no boat, no owner, no model.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np

from waldhorn.core.base.conditions import Conditions
from waldhorn.core.base.history import Event, Motor, Reading
from waldhorn.core.base.vocabulary import EventKind
from waldhorn.simulator.bench_check import live_check
from waldhorn.simulator.fault_injection import broken, grown
from waldhorn.simulator.motor_model import Build, Condition, MotorModel

SEED = 1871
WEEKS = 26
_PLACE = ZoneInfo("Europe/Zurich")


@dataclass(frozen=True)
class Rig:
    """A bench of the pit; `amps` is what it shows for one ampere and for none, `off` on which day of the season its
    ammeter was off, and by how much; on one that reads the motor's own amps it is spun up `by_settings`."""

    name: str
    method: str
    amps: tuple[float, float] = (1.0, 0.0)
    off: tuple[int, float] = (-1, 1.0)
    by_settings: bool = False

    def shows(self, reading: Reading, day: int) -> Reading:
        """What it makes of a reading on a day of the season."""
        if reading.measure != "no_load_current":
            return reading
        wrong = self.off[1] if day == self.off[0] else 1.0
        return replace(reading, value=round(wrong * (self.amps[0] * reading.value + self.amps[1]), 2))


OFF_DAY = 175
TABLE = Rig("green bench", "loaded-supply", off=(OFF_DAY, 1.28), by_settings=True)
STAND = Rig("drone stand", "fixed-volt")
PIER = Rig("pier bench", "", (1.14, 0.04))  # measures the supply's amps, takes KV as the motor's own rig does
ON_PIER_AFTER = 1  # the check after which some motors are read there as well, the day after

MODELS: dict[str, tuple[Motor, Build, Rig]] = {
    "Skerry 36": (
        Motor("", "Skerry 36", "inrunner", True, "one-design", 3450, None, 4, "label", 12, mass_g=178, lead_mm=90, lead_awg=14, rated_a=45, rated_w=320, price=96),
        Build(3430, 0.016, 7.4, 2.25, 4, 12, timing_deg=28, detent_nmm=18.4, noise_db=81),
        TABLE,
    ),
    "Gannet 28": (
        Motor("", "Gannet 28", "inrunner", True, "twin hydroplane", 4200, None, 4, "counted", 12, mass_g=131, lead_mm=80, lead_awg=14, rated_a=48, rated_w=340, price=88),
        Build(4150, 0.014, 7.4, 3.1, 4, 12, timing_deg=20, detent_nmm=11.2, noise_db=83),
        TABLE,
    ),
    "Petrel 22": (
        Motor("", "Petrel 22", "outrunner", False, "camera drone", 920, None, 14, "counted", 12, mass_g=56, lead_mm=45, lead_awg=18, price=24),
        Build(905, 0.11, 11.1, 0.55, 14, 12, detent_nmm=4.6, noise_db=74, inertia_kgm2=4e-6),
        STAND,
    ),
    "Shearwater 40": (
        Motor("", "Shearwater 40", "outrunner", False, "outrigger", 1480, None, 8, "label", 12, mass_g=205, lead_mm=70, lead_awg=12, price=74),
        Build(1465, 0.012, 11.1, 2.4, 8, 12, detent_nmm=21, noise_db=84, inertia_kgm2=3e-5),
        STAND,
    ),
    "Bollard 50": (
        Motor("", "Bollard 50", "outrunner", True, "tow boat", 390, None, 14, "counted", 12, mass_g=320, lead_mm=110, lead_awg=12, price=92),
        Build(386, 0.028, 11.1, 0.9, 14, 12, timing_deg=10, detent_nmm=52, noise_db=72, inertia_kgm2=9e-5),
        STAND,
    ),
}  # fmt: skip

Story = Callable[[float], Condition]  # season as 0..1 to condition
_SOUND: Story = lambda season: Condition()  # noqa: E731 -- a table of small functions reads best as such


def _after(start: float, condition: Condition, creeping: bool = False) -> Story:
    """A condition that is there from `start` on, or creeps from there to the end of the season."""

    def story(season: float) -> Condition:
        if season < start:
            return Condition()
        if not creeping:
            return condition
        return grown(condition, (season - start) / (1 - start))

    return story


@dataclass(frozen=True)
class Entry:
    """A motor of the demo: who it is, what happens to it, and what is wrong with its record; `pier` is "too" when it was
    read on the other bench as well, "only" when nowhere else."""

    tag: str
    model: str
    machine: str
    position: str
    owner: str
    story: Story = _SOUND
    events: tuple[tuple[float, str, str] | tuple[float, str, str, str], ...] = ()
    checks: int = 9
    facts: tuple[tuple[str, Any], ...] = ()
    retired: bool = False
    last_day: int | None = None
    pier: str = ""


_WORN = Condition(bearing_wear=0.85, roughness=1.3)
ENTRIES = (
    Entry("VS-01", "Skerry 36", "Heron", "", "Ines", pier="too"),
    Entry("VS-02", "Gannet 28", "Otter", "bow", "Tamo", _after(0.7, Condition(board_turned_deg=4.4)),
          ((0.68, "run", "screws found loose after the final"),)),
    Entry("VS-03", "Skerry 36", "Sandpiper", "", "Oda", pier="too"),
    Entry("VS-04", "Skerry 36", "Godwit", "", "Pell", _SOUND,
          ((0.4, "returned", "owner: no top end"), (0.75, "returned", "owner: still no top end"))),
    Entry("VS-05", "Skerry 36", "Curlew", "", "Ines", _after(0.55, replace(_WORN, bearing_wear=0.42, roughness=0.4), True)),
    Entry("VS-06", "Skerry 36", "", "spare", "the pit", last_day=OFF_DAY),
    Entry("VS-07", "Skerry 36", "Marten", "left", "Jorun", _after(0.6, Condition(bearing_wear=0.5, roughness=0.5), True)),
    Entry("VS-08", "Skerry 36", "Turnstone", "", "Oda", checks=7),
    Entry("VS-09", "Skerry 36", "Dunlin", "", "Mirek", checks=1),
    Entry("VS-10", "Skerry 36", "", "spare", "the pit", checks=3),
    Entry("VS-11", "Skerry 36", "Marten", "right", "Jorun", _after(0.35, _WORN, True),
          ((0.34, "dunked", "rolled at the third buoy"),)),
    Entry("VS-12", "Gannet 28", "Fulmar", "left", "Sanna", pier="too"),
    Entry("VS-13", "Gannet 28", "Fulmar", "right", "Sanna", _SOUND,
          ((0.5, "cleaned", ""), (0.62, "mended", "phase B soldered anew", "leads"))),
    Entry("VS-14", "Gannet 28", "Auk", "left", "Tamo", _SOUND,
          ((0.6, "bearings_replaced", "both, ceramic"),), pier="too"),
    Entry("VS-15", "Skerry 36", "Plover", "", "Mirek", _SOUND,
          ((0.93, "returned", "cuts out in the boat, sensor cable chafed"),)),
    Entry("VS-16", "Gannet 28", "Auk", "right", "Tamo", pier="too"),
    Entry("VS-17", "Gannet 28", "", "spare", "the pit", checks=4),
    Entry("VS-18", "Gannet 28", "", "spare", "Sanna", checks=0),
    Entry("VS-19", "Gannet 28", "Otter", "stern", "Tamo", _after(0.72, Condition(magnet_loss=0.07)),
          ((0.71, "overheated", "ran dry, too hot to touch"),)),
    Entry("VS-20", "Petrel 22", "camera drone", "front left", "the pit", pier="too"),
    Entry("VS-21", "Petrel 22", "camera drone", "rear left", "the pit", checks=2, facts=(("poles", 12), ("poles_known_by", "assumed"), ("slots", None))),
    Entry("VS-22", "Petrel 22", "camera drone", "rear right", "the pit", pier="too"),
    Entry("VS-23", "Petrel 22", "camera drone", "front right", "the pit", _after(0.5, Condition(eccentricity_mm=0.17)),
          ((0.49, "crash", "clipped the finish buoy"),)),
    Entry("VS-24", "Shearwater 40", "Skimmer", "", "Halla", pier="too"),
    Entry("VS-25", "Shearwater 40", "Merganser", "", "Leno", pier="too"),
    Entry("VS-26", "Shearwater 40", "Gadwall", "", "Halla", _after(0.82, Condition(shorted_share=1.5, magnet_loss=0.015)),
          ((0.81, "overheated", "weed in the propeller, smelled of varnish"),)),
    Entry("VS-27", "Shearwater 40", "", "spare", "Leno", checks=5),
    Entry("VS-28", "Bollard 50", "Ox", "port", "the pit", pier="too"),
    Entry("VS-29", "Bollard 50", "Ox", "starboard", "the pit", pier="too"),
    Entry("VS-30", "Skerry 36", "", "", "Oda", _after(0.3, Condition(weak_magnet=0.12, loose=1.3)),
          ((0.29, "crash", "into the jetty"), (0.45, "retired", "magnet rattles")), checks=4, retired=True),
    Entry("PB-1", "Skerry 36", "", "pit box", "the pit", checks=6),
    Entry("PB-2", "Skerry 36", "", "pit box", "the pit", _after(1.0, broken("worn_bearing", 1.5)), checks=6),
    Entry("PB-3", "Gannet 28", "", "pit box", "the pit", _after(1.0, broken("demagnetised_rotor", 1.4)), checks=6),
    Entry("VS-32", "Petrel 22", "", "spare", "the pit", checks=2, pier="only"),
    Entry("REF-1", "Skerry 36", "", "pit box", "the pit", checks=14, facts=(("reference", True),), last_day=OFF_DAY + 2),
)  # fmt: skip

PIT_BOX = ("PB-1", "PB-2", "PB-3")  # lie clamped when the demo starts: one is good, two hide something


@dataclass(frozen=True)
class SeasonMotor:
    """One motor of the demo with its events and its checks, oldest first."""

    motor: Motor
    events: tuple[Event, ...]
    checks: tuple[tuple[str, datetime, tuple[Reading, ...]], ...]


def season(last_day: date, seed: int = SEED) -> Iterator[SeasonMotor]:
    """The whole demo, ending on `last_day`; the same seed and day give the same season to the last digit."""
    for index, entry in enumerate(ENTRIES):
        yield _motor(entry, last_day, *(np.random.default_rng([seed, index, *more]) for more in ((), (1,))))


def as_it_is(tag: str) -> MotorModel | None:
    """A motor of the demo as the season left it, or None for any other tag."""
    for index, entry in enumerate(ENTRIES):
        if entry.tag.casefold() == tag.strip().casefold():
            return MotorModel(_build(entry, np.random.default_rng([SEED, index])), entry.story(1.0))
    return None


def _build(entry: Entry, rng: np.random.Generator) -> Build:
    """A motor as it was built: no two of a model are alike."""
    build = MODELS[entry.model][1]
    return replace(
        build,
        kv=build.kv * (1 + 0.008 * rng.standard_normal()),
        no_load_a=build.no_load_a * (1 + 0.04 * rng.standard_normal()),
        noise_db=build.noise_db + 0.8 * rng.standard_normal(),
        detent_nmm=build.detent_nmm * (1 + 0.02 * rng.standard_normal()),
        timing_deg=build.timing_deg + 0.5 * rng.standard_normal(),
    )


def _motor(entry: Entry, last_day: date, rng: np.random.Generator, elsewhere: np.random.Generator) -> SeasonMotor:
    facts, _, own_rig = MODELS[entry.model]
    pier = replace(PIER, method=own_rig.method)
    rig = pier if entry.pier == "only" else own_rig
    first_day = last_day - timedelta(weeks=WEEKS)
    motor = replace(
        facts,
        tag=entry.tag,
        machine=entry.machine,
        position=entry.position,
        owner=entry.owner,
        in_service_on=(first_day - timedelta(days=10)).isoformat(),
        **dict(entry.facts),
    )
    build = _build(entry, rng)
    events = [Event(EventKind(kind), _at(first_day, share, 16.5), 1, *words) for share, kind, *words in entry.events]
    last = 0.45 if entry.retired else 1 - 0.09 * float(rng.random())
    if entry.last_day is not None:
        last = entry.last_day / (WEEKS * 7)
    first = 0.0 if entry.checks > 4 else last - 0.1 * entry.checks
    shares = [float(share) for share in np.linspace(first, last, max(entry.checks, 1))[: entry.checks]]
    if motor.reference:
        shares[-2:] = [OFF_DAY / (WEEKS * 7), last]
    checks = []
    for number, share in enumerate(shares):
        at = _at(first_day, share, 9 + 0.6 * (int(entry.tag[-2:].strip("-")) % 9))
        spun = MotorModel(build, entry.story(share))
        checks.append(_visit(spun, rig, motor, at, first_day, rng))
        if entry.pier == "too" and number == ON_PIER_AFTER:
            checks.append(_visit(spun, pier, motor, at + timedelta(days=1), first_day, elsewhere))
        if number and not motor.reference:
            events.append(Event(EventKind.RUN, at - timedelta(hours=3), int(rng.integers(3, 8))))
    return SeasonMotor(motor, tuple(events), tuple(checks))


def _visit(
    spun: MotorModel, rig: Rig, motor: Motor, at: datetime, first_day: date, rng: np.random.Generator
) -> tuple[str, datetime, tuple[Reading, ...]]:
    day = (at.date() - first_day).days
    taken = tuple(rig.shows(r, day) for r in _check(spun, rig, motor, at, rng))
    return at.strftime("%Y-%m-%d %H:%M"), at, taken


def _at(first_day: date, share: float, hour: float) -> datetime:
    day = first_day + timedelta(days=round(share * WEEKS * 7))
    return datetime.combine(day, time(int(hour), round(hour % 1 * 60)), _PLACE)


def _check(motor: MotorModel, rig: Rig, facts: Motor, at: datetime, rng: np.random.Generator) -> Iterator[Reading]:
    """One check as a careful technician would make it: by hand what the hand does, the rest on the simulated bench."""
    ambient = round(21 + 4 * float(rng.random()), 1)
    by_hand = Conditions(rig=rig.name, ambient_c=ambient)
    cold = replace(by_hand, motor_c=ambient)
    for position, peak in enumerate(motor.detent_peaks(ambient)[:14], 1):
        felt = peak * (1 + 0.03 * rng.standard_normal())
        yield Reading("detent_peak", round(felt, 2), at, conditions=cold, position=position)
    if facts.kind == "outrunner":
        for clock_deg in (0, 90, 180, 270):
            gap = motor.gap_mm(clock_deg) + 0.006 * rng.standard_normal()
            yield Reading("gap", round(gap, 2), at, conditions=by_hand, angle_deg=float(clock_deg))
    yield from live_check(motor, facts, rig.name, rig.method, at, ambient, int(rng.integers(2**31)), rig.by_settings)
