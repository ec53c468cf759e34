"""REST: the list of parts, their pictures and files."""

from __future__ import annotations

import asyncio
import io
import json
import re
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, Depends, Query, Request, Response
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel, Field, ValidationError

from wendal.core import files
from wendal.core.errors import CommandRefused, WendalError
from wendal.core.exchange import formats
from wendal.core.route import read_part
from wendal.core.route.checks import free_name
from wendal.core.route.commands import PaintedFace
from wendal.core.route.document import BodyLook
from wendal.core.sketch import Drawing
from wendal.core.tables import as_sheet
from wendal.core.trust import ShakedownReport, family_csv, manifest
from wendal.store import PartRow
from wendal.store.backup import take_history, write_history
from wendal.store.rows import PartState
from wendal.workers import WorkerDied, WorkerTooSlow
from wendal.workers.receiving import receive, receive_curves, receive_table

from .hub import Hub
from .hubs import Hubs

__all__ = ["Open", "create", "renamed", "router"]

_TEXTS = re.compile(rb'"(?:[^"\\]|\\.)*"', re.DOTALL)
MOST_BESIDE = 1000  # signs of a body beside its texts
router = APIRouter(prefix="/api/parts", tags=["parts"])


def hubs(request: Request) -> Hubs:
    """Return the application's open parts."""
    found: Hubs = request.app.state.hubs
    return found


Open = Annotated[Hubs, Depends(hubs)]
Layers = Annotated[list[str] | None, Query()]


class PartName(BaseModel):
    """A name for a part."""

    name: str = Field(min_length=1, max_length=120)


class PartSummary(BaseModel):
    """A part in the list. labels : by commas. gone : when it was put into the bin."""

    id: int
    name: str
    version: int
    changed: datetime
    labels: str = ""
    number: str = ""
    gone: datetime | None = None


class Imported(BaseModel):
    """The text of a part's file, and the ending that tells its format."""

    text: str
    ending: str = Field("json", max_length=10)


class FormatInfo(BaseModel):
    """A format a part can be written in."""

    ending: str
    title: str


class Labels(BaseModel):
    """Labels of a part, by commas."""

    labels: str = Field(max_length=200)


def _told(row: PartRow) -> PartSummary:
    return PartSummary(
        id=row.id,
        name=row.name,
        version=row.version,
        changed=row.changed.replace(tzinfo=UTC),
        labels=row.labels,
        number=row.number,
        gone=row.gone.replace(tzinfo=UTC) if row.gone else None,
    )


async def _summary(open_: Hubs, part: int) -> PartSummary:
    rows = await asyncio.to_thread(open_.store.list)
    return _told(next(r for r in rows if r.id == part))


@router.get("")
async def list_parts(open_: Open, bin: bool = False) -> list[PartSummary]:
    """List all parts, the latest changed first; with `bin` those in the bin."""
    rows = await asyncio.to_thread(lambda: open_.store.list(binned=bin))
    return [_told(r) for r in rows]


@router.post("", status_code=201)
async def new_part(body: PartName, open_: Open) -> PartSummary:
    """Begin an empty part."""
    document = json.dumps({"name": _clean(body.name)})
    return await create(open_, document, "Begin")


@router.post(
    "/read",
    status_code=201,
    openapi_extra={
        "requestBody": {
            "required": True,
            "content": {"application/json": {"schema": Imported.model_json_schema()}},
        }
    },
)
async def read(request: Request, open_: Open) -> PartSummary:
    """Read a part from a file."""
    body = await asyncio.to_thread(_imported, await request.body())
    return await create(open_, body.text, f"Read from {body.ending.upper()}", body.ending)


def _imported(content: bytes) -> Imported:
    """Read a body that may be large, apart from the loop that serves all windows.

    It is looked at first: beside its texts there is little in it, and what is nested deep or long is no
    import.
    """
    if len(_TEXTS.sub(b"", content)) > MOST_BESIDE:
        raise CommandRefused(
            "This is no part's file: it is an object with “text” and “ending”.", field="text"
        )
    try:
        return Imported.model_validate_json(content)
    except ValidationError as error:
        first = error.errors()[0]
        field = ".".join(str(p) for p in first["loc"])
        raise CommandRefused(f"{field or 'The body'}: {first['msg']}.", field=field) from error


