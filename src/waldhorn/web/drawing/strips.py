"""The strip: one shape for all headroom. Baseline, watch and act marks, the reading as a bar as wide as its doubt.

Positions are percentages of the strip's width, ready for SVG.
"""

from dataclasses import dataclass

from waldhorn.core.judging.evidence import Evidence

_BEYOND = 1.3  # how far past the act limit the strip reaches
_COVERAGE = 1.28  # the bar spans 80 %, the same odds that make a change "past" or "within"
_LEAST_BAR = 1.6


@dataclass(frozen=True)
class Strip:
    """Where everything stands on a strip, in percent of its width."""

    baseline: float
    watch: list[float]
    act: list[float]
    band_start: float
    band_width: float
    bar_start: float
    bar_width: float
    off: str


def strip(e: Evidence) -> Strip | None:
    """The strip of one piece of evidence, or None where there is nothing to compare."""
    if e.change is None or e.limits is None:
        return None
    low = -_BEYOND * e.limits.act if e.quantity.direction <= 0 else -0.3 * e.limits.act
    high = _BEYOND * e.limits.act if e.quantity.direction >= 0 else 0.3 * e.limits.act

    def place(change: float) -> float:
        return round(100 * (min(max(change, low), high) - low) / (high - low), 2)

    signs = [s for s in (-1, 1) if e.quantity.direction in (0, s)]
    band = [place(-e.limits.watch) if -1 in signs else place(low), place(e.limits.watch) if 1 in signs else place(high)]
    start, end = place(e.change.value - _COVERAGE * e.change.u), place(e.change.value + _COVERAGE * e.change.u)
    if end - start < _LEAST_BAR:
        middle = (start + end) / 2
        start = min(max(middle - _LEAST_BAR / 2, 0), 100 - _LEAST_BAR)
        end = start + _LEAST_BAR
    off = "above" if e.change.value > high else "below" if e.change.value < low else ""
    return Strip(
        place(0),
        [place(s * e.limits.watch) for s in signs],
        [place(s * e.limits.act) for s in signs],
        band[0],
        round(band[1] - band[0], 2),
        start,
        round(end - start, 2),
        off,
    )
