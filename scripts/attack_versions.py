"""Attacks between versions and after second thoughts: upgrades that are killed, changes and undos at random."""

import random
import subprocess
import sys
import tempfile
import time
from collections import Counter
from contextlib import closing
from pathlib import Path
from typing import Protocol

from test_rack_says_what_pages_say import Pit, answers
from test_upgrades import STORES, columns_of, rows_of, unpacked

from waldhorn.store.engine import open_store

COMMAND = [sys.executable, "-m", "waldhorn.cli"]
STEPS = 25
LIVES = 12


class Notes(Protocol):
    """Where what was found is written down."""

    def note(self, kind: str, words: str) -> None:
        """Something that must not be."""


def upgrades_killed(folder: Path, chance: random.Random, found: Notes, times: int) -> None:
    """A store of an earlier version is opened and killed again and again: in the end every row stands in it."""
    kills = 0
    for place in range(times):
        version = chance.choice(STORES)
        home = folder / f"upgrade-{place}"
        home.mkdir()
        file = unpacked(version, "store.db", home)
        columns = columns_of(file)
        before = rows_of(file, columns)
        for life in range(LIVES):
            command = [*COMMAND, "judge", "--db", str(file)]
            process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
            if life < LIVES - 1:
                time.sleep(chance.uniform(0.6, 3.0))
            if life < LIVES - 1 and process.poll() is None:
                process.kill()
                kills += 1
                process.communicate()
                continue
            told, complained = process.communicate()
            if process.returncode or told.count("VS-") < 4 or "Traceback" in complained:
                found.note("upgrade", f"{version}: {complained[-300:]}")
            break
        if rows_of(file, columns) != before:
            found.note("lost", f"rows of a store of {version}")
        if left := [f.name for f in home.iterdir() if f.name != file.name]:
            found.note("upgrade", f"{version}: {left} are left")
    print(f"  {times} upgrades with {kills} kills", flush=True)


def second_thoughts(folder: Path, chance: random.Random, found: Notes, times: int) -> None:
    """Random changes, merges and undos: the rack never says anything else than a page, and no double is in a list."""
    done: Counter[str] = Counter()
    for _ in range(times):
        with tempfile.TemporaryDirectory(dir=folder) as name, closing(open_store(Path(name) / "pit.db")) as store:
            pit = Pit(store, seed := chance.randrange(10**6))
            walk = []
            for _ in range(STEPS):
                walk.append(pit.step())
                rack, page, told, code, _, gone = answers(store, pit.at)
                if not (rack == page == told == code and all(gone.values())):
                    found.note("lie", f"seed {seed} after {walk}: {rack} {page}")
                    break
            done.update(step.split(":")[0] for step in walk)
    print(f"  {times} walks: {dict(done.most_common())}", flush=True)
