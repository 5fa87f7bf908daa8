"""What is wrong with a row, in words."""

from typing import Any

from pydantic import (
    ValidationError,
)


def complaints(error: ValidationError) -> list[tuple[str, str]]:
    """Pydantic's findings as (column, what is wrong)."""
    return [(str(e["loc"][0]) if e["loc"] else "row", in_words(e)) for e in error.errors(include_url=False)]


def in_words(error: Any) -> str:
    """One of Pydantic's findings, in words."""
    kind, given, context = error["type"], error.get("input"), error.get("ctx", {})
    if kind == "missing":
        return "is empty and must not be"
    if kind in ("literal_error", "enum"):
        return f"“{given}” is not one of {context['expected'].replace(chr(39), '')}"
    if kind == "year":
        return f"“{given}” {error['msg']}"
    if kind.startswith(("float", "finite", "number")):
        return f"“{given}” is not a number"
    if kind.startswith("int"):
        return f"“{given}” is not a whole number"
    if kind.startswith("bool"):
        return f"“{given}” is neither yes nor no"
    if kind == "timezone_aware":
        return f"“{given}” has no offset from UTC: write it like 2026-05-02T10:30:00+02:00"
    if kind.startswith("datetime"):
        return f"“{given}” is not a time: write it like 2026-05-02T10:30:00+02:00"
    return f"“{given}”: {error['msg'].lower()}"
