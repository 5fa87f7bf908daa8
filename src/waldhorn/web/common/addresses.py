"""Where things are: the one place that writes an address, with every name in it quoted."""

from collections.abc import Iterable
from urllib.parse import quote, unquote, urlencode, urlsplit

from starlette.routing import BaseRoute, Match, Mount


def address(*parts: str, **query: str) -> str:
    """The address of a page: its parts quoted and joined, and what is asked of it; what is empty is not asked.

    >>> address("motors", "Ω-1", "facts"), address("rigs", "a/b?", skip=""), address(hung="VS 1&2")
    ('/motors/%CE%A9-1/facts', '/rigs/a%2Fb%3F', '/?hung=VS+1%262')
    """
    path = "/" + "/".join(quote(part, safe="") for part in parts)
    asked = {name: value for name, value in query.items() if value != ""}
    return f"{path}?{urlencode(asked)}" if asked else path


def own_place(text: str, routes: Iterable[BaseRoute]) -> str:
    """The address of a page among these routes as this server writes it; empty where it is none of them.

    What a browser makes of an address is not what it says: tabs go, backslashes become slashes. So the path is matched
    here, and written anew.
    """
    try:
        split = urlsplit(text)
    except ValueError:
        return ""
    path = unquote(split.path)
    if split.scheme or split.netloc or not path.startswith("/") or path.startswith("//") or not path.isprintable():
        return ""
    scope = {"type": "http", "method": "GET", "path": path, "root_path": "", "headers": []}
    pages = (route for route in routes if not isinstance(route, Mount))
    if "\\" in path or not any(route.matches(scope)[0] is Match.FULL for route in pages):
        return ""
    query = quote(split.query, safe="=&+%-._~,:") if split.query.isprintable() else ""
    return quote(path, safe="/") + (f"?{query}" if query else "")


def attachment(name: str) -> dict[str, str]:
    """The header that names a file to be saved, whatever characters are in its name (RFC 6266)."""
    plain = "".join(c if c.isascii() and c.isprintable() and c not in '"\\' else "_" for c in name)
    return {"Content-Disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}"}
