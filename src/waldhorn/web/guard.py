"""What every request passes: the Host header, the size of the body, a token on every change, strict headers.

The token is a random value in a cookie of this host that every form and every htmx request repeats; a page of
another site can neither read it nor set it. Nothing inline, nothing from outside: see CONTENT_POLICY.
"""

import hashlib
import hmac
import json
import secrets

from fastapi import HTTPException, Request
from starlette.datastructures import FormData, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from waldhorn.store.sending import SENDING, Sending

CONTENT_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": CONTENT_POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}
COOKIE = "waldhorn_seat"
FIELD = "csrf_token"
FORM_ID = "form_id"
THIS_MACHINE = ("127.0.0.1", "localhost", "::1")  # the only addresses to listen on and names to be asked by
HEADER = "x-csrf-token"
MOST_BYTES = 256 * 1024
MOST_PICTURE_BYTES = 9 * 1024 * 1024  # a picture of 8 MB with the form around it
MOST_FILE_BYTES = 128 * 1024 * 1024  # of files to be brought in
MOST_API_BYTES = 16 * 1024 * 1024
BRING_IN = "/bring-in"
_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})


def token(request: Request) -> str:
    """The token of this browser, made on its first visit."""
    known = request.cookies.get(COOKIE, "")
    if len(known) == 43:
        return known
    if not hasattr(request.state, "seat"):
        request.state.seat = secrets.token_urlsafe(32)
    return str(request.state.seat)


async def check_token(request: Request) -> None:
    """Refuse a change that does not carry the token of the browser it comes from."""
    if request.method in _SAFE:
        return
    form = await request.form()
    given = request.headers.get(HEADER) or str(form.get(FIELD, ""))
    if not hmac.compare_digest(given.encode(), request.cookies.get(COOKIE, "").encode()) or not given:
        raise HTTPException(403, "This page is from another visit. Load it again; what you typed is kept.")
    sending = SENDING.get()
    if sending and form.get(FORM_ID) and not request.url.path.endswith("/draft"):
        sending.mark = _mark(request.url.path, form)


def _mark(path: str, form: FormData) -> str:
    """The same for the same form with the same content."""
    said = [(n, v if isinstance(v, str) else f"{v.filename} {v.size}") for n, v in form.multi_items() if n != FIELD]
    return hashlib.sha256(json.dumps([path, sorted(said)]).encode()).hexdigest()


class Guard:
    """ASGI middleware: refuses foreign hosts and oversized bodies, adds the headers to every answer."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or refuse it."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        SENDING.set(Sending())
        headers = {k.decode("latin-1"): v.decode("latin-1") for k, v in scope["headers"]}

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        if not _known(headers.get("host", "")):
            await _refuse(with_headers, 400, "This host name is not served here. Open http://127.0.0.1 instead.")
        elif int(headers.get("content-length") or 0) > _most_bytes(scope["path"]):
            await _refuse(with_headers, 413, "This is too much at once.")
        else:
            await self.app(scope, receive, with_headers)


def _known(host: str) -> bool:
    name = host.rsplit("]", 1)[0].lstrip("[") if host.startswith("[") else host.split(":", 1)[0]
    return name.lower() in THIS_MACHINE


def _most_bytes(path: str) -> int:
    if path == BRING_IN:
        return MOST_FILE_BYTES
    if path.startswith("/api/"):
        return MOST_API_BYTES
    return MOST_PICTURE_BYTES if "/pictures/" in path else MOST_BYTES


async def _refuse(send: Send, status: int, words: str) -> None:
    headers = [(b"content-type", b"text/plain; charset=utf-8")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": words.encode()})
