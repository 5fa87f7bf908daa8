"""The first five minutes: what to try, one thing after the other, on the demo or with one's own first motor."""

from collections.abc import Sequence
from dataclasses import dataclass

from waldhorn.web.common.addresses import address

FEW = 3  # motors; with more a rack is somebody's who knows his way


@dataclass(frozen=True)
class TourStep:
    """A thing to try: what, how, where to begin, and the address (a regular expression) that tells it was done."""

    name: str
    says: str
    link: str
    url: str
    when: str


WHY = TourStep(
    "See why a motor needs an answer", "Its page opens with the answer; W shows what speaks for it.", "", "", r"#why$"
)
TAG = TourStep("Make a tag", "The label carries a code that a camera reads.", "", "", r"/paper/(label|tape)$")
SHEET = TourStep(
    "Bring in a sheet",
    "Any spreadsheet: nothing is stored before you have seen what it becomes. A sample lies there.",
    "Bring one in",
    "/bring-in",
    r"^/bring-in/.",
)
RIGHT = TourStep(
    "See who was right",
    "Where technician and tool differed, later checks tell.",
    "Limits and prices",
    "/limits",
    r"^/limits",
)


def _with(step: TourStep, link: str, url: str) -> TourStep:
    return TourStep(step.name, step.says, link, url, step.when)


def of_demo(worst: str, in_pit_box: Sequence[str]) -> list[TourStep]:
    """The tour of the demo: from the motor with the worst news to the three that lie clamped."""
    first, second = in_pit_box[0], in_pit_box[1]
    live = TourStep(
        "Run one live",
        f"{', '.join(in_pit_box)} lie clamped on the simulated bench; one is good, two hide something. Press C, Enter, "
        "L, and N for each setting.",
        f"Open {second}",
        address("motors", second),
        r"/live$",
    )
    compare = TourStep(
        "Compare two",
        "Which is better for what, and how sure that is.",
        f"{first} and {second}",
        address("compare", tags=f"{first},{second}"),
        r"^/compare\?.*tag",
    )
    return [
        _with(WHY, f"Open {worst}", address("motors", worst)),
        live,
        compare,
        SHEET,
        _with(TAG, f"The tag of {worst}", address("motors", worst, "paper", "label")),
        RIGHT,
    ]


def of_own(tags: Sequence[str]) -> list[TourStep]:
    """The tour with one's own first motors."""
    first = address("motors", tags[0]) if tags else "/motors/new"
    link = f"Open {tags[0]}" if tags else "Take one in first"
    check = TourStep(
        "Check it", "Press C: two full-throttle pulls are enough to begin with.", link, first, r"^/checks/"
    )
    return [
        TourStep(
            "Take in your first motor", "A tag and a model will do.", "Take it in", "/motors/new", r"^/motors/(?!new)"
        ),
        check,
        _with(WHY, link, first),
        SHEET,
        _with(TAG, link, f"{first}/paper/label" if tags else first),
        TourStep("Compare two", "Tick them.", "Compare", "/compare", r"^/compare\?.*tag"),
    ]
