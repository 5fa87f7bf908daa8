"""A text as a code to be scanned."""

import segno
from markupsafe import Markup


def qr(text: str, error: str = "m") -> Markup:
    """A text as a QR code, drawn: black on white with the quiet zone it needs."""
    drawn = segno.make(text, error=error, micro=False).svg_inline(omitsize=True, border=4, light="white", svgclass="qr")
    return Markup(drawn)
