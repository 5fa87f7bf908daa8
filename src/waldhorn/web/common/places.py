"""The places of the application: what the bar on every page leads to, by which key, and which of them a page is in."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Place:
    """Where a link of the bar leads: its name, address and letter (after G). `within` are the addresses that belong to
    it besides its own, each with all that lies below it."""

    name: str
    url: str
    key: str
    within: tuple[str, ...] = ()


PLACES = (
    Place("Rack", "/", "r", ("/motors", "/checks", "/models")),
    Place("Compare", "/compare", "c"),
    Place("Machines", "/machines", "m"),
    Place("Rigs", "/rigs", "i", ("/studies",)),
    Place("Files", "/bring-in", "f", ("/take-out", "/paper")),
)
MORE = (
    Place("Take in a motor", "/motors/new", "t"),
    Place("Scan a tag", "/scan", "k"),
    Place("What is this motor?", "/identify", "w"),
    Place("The rack on paper", "/paper/rack", "p"),
    Place("Propellers and packs", "/propellers", "b"),
    Place("Instruments", "/instruments", "n"),
    Place("Limits and prices", "/limits", "l"),
    Place("Settings", "/settings", "s"),
    Place("Join, from another device", "/join", "j"),
    Place("What it can do", "/find", "d"),
    Place("Help and keys", "/help", "h"),
)


def place_of(path: str) -> str:
    """The name of the place a page lies in; More where it lies in none of the bar.

    >>> place_of("/"), place_of("/motors/VS-01/book"), place_of("/rigs"), place_of("/help")
    ('Rack', 'Rack', 'Rigs', 'More')
    """
    if path in {p.url for p in MORE}:
        return "More"
    for p in PLACES:
        own = () if p.url == "/" else (p.url,)
        if path == p.url or any(path == u or path.startswith(f"{u}/") for u in (*own, *p.within)):
            return p.name
    return "More"
