"""What all screens share: the templates, the store and the clock of a request, reading a form, answering in htmx."""

from collections.abc import Mapping
from datetime import datetime
from pathlib import Path
from typing import Annotated, Any, cast

from fastapi import Depends, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from jinja2 import Environment, FileSystemLoader, StrictUndefined

from waldhorn.core.measures import QUANTITIES
from waldhorn.store.engine import Store
from waldhorn.web import guard, words

HERE = Path(__file__).parent
THEMES = ("auto", "day", "night")

_templates = Environment(
    loader=FileSystemLoader(HERE / "templates"), autoescape=True, undefined=StrictUndefined, trim_blocks=True,
    lstrip_blocks=True,
)  # fmt: skip
_templates.filters |= {
    "number": words.number,
    "signed": words.signed,
    "day": words.day,
    "clock": words.clock,
    "in_words": words.count_in_words,
}
_templates.globals |= {
    "event_words": words.EVENT_WORDS,
    "fault_words": words.FAULT_WORDS,
    "state_words": words.STATE_WORDS,
    "quantities": QUANTITIES,
}


def store_of(request: Request) -> Store:
    """The store this application serves."""
    return cast(Store, request.app.state.store)


def now() -> datetime:
    """The time, with the offset of this machine."""
    return datetime.now().astimezone()


async def _typed(request: Request) -> dict[str, str]:
    form = await request.form()
    return {k: v for k, v in form.items() if isinstance(v, str) and k != guard.FIELD}


StoreOf = Annotated[Store, Depends(store_of)]
Now = Annotated[datetime, Depends(now)]
Typed = Annotated[dict[str, str], Depends(_typed)]


def page(request: Request, template: str, status: int = 200, **values: Any) -> HTMLResponse:
    """Draw a template; the browser gets its token cookie with it."""
    theme = request.cookies.get("theme", "auto")
    seat = guard.token(request)
    body = _templates.get_template(template).render(
        csrf=seat, theme=theme if theme in THEMES else "auto", path=request.url.path, **values
    )  # fmt: skip
    answer = HTMLResponse(body, status)
    answer.headers["Cache-Control"] = "no-store"
    if request.cookies.get(guard.COOKIE) != seat:
        answer.set_cookie(guard.COOKIE, seat, httponly=True, samesite="strict")
    return answer


def go(request: Request, to: str) -> Response:
    """Send the browser to another page, whether htmx asked or the browser itself."""
    if is_htmx(request):
        return Response(status_code=204, headers={"HX-Redirect": to})
    return RedirectResponse(to, 303)


def is_htmx(request: Request) -> bool:
    """Whether htmx asks, for a part of a page."""
    return request.headers.get("hx-request") == "true"


def missing(what: str) -> HTTPException:
    """A 404 that says what is not there."""
    return HTTPException(404, what)


def chosen(typed: Mapping[str, str], *names: str) -> dict[str, str]:
    """Only those fields of a form."""
    return {name: typed[name] for name in names if name in typed}
