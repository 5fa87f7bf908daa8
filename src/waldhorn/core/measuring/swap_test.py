"""Motor or controller: what swapping them against known good ones proves.

This motor and a known good one, on the machine's controller and on the bench, and the sensor cable exchanged: each runs
well, poorly, or was not tried.

References
----------
.. [1] Bench practice, for how often a trouble shows and how often something runs poorly for no reason.
.. [2] Bayes' theorem over causes that exclude each other.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from waldhorn.core.base.vocabulary import Ran


class Suspect(StrEnum):
    """What makes a motor run poorly in its machine."""

    MOTOR = "motor"
    CONTROLLER = "controller"
    CABLE = "cable"
    NOTHING = "nothing"


PRIOR = {Suspect.MOTOR: 0.3, Suspect.CONTROLLER: 0.3, Suspect.CABLE: 0.2, Suspect.NOTHING: 0.2}  # after a complaint [1]
SHOWS, BY_CHANCE = 0.9, 0.04  # how often a trouble shows where it can, and where it cannot [1]
# Where each suspect is in play.
INVOLVED: Mapping[str, tuple[Suspect, ...]] = {
    "own_machine": (Suspect.MOTOR, Suspect.CONTROLLER, Suspect.CABLE),
    "own_bench": (Suspect.MOTOR,),
    "known_machine": (Suspect.CONTROLLER, Suspect.CABLE),
    "known_bench": (),
    "other_cable": (Suspect.MOTOR, Suspect.CONTROLLER),
}
_WORDS = {
    Suspect.MOTOR: "the motor", Suspect.CONTROLLER: "the machine's controller", Suspect.CABLE: "the sensor cable",
    Suspect.NOTHING: "nothing that shows here: pack, gearing, or it comes and goes",
}  # fmt: skip
_TRIALS = {
    "own_machine": "this motor on the machine's controller", "own_bench": "this motor on the bench",
    "known_machine": "a known good motor on the machine's controller", "known_bench": "a known good motor on the bench",
    "other_cable": "this motor in the machine with another sensor cable",
}  # fmt: skip
_SURE = 0.9


@dataclass(frozen=True, slots=True)
class CrossFinding:
    """What the trials prove: probabilities of the suspects, the trial that would tell most next (None: all were tried),
    and both in words."""

    suspects: Mapping[Suspect, float]
    next_trial: str | None
    words: str


def judge_cross(trials: Mapping[str, Ran], sensored: bool = True) -> CrossFinding:
    """What trials of motor and controller prove.

    Parameters
    ----------
    trials : mapping of str to Ran
        How it ran, by a key of INVOLVED; those not tried are left out.
    sensored : bool
        A sensorless motor has no sensor cable.

    Returns
    -------
    CrossFinding

    Notes
    -----
    Formula: P(cause | trials) ∝ P(cause) · Π P(trial | cause); poorly in 0.9 of the trials where the cause is in play,
    in 0.04 of the others

    Source: [2]_, numbers from [1]_.

    Examples
    --------
    >>> found = judge_cross({"own_machine": Ran.POORLY, "own_bench": Ran.WELL, "known_machine": Ran.POORLY})
    >>> found.next_trial
    'other_cable'
    """
    prior = {s: p for s, p in PRIOR.items() if sensored or s is not Suspect.CABLE}
    weights = {s: p * math.prod(_likelihood(trial, ran, s) for trial, ran in trials.items()) for s, p in prior.items()}
    found = {s: w / sum(weights.values()) for s, w in weights.items()}
    left = [t for t in INVOLVED if t not in trials and (sensored or t != "other_cable")]
    told = {t: _told(found, t) for t in left}
    following = max(left, key=lambda t: (told[t], t), default=None)
    return CrossFinding(found, following, _said(found, following, bool(trials)))


def odds_of_motor(trials: Mapping[str, Ran], sensored: bool = True) -> float:
    """How many times likelier the trials make it that something is wrong with the motor, against anything else.

    Parameters
    ----------
    trials : mapping of str to Ran
        How it ran, by trial.
    sensored : bool
        Whether the motor has sensors.

    Examples
    --------
    >>> odds_of_motor({"own_bench": Ran.POORLY, "known_bench": Ran.WELL}) > 10
    True
    """
    found = judge_cross(trials, sensored).suspects
    before = PRIOR[Suspect.MOTOR] / sum(p for s, p in PRIOR.items() if s in found and s is not Suspect.MOTOR)
    return found[Suspect.MOTOR] / max(1 - found[Suspect.MOTOR], 1e-6) / before


def _likelihood(trial: str, ran: Ran, suspect: Suspect) -> float:
    poorly = SHOWS if suspect in INVOLVED[trial] else BY_CHANCE
    return poorly if ran is Ran.POORLY else 1 - poorly


def _told(found: Mapping[Suspect, float], trial: str) -> float:
    """Expected information of a trial, nats."""
    told = 0.0
    for ran in Ran:
        joint = {s: p * _likelihood(trial, ran, s) for s, p in found.items()}
        total = sum(joint.values())
        told += sum(j * math.log(j / (total * found[s])) for s, j in joint.items() if j > 0)
    return told


def _said(found: Mapping[Suspect, float], following: str | None, tried: bool) -> str:
    likeliest = max(found, key=lambda s: (found[s], s))
    then = f" Try next: {_TRIALS[following]}." if following and found[likeliest] < _SURE else ""
    if not tried:
        return f"Nothing tried yet.{then}"
    sure = "It is" if found[likeliest] >= _SURE else "Most likely"
    return f"{sure} {_WORDS[likeliest]} ({100 * found[likeliest]:.0f} %).{then}"
