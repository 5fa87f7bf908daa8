"""Pictures of what was looked at: attaching one, showing one."""

from typing import Annotated

from fastapi import APIRouter, Path
from fastapi.responses import Response

from waldhorn.exchange.attachments import ATTACHMENTS
from waldhorn.pit.bench import pictures as pit
from waldhorn.pit.writing import read
from waldhorn.web.common.pages import StoreOf
from waldhorn.web.screens.bench.view import Asked, carry_out

router = APIRouter()
DAMAGED = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 300" font-family="sans-serif" font-size="22">
<rect width="400" height="300" fill="#e3ebe6"/>
<text x="200" y="140" text-anchor="middle" fill="#a3142f">This picture is damaged</text>
<text x="200" y="175" text-anchor="middle" fill="#10241f">in the store. Take it anew.</text></svg>"""


@router.post("/checks/{check_id}/pictures/{item}")
async def attach(asked: Asked, item: str) -> Response:
    """Attach a picture to an item of the checklist."""
    async with asked.request.form() as form:
        sent = form.get("picture")
        data = b"" if sent is None or isinstance(sent, str) else await sent.read(pit.MOST_BYTES + 1)
    return carry_out(asked, lambda session, ctx: pit.attach(session, ctx, item, data), "look", {})


@router.get("/pictures/{picture_id}")
def picture(store: StoreOf, picture_id: Annotated[str, Path(max_length=40)]) -> Response:
    """One picture."""
    image = read(store, pit.image, picture_id)
    if ATTACHMENTS["picture"].is_damaged(image):
        return Response(DAMAGED, media_type="image/svg+xml", headers={"Cache-Control": "no-store"})
    return Response(image, media_type=pit.MEDIA_TYPE, headers={"Cache-Control": "private, max-age=86400"})
