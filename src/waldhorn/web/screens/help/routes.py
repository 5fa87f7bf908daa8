"""The help page: keys, cautions, and how the tool judges."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from waldhorn.core.base.vocabulary import Verdict
from waldhorn.core.judging.faults import ENTRY
from waldhorn.web.common.glossary import GLOSSARY
from waldhorn.web.common.pages import page

router = APIRouter()

FIRST = (  # what is asked most, and where it is answered
    ("Is this motor still good?", "/find?do=Check+a+motor"),
    ("Which motor needs something before the next heat?", "/"),
    ("Why does it say so?", "/find?do=Why+it+is+judged+so"),
    ("Take in a motor", "/motors/new"),
    ("Run one live from an instrument", "/find?do=Run+it+live+from+an+instrument"),
    ("Set the timing", "/find?do=Set+the+timing"),
    ("Choose between motors", "/compare"),
    ("Make a matched pair", "/compare?take=2"),
    ("Know what it will do with a propeller", "/find?do=What+it+will+do"),
    ("Put a reading right", "/find?do=Correct+a+reading"),
    ("Bring in a spreadsheet", "/bring-in"),
    ("Print a tag or a report", "/find?do=Print+its+tag"),
)
SHIPPED = (  # with every page; their terms lie beside them, in `static/licenses`
    ("htmx", "0BSD", "htmx.txt"),
    ("Alpine", "MIT", "alpine.txt"),
    ("uPlot", "MIT", "uplot.txt"),
    ("jsQR", "Apache 2.0", "jsqr.txt"),
    ("Tailwind CSS", "MIT", "tailwind.txt"),
    ("B612", "OFL 1.1", "b612.txt"),
    ("B612 Mono", "OFL 1.1", "b612-mono.txt"),
)
KEYS = (
    ("/", "find anything, or say what to do; ↓ ↑ along what is found, Enter opens the first"),
    ("G, then a letter", "go to a place: the letters stand beside the places, those under More too"),
    ("↓ ↑", "go along the rack; Enter opens"),
    ("N", "take in a motor"),
    ("C", "quick check of the motor shown; F a full one"),
    ("Enter", "next empty field; after the last one, take it"),
    ("Ctrl+Enter", "take it at once"),
    ("O D B A", "looking it over: ok, doubt, bad, the rest is ok"),
    ("K", "skip this step; on a load sheet: say the pack of all rows that lack it"),
    ("=", "as before: what it was read under the last time"),
    ("T", "count the hold down"),
    ("H", "how each number is computed"),
    ("L", "live from an instrument; there: 1 to 9 a setting, 0 off, N the next, W sweep, R again, Space stop"),
    ("R", "another run"),
    ("X", "set a run aside; on the rack: mark a motor"),
    ("B", "compare the motors marked on the rack"),
    ("U", "undo what was done last"),
    ("Esc", "back"),
)
BEFORE_POWER = (
    "Propeller off and pinion off. Clamp the motor, protect your eyes, nothing and nobody in the plane of rotation. "
    "Disconnect the pack before touching leads; leads never touch the can or each other. Full throttle without load "
    "only for seconds, and never beyond the rotor's rated speed. Let it cool before you touch it. The maker's "
    "instructions, the event's rules and local law come before anything this tool says."
)
ANSWERS = (
    (Verdict.KEEP, "nothing has moved, and what could be wrong would have shown."),
    (Verdict.WATCH, "keep it, and check again by the date or the number of runs shown."),
    (Verdict.REPAIR, "a part is worn; it is named."),
    (Verdict.RETIRE, "not worth a part, or not safe."),
    (Verdict.UNPROVEN, "the numbers do not settle it; the test that would is named, or what to set up anew."),
)


@router.get("/help")
def help_page(request: Request) -> HTMLResponse:
    """Keys, cautions and method on one page."""
    return page(
        request,
        "help/help.html",
        first=FIRST,
        glossary=GLOSSARY,
        keys=KEYS,
        before_power=BEFORE_POWER,
        answers=ANSWERS,
        faults=tuple(ENTRY.values()),
        shipped=SHIPPED,
    )
