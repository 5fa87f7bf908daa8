"""Where motor, pack and load meet: what a motor of known constants does with a propeller or wheel on a pack.

Not the band in which it lies (see `predict`), nor transients.

References
----------
.. [1] DC-equivalent circuit of a permanent-magnet machine (see `constants`).
.. [2] A propeller of fixed pitch in still air or water takes P = k·n³; a wheel that rolls takes a torque of its own.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.core.base.errors import InputError
from waldhorn.core.predicting.constants import Constants, shaft_power

PROPELLER, WHEEL = 3.0, 1.0  # power grows with this power of the speed
HALVINGS = 50


@dataclass(frozen=True, slots=True)
class Pack:
    """A pack: V at rest, Ω inside."""

    rest_v: float
    inner_ohm: float


@dataclass(frozen=True, slots=True)
class Load:
    """A propeller or wheel: power k·n^exponent in W at its own speed in rpm; its gear, motor turns to one of its own,
    and what share of the power passes the gear."""

    k: float
    exponent: float = PROPELLER
    gear: float = 1.0
    gear_share: float = 1.0


@dataclass(frozen=True, slots=True)
class Outcome:
    """What comes out: A, V at the motor, rpm of the motor, W in, W at the shaft, efficiency, W turned to heat."""

    amps: float
    volts: float
    rpm: float
    watts_in: float
    watts_out: float
    efficiency: float
    heat_w: float


def load_constant(watts: float, rpm: float, exponent: float = PROPELLER) -> float:
    """The constant of a propeller or wheel from one row.

    Parameters
    ----------
    watts : float
        W at its shaft.
    rpm : float
        Its own speed.
    exponent : float
        Of the law it follows.

    Returns
    -------
    float
        W per rpm to that power.

    Notes
    -----
    Formula: k = P/n³

    Source: [2]_.

    Examples
    --------
    >>> round(load_constant(82.9, 9025) * 1e10, 3)
    1.128
    """
    if not rpm > 0 or not watts > 0:
        raise InputError("load", "this row drove nothing: it needs a speed, and more current than without load")
    return float(watts / rpm**exponent)


def constant_of_row(constants: Constants, volts: float, amps: float, exponent: float = PROPELLER) -> float:
    """The constant of a propeller or wheel from a row of a motor that drove it, so that the same pack draws the same
    amps again.

    Parameters
    ----------
    constants : Constants
        Of the motor that drove it.
    volts, amps : float
        V and A of the row as read.
    exponent : float

    Returns
    -------
    float
        W per rpm to that power.

    Raises
    ------
    InputError
        The row cannot be one of this motor.

    Notes
    -----
    Formula: n = Kv·(V − I·R), k = P_s/n³

    Source: [1]_, [2]_.

    Examples
    --------
    >>> motor = Constants(0.11, 920, 0.55, 0, 0)
    >>> k = constant_of_row(motor, 10.8, 9.0)
    >>> round(operating_point(motor, Pack(10.8 + 9.0 * 0.02, 0.02), Load(k)).amps, 6)
    9.0
    """
    rpm = constants.kv * (volts - amps * constants.resistance_ohm)
    return load_constant(shaft_power(constants, volts, amps), rpm, exponent)


def operating_point(constants: Constants, pack: Pack, load: Load) -> Outcome:
    """Where motor, pack and load meet.

    Parameters
    ----------
    constants : Constants
    pack : Pack
    load : Load

    Returns
    -------
    Outcome

    Raises
    ------
    InputError
        The pack cannot turn it at all.

    Notes
    -----
    Formula: V_oc − I·(R + R_pack) = n/Kv and (n/Kv)·(I − I0(n))·η_gear = k·(n/G)³

    Source: [1]_, [2]_.

    Examples
    --------
    >>> motor = Constants(0.11, 920, 0.55, 0, 0)
    >>> k = load_constant(shaft_power(motor, 10.8, 9.0), 9025)
    >>> found = operating_point(motor, Pack(12.6, 0.020), Load(k))
    >>> round(found.amps, 2), round(found.rpm, -1), round(found.watts_out, 1), round(found.efficiency, 3)
    (11.4, 10230.0, 120.7, 0.855)
    """
    ohm = constants.resistance_ohm + pack.inner_ohm
    if ohm <= 0:
        raise InputError("pack", "neither winding nor pack have a resistance: nothing limits the current")
    free = pack.rest_v * constants.kv

    def spare(rpm: float) -> float:
        """Torque left over at a speed, in A per rpm of Kv."""
        amps = (pack.rest_v - rpm / constants.kv) / ohm
        needed = load.k * rpm ** (load.exponent - 1) / load.gear**load.exponent / load.gear_share
        return float((amps - constants.no_load_at(rpm)) / constants.kv - needed)

    lowest = 1.0
    if spare(lowest) <= 0:
        stalled = pack.rest_v / ohm
        raise InputError(
            "pack",
            f"it stalls: {pack.rest_v:g} V do not turn this load, and {stalled:.0f} A would only heat it; "
            "more volts, or a smaller one",
        )
    from scipy.optimize import brentq  # half a second to load, which most pages do without

    return _outcome(constants, pack, float(brentq(spare, lowest, free)))


def faster_at(constants: Constants, volts: float, amps: float, other_volts: float) -> float:
    """How much faster a fixed propeller turns at other volts at the motor.

    Parameters
    ----------
    constants : Constants
    volts, amps : float
        V and A of the row as read.
    other_volts : float
        V.

    Returns
    -------
    float
        Speed at the other volts over the speed of the row; thrust goes with its square, power with its cube.

    Raises
    ------
    InputError
        The row cannot be one of this motor.

    Notes
    -----
    Formula: n = Kv·(V − I·R), k = P_s/n³, then as `operating_point`

    Source: [1]_.

    Examples
    --------
    >>> motor = Constants(0.11, 920, 0.55, 0, 0)
    >>> round(640 * faster_at(motor, 10.8, 9.0, 12.37) ** 2)
    822
    """
    rpm = constants.kv * (volts - amps * constants.resistance_ohm)
    load = Load(constant_of_row(constants, volts, amps))
    return operating_point(constants, Pack(other_volts, 0.0), load).rpm / rpm


def _outcome(constants: Constants, pack: Pack, rpm: float) -> Outcome:
    amps = (pack.rest_v - rpm / constants.kv) / (constants.resistance_ohm + pack.inner_ohm)
    volts = pack.rest_v - amps * pack.inner_ohm
    out = shaft_power(constants, volts, amps)
    return Outcome(amps, volts, rpm, volts * amps, out, out / (volts * amps), volts * amps - out)


NEAR_STALL = 0.5  # of its free speed: below it, more of the volts is lost in the winding than does work


def nearly_stalls(constants: Constants, pack: Pack, found: Outcome) -> bool:
    """Whether a load holds a motor so far below its free speed that more is lost in winding and pack than does work.

    Parameters
    ----------
    constants : Constants
    pack : Pack
    found : Outcome
        What comes out.

    Examples
    --------
    >>> motor, pack = Constants(0.11, 920, 0.55, 0, 0), Pack(12.6, 0.02)
    >>> [nearly_stalls(motor, pack, operating_point(motor, pack, Load(k))) for k in (1.1e-10, 4e-9)]
    [False, True]
    """
    return found.rpm < NEAR_STALL * pack.rest_v * constants.kv


def curve(constants: Constants, pack: Pack, load: Load, shares: Sequence[float]) -> list[tuple[float, Outcome]]:
    """What comes out over the volts at rest, as shares of those of the pack; what cannot turn is left out.

    Parameters
    ----------
    constants : Constants
    pack : Pack
    load : Load
    shares : sequence of float

    Returns
    -------
    list of (float, Outcome)
        V at rest, and what comes out.

    Notes
    -----
    Formula: see `operating_point`

    Source: [1]_.
    """
    found = []
    for share in shares:
        weaker = Pack(pack.rest_v * share, pack.inner_ohm)
        try:
            found.append((weaker.rest_v, operating_point(constants, weaker, load)))
        except InputError:
            continue
    return found
