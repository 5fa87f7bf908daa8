"""What all screens share: the templates, the store and the clock of a request, reading a form, answering in htmx."""

import json
import secrets
from collections.abc import Callable, Mapping
from datetime import datetime, timedelta
from functools import lru_cache, partial
from pathlib import Path
from typing import Annotated, Any, cast

from fastapi import Depends, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup
from starlette.concurrency import run_in_threadpool

from waldhorn.core.base.errors import InputErrors
from waldhorn.core.base.text import control_characters
from waldhorn.core.base.units import Notation, unit_words
from waldhorn.core.judging.brought import worth_a_word
from waldhorn.core.judging.sentences import note_words
from waldhorn.core.measuring.measures import MEASURES, QUANTITIES
from waldhorn.pit.bench import cautions
from waldhorn.pit.bench.words import change_words, closed_words
from waldhorn.pit.settings.pit import THEMES
from waldhorn.pit.writing import ChangeRow, Store, Writing
from waldhorn.web.common import guard, static_files, words
from waldhorn.web.common.access import screen_of, seat_of, writer_of
from waldhorn.web.common.addresses import address
from waldhorn.web.common.places import MORE, PLACES, place_of
from waldhorn.web.common.presence import presence_of

WEB = Path(__file__).parent.parent
TEMPLATES = (WEB / "screens", WEB / "common" / "templates")  # a screen has its own, the rest is shared
SET_BACK = timedelta(hours=1)
AS_SHOWN = "as_shown"
LATELY = timedelta(seconds=3)  # a page is loaded because of a change when it comes so soon after it
# Settled at once: a key pressed within the usual 20 ms would find the new form unwired, or lose its focus.
HTMX = json.dumps(
    {
        "defaultSettleDelay": 0,
        "includeIndicatorStyles": False,
        "allowEval": False,
        "selfRequestsOnly": True,
        "historyCacheSize": 0,
        "responseHandling": [
            {"code": "204", "swap": False},
            {"code": "[23]..", "swap": True},
            {"code": "422", "swap": True},
            {"code": "[45]..", "swap": False, "error": True},
        ],
    }
)

COMPONENTS = "components"
_FILTERS = {
    "number": words.number,
    "in_hundred": words.in_hundred,
    "signed": words.signed,
    "day": words.day,
    "clock": words.clock,
    "timestamp": words.timestamp,
    "in_words": words.count_in_words,
    "sentence": words.sentence,
    "direction_sign": words.direction_sign,
}
_GLOBALS = {
    "worth_a_word": worth_a_word,
    "address": address,
    "static": static_files.ADDRESS,
    "form_id": lambda: secrets.token_urlsafe(9),
    "event_words": words.EVENT_WORDS,
    "fault_words": words.FAULT_WORDS,
    "note_words": note_words,
    "closed_words": closed_words,
    "change_words": change_words,
    "choice_words": words.CHOICE_WORDS,
    "state_words": words.STATE_WORDS,
    "state_of": words.state_of,
    "unit_words": unit_words,
    "measures": MEASURES,
    "quantities": QUANTITIES,
    "cautions": cautions,
    "bar_places": PLACES,
    "more_places": MORE,
}


@lru_cache
def templates(notation: Notation) -> Environment:
    """The templates as a pit of this notation sees them: a number with its unit stands in the units it writes."""
    made = Environment(
        loader=FileSystemLoader(TEMPLATES),
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        finalize=partial(words.in_units_of_the_pit, notation),
    )
    made.filters |= _FILTERS | {"unbroken": partial(words.unbroken, notation)}
    made.globals |= _GLOBALS | {
        "as_read": partial(words.as_read, notation),
        "unit_as_read": partial(words.unit_as_read, notation),
        "bare_unit": notation.bare_unit,
    }
    # Every component's macro under its own name, so that a template needs no imports; one may use another, and sees the
    # names that were there when it was made.
    for _ in range(2):
        for file in sorted((TEMPLATES[1] / COMPONENTS).glob("*.html")):
            module = made.get_template(f"{COMPONENTS}/{file.name}").make_module()
            made.globals |= {n: m for n, m in vars(module).items() if not n.startswith("_")}
    # The rack draws six for each motor, mostly the same ones.
    made.globals["glance"] = lru_cache(4096)(cast("Callable[..., str]", made.globals["glance"]))
    return made


_latest: datetime | None = None


def notation_of(request: Request) -> Notation:
    """How the pit writes numbers."""
    return cast(Notation, request.app.state.pit.notation)


async def as_it_stands(request: Request) -> None:
    """Remember how the store stood before a page reads it: what changes while it is drawn is told to it later."""
    if request.method == "GET" and not is_htmx(request) and seat_of(request).is_in:
        request.state.standing = await run_in_threadpool(presence_of(request).standing)


def store_of(request: Request) -> Store:
    """The store this application serves."""
    return cast(Store, request.app.state.store)


