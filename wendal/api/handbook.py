"""The handbook: the pages of `docs/handbook` as HTML, with their pictures."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

from fastapi import APIRouter, HTTPException
from fastapi.responses import FileResponse
from markdown_it import MarkdownIt
from pydantic import BaseModel, Field

__all__ = ["PAGES", "HandbookPage", "handbook", "router"]

PAGES = Path(__file__).parents[2] / "docs" / "handbook"
PICTURES = PAGES.parent / "screenshots"
TRY = re.compile(r"```try\n.*?```\n?", re.S)  # what the tests do with a page
router = APIRouter(prefix="/api/handbook", tags=["handbook"])


class HandbookPage(BaseModel):
    """One page. text : its words alone, to be searched."""

    id: str
    title: str
    html: str = Field(description="safe: raw HTML in a page is shown as text")
    text: str


@cache
def handbook() -> list[HandbookPage]:
    """Return all pages in their order."""
    return [_page(path) for path in sorted(PAGES.glob("*.md"))]


def _page(path: Path) -> HandbookPage:
    source = TRY.sub("", path.read_text(encoding="utf-8"))
    title, _, body = source.partition("\n")
    html = MarkdownIt("commonmark", {"html": False}).enable("table").render(body)
    html = html.replace('src="../screenshots/', 'src="/api/handbook/pictures/')
    return HandbookPage(
        id=path.stem.partition("-")[2],
        title=title.removeprefix("# ").strip(),
        html=html,
        text=" ".join(re.sub(r"<[^>]+>", " ", html).split()),
    )


@router.get("")
async def pages() -> list[HandbookPage]:
    """Return the handbook."""
    return handbook()


@router.get("/pictures/{name}")
async def picture(name: str) -> FileResponse:
    """Return a picture of the handbook."""
    known = {path.name: path for path in PICTURES.glob("*.png")}
    if name not in known:
        raise HTTPException(404, "There is no such picture.")
    return FileResponse(known[name])
