"""What a worker of the tests runs. It imports little: every worker process loads it anew."""

from __future__ import annotations

import os
import signal
import time
from multiprocessing.connection import Connection
from typing import Any

from wendal.core.errors import StepError
from wendal.workers.process import serve


def echo_main(line: Connection) -> None:
    """A worker for tests."""
    def refuse(request: Any, say: Any) -> None:
        raise StepError("No.", field="depth", step="s1")

    def count(request: int, say: Any) -> int:
        for i in range(request):
            time.sleep(0.05)
            say(i)
        return request

    asked: list[Any] = []

    def late(request: Any, say: Any) -> Any:
        asked.append(request)
        time.sleep(0.03)
        return request

    def fail(request: Any, say: Any) -> Any:
        return {}[request]

    serve(line, {"late": late, "asked": lambda r, say: asked, "fail": fail, "echo": lambda r, say: r, "refuse": refuse, "sleep": lambda r, say: time.sleep(r), "count": count,
                 "pid": lambda r, say: os.getpid(), "die": lambda r, say: os.kill(os.getpid(), signal.SIGKILL)})
