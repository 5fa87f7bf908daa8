"""Taking out: everything as a data package, a workbook or a backup, and a motor's own file."""

import json
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from waldhorn.exchange import backup as exchange
from waldhorn.exchange import motor_file
from waldhorn.exchange.exporting import package, workbook
from waldhorn.store import motors

__all__ = ["backup", "file_name", "own_file", "package", "workbook"]


def backup(session: Session, file: Path) -> None:
    """Write everything, to be brought into a new store or into the other one of this pit."""
    _write(file, exchange.backup(session))


def file_name(session: Session, tag: str) -> str:
    """What the own file of a motor is called; raises NotThere."""
    return motor_file.file_name(motors.on_rack(session, tag).tag)


def own_file(session: Session, file: Path, tag: str, now: datetime) -> None:
    """Write everything known of a motor, for the pit it goes to; raises NotThere."""
    _write(file, motor_file.write(session, motors.on_rack(session, tag).id, now))


def _write(file: Path, document: dict[str, Any]) -> None:
    file.write_text(json.dumps(document, ensure_ascii=False), encoding="utf-8")
