"""Load rows: what a motor does with a propeller or a wheel on its shaft.

Not for no-load figures (see `kv`, `current`) and not for the flywheel (see `flywheel`). High power with low
efficiency means heat: the rows say so.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010 (input power, efficiency).
.. [2] Bench practice.
"""

from dataclasses import dataclass

from waldhorn.core.base.errors import InputError

WATTS_TOLERANCE_PCT = 3.0
UNDER_WAY = (0.55, 0.80)  # of the static amps, once the advance of a wing or boat unloads the propeller [2]
RAYS_G_PER_W = (1, 2, 3, 4, 5, 6, 8, 10, 15, 20)  # lines of equal efficiency that a picture shows
HOT_SHARE = 0.4  # of the power, turned to heat: worth a word [2]


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
    """Electrical power of a row. Where shown watts and volts times amps differ, peaks were not at one moment: the
    shown watts count.

    Parameters
    ----------
    row : LoadRow

    Returns
    -------
    float
        W, or None.

    Notes
    -----
    Formula: P = V·I; the shown watts where volts or amps are missing, or where the two differ by over 3 %

    Source: definition; [2]_.

    Examples
    --------
    >>> round(power(LoadRow("6x4", load_v=11.1, amps=20)), 1), power(LoadRow("6x4", load_v=11.1, amps=20, watts=240))
    (222.0, 240)
    """
    mismatch = watts_mismatch(row)
    if mismatch is None or abs(mismatch) <= WATTS_TOLERANCE_PCT:
        return row.load_v * row.amps if row.load_v and row.amps else row.watts
    return row.watts


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
    InputError
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
    if not rest_v > 0:
        raise InputError("rest_volts", f"volts at rest {rest_v:g} V must be above 0")
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
    InputError
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
        raise InputError("load_watts", f"power {watts:g} W must be above 0 to divide by")
    return thrust_g / watts


def thrust_to_mass(thrust_g: float, mass_g: float) -> float:
    """Thrust against the mass of the motor. Not for comparing motors of different use.

    Parameters
    ----------
    thrust_g, mass_g : float
        g, mass above 0.

    Returns
    -------
    float
        No unit.

    Raises
    ------
    InputError
        The mass is not above zero.

    Notes
    -----
    Formula: thrust / mass

    Source: definition.

    Examples
    --------
    >>> thrust_to_mass(900, 180)
    5.0
    """
    if not mass_g > 0:
        raise InputError("mass", f"a mass of {mass_g:g} g must be above 0 to divide by")
    return thrust_g / mass_g


def running_current(bench_a: float) -> tuple[float, float]:
    """Current to be expected under way, of a fixed wing or a boat: not hovering, not on wheels.

    Parameters
    ----------
    bench_a : float
        A, on the stand.

    Returns
    -------
    (low, high) in A

    Notes
    -----
    Formula: bench current × 0.55 to 0.80, by pitch and speed

    Source: [2]_.

    Examples
    --------
    >>> running_current(40)
    (22.0, 32.0)
    """
    return bench_a * UNDER_WAY[0], bench_a * UNDER_WAY[1]


def heat(row: LoadRow, resistance_ohm: float, no_load_a: float) -> float | None:
    """Power that a row turns to heat in the motor. Grams per watt says little of it: that is mostly the propeller's.

    Parameters
    ----------
    row : LoadRow
    resistance_ohm : float
        Ω between two leads.
    no_load_a : float
        A, at full throttle without load.

    Returns
    -------
    float
        W, or None without volts and amps under load.

    Notes
    -----
    Formula: V·I − (V − I·R)·(I − I0)

    Source: [1]_.

    Examples
    --------
    >>> round(heat(LoadRow("8x6", load_v=10.8, amps=9.0), 0.11, 0.55) or 0, 1)
    14.3
    """
    if not (row.load_v and row.amps):
        return None
    shaft = (row.load_v - row.amps * resistance_ohm) * max(row.amps - no_load_a, 0.0)
    return row.load_v * row.amps - max(shaft, 0.0)
