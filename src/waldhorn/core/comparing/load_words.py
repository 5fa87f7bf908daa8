"""What load rows say of motors side by side, in sentences: the answer first, what it rests on after."""

from collections.abc import Mapping, Sequence
from itertools import pairwise

from waldhorn.core.base.history import Motor
from waldhorn.core.comparing.loads import SURE, LoadCrossing, LoadDifference, LoadRead, ThrottleCurve, closes
from waldhorn.core.judging.sentences import listed
from waldhorn.core.measuring import load
from waldhorn.core.motors.ratings import beyond

SAME = 0.2  # of its uncertainty: a difference not worth a number
NO_MORE = "which is no more than they can be read"


def grams(value: float) -> str:
    """A mass as a stand shows it.

    >>> grams(1180.4), grams(10.4), grams(3.21)
    ('1180 g', '10 g', '3.2 g')
    """
    return f"{value:.0f} g" if abs(value) >= 10 else f"{value:.1f} g"


def on(name: str, pack: str) -> str:
    """On what it was read.

    Parameters
    ----------
    name : str
        A propeller, as it was written.
    pack : str
        A pack, empty where it was not said.
    """
    return f"on {name} with {pack}" if pack else f"on {name}"


def is_sure(d: LoadDifference) -> bool:
    """Whether it is known which of the two makes more."""
    return d.p is not None and not 1 - SURE < d.p < SURE


def most_telling(found: Sequence[LoadDifference]) -> LoadDifference | None:
    """The difference that is told first: the surest in thrust, or the first where no thrust was read."""
    told = [d for d in found if d.telling_g is not None and d.u]
    sure = [d for d in told if is_sure(d)]
    if sure:
        return max(sure, key=lambda d: abs(d.telling_g or 0) / (d.u or 1))
    return None if told else next(iter(found), None)


def answer(rows: Sequence[LoadRead], found: Sequence[LoadDifference], curves: Sequence[ThrottleCurve]) -> str:
    """The first sentence: which motor is the better one on what, or what one does.

    Parameters
    ----------
    rows : sequence of LoadRead
        Rows read under load.
    found : sequence of LoadDifference
        What two motors drove alike.
    curves : sequence of ThrottleCurve
        Watts over thrust, by motor and propeller.
    """
    most = most_telling(found)
    if most and most.telling_g is None:
        return _turns(most)
    if most:
        better, worse = most.motors if (most.telling_g or 0) < 0 else most.motors[::-1]
        return _better(better, worse, most, curves)
    if found:
        names = listed(list(dict.fromkeys(m for d in found for m in d.motors)))
        return f"{names} make the same thrust, as well as it can be read."
    if not rows:
        return "No load row yet."
    if len({r.motor for r in rows}) > 1:
        return "Not on the same propeller and pack yet: nothing to compare."
    full = [r for r in rows if r.full] or list(rows)
    most_read = max(full, key=lambda r: (r.thrust_g or 0, r.rpm or 0))
    return f"{most_read.motor}: {_does(most_read)} {on(most_read.propeller, most_read.source)}."


def _better(better: str, worse: str, d: LoadDifference, curves: Sequence[ThrottleCurve]) -> str:
    """The motor that makes more; it is the better one only where it does not pay for it in watts."""
    where, more = on(d.propeller, d.pack), grams(abs(d.telling_g or 0))
    equal = _at_equal_thrust(better, worse, d, curves)
    if equal and equal[0] >= 1:
        return f"{better} is the better one {where}: {more} more, and {equal[0]:.0f} W less for {grams(equal[1])}."
    watts = None if d.watts is None else d.watts if better == d.motors[1] else -d.watts
    if watts is not None and watts <= 0:
        return f"{better} is the better one {where}: {more} more for {-watts:.0f} W less."
    said = f"{_first(where)} {better} makes {more} more"
    if watts is not None:
        said += f" for {watts:.0f} W more"
    if equal and equal[0] <= -1:
        said += f"; for {grams(equal[1])} {worse} needs {-equal[0]:.0f} W less"
    return f"{said}."


def _at_equal_thrust(
    better: str, worse: str, d: LoadDifference, curves: Sequence[ThrottleCurve]
) -> tuple[float, float] | None:
    """How many watts less the better one needs for the most thrust that both make, and for how much, where both were
    read over their throttle."""
    by = {c.motor: c for c in curves if (c.propeller, c.source) == (d.propeller, d.pack)}
    if better not in by or worse not in by:
        return None
    thrust = min(by[better].thrust_g[-1], by[worse].thrust_g[-1])
    if thrust < max(by[better].thrust_g[0], by[worse].thrust_g[0]):
        return None
    return by[worse].watts_at(thrust) - by[better].watts_at(thrust), thrust


def _does(row: LoadRead) -> str:
    said = [grams(row.thrust_g)] if row.thrust_g else []
    said += [f"{row.rpm:.0f} rpm"] if row.rpm and not row.thrust_g else []
    said += [f"{row.watts:.0f} W"] if row.watts else [f"{row.amps:.1f} A"] if row.amps else []
    told = " at ".join(said) or "nothing read"
    return f"{told}, {row.grams_per_watt:.1f} g/W" if row.grams_per_watt else told


