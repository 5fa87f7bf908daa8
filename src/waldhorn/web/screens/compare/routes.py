"""Between motors: a comparison at equal conditions, which is better for what, and the set that is most alike."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from itertools import groupby
from operator import attrgetter
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, Response

from waldhorn.core.base.errors import InputError
from waldhorn.core.base.text import key_of
from waldhorn.core.base.units import Notation
from waldhorn.core.comparing import words as words
from waldhorn.core.comparing.differences import MOST_MOTORS, Row
from waldhorn.core.comparing.facts_apart import facts_apart
from waldhorn.core.comparing.score import PARTS
from waldhorn.core.judging.sentences import listed
from waldhorn.core.measuring.measures import QUANTITIES
from waldhorn.pit.between import scoring
from waldhorn.pit.between.comparison import Between, Compared, between, put_into_machines
from waldhorn.pit.judging import view_cache
from waldhorn.pit.motors import rack
from waldhorn.pit.writing import Store, read, write
from waldhorn.web.common.addresses import address
from waldhorn.web.common.load_sheet import load_values
from waldhorn.web.common.pages import By, Now, StoreOf, Typed, go, notation_of, page

router = APIRouter()
WIDTH, LANE, PAD = 520, 18, 6
NAMES = 70  # left of the bars, for tags
MOST_CHOICES, MOST_EXAMPLES = 120, 2
_COVERAGE = 1.28  # a bar spans 80 %
_LEAST_BAR = 5.0


@dataclass(frozen=True)
class Bar:
    """One motor in a row: its number among them (for colour and pattern), where its bar lies, its value in words and
    when it was read."""

    tag: str
    number: int
    x: float
    width: float
    y: float
    value: str
    at: datetime | None


@dataclass(frozen=True)
class Drawn:
    """A row as it is drawn."""

    title: str
    unit: str
    bars: list[Bar]
    height: float
    says: str
    sure: str
    beside: list[str]


@dataclass(frozen=True)
class Asked:
    """What was typed: tags, how many motors a set has, how many machines are filled; as text."""

    tags: str = ""
    take: str = ""
    machines: str = ""

    @property
    def motors(self) -> list[str]:
        """The tags."""
        return [t.strip() for t in self.tags.split(",") if t.strip()]

    @property
    def counts(self) -> tuple[int, int]:
        """How many motors a set has, and how many machines are filled; raises InputError."""
        return _count("take", self.take, 2), _count("machines", self.machines, 1)


@router.get("/compare")
def compare(
    request: Request,
    store: StoreOf,
    now: Now,
    tags: Annotated[str, Query(max_length=1200)] = "",
    tag: Annotated[list[str] | None, Query(max_length=100)] = None,
    take: Annotated[str, Query(max_length=4)] = "",
    machines: Annotated[str, Query(max_length=4)] = "",
) -> HTMLResponse:
    """Two motors and more on one scale a quantity: those whose `tags` stand with commas between, and each `tag` that
    was ticked."""
    asked = Asked(",".join(filter(None, [tags, *(tag or [])])), take, machines)
    return _page(request, store, now, asked, typed=request.query_params)


@router.post("/compare/put")
def put(request: Request, store: StoreOf, by: By, typed: Typed) -> Response:
    """Put the chosen sets into their machines."""
    asked = Asked(*(typed.get(n, "") for n in ("tags", "take", "machines")))
    into = [name.strip() for name in typed.get("machine", "").split(",")]
    try:
        write(store, by, put_into_machines, asked.motors, by.at, *asked.counts, into)
    except InputError as refused:
        return _page(request, store, by.at, asked, {"machine": refused.sentence}, typed.get("machine", ""))
    return go(request, address("machines", into[0]))


def _page(
    request: Request,
    store: Store,
    now: datetime,
    asked: Asked,
    wrong: dict[str, str] | None = None,
    machine: str = "",
    typed: Mapping[str, str] | None = None,
) -> HTMLResponse:
    values: dict[str, Any] = {
        "asked": asked,
        "wrong": wrong or {},
        "found": None,
        "sheet": None,
        "partition": None,
        "machine": machine,
    }
    values |= _choices(store, now, asked)
    given = dict(typed or {})
    of = ("compare", asked, tuple(sorted(given.items())), now.date(), now.hour)
    try:
        shown = read(
            store, view_cache.until_changed, of, lambda: _values(store, notation_of(request), now, asked, given)
        )
    except InputError as refused:
        if not asked.tags:  # nothing was done yet that could be wrong
            return page(request, "compare/compare.html", **values)
        values["wrong"] = {refused.field: refused.sentence} | values["wrong"]
        return page(request, "compare/compare.html", 422, **values)
    values |= shown | {"wrong": shown["wrong"] | values["wrong"]}
    return page(request, "compare/compare.html", 422 if wrong else 200, **values)


def _choices(store: Store, now: datetime, asked: Asked) -> dict[str, Any]:
    """What can be ticked, by model, what is, and examples of what to compare."""
    chosen = {key_of(t) for t in asked.tags.split(",")}
    hung = read(store, rack.motors_by_model, now, MOST_CHOICES + 1)
    choices = [(model, list(mine)) for model, mine in groupby(hung[:MOST_CHOICES], attrgetter("model"))]
    aboard: dict[str, list[str]] = {}
    for m in hung[:MOST_CHOICES]:
        if m.machine:
            aboard.setdefault(m.machine, []).append(m.tag)
    examples = [
        (f"those of {name}", address("compare", tags=",".join(tags))) for name, tags in aboard.items() if len(tags) > 1
    ][:MOST_EXAMPLES]
    examples += [
        (f"the two most alike of {len(mine)} {model}", address("compare", tags=",".join(m.tag for m in mine), take="2"))
        for model, mine in choices
        if model and 3 <= len(mine) <= MOST_MOTORS
    ][:MOST_EXAMPLES]
    return {
        "choices": choices,
        "chosen": {m.tag for m in hung if key_of(m.tag) in chosen},
        "examples": examples,
        "more_motors": len(hung) > MOST_CHOICES,
    }


def _values(store: Store, notation: Notation, now: datetime, asked: Asked, typed: Mapping[str, str]) -> dict[str, Any]:
    """Everything the page shows of these motors; raises InputError where they cannot be compared."""
    found, wrong = read(store, between, asked.motors, now, *asked.counts), {}
    few = len(found.compared.motors) <= MOST_MOTORS
    tags = [m.tag for m in found.compared.motors]
    try:
        weights, at_rpm = scoring.weights_of(typed, notation), scoring.speed_of(typed, notation)
    except InputError as refused:
        wrong = {refused.field: refused.sentence}
        weights, at_rpm = scoring.weights_of({}), None
    loads = (
        load_values(store, notation, tags, typed, "/compare", {"tags": ",".join(tags), "take": asked.take})
        if few
        else {}
    )
    return loads | {
        "wrong": wrong,
        "found": found.compared,
        "partition": found.partition,
        "says": _better(found) if few and not (asked.take or asked.machines) else _headline(found),
        "rows": [_drawn(r, found.compared) for r in found.compared.rows] if few else [],
        "better": [(b.use, b.best, words.sure_in_words(b.p)) for b in found.compared.better if b.best and few],
        "equal": [b.use for b in found.compared.better if not b.best and few],
        "few": few,
        "facts": facts_apart(found.compared.motors) if few else [],
        "scores": read(store, scoring.scored, tags, found.compared.rows, weights, at_rpm),
        "at_rpm": typed.get("at_rpm", "")[:20],
        "weights": [(n, title, weights[n]) for n, title in PARTS.items()],
    }


def _count(field: str, text: str, usual: int) -> int:
    if not text.strip():
        return usual
    if not text.strip().isdecimal():
        raise InputError(field, f"“{text}” is no number of motors" if field == "take" else f"“{text}” is no number")
    return int(text)


def _better(found: Between) -> tuple[str, list[str]]:
    """What the page says where no set was asked for: which is better for what, the surest first."""
    compared = found.compared
    known = sorted((b for b in compared.better if b.best), key=lambda b: -b.p)
    said = [f"{words.better_words(b, compared.rows)}." for b in known]
    out = [
        f"{QUANTITIES[name].title} of {tag}: its rig was out when it was read, read it again."
        for tag, name in sorted(compared.out)
    ]
    if compared.windings:
        out.insert(0, "They are windings of one model: KV says how to gear and feed them, not which is faster.")
    if said:
        return said[0], [*said[1:3], *out]
    if any(len(row.values) > 1 for row in compared.rows):
        return "No use tells them apart, as well as they were read.", out
    return f"{len(compared.motors)} motors beside each other.", [found.partition.refused, *out]


def _headline(found: Between) -> tuple[str, list[str]]:
    """What the page says first, and under it."""
    partition = found.partition
    out = [
        f"{QUANTITIES[name].title} of {tag}: its rig was out when it was read, read it again."
        for tag, name in sorted(found.compared.out)
    ]
    if not partition.sets:
        return f"{len(found.compared.motors)} motors beside each other.", [partition.refused, *out]
    rest = out + [words.too_far_words(t.motors, QUANTITIES[t.quantity], t.apart, t.within) for t in partition.too_far]
    if len(partition.sets) > 1:
        first = words.partition_words(partition.sets, partition.alike)
        rest.append(words.proven_words(partition.short))
    else:
        best = partition.sets[0]
        first = words.set_words(best.motors, partition.alike, best.score)
        if partition.runners_up and best.score > 0:
            times = (partition.runners_up[0].score / best.score) ** 0.5
            far = "as far apart" if times < 1.05 else f"{times:.2g} times as far apart"
            rest.append(f"Next best: {' with '.join(partition.runners_up[0].motors)}, {far}.")
        if partition.telling:
            tag, quantity = partition.telling
            rest.append(f"Another reading of {QUANTITIES[quantity].title} of {tag} would tell the two apart best.")
    if partition.left_over:
        rest.append(f"Left over: {', '.join(partition.left_over)}.")
    among = {*partition.left_over, *(t for one in partition.sets for t in one.motors)}
    if apart := [m.tag for m in found.compared.motors if m.tag not in among]:
        rest.append(f"Not among them, since not read alike in all of it: {', '.join(apart)}.")
    return first, rest


def _drawn(row: Row, found: Compared) -> Drawn:
    low = min(s.value - _COVERAGE * s.u for s in row.values)
    high = max(s.value + _COVERAGE * s.u for s in row.values)
    scale = (WIDTH - NAMES - 30) / (high - low) if high > low else 0.0
    places = {m.tag: i for i, m in enumerate(found.motors)}
    order = sorted(row.values, key=lambda s: places[s.tag])
    bars = []
    for lane, s in enumerate(order):
        width = max(_LEAST_BAR, 2 * _COVERAGE * s.u * scale)
        x = NAMES + (s.value - low) * scale - width / 2
        digits = row.quantity.decimals
        value = f"{s.value:.{digits}f} ± {s.u:.{digits if round(s.u, digits) else digits + 1}f}"
        bars.append(Bar(s.tag, places[s.tag], round(x, 1), round(width, 1), PAD + LANE * lane, value, s.at))
    unit = f"{row.quantity.unit}, {_equal(row)}".rstrip(", ")
    return Drawn(
        row.quantity.title,
        unit,
        bars,
        2 * PAD + LANE * len(bars),
        words.row_words(row),
        words.sure_words(row),
        _beside(row),
    )


def _equal(row: Row) -> str:
    """What was brought to equal, in words."""
    done = ["at 25 °C"] if row.quantity.name in ("kv", "detent_peak") else []
    done += ["one timing"] if any(s.brought_deg for s in row.values) else []
    done += ["one warmth"] if any(s.brought_k for s in row.values) else []
    done += ["one voltage"] if any(s.from_volts for s in row.values) else []
    return listed(done)


def _beside(row: Row) -> list[str]:
    """What has to be said of single motors."""
    said = [f"{s.tag} translated from {s.from_rig}" for s in row.values if s.from_rig]
    for s in row.values:
        if s.brought_k:
            warmer = "colder" if s.brought_k > 0 else "warmer"
            share, u = (100 * abs(s.brought_k) * abs(c) for c in row.quantity.per_kelvin or (0.0, 0.0))
            by = f"{abs(s.brought_k):.0f} K {warmer}: {share:.1f} ± {u:.1f} % of its value is correction"
            said.append(f"{s.tag} was read {by}")
    if once := [s.tag for s in row.values if s.once]:
        said.append(f"{listed(once)} read once: a second run makes it surer")
    for p in row.parted:
        tag, why = p.tag, p.reason
        if p.condition == "rig":
            said.append(f"{tag}: another rig. Five motors read on both would compare")
        else:
            said.append(f"{tag} does not compare: {why}")
    return said
