"""What every request passes: the Host header, the size of the body, a token on every change, strict headers.

The token is a random value in a cookie of this host that every form and every htmx request repeats; a page of
another site can neither read it nor set it. Nothing inline, nothing from outside: see CONTENT_POLICY.
"""

import hashlib
import hmac
import json
import secrets

from fastapi import HTTPException, Request
from starlette.datastructures import FormData, Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from waldhorn.web.common import static_files
from waldhorn.web.common.access import SAFE, THIS_MACHINE, is_own_machine

CONTENT_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; media-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": CONTENT_POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}
COOKIE = "waldhorn_form"
FIELD = "csrf_token"
FORM_ID = "form_id"
HEADER = "x-csrf-token"
MOST_BYTES = 256 * 1024
MOST_ATTACHED_BYTES = 9 * 1024 * 1024  # a picture or a sound of 8 MB with the form around it
MOST_FILE_BYTES = 128 * 1024 * 1024  # of files to be brought in
MOST_API_BYTES = 16 * 1024 * 1024
BRING_IN = "/bring-in"


def token(request: Request) -> str:
    """The token of this browser, made on its first visit."""
    known = request.cookies.get(COOKIE, "")
    if len(known) == 43:
        return known
    if not hasattr(request.state, "form_token"):
        request.state.form_token = secrets.token_urlsafe(32)
    return str(request.state.form_token)


async def check_token(request: Request) -> None:
    """Refuse a change that does not carry the token of the browser it comes from."""
    if request.method in SAFE:
        return
    form = await request.form()
    given = request.headers.get(HEADER) or str(form.get(FIELD, ""))
    if not hmac.compare_digest(given.encode(), request.cookies.get(COOKIE, "").encode()) or not given:
        raise HTTPException(403, "This page is from another visit. Load it again; what you typed is kept.")
    if form.get(FORM_ID) and not request.url.path.endswith("/draft"):
        request.state.form_mark = _mark(request.url.path, form)


def _mark(path: str, form: FormData) -> str:
    """The same for the same form with the same content."""
    said = [(n, v if isinstance(v, str) else f"{v.filename} {v.size}") for n, v in form.multi_items() if n != FIELD]
    return hashlib.sha256(json.dumps([path, sorted(said)]).encode()).hexdigest()


class Guard:
    """ASGI middleware: refuses foreign hosts, changes from other sites and oversized bodies, adds the headers to every
    answer."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or refuse it."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                added = MutableHeaders(scope=message)
                added.update(HEADERS)
                if scope["path"].startswith("/api/"):
                    added["Cache-Control"] = "no-store"
                elif message["status"] == 200 and scope["path"].startswith(f"{static_files.ADDRESS}/"):
                    added["Cache-Control"] = "public, max-age=31536000, immutable"
            await send(message)

        if not _is_this_server(headers.get("host", ""), scope):
            await _refuse(
                with_headers,
                400,
                "This host name is not served here. Open the address that Waldhorn said when it started.",
            )
            return
        if (scope["method"] not in SAFE or _is_stream(scope["path"])) and not _is_from_here(headers):
            await _refuse(with_headers, 403, "This was sent from another site.")
            return
        await self.app(scope, _bounded(receive, headers, _most_bytes(scope["path"])), with_headers)


def _is_this_server(host: str, scope: Scope) -> bool:
    """Whether a Host header names the address a request came in at, and its port; nothing but that, so that no name of
    another site that leads here is taken for this one."""
    at, port = scope.get("server") or ("", None)
    named = [f"[{name}]" if ":" in name else name for name in (THIS_MACHINE if is_own_machine(scope) else (at,))]
    usual = port in (80, 443, None)
    return host.lower() in {*(f"{name}:{port}" for name in named), *(named if usual else ())}


def _is_stream(path: str) -> bool:
    return path == "/events" or path.endswith("/stream")


def _is_from_here(headers: Headers) -> bool:
    """Whether who changes or listens is a page of this server, as far as the browser says; a program says nothing."""
    origin = headers.get("origin")
    if origin is not None and origin.split("://", 1)[-1].lower() != headers["host"].lower():
        return False
    return headers.get("sec-fetch-site", "same-origin") in ("same-origin", "none")


def _bounded(receive: Receive, headers: Headers, most: int) -> Receive:
    """The body of a request as it streams in; raises 413 once it is more than it may be."""
    too_much = HTTPException(413, "This is too much at once.")
    said = headers.get("content-length", "")
    left = -1 if said and (not said.isdecimal() or int(said) > most) else most

    async def bounded() -> Message:
        nonlocal left
        if left < 0:
            raise too_much
        message = await receive()
        if message["type"] == "http.request":
            left -= len(message.get("body", b""))
            if left < 0:
                raise too_much
        return message

    return bounded


def _most_bytes(path: str) -> int:
    if path == BRING_IN:
        return MOST_FILE_BYTES
    if path.startswith("/api/"):
        return MOST_API_BYTES
    attached = "/pictures/" in path or "/sounds/" in path
    return MOST_ATTACHED_BYTES if attached else MOST_BYTES


async def _refuse(send: Send, status: int, words: str) -> None:
    body = words.encode()
    headers = [(b"content-type", b"text/plain; charset=utf-8"), (b"content-length", str(len(body)).encode())]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
