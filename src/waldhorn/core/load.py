"""Load rows: what a motor does with a propeller or a wheel on its shaft.

Not for no-load figures (see `kv`, `current`) and not for the flywheel (see `flywheel`). High power with low
efficiency means heat: the rows say so.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (input power, efficiency).
.. [2] Bench practice.
"""

from dataclasses import dataclass

from waldhorn.core.errors import Refused

WATTS_TOLERANCE_PCT = 3.0
UNLOADED = (0.60, 0.65)  # running current against bench current, once moving air unloads the propeller [2]
LOW_EFFICIENCY_G_PER_W = 4.0  # below this at over 100 W the row is warned about [2]
HIGH_POWER_W = 100.0


@dataclass(frozen=True, slots=True)
class LoadRow:
    """One load row as read: V at rest and under load, A, W (None when not shown), rpm, thrust in g."""

    what: str
    rest_v: float | None = None
    load_v: float | None = None
    amps: float | None = None
    watts: float | None = None
    rpm: float | None = None
    thrust_g: float | None = None


def power(row: LoadRow) -> float | None:
    """Electrical power of a row.

    Parameters
    ----------
    row : LoadRow

    Returns
    -------
    float
        W, or None.

    Notes
    -----
    Formula: P = V·I, the shown watts where volts or amps are missing

    Source: definition.

    Examples
    --------
    >>> round(power(LoadRow("6x4", load_v=11.1, amps=20)), 1)
    222.0
    """
    return row.load_v * row.amps if row.load_v and row.amps else row.watts


def watts_mismatch(row: LoadRow) -> float | None:
    """How far the shown watts are from volts times amps.

    Parameters
    ----------
    row : LoadRow

    Returns
    -------
    float
        percent, or None when one of the three is missing; over 3 % one of them is not to be believed.

    Notes
    -----
    Formula: 100·(W / (V·I) − 1)

    Source: [2]_.

    Examples
    --------
    >>> round(watts_mismatch(LoadRow("6x4", load_v=11.1, amps=20, watts=240)), 1)
    8.1
    """
    if not (row.load_v and row.amps and row.watts):
        return None
    return 100 * (row.watts / (row.load_v * row.amps) - 1)


def sag(rest_v: float, load_v: float) -> float:
    """How far the supply sags under load.

    Parameters
    ----------
    rest_v, load_v : float
        V.

    Returns
    -------
    float
        percent.

    Raises
    ------
    Refused
        The voltage at rest is not above zero.

    Notes
    -----
    Formula: sag = 100·(1 − V_load / V_rest)

    Source: definition.

    Examples
    --------
    >>> round(sag(12.6, 11.1), 1)
    11.9
    """
    if rest_v <= 0:
        raise Refused("rest_volts", f"volts at rest {rest_v:g} V must be above 0")
    return 100 * (1 - load_v / rest_v)


def grams_per_watt(thrust_g: float, watts: float) -> float:
    """Thrust bought by each watt.

    Parameters
    ----------
    thrust_g : float
        g.
    watts : float
        W, above 0.

    Returns
    -------
    float
        g/W.

    Raises
    ------
    Refused
        The power is not above zero.

    Notes
    -----
    Formula: g/W = thrust / P

    Source: [2]_.

    Examples
    --------
    >>> grams_per_watt(900, 180)
    5.0
    """
    if watts <= 0:
        raise Refused("load_watts", f"power {watts:g} W must be above 0 to divide by")
    return thrust_g / watts


def thrust_to_mass(thrust_g: float, mass_g: float) -> float:
    """Thrust against the mass of the motor.

    Parameters
    ----------
    thrust_g, mass_g : float
        g, mass above 0.

    Returns
    -------
    float
        No unit.

    Notes
    -----
    Formula: thrust / mass

    Source: definition.

    Examples
    --------
    >>> thrust_to_mass(900, 180)
    5.0
    """
    return thrust_g / mass_g


def running_current(bench_a: float) -> tuple[float, float]:
    """Current to be expected under way.

    Parameters
    ----------
    bench_a : float
        A, on the stand.

    Returns
    -------
    (low, high) in A

    Notes
    -----
    Formula: bench current × 0.60 to 0.65

    Source: [2]_.

    Examples
    --------
    >>> running_current(40)
    (24.0, 26.0)
    """
    return bench_a * UNLOADED[0], bench_a * UNLOADED[1]


def means_heat(row: LoadRow) -> bool:
    """Whether a row is high power with low efficiency.

    Parameters
    ----------
    row : LoadRow

    Returns
    -------
    bool

    Notes
    -----
    Formula: P > 100 W and g/W < 4

    Source: [2]_.

    Examples
    --------
    >>> means_heat(LoadRow("8x6", load_v=10.8, amps=30, thrust_g=900))
    True
    """
    watts = power(row)
    return bool(watts and row.thrust_g and watts > HIGH_POWER_W and row.thrust_g / watts < LOW_EFFICIENCY_G_PER_W)
