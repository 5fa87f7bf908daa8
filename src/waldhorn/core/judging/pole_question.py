"""The question of the poles: whether a pole count set wrongly, of the motor or on the instrument, explains a KV.

With many poles nearly every change lies near some ratio of counts: it is asked only where a ratio tells more than
everything else that could have moved the KV.

References
----------
.. [1] rpm = 120 f / P, the definition of electrical frequency.
.. [2] Bench practice, for the odds.
.. [3] Bayes' theorem over causes that exclude each other.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from waldhorn.core.base.history import History, Motor
from waldhorn.core.base.vocabulary import PolesBy, Source
from waldhorn.core.judging.evidence import Evidence
from waldhorn.core.judging.slips import predictive
from waldhorn.core.measuring.poles import kv_rebased
from waldhorn.core.motors.facts import MOST_POLES

SET_WRONGLY, NEVER_COUNTED = 0.01, 0.05  # how often a count is set wrongly, and where it was never counted [2]
FAVOURED, FAVOUR = (2, 4, 14), 3.0  # the usual defaults of instruments are tried so many times as often [2]
LABEL_U = 0.05  # relative, one standard deviation of a motor about its label [2]
LEAST_RATIO = 0.05  # a KV nearer than this to what was expected raises no question
_UNKNOWN_CAUSE = 1e-3  # how often KV moves for no cause that is known, ...
_ANYWHERE = math.log(1.6)  # ... anywhere within a factor of 1.6 either way [2]
_SAME_POLES = 0.1  # an electrical frequency and a speed tell a setting this closely, in poles


@dataclass(frozen=True, slots=True)
class PoleQuestion:
    """A pole count that would explain a KV: KV shown and expected, the count on record, the one that fits, and KV with
    it. `on_instrument` when the motor's count is right and the instrument was set to the other."""

    shown: float
    expected: float
    on_record: int
    poles: int
    kv: float
    on_instrument: bool = False


def _counted(motor: Motor) -> bool:
    return motor.poles_known_by in (PolesBy.COUNTED, PolesBy.ELECTRICAL)


def question(known: History, kv: Evidence, otherwise: Callable[[], NDArray[np.float64]]) -> PoleQuestion | None:
    """The pole question a KV raises, if it does.

    Parameters
    ----------
    known : History
    kv : Evidence
        Of KV, with a residual.
    otherwise : callable
        Probabilities of all hypothesis points by everything but KV; asked only where a ratio could be one of poles.

    Returns
    -------
    PoleQuestion or None

    Notes
    -----
    Formula: KV_shown / KV = P_true / P_set; odds = prior · Σ_P' share(P')·N(ln r; ln(P/P'), u) / p(ln r | all that
    could be wrong), shares equal but for 2, 4 and 14, which are weighed three times; asked above one. Where a frequency
    was read in the same run, P_set = 120·f / rpm answers it.

    Source: [1]_ and [3]_, odds from [2]_.
    """
    motor, shown, r = known.motor, kv.now, kv.residual
    if not motor.poles or shown is None or r is None or shown <= 0:
        return None
    reference = kv.reference.value if kv.reference else shown
    was_set = _set_to(known)
    if was_set and was_set != motor.poles:
        return PoleQuestion(shown, reference, motor.poles, was_set, kv_rebased(shown, was_set, motor.poles), True)
    if was_set:
        return None
    held = [(reference, r.u / 100)]
    if kv.model and kv.model.value and kv.reference is not kv.model:
        held.append((kv.model.value, math.hypot(r.u, kv.model.u_further) / 100))
    if not _counted(motor) and motor.label_kv and kv.reference and kv.reference.source is not Source.LABEL:
        held.append((motor.label_kv, LABEL_U))
    for expected, u in held:
        if found := _explains(motor, shown, expected, u, otherwise):
            return found
    return None


def _explains(
    motor: Motor, shown: float, expected: float, u: float, by_others: Callable[[], NDArray[np.float64]]
) -> PoleQuestion | None:
    poles = motor.poles or 0
    ratio = math.log(shown / expected)
    if abs(ratio) < LEAST_RATIO:
        return None
    tried = [p for p in range(2, MOST_POLES + 1, 2) if p != poles]
    share = {p: FAVOUR if p in FAVOURED else 1.0 for p in tried}
    total = sum(share.values())
    # the instrument set to P' reads P/P' times the speed; a motor of P' where P is on record reads P'/P times
    possible = [(True, p, math.log(poles / p)) for p in tried]
    prior = SET_WRONGLY
    if not _counted(motor):
        possible += [(False, p, math.log(p / poles)) for p in tried]
        prior = NEVER_COUNTED
    density = {
        (on_instrument, p): share[p] / total * math.exp(-0.5 * ((ratio - at) / u) ** 2) / (u * math.sqrt(2 * math.pi))
        for on_instrument, p, at in possible
    }
    change = 100 * (shown / expected - 1)
    otherwise = 100 * shown / expected * predictive("kv", change, 100 * u, by_others())
    otherwise += _UNKNOWN_CAUSE / (2 * _ANYWHERE)
    if prior * sum(density.values()) <= otherwise:
        return None
    on_instrument, best = max(density, key=lambda one: (density[one], not one[0]))
    kv = kv_rebased(shown, best, poles) if on_instrument else kv_rebased(shown, poles, best)
    return PoleQuestion(shown, expected, poles, best, kv, on_instrument)


def _set_to(known: History) -> int | None:
    """What the instrument was set to, from an electrical frequency and the speed it showed in the same run."""
    for check in sorted(known.checks, key=lambda c: (c.at, c.id), reverse=True):
        taken = [r for r in check.readings if r.accepted and r.measure in ("electrical_frequency", "rpm")]
        for f in sorted((r for r in taken if r.measure == "electrical_frequency"), key=lambda r: (r.at, r.run)):
            speeds = [r.value for r in taken if r.measure == "rpm" and r.conditions == f.conditions and r.run == f.run]
            if speeds and speeds[0] > 0:
                exact = 120 * f.value / speeds[0]
                near = 2 * round(exact / 2)
                return near if near >= 2 and abs(exact - near) <= _SAME_POLES * near / 2 else None
        if taken:
            return None
    return None
