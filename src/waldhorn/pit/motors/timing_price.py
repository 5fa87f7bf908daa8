"""What a degree of timing buys and costs a motor with a load on its shaft, in words, with what it rests on."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.history import Motor
from waldhorn.core.judging.sentences import no_finer
from waldhorn.core.measuring.end_bell import LEAST_APART_DEG, TimingPull
from waldhorn.core.predicting import timing_price as core
from waldhorn.core.predicting.constants import Constants
from waldhorn.core.predicting.operating_point import Load, Outcome, Pack
from waldhorn.core.predicting.timing_price import FURTHEST_DEG, Suggested

Degree = Mapping[str, tuple[float, float]]  # by figure: its change a degree, and one standard uncertainty
DEGREES = tuple(float(d) for d in range(-int(FURTHEST_DEG), int(FURTHEST_DEG) + 1))
SHOWN = (-5.0, -2.0, 0.0, 2.0, 5.0)
WORTH_IT = 0.003  # of the efficiency: less than this is no reason to turn a screw
# What keeps it from going further, by what held it.
_HELD = {
    "amps": "a degree more passes its rated amps", "watts_in": "a degree more passes its rated watts",
    "rpm": "a degree more passes its rated rpm", "heat_w": "a degree more is a quarter hotter than now",
    "no_faster": "a degree more makes it no faster", "range": "beyond that nobody has looked",
}  # fmt: skip


@dataclass(frozen=True)
class Priced:
    """What a degree more buys and costs, by figure with one standard uncertainty; what comes out with the end bell
    turned; what is suggested, in words; and whether the motor's own sweep told it."""

    degree: Degree
    course: Sequence[tuple[float, Outcome]]
    words: Sequence[str]
    own_sweep: bool


def priced(motor: Motor, constants: Constants, pack: Pack, load: Load, pulls: Sequence[TimingPull]) -> Priced | None:
    """The price of a degree of the end bell, or of the controller where there are no sensors; None for a pack that does
    not turn the load."""
    slopes = core.slopes_of(pulls)
    course = core.over_timing(constants, pack, load, slopes, DEGREES)
    ratings = {"amps": motor.rated_a, "watts_in": motor.rated_w, "rpm": motor.rated_rpm}
    found = core.suggest(course, {name: most for name, most in ratings.items() if most})
    if found is None:
        return None
    try:
        degree = core.of_a_degree(constants, pack, load, slopes)
    except InputError:
        return None
    now = next(o for deg, o in course if deg == 0)
    settings = [p.setting_deg for p in pulls]
    swept = bool(settings) and max(settings) - min(settings) >= LEAST_APART_DEG
    shown = [(deg, o) for deg, o in course if deg in SHOWN]
    return Priced(degree, shown, (_economy(found[0], now, degree), _top_speed(found[1], now, degree)), swept)


def _economy(best: Suggested, now: Outcome, degree: Degree) -> str:
    gained = best.outcome.efficiency - now.efficiency
    if best.by_deg == 0 or gained < WORTH_IT:
        return "For economy, leave it where it is."
    by = _amounts(best, now, degree)
    if best.held_by == "range":
        way = "less" if best.by_deg < 0 else "more"
        return (
            f"No best for economy within {FURTHEST_DEG:.0f}°: {way} timing is the more efficient all the way,"
            f" {by['efficiency']} points at {_turn(best.by_deg)} for {by['rpm']} rpm."
        )
    return (
        f"For economy, {_turn(best.by_deg)}: {by['efficiency']} points more efficient, {by['heat_w']} W less heat,"
        f" {by['rpm']} rpm slower."
    )


def _top_speed(best: Suggested, now: Outcome, degree: Degree) -> str:
    if best.by_deg == 0:
        return f"For top speed, leave it where it is: {_HELD[best.held_by]}."
    by = _amounts(best, now, degree)
    return (
        f"For top speed, {_turn(best.by_deg)}: {by['rpm']} rpm faster for {by['amps']} A more and {by['heat_w']} W more"
        f" heat; {_HELD[best.held_by]}."
    )


def _amounts(best: Suggested, now: Outcome, degree: Degree) -> dict[str, str]:
    """How far each figure moves, no finer than it is known."""
    found = {}
    for name, (_, u) in degree.items():
        scale = 100 if name == "efficiency" else 1
        moved = abs(getattr(best.outcome, name) - getattr(now, name))
        found[name] = no_finer(scale * moved, scale * abs(best.by_deg) * u)
    return found


def _turn(by_deg: float) -> str:
    return f"{abs(by_deg):.0f}° {'further on' if by_deg > 0 else 'back'}"
