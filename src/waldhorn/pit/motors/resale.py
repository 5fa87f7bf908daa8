"""What a motor of the rack is worth to a buyer, in words, and what its watts and points cost against the fleet."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from statistics import median

from sqlalchemy.orm import Session

from waldhorn.core.base.history import Motor
from waldhorn.core.base.vocabulary import FaultKind, Verdict
from waldhorn.core.comparing.score import score_of
from waldhorn.core.judging.change import SURE
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.sentences import capital, fault_name
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.measures import JUDGED
from waldhorn.core.predicting import resale as core
from waldhorn.core.predicting.resale import Worth
from waldhorn.store import fleet, limits_and_prices, motors

Scored = Mapping[str, tuple[dict[str, float], float | None]]  # by tag: what the flywheel told, and the mass


@dataclass(frozen=True)
class Bought:
    """What something costs in this motor and in the median of its class, of so many others; None where not known."""

    what: str
    mine: float
    others: float | None
    count: int


@dataclass(frozen=True)
class Offer:
    """What a motor is worth, as a share of new and in money where its price new is known, why, and what it buys."""

    worth: Worth
    money: float | None
    words: Sequence[str]
    buys: Sequence[Bought]


def offer(session: Session, motor: Motor, judged: Judgement) -> Offer:
    """What a motor is worth as it is judged; in a fixed number of statements."""
    prices = limits_and_prices.prices(session).get(motor.owner, Prices())
    found = core.worth(
        core.wear_of(judged.evidence, judged.trends),
        judged.due_mendable,
        judged.due_for_good,
        prices.repair / prices.new,
    )
    money = found.share * motor.price if motor.price else None
    buys = _buys(motor, money, motors.of_class(session, motor.motor_class), fleet.figures(session, motor.motor_class))
    return Offer(found, money, _words(judged, found, prices), buys)


def _words(judged: Judgement, found: Worth, prices: Prices) -> list[str]:
    """Why, the heaviest first."""
    leading = next((f for f in judged.faults if f.fault is not FaultKind.NONE), None)
    named = f" ({fault_name(leading)})" if leading and leading.probability >= 0.5 else ""
    parts, repair, sound = (100 * x for x in (core.FOR_PARTS, prices.repair / prices.new, core.SOUND_AND_USED))
    said = []
    if judged.verdict is Verdict.UNPROVEN:
        said.append("It is not proven: what is not measured is taken as likely as in any used motor. Check it first.")
    if judged.due_for_good >= core.WORTH_A_WORD:
        said.append(f"{_sure(judged.due_for_good)} it is past mending{named}: {parts:.0f} % of new, for parts.")
    if judged.due_mendable >= core.WORTH_A_WORD:
        said.append(f"{_sure(judged.due_mendable)} something is to be mended{named}, at {repair:.0f} % of new.")
    if judged.due_for_good + judged.due_mendable < SURE:
        said += _wear_words(found)
    return [*said, f"A used motor in which nothing has moved is taken to fetch {sound:.0f} % of new."]


def _sure(p: float) -> str:
    return f"With {min(p, 0.99):.2f}"


def _wear_words(found: Worth) -> list[str]:
    wear = found.wear
    if wear.left > 1 - core.WORTH_A_WORD:
        return []
    title = capital(JUDGED[wear.quantity].title)
    said = (
        f"{title} creeps and passes its limit in about {wear.until:.0f} {wear.axis}."
        if wear.until is not None
        else f"{title} has used {100 * (1 - wear.left):.0f} % of the way to its limit."
    )
    return [f"{said} Mended first it is worth more than run as it is." if found.mended_first else said]


def _buys(
    motor: Motor,
    money: float | None,
    others: Sequence[Motor],
    scored: Mapping[str, tuple[dict[str, float], float | None]],
) -> list[Bought]:
    """What a watt and a point of its class cost, bought at what it is worth, against what others cost new."""
    if money is None:
        return []
    apart = [o for o in others if o.tag != motor.tag and o.price]
    found = []
    if motor.rated_w:
        costs = [o.price / o.rated_w for o in apart if o.price and o.rated_w]
        found.append(Bought("a rated watt", money / motor.rated_w, median(costs) if costs else None, len(costs)))
    points = {o.tag: s for o in (motor, *apart) if (s := _score(o, scored))}
    if mine := points.get(motor.tag):
        costs = [o.price / points[o.tag] for o in apart if o.price and o.tag in points]
        found.append(Bought("a point of its class", money / mine, median(costs) if costs else None, len(costs)))
    return found


def _score(motor: Motor, scored: Scored) -> float | None:
    if motor.tag not in scored:
        return None
    return score_of(motor.tag, {t: known for t, (known, _) in scored.items()}, {t: m for t, (_, m) in scored.items()})
