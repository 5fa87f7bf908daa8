"""Facts of one's own about a motor: a name and what is to be known of it, one a line, `colour: red`.

In a table each is a column of its own, `x_colour`. Not for facts that Waldhorn reckons with (see `facts`).
"""

import re
from collections.abc import Mapping

COLUMN = "x_"
_NAME = re.compile(r"[a-z0-9][a-z0-9_]{0,39}")
_MOST = 40


def read(text: str) -> dict[str, str]:
    """Facts of one's own by name, as they stand in lines.

    Parameters
    ----------
    text : str
        One a line, the name before the colon.

    Returns
    -------
    dict of str to str

    Examples
    --------
    >>> read("Colour: red\\nbatch no: 7")
    {'colour': 'red', 'batch_no': '7'}
    """
    found = {}
    for line in filter(str.strip, text.splitlines()):
        name, _, value = line.partition(":")
        found["_".join(name.split()).lower()] = value.strip()
    return found


def write(facts: Mapping[str, str]) -> str:
    """The same as lines.

    >>> write({"colour": "red"})
    'colour: red'
    """
    return "\n".join(f"{name}: {value}" for name, value in facts.items())


def wrong(text: str) -> str:
    """What is wrong with lines; empty where nothing is.

    >>> wrong("red"), wrong("colour: red")
    ('“red” has no name: write colour: red', '')
    """
    lines = [line for line in text.splitlines() if line.strip()]
    if len(lines) > _MOST:
        return f"{len(lines)} facts of one's own: {_MOST} at most"
    for line in lines:
        name, colon, value = line.partition(":")
        if not colon or not value.strip():
            return f"“{line.strip()}” has no name: write colour: red"
        if not _NAME.fullmatch("_".join(name.split()).lower()):
            return f"“{name.strip()}” cannot be a name: letters a to z, digits and _, 40 at most"
    if len(read(text)) < len(lines):
        return "a name stands there twice"
    return ""


def columns(text: str) -> dict[str, str]:
    """The same as columns of a table.

    >>> columns("colour: red")
    {'x_colour': 'red'}
    """
    return {COLUMN + name: value for name, value in read(text).items()}
