"""Processes that compute: geometry workers (the kernel can crash and holds the interpreter), and the pen."""

from .pool import Pool, WorkerDied, WorkerFailed, WorkerStopped, WorkerTooSlow

__all__ = ["Pool", "WorkerDied", "WorkerFailed", "WorkerStopped", "WorkerTooSlow"]
