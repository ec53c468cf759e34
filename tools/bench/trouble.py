"""Nobody waits for another's trouble: cancelling a heavy part at random moments, and an unrelated part edited meanwhile.

    python -m tools.bench.trouble [TIMES]
"""

from __future__ import annotations

import json
import random
import statistics
import sys
import tempfile
import threading
import time
import urllib.request
from pathlib import Path
from typing import Any

from websockets.sync.client import ClientConnection, connect

from tests.conftest import Served
from tests.e2e.designer import KEYS
from tests.samples import plate
from wendal.core.route import Part, write_part


def heavy() -> Part:
    """A plate with words cut into it that take the kernel long."""
    b = plate("900 mm", "400 mm")
    sketch = b.step("sketch", "Words", on={"of": "face", "body": "s2", "names": ["s2/end/r1"]})
    for row in range(10):
        ends = [{"at": (5, 20 + 30 * row)}, {"at": (800, 20 + 30 * row)}]
        words = "Harrow Point tide gauge " * 7
        b.do(do="edit_sketch", step=sketch, edit={"op": "write", "ends": ends, "words": words, "height": "6 mm"})
    b.step("extrude", "Cut", profile=[{"of": "sketch", "step": sketch}], depth={"formula": "2 mm"}, extent="into", result="cut")
    return b.part


class Line:
    """A window's line to a part."""

    def __init__(self, served: Served, part: Part) -> None:
        port, key = served.url.rpartition(":")[2], KEYS[served.url]
        headers = {"Cookie": f"wendal-{port}={key}", "Origin": served.url, "Content-Type": "application/json"}
        body = json.dumps({"text": write_part(part)}).encode()
        answer = urllib.request.urlopen(urllib.request.Request(f"{served.url}/api/parts/read", body, headers))
        self.part = json.loads(answer.read())["id"]
        address = f"{served.url.replace('http', 'ws')}/api/parts/{self.part}/session"
        self.socket: ClientConnection = connect(address, additional_headers={"Cookie": headers["Cookie"]}, origin=served.url, max_size=None)  # type: ignore[arg-type]
        self.edition, self.last = 0, 0

    def hear(self, *types: str, seconds: float = 120.0) -> dict[str, Any]:
        until = time.monotonic() + seconds
        while True:
            raw = self.socket.recv(timeout=max(until - time.monotonic(), 0.01))
            if isinstance(raw, bytes):
                continue
            message: dict[str, Any] = json.loads(raw)
            self.edition = message.get("edition", self.edition) if message["type"] == "part" else self.edition
            if message["type"] in types:
                return message

    def say(self, **message: Any) -> None:
        self.last += 1
        self.socket.send(json.dumps({"id": self.last, **message}))

    def edit(self, **command: Any) -> float:
        """Make an edit; return the seconds until its picture was told."""
        began = time.monotonic()
        self.say(type="command", edition=self.edition, command=command)
        while self.hear("results")["edition"] <= self.edition - 1:
            pass
        return time.monotonic() - began


def main(times: int) -> None:
    """Run the trial and print its figures, s."""
    with tempfile.TemporaryDirectory() as folder:
        served = Served(Path(folder) / "data", "start")
        try:
            light = Line(served, plate().part)
            light.hear("results")
            stop, waits = threading.Event(), []

            def edits() -> None:
                depth = 10
                while not stop.is_set():
                    depth = 10 + (depth - 9) % 20
                    waits.append(light.edit(do="set_formula", tag="base_depth", formula=f"{depth} mm"))
                    time.sleep(0.2)

            busy = Line(served, heavy())
            editing = threading.Thread(target=edits)
            editing.start()
            took, chance = [], random.Random(1)
            for _ in range(times):
                busy.hear("building")
                time.sleep(chance.uniform(0.0, 1.0))
                began = time.monotonic()
                busy.say(type="cancel")
                while not any("cancelled" in r["message"] for r in busy.hear("results")["reports"]):
                    pass
                took.append(time.monotonic() - began)
                busy.say(type="retry")
            stop.set()
            editing.join()
            for name, all_ in (("cancelled after", took), ("unrelated edit to picture", waits)):
                last = sorted(all_)[max(int(0.99 * len(all_)) - 1, 0)]
                print(f"{name}: {len(all_)} times, median {statistics.median(all_):.2f}, p99 {last:.2f}, most {max(all_):.2f}")
        finally:
            served.stop()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100)
