"""Advice on what a shakedown found, offered only where it is proved on the trials that failed.

A step that stands on something which gets lost is put on what else lies there: a base plane, a datum, what an
earlier step has made. Or, on a flat face, on a plane of its own, at the height that the face has by the
dimensions that move it. Two dimensions that fail together get a limit that says so at once.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, TypeVar

from ..errors import WendalError
from ..reference import FaceRef
from ..route import Command, Part, Remark, apply, write_part
from ..route.advice_commands import StandOnPlane
from ..route.checks import free_name
from ..route.commands import EditStep
from ..route.ledger_commands import SetRemark
from .figures import FROM, Setup, Watched
from .moving import MovedBy, moved
from .others import Other, Pick, picks_of, ref_of
from .pool import Changes, Pool, Search, in_step
from .report import Advice
from .trial import Dimension, Trial, Verdict, driving

__all__ = ["Failure", "Findings", "advised"]

T = TypeVar("T")
STEPS = 6  # failing steps that are looked at
MOST = 40  # failing trials that a piece of advice is proved on
GOOD = 6  # good trials that must stay good
PICKS = 4  # of a step that are looked at
STIR, GOLDEN = 1e-3, 0.6180339887498949  # least share by which all dimensions are moved at once
STIRS = ((1,), (-1,), (1, -1), (1, 1, -1))  # and to which side, by turns
SAME = 1e-6  # by how much of itself a figure may differ that is to stay
HALVES = 1e-4  # by how much a slope may be off a whole number of halves
TERMS = 5  # tags that a height may hang on
PAIRS, ENDS = 4, 2  # pairs of dimensions that are looked at, and failing values of each
BISECTED = 14  # steps to the place where two begin to fail
ALIKE = 0.02  # mm: by how much such places may be off a line
STRAIGHT = 2e-3  # by how much a slope may be off a half
LEFT = 1e-6  # mm that no dimension tells
ROUND = 3  # decimals of a limit, mm


@dataclass(frozen=True, slots=True)
class Failure:
    """A trial that failed: the formulas that were set, and the verdict."""

    changes: Mapping[str, str]
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Findings:
    """What a shakedown found. failures : all trials that failed; pairs : sets that fail by the two tags they
    are cut down to; good : trials that held. sets : values by tag of all sets by chance; failing : which of
    them fail."""

    failures: list[Failure]
    pairs: list[Failure]
    good: Sequence[Mapping[str, str]]
    sets: Sequence[Mapping[str, float]]
    failing: list[int]


def advised(
    part: Part,
    found: Findings,
    dimensions: list[Dimension],
    pool: Pool,
    run: Callable[[Sequence[Changes]], Iterator[tuple[int, Verdict]]],
    cancelled: Callable[[], bool],
) -> Iterator[Advice | None]:
    """Look for advice; yield what is proved, and None as a sign of life. run : does trials of the part as it
    is, and counts them."""
    failures, good = found.failures, found.good
    yield from _limits(part, found.pairs, dimensions, found.sets, found.failing, run)
    by_step: dict[str, list[Failure]] = {}
    for f in failures:
        if f.verdict.step and f.verdict.judgement in ("stopped", "held"):
            by_step.setdefault(f.verdict.step, []).append(f)
    worst = sorted(by_step, key=lambda s: -len(by_step[s]))[:STEPS]
    picks = tuple(p for s in worst for p in picks_of(part, s, [f.verdict.field for f in by_step[s]])[:PICKS])
    if not picks or cancelled():
        return
    yield None
    planes = dict(zip(picks, _places(part, picks, pool, cancelled), strict=True))
    yield None
    base = pool.begin(write_part(part), Setup(picks=picks))
    if len(base.others) < len(picks):
        return  # it took its process down, or too long
    proof = _Proof(part, pool, good, dict(base.figures), _stirred(part, driving(part), pool))
    for pick, instead in zip(picks, base.others, strict=True):
        best: Advice | None = None
        offers = [*(_instead(part, pick, o) for o in instead), *_plane(part, pick, planes[pick])]
        for command, words in offers:
            if cancelled():
                return
            yield None
            told = proof.of(pick.step, command, words, by_step[pick.step])
            if told and (best is None or told.survived > best.survived):
                best = told
            if best and best.survived == best.tried:
                break
        yield best


# — what must stay as it is —


@dataclass(frozen=True, slots=True)
class _Proof:
    """Proves advice: the part must be the same as it is (was : its figures), also while all dimensions are
    moved a little (stirred), what held must hold, and some of what failed must hold as well."""

    part: Part
    pool: Pool
    good: Sequence[Mapping[str, str]]
    was: dict[str, float]
    stirred: list[tuple[Changes, dict[str, float]]]

    def of(self, step: str, command: Command, words: str, failed: list[Failure]) -> Advice | None:
        """Return what is proved of a command."""
        try:
            after = apply(self.part, command)
            base = self.pool.begin(write_part(after))
        except WendalError:
            return None
        if not self.stirred or not base.good or not _same(self.was, dict(base.figures)):
            return None
        tries = [f.changes for f in _spread(failed, MOST)]
        held = _spread(self.good, GOOD)
        first, count = len(self.stirred), len(tries)
        # What failed may become another kind of thing, as long as it is built; what held must stay as it is.
        sets = [*(c for c, _ in self.stirred), *tries, *held]
        trials = [Trial(i, c, like=not first <= i < first + count) for i, c in enumerate(sets)]
        found = dict(self.pool.run(trials))
        if len(found) < len(trials) or not all(found[first + count + i].good for i in range(len(held))):
            return None
        if not all(_same(was, dict(found[i].figures)) for i, (_, was) in enumerate(self.stirred)):
            return None
        survived = sum(found[first + i].good for i in range(count))
        if not survived:
            return None
        return Advice(
            words=words,
            of=self.part.step(step).name,
            step=step,
            survived=survived,
            tried=count,
            command=command.model_dump(mode="json"),
        )


def _stirred(part: Part, dimensions: list[Dimension], pool: Pool) -> list[tuple[Changes, dict[str, float]]]:
    """Move all lengths and angles a little, each by another share; return the sets that hold, and what the
    part comes to with them. Something that only happens to lie in the same place is told by it."""
    movable = [d for d in dimensions if d.kind in ("length", "angle") and not _listed(part, d)]
    sets = []
    for ways in STIRS:
        changes = {}
        for i, d in enumerate(movable):
            share = STIR * (1 + math.modf(GOLDEN * (i + 1))[0]) * ways[i % len(ways)]
            changes[d.tag] = d.formula(d.value * (1 + share) if d.value else share)
        sets.append(changes)
    found = dict(pool.run([Trial(i, c) for i, c in enumerate(sets)]))
    return [(c, dict(found[i].figures)) for i, c in enumerate(sets) if i in found and found[i].good]


def _listed(part: Part, d: Dimension) -> bool:
    """Tell whether the values that a dimension may have are named one by one."""
    remark = part.remarks.get(d.tag)
    return remark is not None and bool(remark.values)


# — other picks —


def _instead(part: Part, pick: Pick, other: Other) -> tuple[Command, str]:
    """Return the command that picks something else, and what it does in words."""
    held = getattr(part.step(pick.step), pick.field)
    ref: Any = dict(other.ref)
    if pick.item >= 0:
        ref = [ref if i == pick.item else r.model_dump(mode="json") for i, r in enumerate(held)]
    return EditStep(step=pick.step, fields={pick.field: ref}), f"another pick: {other.words}"


# — planes in place of faces —


@dataclass(frozen=True, slots=True)
class _Height:
    """Where a flat face is: so far off a base plane, as a formula."""

    base: str
    formula: str


def _places(
    part: Part, picks: Sequence[Pick], pool: Pool, cancelled: Callable[[], bool]
) -> list[_Height | None]:
    """Return where picked faces are, each by the dimensions that move it; None for what is no face of one
    field, not parallel to a base plane, turns, or moves in any other way than by whole and half lengths."""
    faces = [i for i, p in enumerate(picks) if p.item < 0 and isinstance(ref_of(part, p), FaceRef)]
    things = tuple(Watched(ref_of(part, picks[i]), _before(part, picks[i].step), f"#{i}") for i in faces)
    heights: list[_Height | None] = [None] * len(picks)
    if not things:
        return heights
    try:
        found = list(moved(part, (), pool, cancelled, Setup(things=things)))[-1]
    except WendalError:
        return heights
    for i in faces:
        name = next((f"#{i}: {f}" for f in FROM if f"#{i}: {f}" in found.figures), "")
        heights[i] = _height(name, found.figures[name], found.dimensions) if name else None
    return heights


def _height(name: str, now: float, dimensions: list[MovedBy]) -> _Height | None:
    """Put a height together from the dimensions that move it."""
    terms, left = [], now
    for d in dimensions:
        if name not in d.per:
            return None  # it could not be moved, so what hangs on it is not known
        per = d.per[name]
        if abs(per) < HALVES:
            continue
        halves = round(2 * per)
        bent = abs(d.bends.get(name, 0.0)) > HALVES
        if d.kind != "length" or bent or not halves or abs(2 * per - halves) > HALVES:
            return None
        left -= halves / 2 * d.now
        size, odd = divmod(abs(halves), 2)
        words = f"{abs(halves)} * {d.tag} / 2" if odd else d.tag if size == 1 else f"{size} * {d.tag}"
        terms.append(("-" if halves < 0 else "+", words.removeprefix("1 * ")))
    if abs(left) > LEFT:
        terms.append(("-" if left < 0 else "+", f"{abs(left):.9g} mm"))
    if not 1 <= len(terms) <= TERMS or all(w.endswith(" mm") for _, w in terms):
        return None
    text = " ".join(f"{sign} {words}" for sign, words in terms).removeprefix("+ ")
    return _Height(name.rpartition("from ")[2], text)


def _before(part: Part, step: str) -> str:
    index = part.index(step)
    return part.steps[index - 1].id if index else ""


def _plane(part: Part, pick: Pick, height: _Height | None) -> Iterator[tuple[Command, str]]:
    """Yield the command that puts a plane of its own under a step, and what it does in words."""
    if height is None:
        return
    name = free_name(f"Under {part.step(pick.step).name}", {s.name for s in part.steps})
    yield (
        StandOnPlane(step=pick.step, field=pick.field, base=height.base, formula=height.formula, name=name),
        f"a plane of its own, {height.formula} from {height.base}",
    )


def _same(a: dict[str, float], b: dict[str, float]) -> bool:
    return a.keys() == b.keys() and all(abs(a[k] - b[k]) <= SAME * max(abs(a[k]), 1.0) for k in a)


def _spread(things: Sequence[T], most: int) -> list[T]:
    """Return so many things, evenly from all."""
    if len(things) <= most:
        return list(things)
    return [things[i * len(things) // most] for i in range(most)]


# — limits that two dimensions set each other —


def _limits(
    part: Part,
    pairs: list[Failure],
    dimensions: list[Dimension],
    sets: Sequence[Mapping[str, float]],
    failing: list[int],
    run: Callable[[Sequence[Changes]], Iterator[tuple[int, Verdict]]],
) -> Generator[Advice | None, None, None]:
    """Yield limits for pairs of lengths that fail together: where they begin to fail is looked for on three
    ways to each failing pair; a limit is offered where all those places tell the same one."""
    known = {d.tag: d for d in dimensions if d.kind == "length"}
    by_pair: dict[tuple[str, str], list[Failure]] = {}
    for f in pairs:
        tags = tuple(sorted(f.changes))
        if len(tags) == 2 and all(t in known for t in tags):
            by_pair.setdefault(tags, []).append(f)
    worst = sorted(by_pair, key=lambda p: -len(by_pair[p]))[:PAIRS]
    wanted = []
    for a, b in worst:
        ends = list({(_value(f.changes[a]), _value(f.changes[b])) for f in by_pair[a, b]})[:ENDS]
        now = (known[a].value, known[b].value)
        # From the part itself, and from where only one of the two has moved: each of them holds alone.
        wanted += [(a, b, at, end) for end in ends for at in (now, (end[0], now[1]), (now[0], end[1]))]
    searches = [_edge(known[a], known[b], at, end) for a, b, at, end in wanted]
    found = yield from in_step(searches, run)
    for a, b in worst:
        pair = [p for (x, y, _, _), p in zip(wanted, found, strict=True) if (x, y) == (a, b)]
        places = [p for p in pair if p is not None]
        if places:
            turned = [(y, x) for x, y in places]
            told = _limit(part, known[a], known[b], places, sets, failing)
            yield told or _limit(part, known[b], known[a], turned, sets, failing)


def _value(formula: str) -> float:
    return float(formula.split()[0])


def _edge(
    a: Dimension, b: Dimension, good: tuple[float, float], bad: tuple[float, float]
) -> Search[tuple[float, float]]:
    """Look for the values of two dimensions at which they begin to fail, between a pair that holds and one
    that does not."""
    low, high = 0.0, 1.0

    def at(t: float) -> tuple[float, float]:
        return good[0] + t * (bad[0] - good[0]), good[1] + t * (bad[1] - good[1])

    for _ in range(BISECTED):
        t = (low + high) / 2
        x, y = at(t)
        (verdict,) = yield [{a.tag: a.formula(x), b.tag: b.formula(y)}]
        low, high = (t, high) if verdict.good else (low, t)
    return at(low)


def _limit(
    part: Part,
    a: Dimension,
    b: Dimension,
    places: list[tuple[float, float]],
    sets: Sequence[Mapping[str, float]],
    failing: list[int],
) -> Advice | None:
    """Return a limit that all places tell: a dimension no less, or no more, than so many times the other one
    and a length. It must refuse sets which fail, and keep all that hold."""
    line = _line(places)
    if line is None:
        return None
    slope, offsets = line
    below = a.value > slope * b.value + offsets[0]  # the part is above the limit, so it is a least one
    edge = max(offsets) if below else min(offsets)
    edge = (math.ceil if below else math.floor)(round(edge * 10**ROUND, 6)) / 10**ROUND
    refused = [i for i, s in enumerate(sets) if (s[a.tag] < slope * s[b.tag] + edge) == below]
    kept_out = [i for i in refused if i in failing]
    remark = part.remarks.get(a.tag, Remark())
    if not kept_out or len(kept_out) < len(refused) or (remark.least if below else remark.most):
        return None  # a limit that is there is the designer's own
    formula = _formula(slope, b.tag, edge)
    command = SetRemark(tag=a.tag, **{**remark.model_dump(), "least" if below else "most": formula})
    try:
        apply(part, command)
    except WendalError:
        return None
    return Advice(
        words=f"a limit: {a.tag} no {'less' if below else 'more'} than {formula}",
        of=f"{a.tag} and {b.tag}",
        survived=len(kept_out),
        tried=len(failing),
        command=command.model_dump(mode="json"),
    )


def _line(places: list[tuple[float, float]]) -> tuple[float, list[float]] | None:
    """Return the slope of the line that places lie on, and by how much each is beyond it; None where they lie
    on none, or too near together to tell."""
    (x0, y0), (x1, y1) = min(places, key=lambda p: p[1]), max(places, key=lambda p: p[1])
    if len(places) < 3 or y1 - y0 < ALIKE * max(1.0, abs(y1)):
        return None
    slope = (x1 - x0) / (y1 - y0)
    near = round(2 * slope) / 2
    slope = near if abs(slope - near) < STRAIGHT else float(f"{slope:.5g}")
    offsets = [x - slope * y for x, y in places]
    if not slope or max(offsets) - min(offsets) > ALIKE:
        return None
    return slope, offsets


def _formula(slope: float, tag: str, edge: float) -> str:
    """Write so many times a tag, and a length."""
    term = tag if abs(slope) == 1 else f"{abs(slope):g} * {tag}"
    if slope < 0:
        return f"{edge:g} mm - {term}"
    return f"{term} {'-' if edge < 0 else '+'} {abs(edge):g} mm" if edge else term
