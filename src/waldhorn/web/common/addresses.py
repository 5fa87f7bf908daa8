"""Where things are: the one place that writes an address, with every name in it quoted."""

from urllib.parse import quote, urlencode


def address(*parts: str, **query: str) -> str:
    """The address of a page: its parts quoted and joined, and what is asked of it; what is empty is not asked.

    >>> address("motors", "Ω-1", "facts"), address("rigs", "a/b?", skip=""), address(hung="VS 1&2")
    ('/motors/%CE%A9-1/facts', '/rigs/a%2Fb%3F', '/?hung=VS+1%262')
    """
    path = "/" + "/".join(quote(part, safe="") for part in parts)
    asked = {name: value for name, value in query.items() if value != ""}
    return f"{path}?{urlencode(asked)}" if asked else path


def attachment(name: str) -> dict[str, str]:
    """The header that names a file to be saved, whatever signs are in its name (RFC 6266)."""
    plain = "".join(c if c.isascii() and c.isprintable() and c not in '"\\' else "_" for c in name)
    return {"Content-Disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}"}
