"""Poles: what the analyser's pole setting does to KV.

A wrong pole setting shows as a KV off by a ratio of small even integers. Not for judging the magnets.
"""

from dataclasses import dataclass

MOST_POLES = 60
LABEL_TOLERANCE = 0.03  # a label within 3 % is ordinary, so a ratio must be met this closely
WORTH_ASKING = 0.06


@dataclass(frozen=True, slots=True)
class WrongSetting:
    """A pole count that would explain a KV: `poles` it would really have, and how far off that still is."""

    poles: int
    kv: float
    mismatch: float


def kv_rebased(kv_shown: float, poles_set: int, poles_true: int) -> float:
    """KV with the analyser's pole setting put right.

    Formula: KV_true = KV_shown · P_set / P_true

    Parameters
    ----------
    kv_shown : float, rpm/V, with the analyser at `poles_set`
    poles_set, poles_true : int, magnet faces

    Returns
    -------
    float, rpm/V

    Source: rpm = 120 f / P.

    >>> kv_rebased(6800, 2, 4)
    3400.0
    """
    return kv_shown * poles_set / poles_true


def wrong_setting(kv_shown: float, kv_expected: float, poles_set: int | None) -> WrongSetting | None:
    """The pole count that would explain a KV far from what was expected, if there is one.

    Formula: P_true = P_set · KV_shown / KV_expected, to the nearest even count

    Parameters
    ----------
    kv_shown : float, rpm/V
    kv_expected : float, rpm/V, of the label or of the motor itself earlier
    poles_set : int or None, the motor's recorded pole count

    Returns
    -------
    WrongSetting, or None when KV is within 6 % of what was expected or no even count up to 60 meets it
    within 3 %

    Source: rpm = 120 f / P; label tolerance from bench practice.

    >>> wrong_setting(1690, 3400, 4).poles
    2
    """
    if not poles_set or abs(kv_shown / kv_expected - 1) <= WORTH_ASKING:
        return None
    poles = 2 * round(poles_set * kv_shown / kv_expected / 2)
    if not 2 <= poles <= MOST_POLES or poles == poles_set:
        return None
    rebased = kv_rebased(kv_shown, poles_set, poles)
    mismatch = rebased / kv_expected - 1
    return WrongSetting(poles, rebased, mismatch) if abs(mismatch) <= LABEL_TOLERANCE else None
