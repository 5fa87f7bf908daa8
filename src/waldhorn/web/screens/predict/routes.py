"""What a motor will do with a load and a pack: its constants, the figures and their bands, curves, others beside it."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from waldhorn.core.base.errors import InputError
from waldhorn.core.predicting.constants import best_current
from waldhorn.pit.bench.steps.step import Curve
from waldhorn.pit.judging.basis import Basis, bases
from waldhorn.pit.motors import motor_page
from waldhorn.pit.motors import prediction as pit
from waldhorn.pit.motors.timing_price import Priced
from waldhorn.pit.writing import read
from waldhorn.web.common.pages import StoreOf, Written, page
from waldhorn.web.common.words import with_band
from waldhorn.web.drawing.curves import DrawnCurve, drawn_curve

router = APIRouter()
_MOST_CURVES = 4
NINE_IN_TEN = 1.645  # standard uncertainties
_FIELDS = ("load", "diameter", "volts", "inner", "gear", "share", "kind")
# Figures of an outcome: what they are called, their unit, and what they are multiplied by.
_SHOWN = (
    ("rpm", "rpm", "", 1.0),
    ("amps", "amps", "A", 1.0),
    ("volts", "volts at the motor", "V", 1.0),
    ("watts_in", "watts in", "W", 1.0),
    ("watts_out", "watts at the shaft", "W", 1.0),
    ("efficiency", "efficiency", "%", 100.0),
    ("heat_w", "turned to heat", "W", 1.0),
)


@router.get("/motors/{tag}/predict")
def predict(request: Request, store: StoreOf, notation: Written, tag: str) -> HTMLResponse:
    """The calculator; what it is asked stands in the address."""
    typed = {n: request.query_params.get(n, "")[:200] for n in _FIELDS}
    row = read(store, motor_page.on_rack, tag)
    known = read(store, bases, row.id)
    mine = known[row.tag]
    loads = [(owner, what) for owner, one in known.items() for what in dict.fromkeys(d.what for d in one.driven)]
    if not typed["load"] and loads:
        typed["load"] = "|".join(loads[0])
    wrong: dict[str, str] = {}
    answer = None
    guessed = None if mine.constants else pit.guess_of(known, row.tag)
    if (mine.constants or guessed) and loads:
        try:
            asked = pit.read(typed, known, notation)
            typed["volts"] = typed["volts"] or f"{asked.pack.rest_v:g}"
            typed["inner"] = typed["inner"] or f"{1000 * asked.pack.inner_ohm:.3g}"
            answer = pit.answer(known, row.tag, asked)
        except InputError as refused:
            wrong = {refused.field: refused.sentence}
    return page(
        request,
        "predict/predict.html",
        422 if wrong else 200,
        motor=row,
        basis=mine,
        loads=loads,
        typed=typed,
        wrong=wrong,
        answer=answer,
        kinds=tuple(pit.KINDS),
        constants=_constants(mine),
        guessed=guessed,
        figures=_figures(answer) if answer else [],
        curves=_curves(answer, mine.motor.rated_a) if answer else [],
        beside=_beside(answer) if answer else [],
        degree=_degree(answer.timing) if answer and answer.timing else [],
        best_step=pit.best_step(answer, row.tag, known) if answer else "",
    )


def _constants(mine: Basis) -> list[tuple[str, str, str]]:
    c = mine.constants
    if c is None:
        return []
    volts = max(r.volts for r in mine.measured.rows)
    amps, share = best_current(c, volts)
    return [
        ("R", _give(1000 * c.resistance_ohm, 1000 * c.u_resistance), "mΩ"),
        ("Kv", _give(c.kv, c.u_kv), "rpm/V"),
        ("I0", f"{c.no_load_a:.2g}", "A"),
        ("most efficient at", f"{amps:.2g}", f"A, {100 * share:.0f} % at {volts:.1f} V"),
    ]


def _give(value: float, u: float) -> str:
    return with_band(value, value - NINE_IN_TEN * u, value + NINE_IN_TEN * u)


def _figures(answer: pit.Answer) -> list[tuple[str, str, str]]:
    told = answer.prediction
    shown = [
        (words, with_band(by * getattr(told.outcome, n), by * told.band[n][0], by * told.band[n][1]), unit)
        for n, words, unit, by in _SHOWN
    ]
    return [*shown, ("thrust, standing still", with_band(*answer.thrust), "g")] if answer.thrust else shown


def _beside(answer: pit.Answer) -> list[tuple[str, DrawnCurve]]:
    """The curves of the others that were read with the same on the shaft, all on the scale of the first."""
    volts = [v for v, _ in answer.curve]
    most = max((o.amps for _, o in answer.curve), default=0.0)
    drawn = []
    for one in answer.beside:
        if not one.measured or len(volts) < 2:
            continue
        top = 1.05 * max(most, max(o.amps for _, o in one.curve), max(a for _, a in one.measured))
        points = [(v, a, f"read: {a:.1f} A at {v:.1f} V") for v, a in one.measured if volts[0] <= v <= volts[-1]]
        curve = Curve(
            "amps over volts",
            [(v, o.amps) for v, o in one.curve],
            points,
            (volts[0], volts[-1]),
            (0.0, top),
            (f"{volts[0]:.1f} V", f"{volts[-1]:.1f} V at rest"),
            ("0", f"{top:.0f} A"),
            one.motor.rated_a,
            answer.asked.pack.rest_v,
            max(v for v, _ in one.measured),
        )
        drawn.append((one.motor.tag, drawn_curve(curve)))
    return drawn[:_MOST_CURVES]


def _degree(priced: Priced) -> list[tuple[str, str, str]]:
    """What a degree more buys and costs, each with its band."""
    shown = []
    for name, words, unit, by in _SHOWN:
        if name in priced.degree:
            value, u = (by * x for x in priced.degree[name])
            unit = "points" if name == "efficiency" else unit
            shown.append((words, with_band(value, value - NINE_IN_TEN * u, value + NINE_IN_TEN * u), unit))
    return shown


def _curves(answer: pit.Answer, rated_a: float | None) -> list[DrawnCurve]:
    """Amps and watts at the shaft over the volts of the pack."""
    volts = [v for v, _ in answer.curve]
    if len(volts) < 2:
        return []
    amps = [(v, o.amps) for v, o in answer.curve]
    watts = [(v, o.watts_out) for v, o in answer.curve]
    most = max([a for _, a in amps] + [a for _, a in answer.measured] + [rated_a or 0.0])
    across, ends = (volts[0], volts[-1]), (f"{volts[0]:.1f} V", f"{volts[-1]:.1f} V at rest")
    points = [(v, a, f"read: {a:.1f} A at {v:.1f} V") for v, a in answer.measured if across[0] <= v <= across[1]]
    now, beyond = answer.asked.pack.rest_v, answer.measured_to_v
    return [
        drawn_curve(
            Curve(
                "amps over volts",
                amps,
                points,
                across,
                (0.0, 1.05 * most),
                ends,
                ("0", f"{most:.0f} A"),
                rated_a,
                now,
                beyond,
            )
        ),
        drawn_curve(
            Curve(
                "watts at the shaft over volts",
                watts,
                [],
                across,
                (0.0, 1.05 * watts[-1][1]),
                ends,
                ("0", f"{watts[-1][1]:.0f} W"),
                None,
                now,
                beyond,
            )
        ),
    ]
