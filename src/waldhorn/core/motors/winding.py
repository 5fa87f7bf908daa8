"""The winding of a three-phase motor: which slot carries which phase, and which slot counts can be wound at all.

For the drawing and for refusing an impossible slot count at take-in.

References
----------
.. [1] Hendershot, Miller, Design of Brushless Permanent-Magnet Machines, 2010, ch. 3 (star of slots).
"""

from dataclasses import dataclass
from math import gcd, lcm

from waldhorn.core.base.errors import InputError

_SECTORS = (("A", 1), ("C", -1), ("B", 1), ("A", -1), ("C", 1), ("B", -1))


@dataclass(frozen=True, slots=True)
class CoilSide:
    """One side of a coil in a slot: phase A, B or C; `sign` +1 out of the page, -1 into it."""

    phase: str
    sign: int


def whole_poles(poles: int, field: str = "poles") -> int:
    """A pole count, or InputError where there can be no such rotor.

    Parameters
    ----------
    poles : int
        Of the rotor.
    field : str
        Whose complaint an error is.

    Examples
    --------
    >>> whole_poles(14)
    14
    >>> whole_poles(7)
    Traceback (most recent call last):
    waldhorn.core.base.errors.InputError: 7 poles cannot be: magnet faces come in pairs
    """
    if poles < 2 or poles % 2:
        raise InputError(field, f"{poles} poles cannot be: magnet faces come in pairs")
    return poles


def can_be_wound(slots: int, poles: int | None) -> bool:
    """Whether a balanced three-phase winding exists.

    Parameters
    ----------
    slots : int
    poles : int or None
        Magnet faces.

    Returns
    -------
    bool

    Notes
    -----
    Formula: S divisible by 3, and S / gcd(S, P/2) divisible by 3

    Source: [1]_.

    Examples
    --------
    >>> can_be_wound(12, 14), can_be_wound(12, 12), can_be_wound(10, None)
    (True, False, False)
    """
    if slots < 3 or slots % 3:
        return False
    return poles is None or (slots // gcd(slots, poles // 2)) % 3 == 0


def why_not_wound(slots: int, poles: int) -> str:
    """Why slots and poles make no balanced three-phase winding, in words; empty where they do.

    Parameters
    ----------
    slots, poles : int

    Examples
    --------
    >>> why_not_wound(12, 12)
    'each pole pair meets its teeth in 2 positions, and 2 do not part into three phases'
    >>> why_not_wound(10, 8), why_not_wound(12, 14)
    ('three phases need slots in threes', '')
    """
    if can_be_wound(slots, poles):
        return ""
    if slots < 3 or slots % 3:
        return "three phases need slots in threes"
    positions = slots // gcd(slots, poles // 2)
    return f"each pole pair meets its teeth in {positions} positions, and {positions} do not part into three phases"


def detent_positions(slots: int, poles: int) -> int:
    """Natural positions of the unpowered rotor in one turn.

    Parameters
    ----------
    slots, poles : int

    Returns
    -------
    int
        Per turn.

    Notes
    -----
    Formula: lcm(slots, poles)

    Source: [1]_.

    Examples
    --------
    >>> detent_positions(12, 14), detent_positions(9, 6), detent_positions(12, 4)
    (84, 18, 12)
    """
    return lcm(slots, poles)


def layout(slots: int, poles: int) -> list[tuple[CoilSide, CoilSide]]:
    """The coil sides in each slot, by the star of slots.

    Where there is at least one slot per pole and phase the coils span a pole and a slot carries one phase; else
    each tooth carries a coil and a slot holds a side of the tooth on either hand.

    Parameters
    ----------
    slots, poles : int
        For which `can_be_wound` holds.

    Returns
    -------
    list of `slots` pairs (left side, right side)

    Notes
    -----
    Source: [1]_.

    Examples
    --------
    >>> [side[0].phase for side in layout(12, 4)][:6]
    ['A', 'C', 'B', 'A', 'C', 'B']
    """
    pole_pairs = poles // 2
    sectors = [_sector(index * pole_pairs / slots) for index in range(slots)]
    if slots >= 3 * poles:
        return [(side, side) for side in sectors]
    return [
        (CoilSide(sectors[i - 1].phase, -sectors[i - 1].sign), CoilSide(sectors[i].phase, sectors[i].sign))
        for i in range(slots)
    ]


def _sector(turns: float) -> CoilSide:
    """The 60° sector of the star an electrical angle (in turns) falls into, centred on phase A."""
    phase, sign = _SECTORS[int((turns % 1.0) * 6 + 0.5 + 1e-9) % 6]
    return CoilSide(phase, sign)
