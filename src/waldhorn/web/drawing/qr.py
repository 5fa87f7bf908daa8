"""A text as a code to be scanned."""

from markupsafe import Markup


def qr(text: str, error: str = "m") -> Markup:
    """A text as a QR code, drawn: black on white with the quiet zone it needs."""
    import segno  # takes a while to load, and the first page has no code

    drawn = segno.make(text, error=error, micro=False).svg_inline(omitsize=True, border=4, light="white", svgclass="qr")
    return Markup(drawn)
