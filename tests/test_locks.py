"""The lock files, and what is said of known weaknesses."""

import importlib.util
import json
import re
import sys
from pathlib import Path

import pytest

HOME = Path(__file__).resolve().parents[1]
LOCKS = sorted(HOME.glob("requirements*.lock"))
spec = importlib.util.spec_from_file_location("advisories", HOME / "scripts" / "advisories.py")
assert spec
assert spec.loader
advisories = importlib.util.module_from_spec(spec)
sys.modules["advisories"] = advisories
spec.loader.exec_module(advisories)


@pytest.mark.parametrize("lock", LOCKS, ids=lambda p: p.name)
def test_every_release_has_its_hashes(lock: Path) -> None:
    text = lock.read_text()
    pins = re.findall(r"^[a-z0-9].*==.*$", text, re.M)
    assert pins
    assert all(p.endswith("\\") for p in pins)
    assert len(re.findall(r"\\\n    --hash=sha256:[0-9a-f]{64}", text)) >= len(pins)
    assert "://" not in text, "a lock file names no host"


def test_what_was_skipped_was_not_asked() -> None:
    """The asking tool itself says 'none found' when it could ask about nothing."""
    skipped = {"dependencies": [{"name": "a", "skip_reason": "not found"}, {"name": "b", "version": "1", "vulns": []}]}
    said = advisories.python_answer("x.lock", json.dumps(skipped), "No known vulnerabilities found")
    assert (said.asked, said.known) == (1, [])
    assert "1 of 2" in said.unasked
    assert "COULD NOT BE ASKED" in said.words()


@pytest.mark.parametrize("output", ["", "{}", "[]", "nonsense"])
def test_no_answer_is_never_a_good_answer(output: str) -> None:
    for said in (advisories.python_answer("x.lock", output, "no route"), advisories.node_answer("y.json", output, "npm error no route", 5)):
        assert said.asked == 0
        assert "no route" in said.words()
        assert "nothing known" not in said.words()


def test_a_known_weakness_is_named() -> None:
    python = {"dependencies": [{"name": "b", "version": "1", "vulns": [{"id": "V-1", "fix_versions": ["2"]}]}]}
    assert "b 1: V-1, mended in 2" in advisories.python_answer("x.lock", json.dumps(python), "").words()
    node = {"vulnerabilities": {"c": {"severity": "high", "range": "<3"}}}
    assert advisories.node_answer("y.json", json.dumps(node), "", 5).known == ["c: high, <3"]
    assert "nothing known against the 5" in advisories.node_answer("y.json", '{"vulnerabilities": {}}', "", 5).words()
