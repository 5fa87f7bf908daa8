"""Signing: the technician decides. The tool's answer stays beside the signed one, with the reason for a difference."""

from collections.abc import Mapping

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.base.vocabulary import Verdict
from waldhorn.core.judging.verdict import Judgement
from waldhorn.exchange.judgement import to_json
from waldhorn.pit.bench import checks, typed_not_taken
from waldhorn.pit.bench.context import CheckContext
from waldhorn.store import cached_verdicts, changes, motors, readings
from waldhorn.store.models import ChangeKind, SignedRow

VERDICTS = tuple(Verdict)
LONGEST_NAME, LONGEST_REASON = 60, 500


def sign(session: Session, ctx: CheckContext, judged: Judgement, typed: Mapping[str, str]) -> SignedRow:
    """Sign a check and close it; raises InputErrors, InputError. Differing from the tool asks for a reason."""
    checks.must_be_open(ctx)
    verdict, reason = typed.get("verdict", ""), typed.get("reason", "").strip()
    signed_by = typed.get("signed_by", "").strip()
    if wrong := _wrong(verdict, reason, signed_by, judged):
        raise InputErrors(wrong)
    change_id = changes.record(session, ChangeKind.SIGN, ctx.now, ctx.motor_id, ctx.check.id, detail=verdict)
    row = SignedRow(
        motor_id=ctx.motor_id,
        check_id=ctx.check.id,
        change_id=change_id,
        at=ctx.now,
        verdict=verdict,
        tool_verdict=judged.verdict,
        reason=reason,
        signed_by=signed_by,
        judgement=to_json(judged),
    )
    cached_verdicts.add_signed(session, row)
    _close(session, ctx, change_id)
    return row


def _wrong(verdict: str, reason: str, signed_by: str, judged: Judgement) -> dict[str, str]:
    wrong: dict[str, str] = {}
    if verdict not in VERDICTS:
        wrong["verdict"] = f"choose one of {', '.join(VERDICTS)}"
    if not signed_by:
        wrong["signed_by"] = "sign with your name or initials"
    elif len(signed_by) > LONGEST_NAME:
        wrong["signed_by"] = f"a signature has at most {LONGEST_NAME} characters, this one has {len(signed_by)}"
    if not reason and verdict in VERDICTS and verdict != judged.verdict:
        wrong["reason"] = f"Waldhorn says {judged.verdict}, you say {verdict}: say why"
    elif len(reason) > LONGEST_REASON:
        wrong["reason"] = f"the reason has {len(reason)} characters: {LONGEST_REASON} at most"
    return wrong


def hang_back(session: Session, ctx: CheckContext) -> None:
    """Close a check without a signature: what was measured stays, the answer is the tool's. Raises InputError."""
    checks.must_be_open(ctx)
    _close(session, ctx, changes.record(session, ChangeKind.HANG_BACK, ctx.now, ctx.motor_id, ctx.check.id))


def _close(session: Session, ctx: CheckContext, change_id: str) -> None:
    """A closed check keeps what was typed and not taken, and its readings count for other motors too."""
    typed_not_taken.keep_at_closing(session, ctx)
    changes.revise(session, change_id, [(readings.check_row(session, ctx.check.id), {"open": False})])
    motors.touch(session, [ctx.motor_id])
