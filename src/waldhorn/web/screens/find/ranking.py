"""What was found as lines to choose from, the likeliest first."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from waldhorn.core.base.text import key_of
from waldhorn.core.base.vocabulary import Verdict
from waldhorn.core.judging.faults import ENTRY
from waldhorn.pit.finding import Found, Named
from waldhorn.web.common.addresses import address
from waldhorn.web.common.glossary import GLOSSARY
from waldhorn.web.common.words import clock, day
from waldhorn.web.screens.find import things

MOST_DONE, MOST_NAMES, MOST_HELP = 6, 8, 4
# An owner and a class have no page of their own: the rack shows their motors.
_PAGES = {"machine": "machines", "model": "models", "rig": "rigs"}


@dataclass(frozen=True)
class Line:
    """One thing that was found: what kind of thing, its name, where it is, and what is said beside it."""

    kind: str
    name: str
    url: str
    says: str = ""
    verdict: Verdict | None = None


def ranked(words: str, found: Found) -> list[Line]:
    """The lines of what was found by `words`."""
    if not words.strip():
        return []
    if found.tag:
        own = [_motor(s) for s in found.motors if s.tag == found.tag]
        done = _done(found.besides, found.tag)
        return [*done, *own] if found.besides else [*own, *done]
    wanted, done = key_of(words), _done(words, found.here)
    motors = [_motor(s) for s in found.motors]
    exact = [m for m in motors if key_of(m.name) == wanted]
    rest = [m for m in motors if m not in exact]
    if found.count > len(motors):
        rest.append(Line("rack", f"All {found.count} with “{words.strip()}”", address(find=words.strip())))
    places = [Line("place", name, url) for name, url in things.places(words)]
    called_so = bool(done) and key_of(done[0].name).startswith(wanted)  # and not only looked for by such a word
    first = [*places, *done, *rest] if called_so or not rest else [*rest, *places, *done]
    return [*exact, *_checks(found), *first, *map(_named, found.names[:MOST_NAMES]), *_help(wanted)]


def _done(words: str, tag: str) -> list[Line]:
    """What is done by that name; with a motor, its readings of that name before."""
    at = f"{address('motors', tag)}#strip-"
    readings = [Line("reading", title, at + name, tag) for name, title in (things.quantities(words) if tag else ())]
    done = [Line("do", t.name, t.url_of(tag), tag if t.of_a_motor else "") for t in things.matching(words, tag)]
    return [*readings, *done][:MOST_DONE]


def _motor(shown: Any) -> Line:
    says = f"{shown.model or shown.kind}. {shown.headline}"
    return Line("motor", shown.tag, address("motors", shown.tag), says, Verdict(shown.verdict))


def _named(named: Named) -> Line:
    page = _PAGES.get(named.what)
    return Line(named.what, named.name, address(page, named.name) if page else address(find=named.name))


def _checks(found: Found) -> Iterable[Line]:
    for c in found.checks:
        yield Line(
            "check", f"{c.tag}, {day(c.at)} {clock(c.at)}", f"{address('motors', c.tag, 'book')}#check-{c.check_id}"
        )


def _help(wanted: str) -> list[Line]:
    asked = wanted.removeprefix("what is ").strip("? ")
    if len(asked) < 2:
        return []
    terms = [Line("word", t.name, f"/help#word-{t.anchor}", t.says) for t in GLOSSARY if asked in key_of(t.name)]
    faults = [(name, f.words) for name, f in ENTRY.items() if asked in key_of(f.words)]
    return [*terms, *(Line("fault", says.capitalize(), f"/help#fault-{name}") for name, says in faults)][:MOST_HELP]
