"""The help page: keys, cautions, and how the tool judges."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from waldhorn.web.pages import page

router = APIRouter()


@router.get("/help")
def help_page(request: Request) -> HTMLResponse:
    """Keys, cautions and method on one page."""
    return page(request, "help.html")
