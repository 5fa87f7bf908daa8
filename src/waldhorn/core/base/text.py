"""Names as they are compared, and what a text may hold that a person typed or a file brought: no character that steers
a terminal or breaks a workbook."""

import re

_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")


def key_of(name: str) -> str:
    """A tag, a model or a rig as it is compared: case and outer blanks do not matter.

    >>> key_of(" VS-01 ") == key_of("vs-01")
    True
    """
    return name.strip().casefold()


def loosely(name: str) -> str:
    """A tag as two people may have written it: without blanks, signs and leading zeros.

    >>> loosely("GR 6") == loosely("gr-06"), loosely("GR 60") == loosely("GR 6")
    (True, False)
    """
    parts = re.findall(r"[^\W\d_]+|\d+", key_of(name))
    return " ".join(part.lstrip("0") or "0" if part.isdigit() else part for part in parts)


def control_characters(text: str) -> list[str]:
    """The control characters in a text, but for tabs and line ends, as they are named.

    >>> control_characters("loud"), control_characters("a\\x1b[31mb")
    ([], ['U+001B'])
    """
    return sorted({f"U+{ord(character):04X}" for character in _CONTROL.findall(text)})


def unseen_characters(text: str) -> list[str]:
    """The characters of a text that are not seen where it is shown, as they are named: controls, and those that turn
    the direction of writing around, so that a name reads as another one.

    >>> unseen_characters("J. Weir"), unseen_characters("JK\u202e")
    ([], ['U+202E'])
    """
    return sorted({f"U+{ord(character):04X}" for character in text if not character.isprintable()})


def in_terminal(text: str, most: int = 200) -> str:
    """A text as a terminal is given it: one line, what is not seen written out, cut to `most` characters.

    Parameters
    ----------
    text : str
    most : int
        Characters, at most.

    Examples
    --------
    >>> print(in_terminal("row 3:" + chr(27) + "[2J"))
    row 3:\\x1b[2J
    >>> in_terminal("a" * 300) == "a" * 199 + "…"
    True
    """
    seen = "".join(
        character if character.isprintable() else character.encode("unicode_escape").decode() for character in text
    )
    return seen if len(seen) <= most else f"{seen[: most - 1]}…"


def without_control(text: str) -> str:
    """A text without them.

    >>> without_control("a\\x1bb\\tc")
    'ab\\tc'
    """
    return _CONTROL.sub("", text)
