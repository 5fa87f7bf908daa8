"""Pictures of what was looked at: attaching one, showing one."""

from typing import Annotated

from fastapi import APIRouter, Path, Request
from fastapi.responses import Response

from waldhorn.core.errors import Refused
from waldhorn.pit import pictures as pit
from waldhorn.store import findings
from waldhorn.web.bench import CheckId, answer, found, refused
from waldhorn.web.pages import Now, StoreOf, missing

router = APIRouter()


@router.post("/checks/{check_id}/pictures/{item}")
async def attach(request: Request, store: StoreOf, now: Now, check_id: CheckId, item: str) -> Response:
    """Attach a picture to an item of the checklist."""
    async with request.form() as form:
        sent = form.get("picture")
        data = b"" if sent is None or isinstance(sent, str) else await sent.read(pit.MOST_BYTES + 1)
    try:
        with store.writing() as session:
            pit.attach(session, found(session, check_id)[0], item, data, now)
    except Refused as error:
        return refused(request, store, now, check_id, {"picture": error.sentence}, "look", {})
    return answer(request, store, now, check_id, "look")


@router.get("/pictures/{picture_id}")
def picture(store: StoreOf, picture_id: Annotated[int, Path(ge=1, lt=2**53)]) -> Response:
    """One picture."""
    with store.reading() as session:
        row = findings.picture(session, picture_id)
        if row is None:
            raise missing("There is no such picture.")
        return Response(row.image, media_type=pit.MEDIA_TYPE, headers={"Cache-Control": "private, max-age=86400"})
