"""The doors: who may ask, how much may be sent, and what the browser is allowed to run."""

from __future__ import annotations

import asyncio
import hmac

from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.requests import HTTPConnection
from starlette.responses import JSONResponse, PlainTextResponse, RedirectResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

__all__ = ["Doors"]

LOCAL = {"127.0.0.1", "localhost", "[::1]"}
LARGEST_BODY = 32 * 2**20
TOO_LARGE = f"This is larger than {LARGEST_BODY // 2**20} MB, the most that is taken at once."
BODY_SECONDS = 60.0  # within which a request's body must have come
TOO_SLOW = f"What was sent did not come whole within {BODY_SECONDS:.0f} s."
YEAR = 365 * 86400  # s that a browser keeps the key
LOCKED = (
    "This Wendal is opened by the address that its start command has printed, with its key (token=…). Start "
    "it again to see it, or look into the file “token” in its data folder."
)
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; style-src-attr 'unsafe-inline'; img-src "
    "'self' data: blob:; "
    "font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class Doors:
    """Middleware for every request and socket: the host must be this machine, the origin this application,
    and who asks must hold the key.

    token : the key; "" for a door without one. It comes once in the address that the start command prints,
    and is a cookie from then on, which no script can read and no other site can send.
    """

    def __init__(self, app: ASGIApp, token: str = "") -> None:
        self._app, self._token = app, token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, or answer it here."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        trouble = _trouble(scope)
        if not trouble and self._token and not self._holds_key(scope):
            await self._without_key(scope, receive, send)
            return
        if trouble and scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": trouble})
        elif trouble:
            await _refuse(403, trouble)(scope, receive, _with_headers(send))
        elif scope["type"] == "websocket":
            await self._app(scope, receive, send)
        else:
            await self._request(scope, receive, send)

    def _holds_key(self, scope: Scope) -> bool:
        request = HTTPConnection(scope)
        held = request.cookies.get(_cookie(request), "")
        return hmac.compare_digest(held.encode(), self._token.encode())

    async def _without_key(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let in whoever brings the key in the address, and tell all others where to find it."""
        request = HTTPConnection(scope)
        if scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": "Open Wendal by its own address."})
            return
        brought = request.query_params.get("token", "")
        if scope["method"] == "GET" and hmac.compare_digest(brought.encode(), self._token.encode()):
            answer = RedirectResponse(scope["path"], 303)
            answer.set_cookie(
                _cookie(request), self._token, max_age=YEAR, httponly=True, samesite="strict", path="/"
            )
            await answer(scope, receive, _with_headers(send))
        elif "text/html" in request.headers.get("accept", ""):
            await PlainTextResponse(LOCKED, 401)(scope, receive, _with_headers(send))
        else:
            await _refuse(401, LOCKED)(scope, receive, _with_headers(send))

    async def _request(self, scope: Scope, receive: Receive, send: Send) -> None:
        seen = 0

        loop = asyncio.get_running_loop()
        until, whole = loop.time() + BODY_SECONDS, False

        async def counted() -> Message:
            nonlocal seen, whole
            if whole:
                return await receive()  # that the asker has gone is told after the body, whenever that is
            try:
                message = await asyncio.wait_for(receive(), max(until - loop.time(), 0.0))
            except TimeoutError:
                raise HTTPException(408, TOO_SLOW) from None
            whole = not message.get("more_body", False)
            seen += len(message.get("body", b""))
            if seen > LARGEST_BODY:  # of a body in chunks, which tells no length before
                raise HTTPException(413, TOO_LARGE)
            return message

        length = Headers(scope=scope).get("content-length", "0")
        if len(length) > 15 or (length.isdecimal() and int(length) > LARGEST_BODY):
            await _refuse(413, TOO_LARGE)(scope, receive, _with_headers(send))
        else:
            await self._app(scope, counted, _with_headers(send))


def _cookie(request: HTTPConnection) -> str:
    """Return the cookie's name: cookies of one host are shared by all its ports."""
    return f"wendal-{request.url.port or 80}"


def _with_headers(send: Send) -> Send:
    async def sent(message: Message) -> None:
        if message["type"] == "http.response.start":
            MutableHeaders(scope=message).update(HEADERS)
        await send(message)

    return sent


def _trouble(scope: Scope) -> str:
    headers = Headers(scope=scope)
    hosts = headers.getlist("host")
    if len(hosts) != 1 or hosts[0].lower() not in _hosts(scope):
        return "Wendal answers on this machine only; open it at http://127.0.0.1."
    origin = headers.get("origin")
    needs_origin = scope["type"] == "websocket" or scope["method"] not in ("GET", "HEAD")
    if origin is None:
        return "A socket must say where it comes from." if scope["type"] == "websocket" else ""
    if needs_origin and (
        len(headers.getlist("origin")) != 1 or origin.lower() != f"http://{hosts[0]}".lower()
    ):
        return "This request comes from another site."
    return ""


def _hosts(scope: Scope) -> set[str]:
    """Return the hosts by which this service goes, each with its port."""
    port = (scope.get("server") or ("", None))[1]
    return {f"{name}:{port}" for name in LOCAL} | (LOCAL if port in (80, None) else set())


def _refuse(status: int, message: str) -> JSONResponse:
    return JSONResponse({"code": "door", "message": message, "field": "", "step": ""}, status)
