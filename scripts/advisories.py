#!/usr/bin/env python3
"""Asks the registries whether anything in the lock files has a known weakness, and says when it could not
ask.

Usage: make advisories. Ends with 0 when every package was asked about and none has one, 1 when one has, 2
when some could not be asked.
"""

from __future__ import annotations

import json
import subprocess
import sys
from dataclasses import dataclass, field
from pathlib import Path

HOME = Path(__file__).resolve().parents[1]
TOOLS = HOME / "var" / "audit"
PYTHON_LOCKS = (
    "requirements.lock",
    "requirements-dev.lock",
    "requirements-node.lock",
    "requirements-pip.lock",
    "requirements-audit.lock",
)


@dataclass
class Answer:
    """What is known of one lock file: how many packages were asked about, what is known, and what could not
    be asked (with the reason)."""

    lock: str
    asked: int = 0
    known: list[str] = field(default_factory=list)
    unasked: str = ""

    def words(self) -> str:
        lines = []
        if self.known:
            lines.append(f"{self.lock}: {len(self.known)} known weaknesses")
        elif self.asked:
            lines.append(f"{self.lock}: nothing known against the {self.asked} packages asked about")
        lines += [f"  {one}" for one in self.known]
        if self.unasked:
            lines.append(f"{self.lock}: COULD NOT BE ASKED: {self.unasked}")
        return "\n".join(lines)


def python_answer(lock: str, output: str, complaint: str) -> Answer:
    """What the Python registry said: `output` as the asking tool's JSON; packages it skipped were not asked
    about, whatever it says of the whole."""
    try:
        packages = json.loads(output)["dependencies"]
    except (ValueError, KeyError, TypeError):
        return Answer(
            lock, unasked=complaint.strip().splitlines()[-1] if complaint.strip() else "no answer came"
        )
    skipped = [p for p in packages if "skip_reason" in p]
    known = []
    for package in packages:
        for weakness in package.get("vulns", []):
            mended = ", ".join(weakness.get("fix_versions", [])) or "no release yet"
            known.append(f"{package['name']} {package['version']}: {weakness['id']}, mended in {mended}")
    why = "" if packages else "the lock file named no package"
    if skipped:
        why = f"{len(skipped)} of {len(packages)} packages, the first: {skipped[0]['skip_reason']}"
    return Answer(lock, len(packages) - len(skipped), known, why)


def node_answer(lock: str, output: str, complaint: str, packages: int) -> Answer:
    """What the browser side's registry said: `output` as npm's JSON."""
    try:
        data = json.loads(output)
        found = data["vulnerabilities"]
    except (ValueError, KeyError, TypeError):
        lines = [line for line in complaint.splitlines() if "audit" in line or "error" in line.lower()]
        return Answer(lock, unasked=lines[0].strip() if lines else "no answer came")
    return Answer(
        lock, packages, [f"{name}: {one['severity']}, {one['range']}" for name, one in found.items()]
    )


def _run(*command: str | Path, at: Path = HOME) -> tuple[str, str]:
    try:
        done = subprocess.run([str(c) for c in command], cwd=at, capture_output=True, text=True, timeout=600)
        return done.stdout, done.stderr or done.stdout
    except (OSError, subprocess.TimeoutExpired) as trouble:
        return "", str(trouble)


def _tool() -> str:
    """The asking tool in an environment of its own, by its lock file; empty, or what went wrong."""
    python = TOOLS / "bin" / "python"
    if not python.exists():
        _run(sys.executable, "-m", "venv", TOOLS)
    _, complaint = _run(
        python, "-m", "pip", "install", "-q", "--require-hashes", "-r", "requirements-audit.lock"
    )
    return (
        ""
        if (TOOLS / "bin" / "pip-audit").exists()
        else complaint or "the asking tool could not be installed"
    )


def main() -> int:
    trouble = _tool()
    answers = []
    for lock in PYTHON_LOCKS:
        if trouble:
            answers.append(Answer(lock, unasked=trouble))
            continue
        answers.append(
            python_answer(
                lock,
                *_run(
                    TOOLS / "bin" / "pip-audit", "--disable-pip", "--require-hashes", "-f", "json", "-r", lock
                ),
            )
        )
    packages = len(json.loads((HOME / "web" / "package-lock.json").read_text())["packages"]) - 1
    answers.append(
        node_answer(
            "web/package-lock.json",
            *_run("npm", "audit", "--json", "--package-lock-only", at=HOME / "web"),
            packages=packages,
        )
    )
    print("\n".join(a.words() for a in answers))
    return 1 if any(a.known for a in answers) else 2 if any(a.unasked for a in answers) else 0


if __name__ == "__main__":
    sys.exit(main())