def _turns(d: LoadDifference) -> str:
    """Two motors whose thrust was not read."""
    if d.rpm is None:
        return f"{_first(on(d.propeller, d.pack))} neither thrust nor speed were read of both."
    faster, other = d.motors[::-1] if d.rpm > 0 else d.motors
    said = f"{_first(on(d.propeller, d.pack))} {faster} turns {abs(d.rpm):.0f} rpm faster than {other}"
    if d.amps is None:
        return f"{said}."
    amps = d.amps if d.rpm > 0 else -d.amps
    return f"{said} for {abs(amps):.1f} A {'more' if amps >= 0 else 'less'}."


def _first(words: str) -> str:
    return words[0].upper() + words[1:]


def each(found: Sequence[LoadDifference]) -> list[str]:
    """Every load that two drove, in a sentence."""
    said = []
    for d in found:
        if d.telling_g is None:
            said.append(_turns(d))
            continue
        better = d.motors[1] if d.telling_g > 0 else d.motors[0]
        told = f"{_first(on(d.propeller, d.pack))} {better} makes {abs(d.telling_g):.0f} g more"
        if abs(d.telling_g) < SAME * (d.u or 0):
            said.append(f"{_first(on(d.propeller, d.pack))} {d.motors[0]} and {d.motors[1]} make the same.")
            continue
        amps = d.amps if d.amps is None or better == d.motors[1] else -d.amps
        if is_sure(d):
            told += "" if amps is None else f" for {abs(amps):.1f} A {'more' if amps >= 0 else 'less'}"
            said.append(f"{told}.")
        else:
            said.append(f"{told}, {NO_MORE}.")
    return said


def crossing_words(found: Sequence[LoadDifference], crossed: Sequence[LoadCrossing]) -> list[str]:
    """Where two motors change places: between two propellers, and over the throttle.

    Parameters
    ----------
    found : sequence of LoadDifference
        What two motors drove alike.
    crossed : sequence of LoadCrossing
        Where two curves meet.
    """
    said = []
    by: dict[tuple[str, tuple[str, str]], list[LoadDifference]] = {}
    for d in found:
        if d.diameter is not None and d.telling_g is not None:
            by.setdefault((d.pack, d.motors), []).append(d)
    for (_, motors), mine in by.items():
        for a, b in pairwise(mine):
            if (a.telling_g or 0) * (b.telling_g or 0) < 0 and a.diameter != b.diameter and (is_sure(a) or is_sure(b)):
                share = abs(a.telling_g or 0) / (abs(a.telling_g or 0) + abs(b.telling_g or 0))
                near = (a.diameter or 0) + share * ((b.diameter or 0) - (a.diameter or 0))
                said.append(f"{motors[0]} and {motors[1]} change places near a diameter of {near:.1f}.")
    for motors in dict.fromkeys(d.motors for d in found):
        nearer = closes([d for d in found if d.motors == motors])
        if nearer is not None and 0.1 < nearer <= 1:
            said.append(f"The lead in speed closes by {100 * nearer:.0f} % from the lightest to the heaviest load.")
    for c in crossed:
        other = next(m for m in c.motors if m != c.above)
        said.append(
            f"On {c.propeller} they need the same watts at {grams(c.at_thrust_g)} (± {c.u:.0f}): "
            f"{other} less below it, {c.above} less above."
        )
    return said


def rests_on(found: Sequence[LoadDifference], rows: Sequence[LoadRead]) -> list[str]:
    """What was brought to other volts, which watts count, how a name was read.

    Parameters
    ----------
    found : sequence of LoadDifference
        What two motors drove alike.
    rows : sequence of LoadRead
        Rows read under load.
    """
    said = []
    for d in found:
        one, two = d.volts
        if one and two and f"{one:.1f}" != f"{two:.1f}" and d.thrust_g is not None:
            at = f"{d.motors[1]} was read at {two:.1f} V, {d.motors[0]} at {one:.1f} V, {on(d.propeller, d.pack)}"
            how = "compared as read, its constants are not known"
            said.append(f"{at}: {how if d.at_equal_volts_g is None else f'brought to {one:.1f} V by its constants'}.")
    for r in rows:
        row = load.LoadRow("", None, r.volts, r.amps, r.watts_shown)
        off = load.watts_mismatch(row)
        if off is not None and abs(off) > load.WATTS_TOLERANCE_PCT:
            product = (r.volts or 0) * (r.amps or 0)
            said.append(
                f"{r.motor} {on(r.propeller, r.source)}: {r.watts_shown:.0f} W shown, volts × amps {product:.0f} W; "
                "peaks need not be at one moment, the shown ones count."
            )
        if not r.sure:
            said.append(f"“{r.written}” is read as {r.propeller}.")
    return list(dict.fromkeys(said))


def over_ratings(motors: Mapping[str, Motor], rows: Sequence[LoadRead]) -> list[str]:
    """What of these rows is more than the maker allows, by motor.

    Parameters
    ----------
    motors : mapping of str to Motor
        By tag.
    rows : sequence of LoadRead
        Rows read under load.
    """
    said = []
    for r in rows:
        for one in beyond(motors[r.motor], r.amps, r.watts, r.rpm, r.cells, r.surface_c):
            said.append(f"{r.motor} {on(r.propeller, r.source)}: {one.sentence}")
    return list(dict.fromkeys(said))
