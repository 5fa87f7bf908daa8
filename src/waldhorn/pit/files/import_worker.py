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

from waldhorn.core.base.errors import Busy, Cancelled, InputError
from waldhorn.pit.files import jobs, upload_staging
from waldhorn.pit.files.bringing_in import Brought, bring_in
from waldhorn.pit.files.jobs import Job
from waldhorn.pit.judging.judging import settle_apart
from waldhorn.pit.writing import Store, Writing, judge_soon
from waldhorn.store.backups import file_of
from waldhorn.store.engine import open_store

_MUCH = 1_000_000  # bytes that are read in a process of their own
PATIENCE_S = 30.0  # how long it waits for others that write
_NICER = 5  # than the process that serves the pages


def start(store: Store, by: Writing, token: str, skip_bad: bool) -> Job:
    """Begin to store what was staged and to judge it, in another process where it is much."""

    def work(job: Job) -> Brought:
        if upload_staging.size_of(token) > _MUCH:
            return _bring_in_apart(store, by, token, skip_bad, job)
        brought = bring_in(store, by, token, skip_bad, lambda name, at, of: job.at(f"reading {name}", at, of))
        if brought.stored:
            job.stored()
            judge_soon(store, by.at, progress=lambda at, of: job.at("judging the motors", at, of))
        return brought

    return jobs.start(token, work)


def _bring_in_apart(store: Store, by: Writing, token: str, skip_bad: bool, job: Job) -> Brought:
    told = json.dumps([str(file_of(store)), token, by.at.isoformat(), by.who, skip_bad])
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
    db, token, now, who, skip_bad = json.loads(sys.argv[1])
    if hasattr(os, "nice"):
        os.nice(_NICER)
    by = Writing(datetime.fromisoformat(now), who)
    store = open_store(Path(db), PATIENCE_S)
    try:
        brought = bring_in(store, by, token, skip_bad, lambda name, done, of: _say(at=[f"reading {name}", done, of]))
        if brought.stored:
            _say(stored=True)
            settle_apart(store, by.at, lambda done, of: _say(at=["judging the motors", done, of]))
        _say(brought=asdict(brought))
    except InputError as refused:
        _say(refused=[refused.field, refused.sentence])
    except Busy:
        _say(refused=["files", "others are writing to this store just now: try again in a moment"])
    finally:
        store.close()


if __name__ == "__main__":
    main()
