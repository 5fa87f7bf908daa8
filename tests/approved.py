"""Answers that were read and approved: what a person sees changes only when somebody means it to.

`APPROVE=1 make test-fast` writes them anew; read the difference before you commit it.
"""

import json
import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

MOST, LONGEST = 40, 300  # differences that are shown, and characters of each
NOTHING = 1e-9  # what is left of a difference of the same two sums, added up another way by each Python


def rounded(value: Any) -> Any:
    """A value without what depends on the last bits of a machine."""
    if isinstance(value, float):
        return float(f"{value:.5g}") if abs(value) > NOTHING else 0.0
    if isinstance(value, dict):
        return {str(k): rounded(v) for k, v in value.items()}
    if isinstance(value, (list, tuple)):
        return [rounded(v) for v in value]
    return value if isinstance(value, (int, str, bool)) or value is None else str(value)


def approve(file: Path, found: dict[str, Any]) -> None:
    """Compare with what was approved."""
    now = rounded(found)
    if os.environ.get("APPROVE"):
        file.write_text(json.dumps(now, indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    known = json.loads(file.read_text(encoding="utf-8"))
    differences = [words[:LONGEST] for words in _differences("", known, now)]
    more = f"\n… and {len(differences) - MOST} more" if len(differences) > MOST else ""
    assert not differences, "not as approved; APPROVE=1 approves:\n" + "\n".join(differences[:MOST]) + more


def _differences(where: str, known: Any, now: Any) -> Iterator[str]:
    """Every difference there is, a line each."""
    if isinstance(known, dict) and isinstance(now, dict):
        for name in known | now:
            yield from _differences(f"{where}.{name}", known.get(name), now.get(name))
    elif known != now:
        yield f"{where[1:]}: {known!r} was approved, {now!r} is there"
