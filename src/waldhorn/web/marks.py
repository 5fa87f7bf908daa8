"""What the current check has found, as marks on the drawing of the motor: where they sit and how they look.

Run-out leans the rotor, detent peaks are teeth around the turn, the three phase timings are three hands, a lamp of a
sensor is lit, dark or struck through.
"""

import math
from dataclasses import dataclass

from waldhorn.core import gap, inspection
from waldhorn.core.errors import Refused
from waldhorn.core.hall import SENSORS
from waldhorn.core.noticed import looked_at
from waldhorn.pit.desk import Desk, View
from waldhorn.pit.panels import detent as detent_panel
from waldhorn.pit.panels import gap as gap_panel
from waldhorn.pit.panels import timing as timing_panel

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
class Marks:
    """Everything the check puts on the drawing."""

    lean_x: float = 0.0
    lean_y: float = 0.0
    teeth: str = ""
    odd_teeth: str = ""
    hands: tuple[Hand, ...] = ()
    lamps: tuple[Lamp, ...] = ()
    parts: tuple[tuple[str, str], ...] = ()  # part to the graver finding of the eye


def marks_of(desk: Desk, step: str, view: View) -> Marks:
    """The marks of a check, with what is being typed in its step."""
    fitted = view.picture if step == "gap" else _fit(desk)
    lean = _lean(fitted) if isinstance(fitted, gap.GapFit) else (0.0, 0.0)
    peaks = view.more.get("peaks") if step == "detent" else detent_panel.peaks_of(desk, [])
    odd = view.more.get("outliers", ()) if step == "detent" else ()
    teeth, odd_teeth = _teeth(peaks or [], odd, detent_panel.positions(desk))
    phases = view.picture if step == "timing" else timing_panel.view(desk, {}, []).picture
    return Marks(*lean, teeth, odd_teeth, _hands(phases), _lamps(desk, step, view), _parts(desk))


def _fit(desk: Desk) -> gap.GapFit | None:
    runs = desk.runs_of(gap_panel.STEP)
    if not runs:
        return None
    last = list(runs.values())[-1]
    try:
        return gap.fit([r.angle_deg or 0.0 for r in last], [r.value for r in last])
    except Refused:
        return None


def _lean(fitted: gap.GapFit) -> tuple[float, float]:
    """The rotor moves away from where the gap opens; clock angles run from the top."""
    size = min(MOST_LEAN, LEAN_PER_MM * fitted.run_out_mm / 2)
    turn = math.radians(fitted.opens_at_deg + 180 - 90)
    return round(size * math.cos(turn), 2), round(size * math.sin(turn), 2)


def _teeth(peaks: list[float], odd: tuple[int, ...], positions: int | None) -> tuple[str, str]:
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


def _hands(phases: object) -> tuple[Hand, ...]:
    if not isinstance(phases, dict) or set(phases) != {"a", "b", "c"}:
        return ()
    middle = sum(phases.values()) / 3
    found = []
    for place, letter in enumerate("abc"):
        turn = math.radians(120 * place - 90 + HAND_DEGREES * (phases[letter] - middle))
        found.append(Hand(letter.upper(), round(44 * math.cos(turn), 1), round(44 * math.sin(turn), 1)))
    return tuple(found)


def _lamps(desk: Desk, step: str, view: View) -> tuple[Lamp, ...]:
    if not desk.motor.sensored:
        return ()
    state, kind = "", desk.said("hall")
    bad = ""
    if step == "sensors" and view.picture:
        finding, state = view.picture
        kind, bad = finding.kind, finding.sensors
    elif kind:
        state = desk.findings["hall"].note.split("|")[0].split(" ")[-1]
    found = []
    for place, letter in enumerate(SENSORS):
        turn = math.radians(30 * (place - 1) + 90)
        lit = {"1": "lit", "0": "dark"}.get(state[place] if len(state) == 3 else "", "unknown")
        shown = "bad" if letter in bad else lit
        found.append(Lamp(letter, round(184 * math.cos(turn), 1), round(184 * math.sin(turn), 1), shown))
    return tuple(found)


def _parts(desk: Desk) -> tuple[tuple[str, str], ...]:
    found: dict[str, str] = {}
    for name, state in looked_at(desk.history).items():
        if state in ("doubt", "bad") and name in inspection.ITEMS:
            part = inspection.ITEMS[name].part
            found[part] = "bad" if "bad" in (state, found.get(part)) else "doubt"
    return tuple(found.items())
