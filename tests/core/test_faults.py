"""The kernel's refusals and our own faults are told apart; what is slower is counted."""

from __future__ import annotations

import logging
from typing import Any

import numpy as np
import pytest
from OCP.gp import gp_Dir

from tests.samples import plate
from wendal.core import tally
from wendal.core.errors import StepError
from wendal.core.kernel import mesh
from wendal.core.kernel.refusing import is_refusal, refused_as
from wendal.core.route import Memory, evaluate
from wendal.core.steps import Site
from wendal.core.steps.extrude import Extrude


def raised(work: Any) -> Exception:
    with pytest.raises(Exception) as found:
        work()
    return found.value


CASES = [
    (lambda: gp_Dir(0.0, 0.0, 0.0), True),
    (lambda: gp_Dir("not a number"), False),  # a call that is wrong is our fault
    (lambda: {}["missing"], False),
    (lambda: 1 / 0, False),
]


@pytest.mark.parametrize(("work", "kernels"), CASES)
def test_the_kernels_own_exceptions_are_known(work: Any, kernels: bool) -> None:
    assert is_refusal(raised(work)) == kernels


@pytest.mark.parametrize(("work", "kernels"), CASES)
def test_only_the_kernels_own_exceptions_are_turned(work: Any, kernels: bool) -> None:
    def guarded() -> None:
        with refused_as(lambda: StepError("Refused.")):
            work()

    assert isinstance(raised(guarded), StepError) == kernels


def fails(error: Exception) -> Any:
    def evaluate_badly(self: Extrude, given: Any, site: Site) -> Any:
        raise error

    return evaluate_badly


def test_a_fault_of_ours_is_logged_told_and_not_remembered(monkeypatch: pytest.MonkeyPatch, faults: list[logging.LogRecord]) -> None:
    part, memory = plate().part, Memory()
    with monkeypatch.context() as patched:
        patched.setattr(Extrude, "evaluate", fails(KeyError("own bug")))
        report = evaluate(part, memory).report("s2")
        assert (report.state, report.fault) == ("stopped", True)
        assert "our fault" in report.message
        assert "kernel" not in report.message
        assert [r.exc_info[0] for r in faults if r.exc_info] == [KeyError]
        assert evaluate(part, memory).report("s2").remembered is False
        assert len(faults) == 2
    assert evaluate(part, memory).report("s2").state == "built"
    faults.clear()


def test_a_refusal_of_the_kernel_is_remembered_and_no_fault(monkeypatch: pytest.MonkeyPatch, faults: list[logging.LogRecord]) -> None:
    part, memory = plate().part, Memory()
    monkeypatch.setattr(Extrude, "evaluate", lambda self, given, site: gp_Dir(0.0, 0.0, 0.0))
    first = evaluate(part, memory).report("s2")
    assert "The geometry kernel refused this" in first.message
    assert not first.fault
    assert evaluate(part, memory).report("s2").remembered
    assert faults == []


def test_a_step_that_needs_too_much_memory_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Extrude, "evaluate", fails(MemoryError()))
    assert "more memory" in evaluate(plate().part, Memory()).report("s2").message


def test_what_is_remembered_holds_no_trace() -> None:
    """A trace holds on to sites and shapes for as long as the refusal is remembered, and grew with each use."""
    b, memory = plate(), Memory()
    far = b.step("sketch", "Far", on={"of": "base", "name": "XY"})
    b.draw(far, "circle", (200, 0), (205, 0))
    b.step("extrude", "Stray", profile=b.profile(far, 0), depth={"formula": "4 mm"}, result="add", bodies=[{"of": "body", "body": "s2"}])
    for _ in range(3):
        assert evaluate(b.part, memory).reports[-1].state == "stopped"
    key = evaluate(b.part, memory).reports[-1].key
    known = memory.get(key)
    assert known is not None
    assert known.error is not None
    assert known.error.__traceback__ is None
    assert known.error.__context__ is None


def test_reading_triangles_from_memory_is_checked_against_the_binding(monkeypatch: pytest.MonkeyPatch, faults: list[logging.LogRecord]) -> None:
    assert mesh._layout_known()
    real = mesh._raw
    for wrong in range(3):  # any of the three arrays laid out differently
        def other(t: Any, wrong: int = wrong) -> Any:
            arrays = list(real(t))
            arrays[wrong] = arrays[wrong][::-1]
            return tuple(arrays)

        mesh._layout_known.cache_clear()
        monkeypatch.setattr(mesh, "_raw", other)
        assert not mesh._layout_known()
        slow = mesh.face_meshes(evaluate(plate().part, Memory()).site.bodies["s2"].shape, 50.0)
        monkeypatch.setattr(mesh, "_raw", real)
        mesh._layout_known.cache_clear()
        quick = mesh.face_meshes(evaluate(plate().part, Memory()).site.bodies["s2"].shape, 50.0)
        assert all(np.allclose(a.normals, b.normals) and np.array_equal(a.triangles, b.triangles) for a, b in zip(slow, quick, strict=True))
    faults.clear()


def test_shares_are_added_up_over_processes() -> None:
    one = {"local boolean": {"": 3, "surface kind": 1}}
    other = {"local boolean": {"": 4}, "meshing a face": {"": 2}}
    assert tally.shares([one, other]) == [
        ["local boolean", "went well", 7, 87.5], ["local boolean", "surface kind", 1, 12.5], ["meshing a face", "went well", 2, 100.0]]
