"""The doors: who may ask, how much may be sent, and what the browser is allowed to run."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

__all__ = ["Doors"]

LOCAL = {"127.0.0.1", "localhost", "::1"}
LARGEST_BODY = 32 * 2**20
POLICY = ("default-src 'none'; script-src 'self'; style-src 'self'; style-src-attr 'unsafe-inline'; img-src 'self' data: blob:; "
          "font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'")
HEADERS = {"Content-Security-Policy": POLICY, "X-Content-Type-Options": "nosniff", "Referrer-Policy": "no-referrer",
           "Cross-Origin-Opener-Policy": "same-origin", "Cross-Origin-Resource-Policy": "same-origin"}


class TooLarge(Exception):
    """A request's body goes over the limit."""


class Doors:
    """Middleware for every request and socket: the host must be this machine, the origin this application."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, or answer it here."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        trouble = _trouble(scope)
        if trouble and scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": 1008, "reason": trouble})
        elif trouble:
            await _refuse(403, trouble)(scope, receive, send)
        elif scope["type"] == "websocket":
            await self._app(scope, receive, send)
        else:
            await self._request(scope, receive, send)

    async def _request(self, scope: Scope, receive: Receive, send: Send) -> None:
        seen, started = 0, False

        async def counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > LARGEST_BODY:
                raise TooLarge
            return message

        async def with_headers(message: Message) -> None:
            nonlocal started
            if message["type"] == "http.response.start":
                started = True
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        try:
            length = Headers(scope=scope).get("content-length", "0")
            if length.isdigit() and int(length) > LARGEST_BODY:
                raise TooLarge
            await self._app(scope, counted, with_headers)
        except TooLarge:
            if not started:
                words = f"This is larger than {LARGEST_BODY // 2**20} MB, the most that is taken at once."
                await _refuse(413, words)(scope, receive, with_headers)


def _trouble(scope: Scope) -> str:
    headers = Headers(scope=scope)
    if _name(headers.get("host", "")) not in LOCAL:
        return "Wendal answers on this machine only; open it at http://127.0.0.1."
    origin = headers.get("origin")
    needs_origin = scope["type"] == "websocket" or scope["method"] not in ("GET", "HEAD")
    if origin is None:
        return "A socket must say where it comes from." if scope["type"] == "websocket" else ""
    if needs_origin and urlsplit(origin).netloc != headers.get("host"):
        return "This request comes from another site."
    return ""


def _name(host: str) -> str:
    return urlsplit(f"//{host}").hostname or ""


def _refuse(status: int, message: str) -> JSONResponse:
    return JSONResponse({"code": "door", "message": message, "field": "", "step": ""}, status)
