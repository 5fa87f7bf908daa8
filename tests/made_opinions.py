"""A notebook's notes besides its rows of numbers, and what a good technician says to each."""

from dataclasses import replace

from made import NOW, SOUND, day, full, history
from waldhorn.core.base.history import Event, Inspected, LampsSeen
from waldhorn.core.base.vocabulary import EventKind, HallKind, Look, Turning
from waldhorn.core.judging.verdict import judge

PAST = (full(0, gaps=(0.6,) * 4), full(14, gaps=(0.6,) * 4))
GAPS = {"gaps": (0.6, 0.61, 0.6, 0.59)}
PEAKS = SOUND["peaks"]


def found(item, state, note="", at=30.0):
    """Something an eye or a hand found."""
    return Inspected(f"c{at:g}", item, Look(state), day(at), note)


def said(*checks, inspected=(), lamps=(), events=(), past=PAST, context=None, **more):
    """The judgement of a motor with a sound past."""
    known = history(*past, *checks, motor=more.pop("motor", None))
    known = replace(known, inspected=tuple(inspected), lamps=tuple(lamps), events=tuple(events), **more)
    return judge(known, NOW, context)


def happened(kind, at=29.0, detail=""):
    return Event(EventKind(kind), day(at), detail=detail)


def lamps_stuck(at=30.0):
    return LampsSeen(f"c{at:g}", HallKind.STUCK, (), Turning.NOT_NOTED, 0, day(at))


SAID = {
    "a lamp stuck": (
        lambda: said(full(30), lamps=[lamps_stuck()]), "Unproven: Hall lamps stuck: try again, or mend it."),
    "a shaft bent by eye, the gap not gauged": (
        lambda: said(full(30), inspected=[found("shaft", "bad", "bent")]),
        "Unproven: shaft bent by eye: gauge the gap."),
    "bearings gritty, nobody listened": (
        lambda: said(full(30, leave=("noise",)), inspected=[found("bearings", "bad", "gritty")]),
        "Unproven: bearings gritty by hand: listen and spin up."),
    "bearings gritty, everything else as ever": (
        lambda: said(full(30), inspected=[found("bearings", "bad", "gritty")]),
        "Unproven: bearings gritty by hand: look again, or mend it."),
    "bearings gritty and 8 dB louder, clamped twice": (
        lambda: said(full(30, noise=89, name="a"), full(31, noise=89, name="b"),
                     inspected=[found("bearings", "bad", "gritty")]), "Repair: replace the bearings."),
    "the smell of a winding, no ohms read": (
        lambda: said(full(30), inspected=[found("windings", "doubt", "smells")]),
        "Unproven: windings smells: read the winding resistance."),
    "the mark of the end bell has moved": (
        lambda: said(full(30, leave=("timing",)), inspected=[found("end_bell", "bad", "mark off")]),
        "Unproven: end bell mark off: run the sweep."),
    "a crash, no gap": (
        lambda: said(full(30), events=[happened("crash")], inspected=[found("magnets", "ok")]),
        "Unproven: crashed 30 May: gauge the gap."),
    "a crash, all of it read": (
        lambda: said(full(30, **GAPS), events=[happened("crash")], inspected=[found("magnets", "ok")]), "Keep."),
    "dunked, not turned by hand": (
        lambda: said(full(30), events=[happened("dunked")]), "Unproven: dunked 30 May: turn the bearings by hand."),
    "dunked, turned once": (
        lambda: said(full(30), events=[happened("dunked")], inspected=[found("bearings", "ok", at=30)]),
        "Unproven: dunked 30 May: turn the bearings by hand again."),
    "overheated, no ohms": (
        lambda: said(full(30), events=[happened("overheated")]),
        "Unproven: overheated 30 May: read the winding resistance."),
    "came back with a complaint": (
        lambda: said(full(30), events=[happened("returned", detail="screams in the car")]),
        "Unproven: came back 30 May: swap motor and controller."),
    "amps a tenth": (
        lambda: said(full(30, amps=0.2)), "Unproven: no-load current 0.20 A, was 2.00: decimal point?"),
    "amps in milliamps": (
        lambda: said(full(30, amps=2000.0)), "Unproven: no-load current 2000.00 A, was 2.00: mA?"),
    "a surface in °F": (lambda: said(full(30, surface=44 * 9 / 5 + 32)), "Unproven: heat 89.2 K, was 22.0: °F?"),
    "a detent in oz·in": (
        lambda: said(full(30, peaks=tuple(p / 7.0616 for p in PEAKS))), "Unproven: detent 2.6 N·mm, was 18.1: oz·in?"),
    "twice the speed": (lambda: said(full(30, kv=6800.0)), "Unproven: is the instrument set to its poles?"),
    "amps down by 28 %": (
        lambda: said(full(30, amps=1.44)), "Unproven: no-load current −28 %: timing back, supply, or the meter?"),
    "KV down by 6 %": (
        lambda: said(full(30, kv=3400 * 0.94)), "Unproven: KV −6.0 %: timing back, supply sagging, or the meter?"),
    "a label 9 % too high": (
        lambda: said(full(30, kv=3450 * 0.91, leave=("noise",)), past=()),
        "Unproven: a first look, with too little to compare with."),
}  # fmt: skip
