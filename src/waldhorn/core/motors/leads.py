"""Leads: what they weigh, so that the masses of motors compare.

References
----------
.. [1] Bench practice: stranded copper in silicone, weighed by the metre.
"""

from collections.abc import Mapping

WIRE_G_PER_M: Mapping[int, float] = {
    8: 105.0, 10: 66.0, 12: 41.0, 13: 33.0, 14: 27.0, 16: 18.0, 18: 12.0, 20: 8.0, 22: 5.5, 24: 4.0,
}  # fmt: skip
"""Mass of a metre by wire gauge, g [1]."""
LEADS = 3
REFERENCE_MM = 60.0  # the length masses are compared at [1]


def mass_at_one_length(mass_g: float, lead_mm: float | None, lead_awg: float | None) -> float | None:
    """Mass a motor would have with leads of the length that all are compared at.

    Parameters
    ----------
    mass_g : float
        g, as weighed with its leads.
    lead_mm : float or None
        mm.
    lead_awg : float or None
        Wire gauge.

    Returns
    -------
    float
        g, or None where length or gauge is not known, or the gauge is not in the table.

    Notes
    -----
    Formula: m − (length − 60 mm) · 3 leads · g per metre

    Source: [1]_.

    Examples
    --------
    >>> mass_at_one_length(178, 160, 14)
    169.9
    """
    per_metre = WIRE_G_PER_M.get(int(lead_awg)) if lead_awg else None
    if lead_mm is None or per_metre is None:
        return None
    return round(mass_g - (lead_mm - REFERENCE_MM) / 1000 * LEADS * per_metre, 6)


def comparable_mass(mass_g: float | None, lead_mm: float | None, lead_awg: float | None) -> float | None:
    """The mass at the one lead length, or as weighed where the leads are not known.

    Parameters
    ----------
    mass_g : float or None
        g, with its leads.
    lead_mm : float or None
        mm.
    lead_awg : float or None
        Gauge.

    Examples
    --------
    >>> comparable_mass(178, 160, 14), comparable_mass(178, None, 14), comparable_mass(None, 90, 14)
    (169.9, 178, None)
    """
    return mass_g and (mass_at_one_length(mass_g, lead_mm, lead_awg) or mass_g)
