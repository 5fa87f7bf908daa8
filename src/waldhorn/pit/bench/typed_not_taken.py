"""What is typed into the steps of a check and not taken: said before the check is signed, and kept in sight after it.

The fields are drafts (`store/drafts.py`). What stands in a field by itself, as its habit, was typed by nobody."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError
from waldhorn.pit.bench import checks, concurrent_edits
from waldhorn.pit.bench.context import CheckContext
from waldhorn.pit.bench.steps import STEPS
from waldhorn.pit.bench.steps.step import AnyStep
from waldhorn.store import drafts


@dataclass(frozen=True, slots=True)
class TypedNotTaken:
    """A step with what is typed into it, by the title of each field."""

    step: AnyStep
    fields: Mapping[str, str]

    @property
    def words(self) -> str:
        """What is typed, in the words of its fields."""
        return ", ".join(f"{title} {value}" for title, value in self.fields.items())


def of_check(session: Session, ctx: CheckContext) -> list[TypedNotTaken]:
    """The steps of an open check with something typed and not taken, in the order of the bench."""
    known = drafts.of_check(session, ctx.check.id)
    found = ((step, _typed(ctx, step, *known[name])) for name, step in STEPS.items() if name in known)
    return [_titled(step, typed) for step, typed in found if typed]


def _typed(ctx: CheckContext, step: AnyStep, run: int | None, draft: Mapping[str, Any]) -> dict[str, Any]:
    """What somebody wrote into the fields of a step for the run that is next, but for what usually stands there."""
    if run not in (None, step.next_run(ctx)):
        return {}
    usual = {n: ask.habit for n, ask in step.fields.asks().items()} | step.habits(ctx)
    return {n: v for n, v in concurrent_edits.by_hand(draft).items() if v != usual.get(n, "")}


def of_closed(session: Session, check_ids: Sequence[str]) -> dict[str, list[TypedNotTaken]]:
    """What was left typed and not taken when these checks were closed, by check."""
    known = drafts.of_checks(session, check_ids)
    return {
        check: [
            _titled(STEPS[n], typed) for n, d in of.items() if n in STEPS and (typed := concurrent_edits.by_hand(d))
        ]
        for check, of in known.items()
    }


def keep_at_closing(session: Session, ctx: CheckContext) -> None:
    """Keep what is typed and not taken beside a check that is being closed, and nothing else of its drafts."""
    for name, (run, draft) in drafts.of_check(session, ctx.check.id).items():
        typed = _typed(ctx, STEPS[name], run, draft) if name in STEPS else {}
        kept = typed | {concurrent_edits.BY: dict.fromkeys(typed, "")} if typed else {}
        drafts.store_draft(session, ctx.check.id, name, run, kept)


def take(session: Session, ctx: CheckContext, step: AnyStep) -> None:
    """Take what is typed into a step as if its own button had been pressed; raises InputError, InputErrors."""
    typed = checks.typed_so_far(session, ctx, step)
    if not typed:
        raise InputError("typed", f"nothing is typed in {step.title} any more")
    checks.take_step(session, ctx, step, typed)


def let_go(session: Session, ctx: CheckContext, step: AnyStep) -> None:
    """Forget what is typed into a step of an open check; raises InputError."""
    checks.must_be_open(ctx)
    drafts.forget(session, ctx.check.id, step.name)


def _titled(step: AnyStep, typed: Mapping[str, Any]) -> TypedNotTaken:
    asks = step.fields.asks()
    return TypedNotTaken(step, {asks[n].title if n in asks else n: str(v) for n, v in typed.items()})
