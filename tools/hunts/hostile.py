"""Damaged and hostile files of every kind that is read: cut, changed at random, blown up, nested, with numbers that
are none. Each must be taken whole, or told in words, within the time and memory that reading has.

The readers run in the processes in which they run for users; one that ends over a file is told as such, and counts as
told. What counts as wrong: an error that is no word of ours, and a reader that takes too long.
"""

from __future__ import annotations

import asyncio
import random
import time
from collections import Counter
from collections.abc import Callable
from typing import Any

from wendal.core import exchange
from wendal.core.errors import WendalError
from wendal.core.route import Memory, evaluate, read_part, write_part
from wendal.core.tables import as_sheet
from wendal.demo import instrument_bracket
from wendal.workers.receiving import receive, receive_curves, receive_table

__all__ = ["hunt_hostile"]

LONGEST = 60.0  # s
WORDS: dict[str, list[bytes]] = {
    "step": [b"NaN", b"1.E400", b"-1", b"#999999", b"(" * 200, b"'" * 3, b"$", b"*"],
    "stl": [b"\xff\xff\xff\x7f", b"\x00\x00\x80\x7f"],
    "dxf": [b"nan", b"1e400", b"INSERT", b"-999999", b"BLOCK", b"\x00"],
    "svg": [b"NaN", b"1e400", b"<g>" * 500, b"<!ENTITY a 'b'>", b"&amp;" * 50, b"M" * 500, b"</svg>"],
    "xlsx": [b"\x00" * 30],
    "json": [b"NaN", b"1e999", b"[" * 3000, b'"a":', b"null", b"-0", b"true"],
}


def changed(content: bytes, words: list[bytes], rng: random.Random) -> bytes:
    """Return a file that is damaged in one of several ways."""
    way = rng.choice(["cut", "bytes", "words", "words", "twice", "without"])
    if way == "cut":
        return content[: rng.randrange(len(content))]
    if way == "twice":
        return content + content
    if way == "without":
        a, b = sorted(rng.randrange(len(content)) for _ in range(2))
        return content[:a] + content[b:]
    made = bytearray(content)
    for _ in range(rng.choice([1, 3, 30])):
        at = rng.randrange(len(made))
        if way == "bytes":
            made[at] = rng.randrange(256)
        else:
            word = rng.choice(words)
            made[at : at + rng.choice([0, len(word)])] = word
    return bytes(made)


def hunt_hostile(size: int, seed: int = 1) -> Counter[str]:
    """Damage a file of every kind so many times."""
    part = instrument_bracket()
    evaluation = evaluate(part, Memory())
    sketch = next(s.id for s in part.steps if s.kind == "sketch")
    of_sketch = {"of": "sketch", "step": sketch}
    readers: dict[str, tuple[bytes, Callable[[bytes], Any]]] = {
        "step": (exchange.export(part, evaluation, "step"), lambda c: asyncio.run(receive(c, "x.step", forked=True))),
        "stl": (exchange.export(part, evaluation, "stl"), lambda c: asyncio.run(receive(c, "x.stl", b"", "mm", forked=True))),
        "dxf": (exchange.export(part, evaluation, "dxf", of_sketch), lambda c: asyncio.run(receive_curves(c, "mm", None, 0.01, forked=True))),
        "svg": (exchange.export(part, evaluation, "svg", of_sketch), lambda c: asyncio.run(receive_curves(c, "mm", None, 0.01, forked=True))),
        "xlsx": (as_sheet("name,wide\r\nA,40\r\nB,50\r\n", "t"), lambda c: asyncio.run(receive_table(c, forked=True))),
        "json": (write_part(part).encode(), lambda c: read_part(c.decode(errors="replace"))),
    }
    found: Counter[str] = Counter()
    for kind, (content, read) in readers.items():
        for k in range(size):
            rng = random.Random(f"{seed}:{kind}:{k}")
            bad = changed(content, WORDS[kind], rng)
            began = time.perf_counter()
            try:
                read(bad)
                said = "taken"
            except WendalError as error:
                said = "told" if error.message[:1].isupper() or error.message[:1].isdigit() else "wrong: told without a word"
            except Exception as error:
                said = f"wrong: {type(error).__name__}"
                print(f"  hostile {seed}:{kind}:{k}: {type(error).__name__}: {str(error)[:200]}", flush=True)
            if time.perf_counter() - began > LONGEST:
                said = "wrong: too long"
            found[f"{kind} {said}"] += 1
    return found
