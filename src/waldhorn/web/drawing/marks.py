"""What the current check has found, as marks on the drawing of the motor: where they sit and how they look.

Run-out leans the rotor, detent peaks are teeth around the turn, the three phase timings are three hands, a lamp of a
sensor is lit, dark or struck through.
"""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core.base.vocabulary import Look
from waldhorn.core.judging.hands import open_findings
from waldhorn.core.measuring import inspection
from waldhorn.core.measuring.gap import GapFit
from waldhorn.core.measuring.hall import SENSORS
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps.step import Marks

LEAN_PER_MM = 70.0  # drawn exaggerated, or nobody would see it
MOST_LEAN = 9.0
TEETH_AT, TOOTH = 192.0, 20.0
HAND_DEGREES = 6.0  # drawn degrees for one degree between the phases


@dataclass(frozen=True)
class Lamp:
    """A sensor's lamp: letter, place, and lit, dark, bad or unknown."""

    letter: str
    x: float
    y: float
    state: str


@dataclass(frozen=True)
class Hand:
    """The timing of one phase as a hand."""

    letter: str
    x: float
    y: float


@dataclass(frozen=True)
class DrawnMarks:
    """Everything the check puts on the drawing."""

    lean_x: float = 0.0
    lean_y: float = 0.0
    teeth: str = ""
    odd_teeth: str = ""
    hands: tuple[Hand, ...] = ()
    lamps: tuple[Lamp, ...] = ()
    parts: tuple[tuple[str, Look], ...] = ()  # part to the graver finding of the eye


def drawn_marks(marks: Marks, ctx: CheckContext) -> DrawnMarks:
    """The marks of a check, with what is being typed in its step."""
    lean = _lean(marks.lean) if marks.lean else (0.0, 0.0)
    teeth, odd_teeth = _teeth(marks.peaks, marks.odd_peaks, marks.positions)
    lamps = _lamps(marks) if marks.lamps or marks.bad_sensors else ()
    return DrawnMarks(*lean, teeth, odd_teeth, _hands(marks.phases), lamps, _parts(ctx))


def _lean(fitted: GapFit) -> tuple[float, float]:
    """The rotor moves away from where the gap opens; clock angles run from the top."""
    size = min(MOST_LEAN, LEAN_PER_MM * fitted.run_out_mm / 2)
    turn = math.radians(fitted.opens_at_deg + 180 - 90)
    return round(size * math.cos(turn), 2), round(size * math.sin(turn), 2)


def _teeth(peaks: Sequence[float], odd: Sequence[int], positions: int | None) -> tuple[str, str]:
    if not peaks:
        return "", ""
    count = positions or len(peaks)
    top = max(p for i, p in enumerate(peaks) if i not in odd or len(odd) == len(peaks))
    paths = ["", ""]
    for i, peak in enumerate(peaks[: 2 * count]):
        turn = 2 * math.pi * i / count - math.pi / 2
        end = TEETH_AT + TOOTH * min(peak / top, 1.4)
        paths[i in odd] += (
            f"M{TEETH_AT * math.cos(turn):.1f} {TEETH_AT * math.sin(turn):.1f}"
            f"L{end * math.cos(turn):.1f} {end * math.sin(turn):.1f}"
        )
    return paths[0], paths[1]


def _hands(phases: Mapping[str, float]) -> tuple[Hand, ...]:
    if set(phases) != {"a", "b", "c"}:
        return ()
    middle = sum(phases.values()) / 3
    found = []
    for place, letter in enumerate("abc"):
        turn = math.radians(120 * place - 90 + HAND_DEGREES * (phases[letter] - middle))
        found.append(Hand(letter.upper(), round(44 * math.cos(turn), 1), round(44 * math.sin(turn), 1)))
    return tuple(found)


def _lamps(marks: Marks) -> tuple[Lamp, ...]:
    found = []
    for place, letter in enumerate(SENSORS):
        turn = math.radians(30 * (place - 1) + 90)
        shown = {"1": "lit", "0": "dark"}.get(marks.lamps[place] if len(marks.lamps) == 3 else "", "unknown")
        state = "bad" if letter in marks.bad_sensors else shown
        found.append(Lamp(letter, round(184 * math.cos(turn), 1), round(184 * math.sin(turn), 1), state))
    return tuple(found)


def _parts(ctx: CheckContext) -> tuple[tuple[str, Look], ...]:
    found: dict[str, Look] = {}
    for name, state in open_findings(ctx.history).items():
        if state in (Look.DOUBT, Look.BAD) and name in inspection.ITEMS:
            part = inspection.ITEMS[name].part
            found[part] = Look.BAD if Look.BAD in (state, found.get(part)) else Look.DOUBT
    return tuple(found.items())
