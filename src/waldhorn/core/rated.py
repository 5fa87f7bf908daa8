"""Rated speed: what a supply would make of a rotor before any power is given, against what its maker allows.

References
----------
.. [1] Bench practice: a wrapped or sleeved rotor beyond its rated speed can burst.
"""

from dataclasses import dataclass


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
