"""What was agreed beforehand: limits by class with a what-if, prices by owner; and who was right in the end."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.core.base.units import Notation, read_number
from waldhorn.core.base.vocabulary import CONDEMNED, Verdict
from waldhorn.core.judging.remedies import Prices
from waldhorn.core.judging.verdict import Judgement
from waldhorn.core.measuring.measures import JUDGED
from waldhorn.core.measuring.quantity import Limits, Quantity
from waldhorn.pit.judging.judging import judge_all
from waldhorn.store import cached_verdicts, limits_and_prices, pit
from waldhorn.store.models import LimitsRow, SignedRow
from waldhorn.store.motors import ids_of_class, known_values, touch


@dataclass(frozen=True)
class Shift:
    """A motor whose answer would change."""

    tag: str
    before: Judgement
    after: Judgement


@dataclass(frozen=True)
class Tally:
    """How often technician and tool differed, and who was right later, as far as later checks tell."""

    signed: int
    differed: int
    tool_right: int
    technician_right: int

    @property
    def open(self) -> int:
        """How many differences no later check has settled."""
        return self.differed - self.tool_right - self.technician_right


@dataclass(frozen=True)
class Agreed:
    """What was agreed: the classes and owners there are, and of the class that is chosen the limits that hold, every
    version of them and how alike the motors of a set must be; what each use weighs, prices by owner, how technician and
    tool fared, and who signs as a rule."""

    classes: Sequence[str]
    chosen: str
    holding: Mapping[str, Limits]
    versions: Sequence[LimitsRow]
    good_enough: Mapping[str, float]
    uses: Mapping[str, Mapping[str, float]]
    owners: Sequence[str]
    prices: Mapping[str, Prices]
    tally: Tally
    signer: str


def agreed(session: Session, motor_class: str) -> Agreed:
    """What was agreed, seen from a class; from the first where none is named."""
    classes = known_values(session, "motor_class")
    chosen = motor_class or (classes[0] if classes else "")
    return Agreed(
        classes=classes,
        chosen=chosen,
        holding=limits_and_prices.limits(session).get(chosen, {}),
        versions=limits_and_prices.versions(session, chosen),
        good_enough=limits_and_prices.good_enough(session, chosen),
        uses=limits_and_prices.uses(session),
        owners=known_values(session, "owner"),
        prices=limits_and_prices.prices(session),
        tally=tally(session, cached_verdicts.all_signed(session)),
        signer=cached_verdicts.who_signs(session),
    )


def read_limits(typed: Mapping[str, str], notation: Notation) -> dict[str, Limits]:
    """The limits of a form, only those that differ from the default; raises InputErrors."""
    wrong: dict[str, str] = {}
    found: dict[str, Limits] = {}
    for name, quantity in JUDGED.items():
        pair = []
        for kind in ("watch", "act"):
            default = getattr(quantity.limits, kind)
            text = typed.get(f"{kind}-{name}", "").strip()
            try:
                pair.append(read_number(text, kind, "count", 1e-6, 1e6, notation) if text else default)
            except InputError as refused:
                wrong[f"{kind}-{name}"] = refused.sentence
        try:
            ceiling = _ceiling(typed.get(f"ceiling-{name}", "").strip(), quantity, notation)
        except InputError as refused:
            wrong[f"ceiling-{name}"] = refused.sentence
            continue
        if len(pair) == 2 and pair[0] >= pair[1]:
            wrong[f"watch-{name}"] = f"watch {pair[0]:g} must lie below act {pair[1]:g}"
        elif len(pair) == 2 and (mine := Limits(pair[0], pair[1], ceiling)) != quantity.limits:
            found[name] = mine
    if wrong:
        raise InputErrors(wrong)
    return found


def _ceiling(text: str, quantity: Quantity, notation: Notation) -> float | None:
    """The absolute limit that was typed; nothing is the usual one, 0 is none."""
    if not text or not quantity.may_have_ceiling:
        return quantity.limits.ceiling
    return read_number(text, "at most", "count", 0, 1e6, notation) or None


def what_if(session: Session, motor_class: str, typed: Mapping[str, str], now: datetime) -> list[Shift]:
    """The motors of a class whose answer would change under the limits of a form; raises InputErrors."""
    changed = read_limits(typed, pit.notation(session))
    ids = ids_of_class(session, motor_class)
    before = judge_all(session, now, ids)
    after = judge_all(session, now, ids, {motor_class: dict(changed)})
    return [Shift(before[i].motor, before[i], after[i]) for i in ids if before[i].verdict != after[i].verdict]


def save_limits(session: Session, motor_class: str, typed: Mapping[str, str], now: datetime) -> None:
    """Write a new version of the limits of a class; raises InputErrors."""
    changed = read_limits(typed, pit.notation(session))
    signed_by = typed.get("signed_by", "").strip()
    if not signed_by or len(signed_by) > 60:
        raise InputErrors({"signed_by": "sign the change with your name or initials, 60 characters at most"})
    limits_and_prices.save_limits(session, motor_class, changed, now, signed_by)
    touch(session, None)


def save_prices(session: Session, typed: Mapping[str, str]) -> None:
    """Keep what an owner sets against each other; raises InputErrors."""
    wrong: dict[str, str] = {}
    values: dict[str, float] = {}
    owner, notation = typed.get("owner", "").strip(), pit.notation(session)
    if not owner:
        wrong["owner"] = "whose prices are these?"
    for name in ("new", "repair", "failure"):
        try:
            values[name] = read_number(typed.get(name, ""), name, "count", 0, 1e6, notation)
        except InputError as refused:
            wrong[name] = refused.sentence
    try:
        share = typed.get("faulty", "").strip()
        values["faulty"] = read_number(share, "faulty", "percent", 1, 90, notation) / 100 if share else Prices().faulty
    except InputError as refused:
        wrong["faulty"] = refused.sentence
    if not wrong and values["new"] <= 0:
        wrong["new"] = "a new motor costs something: above 0"
    if wrong:
        raise InputErrors(wrong)
    limits_and_prices.save_prices(session, owner, Prices(**values))
    touch(session, None)


def tally(session: Session, signed: Sequence[SignedRow]) -> Tally:
    """How technician and tool fared against each other by these signatures, oldest first, and by what the next check of
    the motor said."""
    by_motor: dict[str, list[SignedRow]] = {}
    for row in signed:
        by_motor.setdefault(row.motor_id, []).append(row)
    differing = [r for r in signed if r.verdict != r.tool_verdict]
    if not differing:
        return Tally(len(signed), 0, 0, 0)
    among = sorted({r.motor_id for r in differing})
    later = cached_verdicts.tool_verdicts(session, among)
    checked = cached_verdicts.last_checked(session, among)
    tool = technician = 0
    for row in differing:
        following = next((r.tool_verdict for r in by_motor[row.motor_id] if r.at > row.at), None)
        if following is None and checked.get(row.motor_id, row.at) > row.at:
            following = later.get(row.motor_id)
        if following in (None, Verdict.UNPROVEN):
            continue
        bad = following in CONDEMNED
        tool += bad == (row.tool_verdict in CONDEMNED) and bad != (row.verdict in CONDEMNED)
        technician += bad == (row.verdict in CONDEMNED) and bad != (row.tool_verdict in CONDEMNED)
    return Tally(len(signed), len(differing), tool, technician)
