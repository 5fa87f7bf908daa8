"""The application's own table of routes, so that a new one cannot be forgotten by a test."""

import re
from collections.abc import Iterator

from fastapi import FastAPI
from fastapi.routing import APIRoute


def routes_of(app: FastAPI) -> Iterator[APIRoute]:
    """Every route of an application: of the pages, or of the API, which is one of its own."""
    for route in app.routes:
        included = getattr(route, "original_router", None)
        for one in included.routes if included else (route,):
            if isinstance(one, APIRoute):
                yield one


def changing(app: FastAPI) -> list[str]:
    """A path of every route of the pages that changes something."""
    found = [example(r) for r in routes_of(app) if r.methods - {"GET", "HEAD"}]
    assert len(found) > 40, "the table of routes was not found"
    return found


def example(route: APIRoute, value: str = "1") -> str:
    """A path of a route, every part that is open filled with one value."""
    return re.sub(r"\{[^}]+\}", value, route.path)
