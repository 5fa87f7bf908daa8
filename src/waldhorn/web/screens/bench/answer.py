"""The end of a check: signing it, or hanging the motor back without a signature."""

from fastapi import APIRouter
from fastapi.responses import Response

from waldhorn.core.base.errors import InputError, InputErrors
from waldhorn.pit.bench import bench
from waldhorn.web.common.addresses import address
from waldhorn.web.common.pages import Typed, go
from waldhorn.web.screens.bench.view import Asked, refused

router = APIRouter(prefix="/checks/{check_id}")


@router.post("/sign")
def sign(asked: Asked, typed: Typed) -> Response:
    """Sign the answer and hang the motor back on the rack."""
    try:
        tag = bench.sign(asked.store, asked.by, asked.check_id, typed)
    except (InputError, InputErrors) as error:
        return refused(asked, error, "answer", typed)
    return go(asked.request, address(hung=tag))


@router.post("/hang")
def hang_back(asked: Asked) -> Response:
    """Hang the motor back without a signature."""
    try:
        tag = bench.hang_back(asked.store, asked.by, asked.check_id)
    except InputError as error:
        return refused(asked, error, "answer", {})
    return go(asked.request, address(hung=tag))
