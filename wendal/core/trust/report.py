"""What a shakedown found, as plain data, a page and a table; two of them compared."""

from __future__ import annotations

import csv
import html
import io
from collections import Counter
from collections.abc import Mapping
from typing import Any, Literal

from pydantic import BaseModel

__all__ = [
    "Advice",
    "DimensionFound",
    "EndFound",
    "SetFound",
    "ShakedownReport",
    "as_csv",
    "as_html",
    "compared",
]


Pictures = Mapping[tuple[str, str], tuple[str, str]]


class EndFound(BaseModel):
    """An end of a usable range. at : the last good value, beyond : the first that is not; why, and in which
    step and field."""

    at: float
    beyond: float
    judgement: str
    why: str
    step: str = ""
    name: str = ""
    field: str = ""


class DimensionFound(BaseModel):
    """A dimension: what it is now, the range that was looked at (mm, rad, or bare), the ranges that hold, and
    what ends them.

    fits : the range that has its present value in it. low_end, high_end : what ends that, None where it holds
    up to where it was looked.
    """

    tag: str
    kind: str
    unit: str
    now: float
    low: float
    high: float
    ranges: list[tuple[float, float]] = []
    low_end: EndFound | None = None
    high_end: EndFound | None = None
    trials: int = 0
    done: bool = False

    @property
    def fits(self) -> tuple[float, float]:
        """The range that its present value is in."""
        return next(((a, b) for a, b in self.ranges if a <= self.now <= b), (self.now, self.now))

    @property
    def holds(self) -> bool:
        """Whether it holds over all of the range that was looked at."""
        return self.done and len(self.ranges) == 1 and not self.low_end and not self.high_end

    @property
    def share(self) -> float:
        """How much of the range that was looked at can be used about the present value, 0 to 1."""
        a, b = self.fits
        return (b - a) / (self.high - self.low) if self.high > self.low else 1.0


class SetFound(BaseModel):
    """A set of values by chance that does not hold. number : with the seed it tells the set. tags : those few
    that matter, with their values as formulas."""

    number: int
    judgement: str
    why: str
    step: str = ""
    name: str = ""
    tags: dict[str, str] = {}


class Advice(BaseModel):
    """What would help. words : what to do; of : the step or the tags that it is about; survived, tried : how
    many of the trials that failed hold with it (or, of a limit, are refused at once). command : one edit
    that does it."""

    words: str
    of: str
    step: str = ""
    survived: int
    tried: int
    command: dict[str, Any]


class ShakedownReport(BaseModel):
    """A shakedown: of the part as it is, dimension by dimension, and of sets by chance."""

    part: str
    seed: int
    state: Literal["running", "done", "cancelled", "refused"] = "running"
    trouble: str = ""
    trials: int = 0
    seconds: float = 0.0
    dimensions: list[DimensionFound] = []
    sets: int = 0
    sets_wanted: int = 0
    failed: list[SetFound] = []
    advice: list[Advice] = []

    def sorted(self) -> list[DimensionFound]:
        """Return the dimensions, the most fragile first."""
        return sorted(self.dimensions, key=lambda d: (d.holds, d.share))


def shown(value: float, d: DimensionFound, digits: int = 5) -> str:
    """Return a value as it is read: angles in degrees."""
    if d.kind == "angle":
        return f"{value * 57.29577951308232:.4g}°"
    return f"{value:.{digits}g} {d.unit}".strip()


def said(d: DimensionFound) -> str:
    """Say what ends a dimension's range."""
    if not d.done:
        return "being tried"
    parts = [
        f"{word} {shown(end.at, d)}: {end.why.removesuffix('.')}"
        for word, end in (("below", d.low_end), ("above", d.high_end))
        if end
    ]
    inner = [f"holds again from {shown(a, d)} to {shown(b, d)}" for a, b in d.ranges if (a, b) != d.fits]
    limits = [
        f"not looked {word} {shown(at, d)}"
        for word, at, end in (("below", d.low, d.low_end), ("beyond", d.high, d.high_end))
        if not end
    ]
    return "; ".join([*parts, *inner, *limits]) or "holds throughout"


def as_csv(report: ShakedownReport) -> str:
    """Return the table of dimensions as CSV."""
    out = io.StringIO()
    write = csv.writer(out)
    write.writerow(
        ["tag", "now", "usable_from", "usable_to", "looked_from", "looked_to", "unit", "what_ends_it"]
    )
    for d in report.sorted():
        a, b = d.fits
        write.writerow([d.tag, d.now, a, b, d.low, d.high, d.unit, said(d)])
    return out.getvalue()