async def create(
    open_: Hubs, document: str, summary: str, ending: str = "json", origin: tuple[int, int] = (0, 0)
) -> PartSummary:
    try:
        made = await open_.pen.call(0, "read", {"text": document, "ending": ending})
    except WorkerTooSlow as error:
        raise CommandRefused("Reading this took too long and was given up; nothing was made.") from error
    except WorkerDied as error:
        raise CommandRefused(
            "The process that read this ended over it; nothing was made. It may be too large, or damaged."
        ) from error
    for digest in files.used_in(made["document"]):  # what came in the file is kept with all else
        if files.has(digest):
            await asyncio.to_thread(open_.store.put_content, files.load(digest))
    state = await asyncio.to_thread(open_.store.create, made["name"], made["document"], summary, origin)
    return await _summary(open_, state.id)


def _clean(name: str) -> str:
    if not name.strip():
        raise CommandRefused("A part needs a name.", field="name")
    return name.strip()


@router.get("/{part}/history.wendal-part", response_class=Response)
async def history(part: int, open_: Open) -> Response:
    """Write the part with all its versions as a file."""
    name = json.loads((await open_.hub(part).state()).document)["name"]

    def written() -> bytes:
        with TemporaryDirectory() as folder:
            file = Path(folder) / "part"
            write_history(open_.store.database, part, file)
            return file.read_bytes()

    return _download(await asyncio.to_thread(written), "application/octet-stream", name, "wendal-part")


@router.post("/history", status_code=201)
async def read_history(request: Request, open_: Open) -> PartSummary:
    """Take a part with all its versions in as a new part."""
    content = await request.body()

    def taken() -> int:
        with TemporaryDirectory() as folder:
            file = Path(folder) / "This file"
            file.write_bytes(content)
            return take_history(open_.store.database, file)

    return await _summary(open_, await asyncio.to_thread(taken))


@router.patch("/{part}")
async def rename(part: int, body: PartName, open_: Open) -> PartSummary:
    """Rename a part; this is a revision like any other, and can be undone."""
    hub = open_.hub(part)
    await hub.edits.command((await hub.state()).edition, {"do": "rename_part", "name": _clean(body.name)})
    return await _summary(open_, part)


@router.post("/{part}/copy", status_code=201)
async def copy(part: int, open_: Open) -> PartSummary:
    """Copy a part as it stands."""
    state = await open_.hub(part).state()
    return await create(open_, await renamed(open_, state.document, "copy"), "Copy")


async def renamed(open_: Hubs, document: str, word: str) -> str:
    """Return a part's document under a name that no other part has."""
    data = json.loads(document)
    names = {r.name for r in await asyncio.to_thread(open_.store.list)}
    name, number = f"{data['name'][:100]}, {word}", 2
    while name in names:
        name, number = f"{data['name'][:100]}, {word} {number}", number + 1
    return json.dumps({**data, "name": name})


@router.delete("/{part}", status_code=204)
async def delete(part: int, open_: Open, for_good: bool = False) -> None:
    """Put a part into the bin; with `for_good` take it from there with all its versions."""
    await asyncio.to_thread(lambda: open_.store.delete(part, for_good=for_good))
    await open_.forget(part)


@router.post("/{part}/back", status_code=204)
async def bring_back(part: int, open_: Open) -> None:
    """Take a part out of the bin."""
    await asyncio.to_thread(open_.store.bring_back, part)


@router.put("/{part}/labels", status_code=204)
async def label(part: int, body: Labels, open_: Open) -> None:
    """File a part under labels."""
    await asyncio.to_thread(open_.store.set_labels, part, body.labels)


@router.get("/{part}/picture.svg", response_class=Response)
async def picture(part: int, open_: Open, request: Request) -> Response:
    """Return the small picture, drawn anew when the part has changed since; nothing (204) when nobody waits
    for it any more."""
    rows = await asyncio.to_thread(open_.store.list)
    row = next((r for r in rows if r.id == part), None)
    try:
        if row is not None and not row.fresh and not await _drawn_anew(part, open_, request):
            return Response(status_code=204)
    except asyncio.CancelledError:  # Wendal ends, and the list is not waited for
        return Response(status_code=503)
    svg = await asyncio.to_thread(open_.store.picture, part)
    return Response(svg, media_type="image/svg+xml", headers={"Cache-Control": "no-cache"})


async def _drawn_anew(part: int, open_: Open, request: Request) -> bool:
    """Draw the small picture, one after the other; return False when nobody waits for it any more."""
    async with open_.drawing:
        if await request.is_disconnected():  # the list was left, perhaps to open a part
            return False
        hub = open_.hub(part)
        state = await hub.state()
        drawn = await hub.builds.ask("picture", {"document": state.document})
        await asyncio.to_thread(open_.store.set_picture, part, state.version, drawn)
    return True


