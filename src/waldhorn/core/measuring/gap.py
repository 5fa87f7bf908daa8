"""Gap: feeler readings around the clock, and the run-out that fits them.

An eccentric or leaning rotor opens and closes the gap once per turn; one loose magnet or a dent does not. Not for
vibration (see `machine`).

References
----------
.. [1] Strang, Linear Algebra and Its Applications (least squares; first harmonic of a closed curve).
.. [2] Bench practice.
"""

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.vocabulary import SetUp
from waldhorn.core.measuring.derivation import DerivationRule, Derived, Inputs
from waldhorn.core.measuring.quantity import REWOUND, ROTOR, SHAFT, BenchTest, BetweenMotors, Limits, Quantity, named

LEAST_READINGS = 4
LEAST_FOR_SHAPE = 6  # five numbers describe a shifted and oval gap: with fewer readings nothing is left over to see
SPOT_MM = 0.05  # a residual this large is a spot of its own, not the feeler [2]
SPOT_SHARE = 0.5  # ... when it is at least this share of the run-out


@dataclass(frozen=True, slots=True)
class GapFit:
    """The fitted gap: mean and run-out in mm, where it opens (clock degrees, 0 to 360), and what does not fit.

    `oval_mm` is how far the gap opens and closes twice per turn, None under six readings. `residuals` in mm, in the
    order given, are what neither explains; `spot` is the index of one that stands for a loose magnet or a dent.
    """

    mean_mm: float
    run_out_mm: float
    opens_at_deg: float
    oval_mm: float | None
    residuals: tuple[float, ...]
    spot: int | None

    @property
    def worst_mm(self) -> float:
        """The largest residual, mm."""
        return max(abs(r) for r in self.residuals)

    @property
    def oval(self) -> bool:
        """Whether a part is oval rather than shifted."""
        return self.oval_mm is not None and self.oval_mm >= max(SPOT_MM, SPOT_SHARE * self.run_out_mm)


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
    InputError
        Too few readings, too few different angles, or a negative gap.

    Notes
    -----
    Formula: g = g0 + a·cos φ + b·sin φ (from six readings on also c·cos 2φ + d·sin 2φ) by least squares; run-out =
    2·√(a² + b²), opening towards atan2(b, a); oval by 2·√(c² + d²)

    Source: [1]_.

    Examples
    --------
    >>> round(fit([0, 90, 180, 270], [0.7, 0.6, 0.5, 0.6]).run_out_mm, 6)
    0.2
    """
    if len(gaps_mm) != len(angles_deg):
        raise InputError("gap", f"{len(gaps_mm)} gaps for {len(angles_deg)} clock angles: one gap an angle")
    if len(gaps_mm) < LEAST_READINGS:
        raise InputError("gap", f"{len(gaps_mm)} gap readings do not show a run-out: take at least {LEAST_READINGS}")
    if min(gaps_mm) < 0:
        raise InputError("gap", f"a gap of {min(gaps_mm):g} mm cannot be: 0 or more")
    if len({round(a % 360, 3) for a in angles_deg}) < 3:
        raise InputError("angle", "the readings stand at fewer than three different clock angles: go around the clock")
    turn = np.radians(np.asarray(angles_deg, float))
    shaped = len({round(a % 360, 3) for a in angles_deg}) >= LEAST_FOR_SHAPE
    harmonics = (turn, 2 * turn) if shaped else (turn,)
    design = np.column_stack([np.ones_like(turn), *(f(h) for h in harmonics for f in (np.cos, np.sin))])
    gaps = np.asarray(gaps_mm, float)
    found, *_ = np.linalg.lstsq(design, gaps, rcond=None)
    mean, a, b = found[:3]
    run_out = 2 * math.hypot(a, b)
    residuals = gaps - design @ found
    return GapFit(
        float(mean),
        run_out,
        math.degrees(math.atan2(b, a)) % 360,
        2 * math.hypot(*found[3:]) if shaped else None,
        tuple(float(r) for r in residuals),
        _spot(turn, gaps, run_out) if shaped else None,
    )


@dataclass(frozen=True, slots=True)
class Parted:
    """The run-out of two series parted: what stays where it is when the rotor is turned is the stator's or the mount's,
    what turns with it is the shaft's or the bell's; each in mm with the clock angle at which it opens."""

    static_mm: float
    static_at_deg: float
    dynamic_mm: float
    dynamic_at_deg: float


def parted(first: GapFit, turned: GapFit) -> Parted:
    """Which part is bent, from a series before and one after the rotor was turned by half a turn.

    Parameters
    ----------
    first, turned : GapFit
        Of six angles or more each.

    Returns
    -------
    Parted

    Notes
    -----
    Formula: z = (run-out/2)·e^(iφ); static (z0 + z180)/2, dynamic (z0 - z180)/2, run-out 2·|z| of each

    Source: [1]_. Only the dynamic part accuses shaft or bell.

    Examples
    --------
    >>> around = range(0, 360, 45)
    >>> first = fit(around, [0.590, 0.650, 0.681, 0.664, 0.610, 0.550, 0.519, 0.536])
    >>> turned = fit(around, [0.640, 0.608, 0.571, 0.552, 0.560, 0.592, 0.629, 0.648])
    >>> found = parted(first, turned)
    >>> f"{found.static_mm:.3f} at {found.static_at_deg:.0f}, {found.dynamic_mm:.3f} at {found.dynamic_at_deg:.0f}"
    '0.060 at 60, 0.120 at 114'
    """
    before, after = (cmath.rect(f.run_out_mm / 2, math.radians(f.opens_at_deg)) for f in (first, turned))
    static, dynamic = (before + after) / 2, (before - after) / 2
    (still, still_at), (turns, turns_at) = (cmath.polar(2 * z) for z in (static, dynamic))
    return Parted(still, math.degrees(still_at) % 360, turns, math.degrees(turns_at) % 360)


def _spot(turn: NDArray[np.float64], gaps: NDArray[np.float64], run_out: float) -> int | None:
    """The one reading that does not fit what the others say. A least-squares fit bends towards a spot and hides it:
    each reading is held against the fit of all the others."""
    design = np.column_stack([np.ones_like(turn), np.cos(turn), np.sin(turn)])
    misses = []
    for place in range(len(gaps)):
        others = np.arange(len(gaps)) != place
        found, *_ = np.linalg.lstsq(design[others], gaps[others], rcond=None)
        rest = float(np.abs(gaps[others] - design[others] @ found).max())
        misses.append((abs(float(gaps[place] - design[place] @ found)), rest, place))
    miss, rest, place = max(misses)
    return place if miss >= max(SPOT_MM, SPOT_SHARE * run_out) and miss >= 3 * rest else None


def of_run(given: Inputs) -> Derived | None:
    """Run-out of the gaps of a run; where the same places were gauged with the rotor turned as well, what turns with
    it. None where they show none."""
    gaps, turned = given.values["gap"], given.values.get("gap_turned", ())
    if len(given.angles_deg) != len(gaps):
        return None
    try:
        first = fit(given.angles_deg, gaps)
        second = fit(given.angles_deg, turned[-len(gaps) :]) if len(turned) >= len(gaps) else None
    except InputError:
        return None
    if second is None or first.oval_mm is None:
        return Derived(first.run_out_mm, first.run_out_mm)
    return Derived(parted(first, second).dynamic_mm, first.run_out_mm)


RUN_OUT = Quantity(
    name="run_out",
    set_up=SetUp.GAUGE,
    title="run-out",
    symbol="mm",
    unit="mm",
    limits=Limits(0.08, 0.15),
    repeatability=0.014,
    made=(DerivationRule(of="gap", beside=("gap_turned",), together=True, make=of_run),),
    same=(),
    reset_by=frozenset({ROTOR, SHAFT, REWOUND}),
    test=BenchTest("gap", "gap at four clock positions", 90),
    absolute=True,
    resolution=0.005,
    natural_spread=0.02,
    typical=0.02,
    decimals=2,
    stands="Run-out {}",
    sayings=named("Run-out"),
    part="gap",
    between=BetweenMotors(more="runs out {} more", less="runs out {} less"),
    on_tag=8,
)
