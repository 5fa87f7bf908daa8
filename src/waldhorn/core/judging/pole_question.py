"""The question of the poles: whether a pole count set wrongly, of the motor or on the instrument, explains a KV.

References
----------
.. [1] rpm = 120 f / P, the definition of electrical frequency.
"""

from dataclasses import dataclass

from waldhorn.core.base.history import History, Motor
from waldhorn.core.base.vocabulary import PolesBy, Source
from waldhorn.core.judging.baseline import Baseline
from waldhorn.core.measuring.poles import LABEL_TOLERANCE, WORTH_ASKING, kv_rebased, wrong_setting
from waldhorn.core.motors.facts import MOST_POLES

_NO_FAULT_MOVES_KV_SO_PCT = 25.0
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


def asked(known: History, shown: float, change_pct: float) -> bool:
    """Whether a KV is far enough off for the question, or a frequency read beside it answers it."""
    label = known.motor.label_kv
    by_label = bool(label) and not _counted(known.motor) and abs(shown / (label or shown) - 1) > WORTH_ASKING
    return abs(change_pct) > 100 * WORTH_ASKING or by_label or _set_to(known) not in (None, known.motor.poles)


def _counted(motor: Motor) -> bool:
    return motor.poles_known_by in (PolesBy.COUNTED, PolesBy.ELECTRICAL)


def question(
    known: History, shown: float, change_pct: float, reference: Baseline | None, otherwise_sound: bool
) -> PoleQuestion | None:
    """The pole question a KV raises, if it does.

    Parameters
    ----------
    known : History
    shown : float
        KV, rpm/V.
    change_pct : float
        From what was expected.
    reference : Baseline or None
        What was expected.
    otherwise_sound : bool
        Whether everything but KV says that nothing is wrong: only then is the setting the better question.

    Returns
    -------
    PoleQuestion or None

    Notes
    -----
    Formula: KV_shown / KV = P_true / P_set; P_set = 120·f / rpm where both were read in one run

    Source: [1]_.
    """
    motor = known.motor
    if not motor.poles:
        return None
    expected = reference.value if reference else shown
    was_set = _set_to(known)
    if was_set and was_set != motor.poles:
        return PoleQuestion(shown, expected, motor.poles, was_set, kv_rebased(shown, was_set, motor.poles), True)
    if was_set or (abs(change_pct) < _NO_FAULT_MOVES_KV_SO_PCT and not otherwise_sound):
        return None
    counted = _counted(motor)
    own = reference.value if reference and reference.source is Source.OWN else None
    for held in (own, None if counted else motor.label_kv):
        if not held:
            continue
        instrument = _of_instrument(shown, held, motor.poles)
        asked = wrong_setting(shown, held, motor.poles)
        if instrument and (counted or not asked):
            return instrument
        if asked:
            return PoleQuestion(shown, held, motor.poles, asked.poles, asked.kv)
    return None


def _of_instrument(shown: float, expected: float, poles: int) -> PoleQuestion | None:
    """The setting of the instrument that would explain it."""
    if abs(shown / expected - 1) <= WORTH_ASKING or shown <= 0:
        return None
    was_set = 2 * round(poles * expected / shown / 2)
    if not 2 <= was_set <= MOST_POLES:
        return None
    kv = kv_rebased(shown, was_set, poles)
    fits = abs(kv / expected - 1) <= LABEL_TOLERANCE
    return PoleQuestion(shown, expected, poles, was_set, kv, True) if fits else None


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