@router.get("/{part}/file.{ending}", response_class=Response)
async def export(part: int, ending: str, open_: Open, version: int = 0) -> Response:
    """Write the part, or a version of it as it was, as a file; what needs no geometry does not wait for
    any."""
    hub = open_.hub(part, version)
    state = await hub.state()
    content = await hub.ask_pen("write", {"format": ending})
    if content is None:
        content = await hub.builds.ask("export", {"document": state.document, "format": ending})
    return _download(content, formats()[ending].media, json.loads(state.document)["name"], ending)


class FileReceived(BaseModel):
    """What a file came to: what is kept of it, its bodies' names, mm³, mm; how many of its faces are those of
    the file before, how many are new, how many are gone; how many are sheets; what was done to it.

    asks_unit : nothing is kept yet, for the file does not say its unit; its size is told as it stands there,
    its triangles as faces.
    """

    digest: str
    names: list[str]
    unit: str
    volume: float
    faces: int
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    same: int
    new: int
    gone: int
    sheets: int
    told: list[str]
    asks_unit: bool = False
    looks: list[BodyLook] = []
    painted: list[PaintedFace] = []


Unit = Literal["", "mm", "cm", "m", "in"]


@router.post("/{part}/files", status_code=201)
async def receive_file(
    part: int, request: Request, open_: Open, name: str = "", before: str = "", unit: Unit = ""
) -> FileReceived:
    """Read a STEP or STL file for a step of the part. before : the digest of an older one, whose faces keep
    their numbers. unit : of an STL file, which does not say it. Nothing of the part is changed."""
    await open_.hub(part).state()
    older = await asyncio.to_thread(files.load, before) if before else b""
    told, kept = await receive(await request.body(), name[:200] or "file.step", older, unit, forked=True)
    digest = await asyncio.to_thread(open_.store.put_content, kept) if kept else ""
    return FileReceived(digest=digest, **told)


class CurvesReceived(BaseModel):
    """A DXF or SVG file's curves as a sketch takes them. layers : how many curves each has. low, high : mm.
    gaps : where an end is alone; forks : where more than two meet. told : what was not taken, or not
    exactly."""

    drawing: Drawing
    unit: str
    layers: dict[str, int]
    low: tuple[float, float]
    high: tuple[float, float]
    joined: int
    gaps: list[tuple[float, float]]
    forks: list[tuple[float, float]]
    told: list[str]


@router.post("/{part}/curves")
async def receive_file_curves(
    part: int, request: Request, open_: Open, unit: str = "", layer: Layers = None, within: float = 0.01
) -> CurvesReceived:
    """Read a DXF or SVG file's curves for a sketch; nothing of the part is changed. unit : "" for what the
    file says; layer : those that are taken, none for all; within : mm at which ends are one."""
    await open_.hub(part).state()
    if not 0 <= within <= 10:
        raise CommandRefused("Ends are made one within 0 to 10 mm.", field="within")
    return CurvesReceived(**await receive_curves(await request.body(), unit, layer, within, forked=True))


class WriteOrder(BaseModel):
    """One file: its format, what it is of, and how (as the format's options are)."""

    format: str = Field(max_length=20)
    subject: dict = {}
    options: dict = {}


class WriteOrders(BaseModel):
    """Files to write; several come as a zip. family : of each of these members, with a table of them."""

    orders: list[WriteOrder] = Field(min_length=1, max_length=20)
    family: list[str] = Field(default_factory=list, max_length=1000)


@router.post("/{part}/write", response_class=Response)
async def write(part: int, body: WriteOrders, open_: Open, request: Request, version: int = 0) -> Response:
    """Write files of the part (or of a version as it was), or of something of it; several as a zip. When
    nobody waits for them any more, the next one is not begun."""
    hub = open_.hub(part, version)
    state = await hub.state()
    name = str(json.loads(state.document)["name"])
    if body.family:
        return _download(await _family(hub, body, state, request), "application/zip", name, "zip")
    written: list[tuple[str, bytes]] = []
    for order in body.orders:
        if await request.is_disconnected():
            return Response(status_code=204)
        content = await _written(hub, state, order, {})
        same = sum(e == order.format for e, _ in written)
        written.append((f"{name}{f' {same + 1}' if same else ''}.{order.format}", content))
    if len(written) == 1:
        ending = body.orders[0].format
        return _download(written[0][1], formats()[ending].media, name, ending)
    return _download(_zipped(written), "application/zip", name, "zip")


