"""What a pit prefers: what each use weighs, and how alike the motors of a set must be in a class."""

from collections.abc import Mapping

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.units import read_number
from waldhorn.core.comparing.sets import SCORED
from waldhorn.core.comparing.uses import WEIGHED
from waldhorn.store import limits_and_prices, pit


def save_use(session: Session, use: str, typed: Mapping[str, str]) -> None:
    """Keep what a use weighs, in watch limits of each quantity, above 0 where more is better; raises InputErrors."""
    if use not in limits_and_prices.uses(session):
        raise InputErrors({"use": f"“{use}” is no use: {', '.join(limits_and_prices.uses(session))}"})
    weights = {name: value for name, value in _numbers(session, typed, "weighs", WEIGHED, (-10, 10)).items() if value}
    if not weights:
        raise InputErrors({f"weighs-{WEIGHED[0]}": "weigh one quantity at least"})
    limits_and_prices.save_use(session, use, weights)


def save_good_enough(session: Session, motor_class: str, typed: Mapping[str, str]) -> None:
    """Keep how far the motors of a set may lie apart in a class; raises InputErrors."""
    limits_and_prices.save_good_enough(session, motor_class, _numbers(session, typed, "within", SCORED, (1e-6, 1000)))


def _numbers(
    session: Session, typed: Mapping[str, str], prefix: str, names: tuple[str, ...], within: tuple[float, float]
) -> dict[str, float]:
    """The numbers of a form, those left empty left out."""
    wrong: dict[str, str] = {}
    found: dict[str, float] = {}
    notation = pit.notation(session)
    for name in names:
        text = typed.get(f"{prefix}-{name}", "").strip().replace("−", "-")
        try:
            if text:
                found[name] = read_number(text, "this", "count", *within, notation)
        except InputError as refused:
            wrong[f"{prefix}-{name}"] = refused.sentence
    if wrong:
        raise InputErrors(wrong)
    return found
