"""The application: doors, routes, workers and the built browser side."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import AsyncIterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import asynccontextmanager
from functools import cache, partial
from hashlib import blake2b
from pathlib import Path
from typing import Any, get_args

from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.openapi.utils import get_openapi
from fastapi.responses import JSONResponse
from fastapi.staticfiles import StaticFiles
from pydantic import BaseModel, Field
from pydantic.json_schema import models_json_schema
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware

from wendal import __version__
from wendal.core.errors import WendalError
from wendal.core.exchange import formats
from wendal.core.exchange.base import PageOptions, subjects_told
from wendal.core.lettering import FONTS
from wendal.core.quantity import FUNCTIONS, UNIT_NAMES
from wendal.core.route import part_schema
from wendal.core.sketch import all_rules, kinds_of
from wendal.core.standards import materials
from wendal.core.steps import kinds, published
from wendal.settings import settings
from wendal.store import PartStore
from wendal.store.backup import latest
from wendal.store.transactions import DOWN
from wendal.workers import Pool, geometry, pen
from wendal.workers.shelf import Shelf

from . import handbook, parts, session, versions
from .doors import Doors
from .hubs import Hubs
from .messages import Messages
from .messages.about import About, Health

__all__ = ["create_app"]

WEB = Path(__file__).parents[2] / "web" / "dist"
STATUS = {"no_such_part": 404, "stale": 409, "store": 409, "down": 503}
log = logging.getLogger(__name__)


class Trouble(BaseModel):
    """An error of the page, as the browser tells it."""

    text: str = Field(max_length=4000)


def create_app(
    store: PartStore | None = None, shelf: Path | None = None, backups: Path | None = None, token: str = ""
) -> FastAPI:
    """Make the application; without a store it can only publish its schema.

    shelf : the folder in which results are kept for the next start. backups : the folder of the copies.
    token : the key without which nobody is let in, "" for none.
    """

    @asynccontextmanager
    async def life(app: FastAPI) -> AsyncIterator[None]:
        assert store is not None
        # One thread waits for each call of a worker; the loop's own few would let the store wait behind them.
        asyncio.get_running_loop().set_default_executor(ThreadPoolExecutor(32, "wendal"))
        hubs = Hubs(
            store,
            Pool(
                partial(geometry.main, shelf=shelf),
                settings().geometry_workers,
                settings().step_seconds,
            ),
            Pool(pen.main, settings().pens, 20.0, roaming=True),
            Shelf(shelf) if shelf else None,
        )
        app.state.hubs = hubs
        await hubs.pen.start()
        await hubs.geometry.start()
        watch = asyncio.create_task(hubs.watch())
        yield
        watch.cancel()
        await hubs.end_trials()
        hubs.pen.stop()
        hubs.geometry.stop()

    app = FastAPI(title="Wendal", version=__version__, lifespan=life, docs_url=None, redoc_url=None)
    app.add_middleware(GZipMiddleware, minimum_size=1024, compresslevel=6)
    app.add_middleware(Doors, token=token)
    app.include_router(parts.router)
    app.include_router(versions.router)
    app.include_router(versions.together)
    app.include_router(session.router)
    app.include_router(handbook.router)
    app.state.backups = backups
    _about(app)
    _errors(app)
    app.openapi = lambda: _openapi(app)  # type: ignore[method-assign]
    if WEB.is_dir():
        app.mount("/", Built(directory=WEB, html=True))
    return app


class Built(StaticFiles):
    """The built browser side. Files named by their content never change, and are not asked for again."""

    def file_response(self, *arguments: Any, **named: Any) -> Response:
        """Return a file, kept for good by the browser where its name tells its content."""
        response = super().file_response(*arguments, **named)
        lasts = "/assets/" in str(arguments[0])
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable" if lasts else "no-cache"
        return response


def _about(app: FastAPI) -> None:
    @app.get("/api/about", tags=["about"])
    async def about(request: Request, response: Response) -> About:
        """Publish what the browser builds its editing from: step kinds, constraint kinds, formats."""
        found, tag = _published()
        response.headers["ETag"] = tag
        if request.headers.get("if-none-match") == tag:
            return Response(status_code=304, headers={"ETag": tag})  # type: ignore[return-value]
        return found

    @app.get("/api/schema/part", tags=["about"])
    async def schema() -> dict[str, Any]:
        """Publish the JSON schema of a part."""
        return part_schema()

    @app.post("/api/trouble", tags=["about"], status_code=204)
    async def trouble(told: Trouble) -> None:
        """Write down what went wrong in a window."""
        log.error("a window says: %s", told.text)

    @app.get("/api/health", tags=["about"])
    async def health(request: Request, response: Response, tallies: bool = False) -> Health:
        """Tell which workers run and whether the database answers; 503 where it does not."""
        hubs: Hubs = request.app.state.hubs
        trouble = await asyncio.to_thread(hubs.store.trouble)
        if trouble == DOWN:
            response.status_code = 503
        counts = await hubs.geometry.ask_all("tallies") if tallies else []
        pids = hubs.geometry.pids(), hubs.pen.pids()
        backups: Path | None = request.app.state.backups
        copied = await asyncio.to_thread(latest, backups) if backups else ""
        return Health(
            copied=copied, geometry=pids[0], pen=pids[1], database=trouble or "well", tallies=counts
        )


@cache
def _published() -> tuple[About, str]:
    """Return what is published, and its tag."""
    found = About.model_validate(
        {
            "version": __version__,
            "kinds": [published(k) for k in kinds().values()],
            "constraints": [
                {
                    "kind": r.kind,
                    "title": r.title,
                    "symbol": r.symbol,
                    "key": r.key,
                    "quantity": r.quantity,
                    "wants": r.wants,
                    "takes": [[kinds_of(w) for w in pattern] for pattern in r.takes],
                }
                for r in all_rules()
                if r.takes
            ],
            "fonts": {name: title for name, (title, _) in FONTS.items()},
            "formats": [
                {
                    "ending": f.ending,
                    "title": f.title,
                    "reads": f.read is not None,
                    "subjects": list(f.subjects),
                    "options": [
                        {
                            "name": name,
                            "title": option.title or name,
                            "of": subjects_told(option),
                            "choices": list(get_args(option.annotation)),
                            "usual": option.default,
                        }
                        for name, option in f.options.model_fields.items()
                        if name not in PageOptions.model_fields  # which the server fills
                    ],
                }
                for f in formats().values()
            ],
            "materials": materials(),
            "formula": {
                "functions": [{"name": n, "words": w} for n, w in FUNCTIONS.items()],
                "units": list(UNIT_NAMES),
            },
        }
    )
    return found, f'"{blake2b(found.model_dump_json().encode(), digest_size=12).hexdigest()}"'


def _errors(app: FastAPI) -> None:
    @app.exception_handler(WendalError)
    async def refused(request: Request, error: WendalError) -> JSONResponse:
        body = {"code": error.code, "message": error.message, "field": error.field, "step": error.step}
        return JSONResponse(body, STATUS.get(error.code, 422))

    @app.exception_handler(HTTPException)
    async def http(request: Request, error: HTTPException) -> JSONResponse:
        return JSONResponse(
            {"code": "http", "message": str(error.detail), "field": "", "step": ""}, error.status_code
        )

    @app.exception_handler(RequestValidationError)
    async def invalid(request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        field = ".".join(str(p) for p in first["loc"][1:])
        return JSONResponse(
            {"code": "invalid", "message": f"{field}: {first['msg']}.", "field": field, "step": ""}, 422
        )


def _openapi(app: FastAPI) -> dict[str, Any]:
    """Return the OpenAPI document, the socket's messages included."""
    document = get_openapi(title=app.title, version=app.version, routes=app.routes)
    _, extra = models_json_schema([(Messages, "serialization")], ref_template="#/components/schemas/{model}")
    document.setdefault("components", {}).setdefault("schemas", {}).update(extra.get("$defs", {}))
    return document
