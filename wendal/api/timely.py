"""HTTP in time: a connection whose request does not come to the end of its headers is closed."""

from __future__ import annotations

import asyncio

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

__all__ = ["HEADER_SECONDS", "Timely"]

HEADER_SECONDS = 15.0  # from the connection, or from a request's first byte, to the end of its headers


class Timely(HttpToolsProtocol):
    """The web service's protocol, with a limit for headers. It limits connections that say nothing, too."""

    _late: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """A connection has been opened."""
        super().connection_made(transport)
        self._begin()

    def on_message_begin(self) -> None:
        """A request begins."""
        super().on_message_begin()
        self._begin()

    def on_headers_complete(self) -> None:
        """Its headers are there."""
        self._done()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """The connection is gone."""
        self._done()
        super().connection_lost(exc)

    def _begin(self) -> None:
        self._done()
        self._late = self.loop.call_later(HEADER_SECONDS, self._close)

    def _done(self) -> None:
        if self._late:
            self._late.cancel()
            self._late = None

    def _close(self) -> None:
        if not self.transport.is_closing():
            self.transport.close()
