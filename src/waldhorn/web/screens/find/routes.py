"""Find: what a few letters mean, below the field of every page, and as a page of all that can be done."""

from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response

from waldhorn.core.base.vocabulary import Verdict
from waldhorn.core.judging.faults import ENTRY
from waldhorn.exchange import tag_code
from waldhorn.pit import finding
from waldhorn.pit.finding import Found
from waldhorn.pit.motors import rack
from waldhorn.store import motors
from waldhorn.web.common.addresses import address
from waldhorn.web.common.glossary import GLOSSARY
from waldhorn.web.common.pages import Now, StoreOf, go, is_htmx, page
from waldhorn.web.common.words import clock, day
from waldhorn.web.screens.find import things

router = APIRouter()
_MOST_DONE, _MOST_NAMES, _MOST_HELP = 6, 8, 4
_PAGES = {
    "machine": "machines",
    "model": "models",
    "rig": "rigs",
}  # an owner and a class have none: the rack shows them


@dataclass(frozen=True)
class Line:
    """One thing that was found: what kind of thing, its name, what is said beside it, and where it is."""

    kind: str
    name: str
    url: str
    says: str = ""
    verdict: Verdict | None = None


@router.get("/find")
def find(
    request: Request,
    store: StoreOf,
    now: Now,
    q: Annotated[str, Query(max_length=400)] = "",
    of: Annotated[str, Query(max_length=60)] = "",
    do: Annotated[str, Query(max_length=80)] = "",
) -> Response:
    """Everything that is meant by `q`; on the page `of` a motor, what can be done with it first. `do` asks of which
    motor a thing is done. The code of a tag is the rack's to read."""
    if tag_code.is_code(q):
        return go(request, address(find=q))
    with store.reading() as session:
        thing = next((t for group in things.THINGS.values() for t in group if t.name == do), None)
        here = motors.find(session, of) if of else None
        found = finding.find(session, q, now)
        tag = found.tag or (here.tag if here else "")
        hooks = rack.view(session, "", now).hooks if thing else []
    values: dict[str, Any] = {"q": q, "found_by": q, "of": of, "lines": _lines(q, found, tag), "count": found.count}
    if is_htmx(request):
        return page(request, "find/_found.html", **values)
    return page(request, "find/find.html", **values, things=things.THINGS, tag=tag, thing=thing, hooks=hooks)


def _lines(words: str, found: Found, tag: str) -> list[Line]:
    """What was found, in the order it is shown: a tag that was said whole, what is done, what hangs on the rack, and
    the rest."""
    if not words.strip():
        return []
    said = found.besides if found.tag else words
    done = [Line("do", t.name, t.url_of(tag), tag if t.of_a_motor else "") for t in things.found(said, tag)]
    if tag and said:
        done = [
            Line("reading", title, f"{address('motors', tag)}#strip-{name}", tag)
            for name, title in things.quantities(said)
        ] + done
    hung = [
        Line("motor", s.tag, address("motors", s.tag), f"{s.model or s.kind}. {s.headline}", Verdict(s.verdict))
        for s in found.motors
        if not said or not found.tag or s.tag != found.tag
    ]
    own = [
        Line("motor", s.tag, address("motors", s.tag), s.headline, Verdict(s.verdict))
        for s in found.motors
        if s.tag == found.tag
    ]
    if found.tag:
        return [*done[:_MOST_DONE], *own] if said else [*own, *done[:_MOST_DONE]]
    if found.count > len(hung):
        hung.append(Line("rack", f"All {found.count} with “{words.strip()}”", address(find=words.strip())))
    names = [Line(n.what, n.name, _url(n)) for n in found.names[:_MOST_NAMES]]
    days = [
        Line("check", f"{c.tag}, {day(c.at)} {clock(c.at)}", f"{address('motors', c.tag, 'book')}#check-{c.check_id}")
        for c in found.checks
    ]
    exact = [h for h in hung if motors.key_of(h.name) == motors.key_of(words)]
    places = [Line("place", name, url) for name, url in things.places(words)]
    rest = [h for h in hung if h not in exact]
    first = (
        [*places, *done[:_MOST_DONE], *rest]
        if not rest or _begins(done, words)
        else [*rest, *places, *done[:_MOST_DONE]]
    )
    return [*exact, *days, *first, *names, *_help(words)]


def _begins(done: list[Line], words: str) -> bool:
    """Whether what is done is called so, and not only looked for by such a word."""
    return bool(done) and motors.key_of(done[0].name).startswith(motors.key_of(words))


def _url(named: finding.Named) -> str:
    return address(_PAGES[named.what], named.name) if named.what in _PAGES else address(find=named.name)


def _help(words: str) -> list[Line]:
    wanted = motors.key_of(words).removeprefix("what is ").strip("? ")
    if len(wanted) < 2:
        return []
    terms = [
        Line("word", t.name, f"/help#word-{t.anchor}", t.says) for t in GLOSSARY if wanted in motors.key_of(t.name)
    ]
    faults = [
        Line("fault", f.words.capitalize(), f"/help#fault-{name}")
        for name, f in ENTRY.items()
        if wanted in f.words.casefold()
    ]
    return [*terms, *faults][:_MOST_HELP]