def as_html(report: ShakedownReport, pictures: Pictures | None = None) -> str:
    """Return a readable page of its own. pictures : SVG at an end of a range and just beyond it, by tag and
    by which end."""
    e = html.escape
    rows = []
    for d in report.sorted():
        span = d.high - d.low or 1.0
        places = [(100 * (a - d.low) / span, max(100 * (b - a) / span, 0.5)) for a, b in d.ranges]
        bars = "".join(f'<i style="left:{at:.2f}%;width:{wide:.2f}%"></i>' for at, wide in places)
        now = f'<b style="left:{100 * (d.now - d.low) / span:.2f}%"></b>'
        rows.append(
            f"<tr><td><code>{e(d.tag)}</code></td><td>{e(shown(d.now, d))}</td><td><div>{bars}{now}</div>"
            f"<small>{e(shown(d.low, d))} – {e(shown(d.high, d))}</small></td>"
            f"<td>{e(said(d))}{_pictures(d, pictures or {})}</td></tr>"
        )
    steps = "".join(
        f"<tr><td>{e(name)}</td><td>{count}</td></tr>" for name, count in failures_by_step(report)
    )
    sets = "".join(
        f"<li>Set {s.number}: {e(', '.join(f'{t} = {v}' for t, v in s.tags.items()))}. {e(s.why)}</li>"
        for s in report.failed
    )
    advice = "".join(
        f"<li>{e(a.of)}: {e(a.words)}. {a.survived} of {a.tried} hold or are refused at once.</li>"
        for a in report.advice
    )
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>Shakedown of {e(report.part)}</title>"
        "<style>body{font:15px sans-serif;margin:2em;color:#231f1a;background:#faf6ec}"
        "table{border-collapse:collapse}td,th{border-bottom:1px solid #ddd3bf;padding:.4em .8em;"
        "text-align:left;vertical-align:top}div{position:relative;width:16em;height:.8em;background:#ecd9d6}"
        "i,b{position:absolute;top:0;height:100%}i{background:#1d6f63}b{width:2px;background:#231f1a}"
        "small{color:#6d6659}p{margin:0}figure{display:inline-block;margin:.5em .8em 0 0;width:11em}"
        "figure svg{width:100%;border:1px solid #ddd3bf;background:#fff}</style>"
        f"<h1>Shakedown of {e(report.part)}</h1><p>{len(report.dimensions)} dimensions, {report.trials} "
        f"trials in {report.seconds:.0f} s. {sum(d.holds for d in report.dimensions)} hold over their whole "
        f"range. {report.sets} sets by chance (seed {report.seed}), {len(report.failed)} of them do not hold."
        f"</p><h2>What fails, by step</h2><table><tr><th>Step<th>ends of ranges and sets</tr>"
        f"{steps or '<tr><td>None fails.</td><td></td></tr>'}</table>"
        f"<h2>Dimensions</h2><table><tr><th>Dimension<th>now<th>usable range<th>what ends it</tr>"
        f"{''.join(rows)}</table>"
        f"<h2>Sets that do not hold</h2><ul>{sets or '<li>None.</li>'}</ul>"
        f"<h2>What would help</h2><ul>{advice or '<li>Nothing was found.</li>'}</ul></html>\n"
    )


def failures_by_step(report: ShakedownReport) -> list[tuple[str, int]]:
    """Return how many ends of ranges and failing sets come from each step, the most first."""
    ends = [e for d in report.dimensions for e in (d.low_end, d.high_end) if e]
    names = [e.name for e in ends] + [s.name for s in report.failed]
    found = Counter(name or "the values themselves" for name in names)
    return found.most_common()


def _pictures(d: DimensionFound, pictures: Pictures) -> str:
    """Return what an end of a range and what lies beyond look like."""
    found = ""
    for side, end in (("low", d.low_end), ("high", d.high_end)):
        if end is None or (d.tag, side) not in pictures:
            continue
        words = (f"holds at {shown(end.at, d)}", f"fails at {shown(end.beyond, d, 8)}")
        figures = "".join(
            f"<figure>{svg}<small>{html.escape(w)}</small></figure>"
            for svg, w in zip(pictures[d.tag, side], words, strict=True)
            if svg
        )
        found += f"<p>{figures}</p>"
    return found


def compared(before: ShakedownReport, after: ShakedownReport) -> tuple[list[str], list[str]]:
    """Return the tags whose usable range has grown since an earlier shakedown, and those whose has shrunk."""
    known = {d.tag: d for d in before.dimensions if d.done}
    sturdier, weaker = [], []
    for d in after.dimensions:
        old = known.get(d.tag)
        if old is None or not d.done:
            continue
        change = (d.fits[1] - d.fits[0]) - (old.fits[1] - old.fits[0])
        slack = 0.01 * max(old.fits[1] - old.fits[0], 1e-9)
        if change > slack:
            sturdier.append(d.tag)
        elif change < -slack:
            weaker.append(d.tag)
    return sturdier, weaker
