"""Sounds of a step: keeping one, playing one."""

import re
from typing import Annotated

from fastapi import APIRouter, Header, Path
from fastapi.responses import Response

from waldhorn.pit.bench import sounds as pit
from waldhorn.pit.writing import read
from waldhorn.web.common.pages import StoreOf
from waldhorn.web.screens.bench.view import Asked, carry_out

router = APIRouter()


@router.post("/checks/{check_id}/sounds/{step}")
async def attach(asked: Asked, step: str) -> Response:
    """Keep what was recorded in a step."""
    async with asked.request.form() as form:
        sent, rate, note = form.get("sound"), str(form.get("rate_hz") or ""), str(form.get("note") or "").strip()
        data = b"" if sent is None or isinstance(sent, str) else await sent.read(pit.MOST_BYTES + 1)
    rate_hz = int(rate) if rate.isascii() and rate.isdigit() and len(rate) < 8 else None
    return carry_out(asked, lambda session, ctx: pit.attach(session, ctx, step, data, rate_hz, note), step, {})


@router.get("/sounds/{sound_id}")
def sound(
    store: StoreOf,
    sound_id: Annotated[str, Path(max_length=40)],
    asked_for: Annotated[str, Header(alias="Range", max_length=100)] = "",
) -> Response:
    """One sound, as FLAC, or the one range of it that some players ask for."""
    flac = read(store, pit.flac, sound_id)
    headers = {"Cache-Control": "private, max-age=86400", "Accept-Ranges": "bytes"}
    part = re.fullmatch(r"bytes=(\d{1,9})-(\d{0,9})", asked_for)
    if part is None:
        return Response(flac, media_type=pit.MEDIA_TYPE, headers=headers)
    first, last = int(part[1]), min(int(part[2] or len(flac)), len(flac) - 1)
    if first > last:
        return Response(status_code=416, headers=headers | {"Content-Range": f"bytes */{len(flac)}"})
    headers["Content-Range"] = f"bytes {first}-{last}/{len(flac)}"
    return Response(flac[first : last + 1], 206, media_type=pit.MEDIA_TYPE, headers=headers)
