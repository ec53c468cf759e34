"""What kinds say that `evaluate` is given, held against their blanks."""

from __future__ import annotations

import dataclasses
import typing

import pytest

from wendal.core.blanks import Number, Pick
from wendal.core.steps import Step, kinds
from wendal.core.steps.base import blanks_of

TYPED = [k for k in kinds().values() if k.takes is not None]


@pytest.mark.parametrize("kind", TYPED, ids=lambda k: k.__name__)
def test_the_fields_are_the_blanks(kind: type[Step]) -> None:
    assert kind.takes is not None
    blanks = {n: b for n, b in blanks_of(kind).items() if isinstance(b, Number | Pick)}
    fields = {f.name: f for f in dataclasses.fields(kind.takes)}
    assert fields.keys() == blanks.keys()
    said = typing.get_type_hints(kind.takes)
    for name, blank in blanks.items():
        may_miss = fields[name].default is not dataclasses.MISSING or fields[name].default_factory is not dataclasses.MISSING
        assert may_miss == bool(blank.when), f"{name}: a value that is asked for only sometimes has a default, and no other"
        if isinstance(blank, Number):
            assert said[name] is float, name
        else:
            assert (typing.get_origin(said[name]) is list) == blank.many, name


def test_some_kinds_are_typed() -> None:
    assert {k.__name__ for k in TYPED} >= {"Split", "Combine", "MoveBody", "Shell", "Mirror"}
