"""Mutations that no test notices: a seeded sample of small slips in the core and the pit, each run against the tests.

A slip that survives is either equivalent (nobody could tell) or stands where a test is missing.
"""

import argparse
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from difflib import unified_diff
from pathlib import Path
from queue import Queue

from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

ROOT = Path(__file__).parent.parent
TESTED = ("src/waldhorn/core", "tests/core", "tests/test_judge_eval.py", "tests/pit", "tests/store", "tests/web")
WORKERS = 2
TOO_LONG_S = 240
MOST_PLACES = 20  # in one file
# A change of an annotation or of a decorator is none of what a test could see.
LEFT_OUT = (
    "core/RemoveDecorator",
    "core/Variable",
    "core/ReplaceBinaryOperator_BitOr",
    "core/ReplaceBinaryOperator_BitAnd",
)


@dataclass(frozen=True)
class Mutant:
    """One slip: where, and the file with it."""

    path: Path
    before: str
    after: str

    @property
    def words(self) -> str:
        """The lines that differ."""
        changed = unified_diff(self.before.splitlines(), self.after.splitlines(), lineterm="", n=0)
        return "\n".join(line for line in changed if line[:1] in "+-" and line[:3] not in ("+++", "---"))


def mutants(count: int, seed: int) -> list[Mutant]:
    """A sample of all slips that can be made, a file as likely as it is long."""
    chance = random.Random(seed)
    files = sorted(p for layer in ("core", "pit") for p in (ROOT / "src/waldhorn" / layer).rglob("*.py"))
    sources = {p: p.read_text(encoding="utf-8") for p in files}
    families: dict[str, list[str]] = defaultdict(list)
    for name in sorted(operator_names()):
        if not name.startswith(LEFT_OUT):
            families[name.split("_")[0]].append(name)
    found: list[Mutant] = []
    while len(found) < count:
        path = chance.choices(files, [len(sources[p]) for p in files])[0]
        operator = get_operator(chance.choice(families[chance.choice(sorted(families))]))
        after = mutate_code(sources[path], operator(), chance.randrange(MOST_PLACES))
        if after is not None and after != sources[path]:
            found.append(Mutant(path.relative_to(ROOT), sources[path], after))
    return found


def survives(mutant: Mutant, desk: Path) -> bool:
    """Whether the tests pass in spite of it."""
    place = desk / mutant.path
    place.write_text(mutant.after, encoding="utf-8")
    environment = os.environ | {"PYTHONPATH": str(desk / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *TESTED]
    try:
        done = subprocess.run(command, cwd=desk, env=environment, capture_output=True, timeout=TOO_LONG_S, check=False)
        return done.returncode == 0
    except subprocess.TimeoutExpired:
        return False
    finally:
        place.write_text(mutant.before, encoding="utf-8")


def main() -> int:
    """Sample, run, and print what survived."""
    options = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    options.add_argument("--count", type=int, default=100)
    options.add_argument("--seed", type=int, default=1)
    given = options.parse_args()
    sample = mutants(given.count, given.seed)
    with tempfile.TemporaryDirectory() as folder:
        desks: Queue[Path] = Queue()
        for number in range(WORKERS):
            desk = Path(folder) / str(number)
            for name in ("src", "tests", "scripts"):
                shutil.copytree(ROOT / name, desk / name, ignore=shutil.ignore_patterns("__pycache__"))
            shutil.copy(ROOT / "pyproject.toml", desk)
            desks.put(desk)

        def tried(mutant: Mutant) -> bool:
            desk = desks.get()
            try:
                return survives(mutant, desk)
            finally:
                desks.put(desk)

        alive = 0
        with ThreadPoolExecutor(WORKERS) as pool:
            for number, (mutant, lives) in enumerate(zip(sample, pool.map(tried, sample), strict=True), 1):
                alive += lives
                if lives:
                    print(f"{number}: {mutant.path} survives\n{mutant.words}\n", flush=True)
    print(f"{alive} of {len(sample)} mutants survive, seed {given.seed}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
