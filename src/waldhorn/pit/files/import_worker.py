"""Bringing in much, in a process of its own, so that the pages stay quick: what it is at comes back line by line.

One JSON object a line: {"at": [words, done, of]}, {"stored": true}, then {"brought": …} or {"refused": [field, words]}.
"""

import json
import os
import subprocess
import sys
from dataclasses import asdict
from datetime import datetime
from pathlib import Path
from typing import Any

from waldhorn.core.base.errors import Busy, InputError
from waldhorn.pit.files.bringing_in import Brought, bring_in
from waldhorn.pit.files.jobs import Cancelled, Job
from waldhorn.pit.judging.judging import settle_apart
from waldhorn.store.backups import file_of
from waldhorn.store.engine import Store, open_store

PATIENCE_S = 30.0  # how long it waits for others that write
_NICER = 5  # than the process that serves the pages


def bring_in_apart(store: Store, token: str, now: datetime, skip_bad: bool, job: Job) -> Brought:
    """The same as `bringing_in.bring_in` with the judging after it, in another process; raises InputError,
    Cancelled."""
    told = json.dumps([str(file_of(store)), token, now.isoformat(), skip_bad])
    command = [sys.executable, "-m", "waldhorn.pit.files.import_worker", told]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as process:
        try:
            brought = _heard(process, job)
        except Cancelled:
            process.kill()  # nothing of a transaction that has not ended stays
            raise
        complained = process.stderr.read() if process.stderr else ""
    if brought is None:
        raise RuntimeError(complained or "bringing in ended without a word")
    return brought


def _heard(process: "subprocess.Popen[str]", job: Job) -> Brought | None:
    brought = None
    for line in process.stdout or ():
        said: dict[str, Any] = json.loads(line)
        if "at" in said:
            job.at(*said["at"])
        elif "stored" in said:
            job.stored()
        elif "refused" in said:
            raise InputError(*said["refused"])
        else:
            brought = Brought(**said["brought"])
    return brought


def _say(**said: Any) -> None:
    print(json.dumps(said, ensure_ascii=False), flush=True)


def main() -> None:
    """Do what the first argument says."""
    db, token, now, skip_bad = json.loads(sys.argv[1])
    if hasattr(os, "nice"):
        os.nice(_NICER)
    at = datetime.fromisoformat(now)
    store = open_store(Path(db), PATIENCE_S)
    try:
        brought = bring_in(store, token, at, skip_bad, lambda name, done, of: _say(at=[f"reading {name}", done, of]))
        if brought.stored:
            _say(stored=True)
            settle_apart(store, at, lambda done, of: _say(at=["judging the motors", done, of]))
        _say(brought=asdict(brought))
    except InputError as refused:
        _say(refused=[refused.field, refused.sentence])
    except Busy:
        _say(refused=["files", "others are writing to this store just now: try again in a moment"])
    finally:
        store.close()


if __name__ == "__main__":
    main()