async def _written(hub: Hub, state: PartState, order: WriteOrder, values: dict[str, str]) -> bytes:
    """Write one file. values : with which the part is written."""
    options = {**order.options}
    if order.subject.get("of") in ("drawing", "page"):
        options = {"version": f"v{state.version}", "date": state.made, **options}
    asked = {"format": order.format, "subject": order.subject or None, "options": options or None}
    content: bytes = await hub.builds.ask("export", {"document": state.document, "values": values, **asked})
    return content


async def _family(hub: Hub, body: WriteOrders, state: PartState, request: Request) -> bytes:
    """Write files of members of the family; one that can not be written is told in the table, and the others
    are written all the same."""
    rows = {r.name: r for r in read_part(state.document).family}
    missing = next((n for n in body.family if n not in rows), None)
    if missing is not None:
        raise WendalError(f"There is no “{missing}” in the family.", field="family")
    written, table = list[tuple[str, bytes]](), list[tuple[str, str, str, str]]()
    called: set[str] = set()
    for member in body.family:
        values = rows[member].values
        name = free_name(_safe(member), called)
        called.add(name)
        told = "; ".join(f"{t} = {f}" for t, f in values.items())
        for order in [] if await request.is_disconnected() else body.orders:
            file = f"{name}.{order.format}"
            try:
                content = await _written(hub, state, order, values)
            except WendalError as error:
                table.append((member, told, "", error.message))
            else:
                written.append((file, content))
                table.append((member, told, file, "written"))
    return _zipped([*written, ("members.csv", manifest(table).encode())])


def _safe(file: str) -> str:
    return re.sub(r"[^\w .,()-]", "_", file)


def _zipped(files: list[tuple[str, bytes]]) -> bytes:
    """Return files as a zip, the same bytes for the same files."""
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for file, content in files:
            archive.writestr(zipfile.ZipInfo(_safe(file), (1980, 1, 1, 0, 0, 0)), content)
    return packed.getvalue()


def _download(content: bytes, media: str, name: str, ending: str) -> Response:
    safe = quote(re.sub(r"[^\w .,()-]", "_", name))
    return Response(
        content,
        media_type=media,
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{safe}.{ending}"},
    )


@router.post("/{part}/ask/{question}")
async def ask(part: int, question: str, asked: dict, open_: Open, version: int = 0) -> dict:
    """Answer a question about the part as it stands, or as it was: measure, mass."""
    return await open_.hub(part, version).answer({**asked, "of": question})


@router.get("/{part}/shakedown.html")
async def shakedown(part: int, open_: Open, version: int = 0) -> Response:
    """Return the last shakedown as a page of its own."""
    text = await open_.hub(part, version).trials.page()
    return Response(text, media_type="text/html; charset=utf-8")


@router.get("/{part}/shakedown.json")
async def shakedown_data(part: int, open_: Open, version: int = 0) -> ShakedownReport:
    """Return the last shakedown as data."""
    return (await open_.hub(part, version).trials.kept()).report


@router.get("/{part}/family.csv")
@router.get("/{part}/family.xlsx")
async def family(part: int, request: Request, open_: Open, version: int = 0) -> Response:
    """Return the family as a table, as it is read back."""
    state = await open_.hub(part, version).state()
    held = read_part(state.document)
    name, table = f"{held.name} family", family_csv(held)
    if not request.url.path.endswith(".xlsx"):
        return _download(table.encode(), "text/csv", name, "csv")
    content = await asyncio.to_thread(as_sheet, table, name)
    return _download(content, formats()["xlsx"].media, name, "xlsx")


@router.post("/tables")
async def write_table(request: Request, name: str = "Table") -> Response:
    """Return a table, sent as CSV, as a spreadsheet."""
    content = await asyncio.to_thread(as_sheet, (await request.body()).decode(errors="replace"), name[:200])
    return _download(content, formats()["xlsx"].media, name[:200], "xlsx")


@router.post("/tables/read")
async def read_table(request: Request) -> PlainTextResponse:
    """Return a spreadsheet's first sheet as CSV; nothing is kept."""
    return PlainTextResponse(await receive_table(await request.body(), forked=True), media_type="text/csv")


@router.get("/{part}/report")
async def report(part: int, open_: Open) -> dict:
    """Return steps, bodies and ledger in figures."""
    hub = open_.hub(part)
    found: dict = await hub.builds.ask("report", {"document": (await hub.state()).document})
    return found
