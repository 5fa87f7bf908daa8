"""Gap: feeler readings around the clock, and the run-out that fits them.

An eccentric or leaning rotor opens and closes the gap once per turn; one loose magnet or a dent does not. Not for
vibration (see `machine`).

References
----------
.. [1] Strang, Linear Algebra and Its Applications (least squares; first harmonic of a closed curve).
.. [2] Bench practice.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from waldhorn.core.errors import Refused
from waldhorn.core.making import Inputs, Made

LEAST_READINGS = 4
SPOT_MM = 0.05  # a residual this large is a spot of its own, not the feeler [2]
SPOT_SHARE = 0.5  # ... when it is at least this share of the run-out


@dataclass(frozen=True, slots=True)
class GapFit:
    """The fitted gap: mean and run-out in mm, where it opens (clock degrees, 0 to 360), and what does not fit.

    `residuals` in mm, in the order given; `spot` is the index of one that stands for a loose magnet or a dent.
    """

    mean_mm: float
    run_out_mm: float
    opens_at_deg: float
    residuals: tuple[float, ...]
    spot: int | None

    @property
    def worst_mm(self) -> float:
        """The largest residual, mm."""
        return max(abs(r) for r in self.residuals)


def fit(angles_deg: Sequence[float], gaps_mm: Sequence[float]) -> GapFit:
    """Fit the gap around the clock.

    Parameters
    ----------
    angles_deg : sequence of float, four at least
        Clock angles in degrees, not necessarily even, at least 3 of them different.
    gaps_mm : n floats
        mm, 0 or more.

    Returns
    -------
    GapFit

    Raises
    ------
    Refused
        Too few readings, too few different angles, or a negative gap.

    Notes
    -----
    Formula: g = g0 + a·cos φ + b·sin φ by least squares; run-out = 2·√(a² + b²), opening towards atan2(b, a)

    Source: [1]_.

    Examples
    --------
    >>> round(fit([0, 90, 180, 270], [0.7, 0.6, 0.5, 0.6]).run_out_mm, 6)
    0.2
    """
    if len(gaps_mm) != len(angles_deg):
        raise Refused("gap", f"{len(gaps_mm)} gaps for {len(angles_deg)} clock angles: one gap an angle")
    if len(gaps_mm) < LEAST_READINGS:
        raise Refused("gap", f"{len(gaps_mm)} gap readings do not show a run-out: take at least {LEAST_READINGS}")
    if min(gaps_mm) < 0:
        raise Refused("gap", f"a gap of {min(gaps_mm):g} mm cannot be: 0 or more")
    if len({round(a % 360, 3) for a in angles_deg}) < 3:
        raise Refused("angle", "the readings stand at fewer than three different clock angles: go around the clock")
    turn = np.radians(np.asarray(angles_deg, float))
    design = np.column_stack([np.ones_like(turn), np.cos(turn), np.sin(turn)])
    gaps = np.asarray(gaps_mm, float)
    (mean, a, b), *_ = np.linalg.lstsq(design, gaps, rcond=None)
    run_out = 2 * math.hypot(a, b)
    residuals = gaps - design @ np.array([mean, a, b])
    worst = int(np.abs(residuals).argmax())
    large = abs(residuals[worst]) >= max(SPOT_MM, SPOT_SHARE * run_out)
    opens = math.degrees(math.atan2(b, a)) % 360
    return GapFit(float(mean), run_out, opens, tuple(float(r) for r in residuals), worst if large else None)


def of_run(given: Inputs) -> Made | None:
    """Run-out of the gaps of a run; None where they show none."""
    gaps = given.values["gap"]
    if len(given.angles_deg) != len(gaps):
        return None
    try:
        fitted = fit(given.angles_deg, gaps)
    except Refused:
        return None
    return Made(fitted.run_out_mm, fitted.run_out_mm)
