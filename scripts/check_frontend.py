"""Fails when a committed file of web/static is not what the sources in frontend/ build to."""

import filecmp
import subprocess
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
STATIC = ROOT / "src/waldhorn/web/static"


def main() -> int:
    """Build into a folder of its own and compare every file that comes out."""
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run(["node", ROOT / "frontend/build.mjs", folder], check=True, capture_output=True)
        built = [p.relative_to(folder) for p in Path(folder).rglob("*") if p.is_file()]
        stale = [p for p in built if not _same(Path(folder) / p, STATIC / p)]
    for path in stale:
        print(f"{path} is not what its sources build to: run make frontend", file=sys.stderr)
    return 1 if stale or not built else 0


def _same(built: Path, committed: Path) -> bool:
    return committed.is_file() and filecmp.cmp(built, committed, shallow=False)


if __name__ == "__main__":
    sys.exit(main())
