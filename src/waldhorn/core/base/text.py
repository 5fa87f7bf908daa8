"""What a text may hold that a person typed or a file brought: no sign that steers a terminal or breaks a workbook."""

import re

_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")


def control_signs(text: str) -> list[str]:
    """The control signs in a text, but for tabs and line ends, as they are named.

    >>> control_signs("loud"), control_signs("a\\x1b[31mb")
    ([], ['U+001B'])
    """
    return sorted({f"U+{ord(sign):04X}" for sign in _CONTROL.findall(text)})


def without_control(text: str) -> str:
    """A text without them.

    >>> without_control("a\\x1bb\\tc")
    'ab\\tc'
    """
    return _CONTROL.sub("", text)
