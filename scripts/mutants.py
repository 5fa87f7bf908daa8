"""Mutations that no test notices: a seeded sample of small slips in all packages, each run against the tests that
pass through its line and the examples of its module; that of a line which runs on import, against those that pass
through its file, then all.

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

import coverage
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

ROOT = Path(__file__).parent.parent
# In as many parts as there are workers. What a server does in threads of its own is no test's by name: left out.
TESTED = (
    ("src/waldhorn", "tests/core", "tests/instruments", "tests/simulator", "tests/exchange", "tests/test_cli.py"),
    ("tests/pit", "tests/store", "tests/web"),
)
WORKERS = len(TESTED)
TOO_LONG_S = 900
MOST_PLACES = 20  # in one file
PLAIN = ("-q", "-p", "no:cacheprovider", "-p", "no:xdist", "-m", "not long")
PLAIN += ("-o", "addopts=--doctest-modules --import-mode=importlib", "--ignore-glob=*/migrations/*")
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
    def line(self) -> int:
        """The first line that differs."""
        lines = zip(self.before.splitlines(), self.after.splitlines(), strict=False)
        return next(n for n, (before, after) in enumerate(lines, 1) if before != after)

    @property
    def words(self) -> str:
        """The lines that differ."""
        changed = unified_diff(self.before.splitlines(), self.after.splitlines(), lineterm="", n=0)
        return "\n".join(line for line in changed if line[:1] in "+-" and line[:3] not in ("+++", "---"))


def mutants(count: int, seed: int) -> list[Mutant]:
    """A sample of all slips that can be made, a file as likely as it is long."""
    chance = random.Random(seed)
    # A migration is what it was on the day it was made.
    files = sorted(p for p in (ROOT / "src/waldhorn").rglob("*.py") if "migrations" not in p.parts)
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


def passing_through(desks: Queue[Path], tested: tuple[str, ...]) -> dict[tuple[str, int], set[str]]:
    """The tests that run each line, by path and line, of one part of them."""
    desk = desks.get()
    data = str(desk / "covered")
    (desk / "covered.ini").write_text("[run]\ndynamic_context = test_function\nsource = src/waldhorn\n")
    command = ["-m", "coverage", "run", "--rcfile=covered.ini", f"--data-file={data}", "-m", "pytest", *PLAIN, *tested]
    done = subprocess.run(
        [sys.executable, *command], cwd=desk, env=_environment(desk), capture_output=True, text=True, check=False
    )
    desks.put(desk)
    if done.returncode:
        raise SystemExit(f"without any slip the tests fail:\n{done.stdout[-4000:]}")
    found: dict[tuple[str, int], set[str]] = defaultdict(set)
    covered = coverage.CoverageData(data)
    covered.read()
    for file in covered.measured_files():
        for line, contexts in covered.contexts_by_lineno(file).items():
            found[str(Path(file).relative_to(desk)), line] |= {_test(c) for c in contexts if c.startswith("tests.")}
    return found


def _test(context: str) -> str:
    """A test by its place, of the name that it is called by."""
    parts = context.split(".")
    end = next(i for i, part in enumerate(parts) if part.startswith("test_"))
    return f"{'/'.join(parts[: end + 1])}.py::{'::'.join(parts[end + 1 :])}"


def _environment(desk: Path) -> dict[str, str]:
    return os.environ | {"PYTHONPATH": str(desk / "src"), "PYTHONDONTWRITEBYTECODE": "1"}


def survives(mutant: Mutant, desk: Path, tests: list[str]) -> bool:
    """Whether the tests pass in spite of it."""
    place = desk / mutant.path
    place.write_text(mutant.after, encoding="utf-8")
    command = [sys.executable, "-m", "pytest", "-x", *PLAIN, *tests]
    try:
        done = subprocess.run(
            command, cwd=desk, env=_environment(desk), capture_output=True, timeout=TOO_LONG_S, check=False
        )
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
            shutil.copytree(ROOT, desk, ignore=shutil.ignore_patterns("__pycache__", ".git", ".venv", "node_modules"))
            desks.put(desk)

        alive = 0
        with ThreadPoolExecutor(WORKERS) as pool:
            through: dict[tuple[str, int], set[str]] = defaultdict(set)
            for part in pool.map(lambda tested: passing_through(desks, tested), TESTED):
                for place, tests in part.items():
                    through[place] |= tests

            def tried(mutant: Mutant) -> bool:
                desk = desks.get()
                path = str(mutant.path)
                own = sorted(through[path, mutant.line])
                near = sorted({test for (file, _), tests in through.items() if file == path for test in tests})
                tests = [path, *own] if own else [path, *near, *(t for tested in TESTED for t in tested)]
                try:
                    return survives(mutant, desk, tests)
                finally:
                    desks.put(desk)

            for number, (mutant, lives) in enumerate(zip(sample, pool.map(tried, sample), strict=True), 1):
                alive += lives
                if lives:
                    print(f"{number}: {mutant.path} survives\n{mutant.words}\n", flush=True)
    print(f"{alive} of {len(sample)} mutants survive, seed {given.seed}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