def writing_of(request: Request) -> Writing:
    """Who writes with this request, and when."""
    if not hasattr(request.state, "writing"):
        mark = getattr(request.state, "form_mark", "")
        request.state.writing = Writing(now(), writer_of(request), screen_of(request), mark)
    return cast(Writing, request.state.writing)


def now() -> datetime:
    """The time, with the offset of this machine. A clock that is set back by a little stands still until it has caught
    up, so that nothing is dated before what was entered earlier; a larger step is a correction."""
    global _latest
    at = datetime.now().astimezone()
    _latest = max(at, _latest) if _latest and _latest - at < SET_BACK else at
    return _latest


async def _typed(request: Request) -> dict[str, str]:
    form = await request.form()
    request.state.typed = {k: v for k, v in form.items() if isinstance(v, str)}
    request.state.form_id = str(form.get(guard.FORM_ID, ""))
    if strange := {k: s for k, v in request.state.typed.items() if (s := control_characters(v))}:
        raise InputErrors({k: f"{k}: {', '.join(s)} cannot be printed: type it anew" for k, s in strange.items()})
    typed = {k: v for k, v in form.items() if isinstance(v, str) and k not in (guard.FIELD, guard.FORM_ID)}
    request.state.typed.pop("passphrase", None)  # what is shown again, to be sent again, never holds one
    return typed


def as_shown(typed: dict[str, str]) -> dict[str, str] | None:
    """What the form was drawn with, taken out of what came with it; None where it does not say."""
    try:
        told = json.loads(typed.pop(AS_SHOWN, ""))
    except ValueError:
        return None
    return {str(n): str(v) for n, v in told.items()} if isinstance(told, dict) else None


StoreOf = Annotated[Store, Depends(store_of)]
Now = Annotated[datetime, Depends(now)]
Written = Annotated[Notation, Depends(notation_of)]
By = Annotated[Writing, Depends(writing_of)]
Typed = Annotated[dict[str, str], Depends(_typed)]


def page(request: Request, template: str, status: int = 200, **values: Any) -> HTMLResponse:
    """Draw a template; the browser gets its token cookie with it."""
    token = guard.token(request)
    answer = HTMLResponse(drawn(request, template, **values), status)
    answer.headers["Cache-Control"] = "no-store"
    if request.cookies.get(guard.COOKIE) != token:
        answer.set_cookie(guard.COOKIE, token, httponly=True, samesite="strict", secure=is_secure(request))
    return answer


def drawn(request: Request, template: str, **values: Any) -> Markup:
    """A page, or a part of one, as markup that another template may hold."""
    theme = request.cookies.get("theme", request.app.state.pit.theme)
    token = guard.token(request)
    body = (
        templates(notation_of(request))
        .get_template(template)
        .render(
            csrf=token,
            me=seat_of(request),
            opened=request.app.state.opening,
            store_trouble=store_of(request).file.trouble(),
            standing=getattr(request.state, "standing", ""),
            theme=theme if theme in THEMES else "auto",
            path=request.url.path,
            this_place=place_of(request.url.path),
            htmx_config=HTMX,
            **{"did": "", "did_undo": "", "did_change": "", "again": None, "retry_s": 0} | values,
        )
    )
    return Markup(body)


def is_secure(request: Request) -> bool:
    """Whether what is asked and answered travels under TLS."""
    return request.url.scheme == "https"


def rendered(notation: Notation, template: str, **values: Any) -> str:
    """A template that is no page: a picture to be saved."""
    return templates(notation).get_template(template).render(**values)


def go(request: Request, to: str) -> Response:
    """Send the browser to another page, whether htmx asked or the browser itself."""
    if is_htmx(request):
        return Response(status_code=204, headers={"HX-Redirect": to})
    return RedirectResponse(to, 303)


def announce(answer: HTMLResponse, words: str, done: str = "", change_id: str = "") -> HTMLResponse:
    """Have a screen reader say something once the answer is there, and the page show what was `done`, by which change.
    The regions that say it stay on the page."""
    told: dict[str, Any] = {"announce": words.strip()}
    if done:
        told["done"] = {"value": done, "change": change_id}
    answer.headers["HX-Trigger-After-Swap"] = json.dumps(told)
    return answer


def lately(change: ChangeRow | None, now: datetime, undo: str) -> dict[str, str]:
    """What a page that is loaded because of a change shows of it: what was done or undone, and where to undo it."""
    if change is None or now - (change.undone_at or change.at) > LATELY:
        return {}
    words = change_words(change)
    return (
        {"did": f"Undone: {words}."}
        if change.undone_at
        else {"did": f"{words.capitalize()}.", "did_undo": undo, "did_change": change.id}
    )


def is_htmx(request: Request) -> bool:
    """Whether htmx asks, for a part of a page."""
    return request.headers.get("hx-request") == "true"


def missing(what: str) -> HTTPException:
    """A 404 that says what is not there."""
    return HTTPException(404, what)


def chosen(typed: Mapping[str, str], *names: str) -> dict[str, str]:
    """Only those fields of a form."""
    return {name: typed[name] for name in names if name in typed}
