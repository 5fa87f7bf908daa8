"""Pictures of what was looked at: checked, made upright, made small enough, and stripped of all but their pixels."""

import io

from sqlalchemy.orm import Session

from waldhorn.core.base.errors import InputError, NotThere
from waldhorn.core.measuring.inspection import ITEMS
from waldhorn.pit.bench import checks
from waldhorn.pit.bench.context import CheckContext
from waldhorn.store import changes, findings
from waldhorn.store.findings import MOST_PICTURES
from waldhorn.store.models import ChangeKind, PictureRow

MOST_BYTES = 8 * 1024 * 1024
MOST_PIXELS = 50_000_000
LARGEST_SIDE = 1600
KINDS = ("PNG", "JPEG", "WEBP")
MEDIA_TYPE = "image/webp"


def attach(session: Session, ctx: CheckContext, item: str, data: bytes) -> str:
    """Attach a picture to an item of a check; returns its id. Raises InputError for what is no such picture."""
    checks.must_be_open(ctx)
    if item not in ITEMS:
        raise InputError("picture", f"“{item}” is nothing to look at on a motor")
    if len(ctx.pictures()) >= MOST_PICTURES:
        raise InputError("picture", f"this check has {MOST_PICTURES} pictures already: that is enough")
    width, height, image = plain(data)
    title = ITEMS[item].title
    change_id = changes.record(session, ChangeKind.PICTURE, ctx.now, ctx.motor_id, ctx.check.id, detail=title)
    row = PictureRow(
        check_id=ctx.check.id, change_id=change_id, item=item, at=ctx.now, width=width, height=height, image=image
    )
    session.add(row)
    session.flush()
    return row.id


def image(session: Session, picture_id: str) -> bytes:
    """A picture; raises NotThere."""
    row = findings.picture(session, picture_id)
    if row is None:
        raise NotThere("There is no such picture.")
    return row.image


def plain(data: bytes) -> tuple[int, int, bytes]:
    """Width, height and WebP bytes of a picture, upright, without metadata; raises InputError."""
    if len(data) > MOST_BYTES:
        raise InputError("picture", f"the picture has {len(data) / 1e6:.1f} MB: 8 MB at most")
    from PIL import Image, ImageOps, UnidentifiedImageError  # a tenth of a second to load

    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise InputError("picture", f"{opened.width} × {opened.height} pixels are too many: 50 million at most")
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except InputError:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise InputError("picture", "this is no picture that can be read: PNG, JPEG or WebP") from error
    upright.thumbnail((LARGEST_SIDE, LARGEST_SIDE))
    fresh = Image.new("RGB", upright.size)
    fresh.paste(upright)
    out = io.BytesIO()
    fresh.save(out, "WEBP", quality=82)
    return fresh.width, fresh.height, out.getvalue()
