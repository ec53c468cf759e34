"""The members of a family, each built and judged: whether it stands, what is another kind of thing, and what
it comes to in figures."""

from __future__ import annotations

import csv
import io
import time
from collections.abc import Callable, Iterator
from typing import Literal

from pydantic import BaseModel

from ..errors import CommandRefused
from ..route import Part, write_part
from ..route.family_commands import family_tags
from ..route.ledger_commands import RUN
from .figures import PLAIN, Setup, unit_of
from .pool import Pool
from .trial import Trial, Verdict

__all__ = ["FamilyFound", "MemberFound", "checked", "family_csv", "manifest"]

ITSELF = "as it stands"  # how the part itself is called among its members


class MemberFound(BaseModel):
    """A member that was built. judgement : of the trial, "" while it was not; why, and in which step and
    field. other : what makes it another kind of thing than the part. figures : see `figures.py`."""

    name: str
    judgement: str = ""
    why: str = ""
    step: str = ""
    at: str = ""
    field: str = ""
    other: str = ""
    figures: dict[str, float] = {}

    @property
    def stands(self) -> bool:
        """Whether it was built without a fault."""
        return self.judgement == "good"


class FamilyFound(BaseModel):
    """How the members of a family stand. itself : the part as it is; units : of the figures, by name."""

    part: str
    state: Literal["running", "done", "cancelled", "refused"] = "running"
    trouble: str = ""
    trials: int = 0
    seconds: float = 0.0
    itself: MemberFound = MemberFound(name=ITSELF)
    members: list[MemberFound] = []
    units: dict[str, str] = {}


def checked(
    part: Part,
    rows: tuple[str, ...],
    pool: Pool,
    cancelled: Callable[[], bool] = lambda: False,
    setup: Setup = PLAIN,
) -> Iterator[FamilyFound]:
    """Build members of the family by their names, all for none; yield the report as it grows. Raises
    CommandRefused where there is no such member."""
    began = time.monotonic()
    known = {r.name: r for r in part.family}
    for name in rows:
        if name not in known:
            raise CommandRefused(f"There is no “{name}” in the family.", field="row")
    wanted = [known[n] for n in rows] or list(part.family)
    if not wanted:
        raise CommandRefused("There is no family yet. Add a member first.")
    report = FamilyFound(part=part.name, members=[MemberFound(name=r.name) for r in wanted])
    base = pool.begin(write_part(part), setup)
    if cancelled():
        report.state = "cancelled"
        yield report
        return
    report.itself = _found(ITSELF, base)
    names = set(base.figures)
    for number, verdict in pool.run([Trial(i, r.values, like=False) for i, r in enumerate(wanted)]):
        report.members[number] = _found(wanted[number].name, verdict)
        names |= set(verdict.figures)
        report.units = {f: unit_of(part, f) for f in sorted(names)}
        report.trials += 1
        report.seconds = round(time.monotonic() - began, 2)
        yield report
        if cancelled():
            break
    report.state = "cancelled" if cancelled() else "done"
    yield report


def _found(name: str, v: Verdict) -> MemberFound:
    return MemberFound(
        name=name,
        judgement=v.judgement,
        why=v.why,
        step=v.step,
        at=v.name,
        field=v.field,
        other=v.other,
        figures=dict(v.figures),
    )


def family_csv(part: Part) -> str:
    """Return the family as CSV; `ReadFamily` takes it back."""
    tags = family_tags(part)
    lines = [["name", *tags], *([r.name, *(r.values.get(t, "") for t in tags)] for r in part.family)]
    text = io.StringIO()
    csv.writer(text, lineterminator="\r\n").writerows(
        [["'" + c if c.startswith(RUN) else c for c in line] for line in lines]
    )
    return text.getvalue()


def manifest(files: list[tuple[str, str, str, str]]) -> str:
    """Return the table that lies beside the files of a family: member, its values, file, what became of
    it."""
    text = io.StringIO()
    csv.writer(text, lineterminator="\r\n").writerows([("member", "values", "file", "state"), *files])
    return text.getvalue()
