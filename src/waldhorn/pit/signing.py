"""Signing: the technician decides. The tool's answer stays beside the signed one, with the reason for a difference."""

from collections.abc import Mapping
from datetime import datetime

from sqlalchemy.orm import Session

from waldhorn.core.errors import Refusals
from waldhorn.core.verdict import Judgement
from waldhorn.exchange.judgement import to_json
from waldhorn.store import acts, standings
from waldhorn.store.models import CheckRow, SignedRow
from waldhorn.store.motors import mark_stale

VERDICTS = ("keep", "watch", "repair", "retire", "unproven")


def sign(session: Session, check: CheckRow, judged: Judgement, typed: Mapping[str, str], now: datetime) -> SignedRow:
    """Sign a check and close it; raises Refusals. Differing from the tool asks for a reason."""
    verdict, reason = typed.get("verdict", ""), typed.get("reason", "").strip()
    signed_by = typed.get("signed_by", "").strip()
    wrong: dict[str, str] = {}
    if verdict not in VERDICTS:
        wrong["verdict"] = f"choose one of {', '.join(VERDICTS)}"
    if not signed_by:
        wrong["signed_by"] = "sign with your name or initials"
    elif len(signed_by) > 60:
        wrong["signed_by"] = f"a signature has at most 60 signs, this one has {len(signed_by)}"
    if not reason and verdict in VERDICTS and verdict != judged.verdict:
        wrong["reason"] = f"Waldhorn says {judged.verdict}, you say {verdict}: say why"
    elif len(reason) > 500:
        wrong["reason"] = f"the reason has {len(reason)} signs: 500 at most"
    if wrong:
        raise Refusals(wrong)
    row = SignedRow(
        motor_id=check.motor_id, check_id=check.id, at=now, verdict=verdict, tool_verdict=judged.verdict,
        reason=reason, signed_by=signed_by, judgement=to_json(judged),
    )  # fmt: skip
    session.add(row)
    session.flush()
    inverse = [acts.delete_rows("signed_verdict", [row.id]), acts.set_back("bench_check", check.id, open=True)]
    acts.record(session, check.motor_id, now, "sign", f"{verdict} signed by {signed_by}", inverse)
    check.open = False
    mark_stale(session, [check.motor_id])
    return row


def hang_back(session: Session, check: CheckRow, now: datetime) -> None:
    """Close a check without a signature: what was measured stays, the answer is the tool's."""
    inverse = [acts.set_back("bench_check", check.id, open=True)]
    acts.record(session, check.motor_id, now, "close", "hung back unsigned", inverse)
    check.open = False
    mark_stale(session, [check.motor_id])


def last_signature(session: Session) -> str:
    """Who signed last, to be offered again."""
    return standings.last_signature(session)


def signed_before(session: Session, motor_id: int) -> list[SignedRow]:
    """Every signed verdict of a motor, newest first."""
    return standings.signed(session, motor_id)
