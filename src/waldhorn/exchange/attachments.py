"""Files attached to a check, pictures and sounds: where they lie beside the tables, and whether they can still be
read."""

import io
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from waldhorn.store.models import PictureRow, SoundRow


@dataclass(frozen=True)
class Attachment:
    """A kind of them: its rows, the column that holds the file, the folder it is written to, its suffix, and whether
    one cannot be decoded whole."""

    model: Any
    column: str
    folder: str
    suffix: str
    is_damaged: Callable[[bytes], bool]

    def file(self, row_id: str) -> str:
        """Where a file lies beside the tables."""
        return f"{self.folder}/{row_id}.{self.suffix}"


def _is_damaged_picture(data: bytes) -> bool:
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data)) as opened:
            opened.load()
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return True
    return False


def _is_damaged_sound(data: bytes) -> bool:
    import soundfile

    try:
        with soundfile.SoundFile(io.BytesIO(data)) as opened:
            for _ in opened.blocks(65_536):
                pass
    except soundfile.SoundFileError:
        return True
    return False


ATTACHMENTS: Mapping[str, Attachment] = {
    "picture": Attachment(PictureRow, "image", "pictures", "webp", _is_damaged_picture),
    "sound": Attachment(SoundRow, "flac", "sounds", "flac", _is_damaged_sound),
}
