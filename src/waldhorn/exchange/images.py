"""Whether a stored picture can still be seen."""

import io

from PIL import Image


def is_damaged(image: bytes) -> bool:
    """Whether the bytes of a picture cannot be decoded whole."""
    try:
        with Image.open(io.BytesIO(image)) as opened:
            opened.load()
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return True
    return False
