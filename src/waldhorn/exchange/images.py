"""Whether a stored picture can still be seen."""

import io


def is_damaged(image: bytes) -> bool:
    """Whether the bytes of a picture cannot be decoded whole."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(image)) as opened:
            opened.load()
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return True
    return False
