"""Text as it may stand in a cell that a spreadsheet opens."""

from waldhorn.core.base.text import without_control

_RUN_BY_SHEETS = "=+-@\t\r"  # what begins a formula


def harmless(text: str) -> str:
    """A text as no spreadsheet runs it: an apostrophe stands before what would begin a formula, and control characters,
    which no workbook can hold, are dropped.

    >>> harmless("=1+1"), harmless("'=1"), harmless("lo\\x1bud")
    ("'=1+1", "''=1", 'loud')
    """
    text = without_control(text)
    return f"'{text}" if text.lstrip("'")[:1] in tuple(_RUN_BY_SHEETS) else text


def as_written(text: str) -> str:
    """A text as it was before it was made harmless.

    >>> as_written("'=1+1"), as_written("'tis")
    ('=1+1', "'tis")
    """
    return text[1:] if text[:1] == "'" and text.lstrip("'")[:1] in tuple(_RUN_BY_SHEETS) else text
