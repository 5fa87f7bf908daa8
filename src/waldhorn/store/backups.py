"""Backups beside the store: whole copies that are made by themselves, the older ones thinned out.

Kept are the last ten, and the last of each day for a month.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from waldhorn.store.engine import Store, clear_parts, copy_to

LAST, DAYS = 10, 31
EVERY = timedelta(hours=6)
_STAMP = "%Y%m%dT%H%M%SZ"


@dataclass(frozen=True, slots=True)
class Copy:
    """A backup: its file, when it was made, bytes."""

    file: Path
    at: datetime
    size: int


def file_of(store: Store) -> Path:
    """The store's own file."""
    return store.file.path


def folder_of(store: Store) -> Path:
    """Where the backups of a store lie."""
    file = file_of(store)
    return file.with_name(f"{file.stem}.backups")


def copies(store: Store) -> list[Copy]:
    """The backups there are, newest first."""
    found = []
    for file in folder_of(store).glob("*.db"):
        try:
            at = datetime.strptime(file.stem, _STAMP).replace(tzinfo=UTC)
        except ValueError:
            continue  # somebody else's file
        if not is_whole(file):
            continue
        found.append(Copy(file, at, file.stat().st_size))
    return sorted(found, key=lambda c: c.at, reverse=True)


def is_whole(file: Path) -> bool:
    """Whether a SQLite file is as long as it says: a torn copy is none."""
    with file.open("rb") as opened:
        head = opened.read(32)
    if len(head) < 32 or not head.startswith(b"SQLite format 3\x00"):
        return False
    page = int.from_bytes(head[16:18], "big")
    return file.stat().st_size == (65_536 if page == 1 else page) * int.from_bytes(head[28:32], "big")


def back_up(store: Store, now: datetime) -> Copy:
    """Write a backup, and let go of those that are not kept any more."""
    folder = folder_of(store)
    folder.mkdir(mode=0o700, exist_ok=True)
    clear_parts(folder)
    at = now.astimezone(UTC).replace(microsecond=0)
    file = folder / f"{at.strftime(_STAMP)}.db"
    if not file.exists() or not is_whole(file):
        copy_to(store, file)
    found = copies(store)
    wanted = kept([c.at for c in found], now)
    for copy in found:
        if copy.at not in wanted:
            copy.file.unlink(missing_ok=True)
    return Copy(file, at, file.stat().st_size)


def keep_if_due(store: Store, now: datetime) -> Copy | None:
    """Write a backup when the store was written to since the last one and that is some hours old. One that can only be
    read, or whose file is gone, gets none."""
    if store.file.trouble():
        return None
    found = copies(store)
    if not found:
        return back_up(store, now)
    written = max(f.stat().st_mtime for f in _files(store) if f.exists())
    return back_up(store, now) if now - found[0].at >= EVERY and written > found[0].file.stat().st_mtime else None


def _files(store: Store) -> list[Path]:
    file = file_of(store)
    return [file, file.with_name(f"{file.name}-wal")]


def kept(made: list[datetime], now: datetime) -> set[datetime]:
    """Which of the backups stay: the last ten, and the last of each day for a month."""
    newest = sorted(made, reverse=True)
    of_day: dict[object, datetime] = {}
    for at in newest:
        if now - at <= timedelta(days=DAYS):
            of_day.setdefault(at.date(), at)
    return {*newest[:LAST], *of_day.values()}
