"""Ratings: what a motor did, or a supply would make of its rotor, against what its maker allows.

References
----------
.. [1] Bench practice: a wrapped or sleeved rotor beyond its rated speed can burst.
"""

import math
from dataclasses import dataclass

from waldhorn.core.base.history import Motor

STOP_C = 60.0  # surface of a small motor, after a run or a pull [1]
CELLS, SURFACE = "S", "°C"


@dataclass(frozen=True, slots=True)
class Ceiling:
    """How fast a rotor may turn: rated rpm, the KV it is reckoned with in rpm/V, and the volts at hand, None where
    nobody has read them."""

    rated_rpm: float
    kv: float
    volts: float | None = None

    @property
    def most_volts(self) -> float:
        """The volts at which full throttle reaches the rated speed."""
        return self.rated_rpm / self.kv

    def passed(self, throttle_pct: float = 100.0) -> bool:
        """Whether the volts at hand would turn it faster than rated.

        >>> Ceiling(24_000, 3450, 7.4).passed(), Ceiling(24_000, 3450, 7.4).passed(50), Ceiling(24_000, 3450).passed()
        (True, False, False)
        """
        return self.volts is not None and no_load_speed(self.kv, self.volts, throttle_pct) > self.rated_rpm


@dataclass(frozen=True, slots=True)
class Beyond:
    """A value that is more than the maker allows (for the surface: than is usual), in the unit it is shown in."""

    value: float
    most: float
    unit: str

    @property
    def short(self) -> str:
        """Both, in as few words as there are."""
        return f"{self.shown}, {'stop at' if self.unit == SURFACE else 'rated'} {self.most:g}"

    @property
    def shown(self) -> str:
        """The value as finely as shows that it is more."""
        digits = 0 if round(self.value) > self.most else 1
        return f"{self.value:.{digits}f}{'' if self.unit == CELLS else ' '}{self.unit}"

    @property
    def sentence(self) -> str:
        """That it is more.

        >>> Beyond(40.3, 40, "A").sentence, Beyond(4, 3, "S").sentence
        ('40.3 A is above its rated 40 A.', '4S is above its rated 3S.')
        """
        if self.unit == SURFACE:
            return f"{self.shown} is past {self.most:g} {self.unit}: stop, let it cool."
        return f"{self.shown} is above its rated {self.most:g}{'' if self.unit == CELLS else ' '}{self.unit}."


def beyond(
    motor: Motor,
    amps: float | None = None,
    watts: float | None = None,
    rpm: float | None = None,
    cells: float | None = None,
    surface_c: float | None = None,
) -> list[Beyond]:
    """What of a row is more than the maker allows.

    Parameters
    ----------
    motor : Motor
        With its ratings; the surface is held against the usual stop.
    amps, watts, rpm, cells, surface_c : float, optional
        A, W, rpm, cells, °C, as read.
    """
    pairs = (
        (amps, motor.rated_a, "A"),
        (watts, motor.rated_w, "W"),
        (rpm, motor.rated_rpm, "rpm"),
        (cells, motor.rated_cells, CELLS),
        (surface_c, STOP_C, SURFACE),
    )
    return [Beyond(value, most, unit) for value, most, unit in pairs if value and most and value > most]


def no_load_speed(kv: float, volts: float, throttle_pct: float = 100.0) -> float:
    """The speed a motor would reach without load.

    Parameters
    ----------
    kv : float
        rpm/V.
    volts : float
        V at the motor.
    throttle_pct : float
        Percent.

    Returns
    -------
    float
        rpm, never less than it will be: the winding's drop is left out.

    Notes
    -----
    Formula: n = KV · V · throttle/100

    Source: [1]_.

    Examples
    --------
    >>> round(no_load_speed(3450, 7.4), 6)
    25530.0
    """
    return kv * volts * throttle_pct / 100


def full_volts(kv: float, volts: float, rpm: float, throttle_pct: float) -> float:
    """The volts full throttle would bring, from one reading at part throttle: some instruments read the supply, some
    what reaches the motor, and the speed tells which.

    Parameters
    ----------
    kv : float
        rpm/V.
    volts, rpm : float
        V and rpm as read.
    throttle_pct : float
        Percent, 0 at rest.

    Returns
    -------
    float
        V.

    Notes
    -----
    Formula: V, or V · 100/throttle where rpm/V is nearer to KV than rpm/(V · throttle/100)

    Source: [1]_.

    Examples
    --------
    >>> full_volts(3450, 7.4, 3_700, 15), round(full_volts(3450, 1.11, 3_700, 15), 6), full_volts(3450, 7.4, 0, 0)
    (7.4, 7.4, 7.4)
    """
    if not (0 < throttle_pct < 100 and rpm > 0 and volts > 0):
        return volts
    at_motor = abs(math.log(rpm / volts / kv))
    at_supply = abs(math.log(rpm / (volts * throttle_pct / 100) / kv))
    return volts * 100 / throttle_pct if at_motor < at_supply else volts
