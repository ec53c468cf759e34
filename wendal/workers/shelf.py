"""A folder in which a part's results lie for the processes that come after: one file a part, bounded, and
safe to delete at any time.

Every file is sealed with a key that lies beside it, readable by its owner alone. What is not sealed with it
is not looked into.
"""

from __future__ import annotations

import hmac
import json
import logging
import os
import secrets
from contextlib import suppress
from pathlib import Path

__all__ = ["Shelf"]

log = logging.getLogger(__name__)
SEAL = 32  # bytes before the content
MOST = 2 * 2**30  # bytes of all files; what was not used for the longest time goes first


class Shelf:
    """The folder.

    most : bytes that its files may have in all. That it can not be read or written stops nobody: parts are
    built then.
    """

    def __init__(self, folder: Path, most: int = MOST) -> None:
        self._folder, self._most = folder, most

    def _file(self, part: int) -> Path:
        return self._folder / f"{part}.results"

    def _aside(self, part: int) -> Path:
        return self._folder / f"{part}.reading"

    def begin_reading(self, part: int) -> bytes | None:
        """Return what lies there of a part, None for nothing.

        Until `end_reading` it lies aside: what ends its reader is not read again.
        """
        try:
            self._file(part).replace(self._aside(part))
            sealed = self._aside(part).read_bytes()
        except OSError:
            return None
        seal, content = sealed[:SEAL], sealed[SEAL:]
        if hmac.compare_digest(seal, self._seal(part, content)):
            return content
        log.warning("results of part %s were not sealed by this Wendal, and are not read", part)
        self.remove(part)
        return None

    def read(self, part: int) -> bytes | None:
        """Return what lies there of a part, for whoever only looks and may end by it; None for nothing."""
        try:
            sealed = self._file(part).read_bytes()
        except OSError:
            return None
        seal, content = sealed[:SEAL], sealed[SEAL:]
        return content if hmac.compare_digest(seal, self._seal(part, content)) else None

    def end_reading(self, part: int) -> None:
        """What was read is good: it is there again, as used last."""
        with suppress(OSError):
            os.utime(self._aside(part))
            self._aside(part).replace(self._file(part))

    def write(self, part: int, content: bytes) -> None:
        """Put a part's results there in place of those before; others go where there is no room."""
        new = self._folder / f"{part}.{os.getpid()}.new"
        try:
            self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            new.write_bytes(self._seal(part, content) + content)
            new.replace(self._file(part))
            self._aside(part).unlink(missing_ok=True)
            self._make_room(part)
        except OSError as error:
            log.warning("results of part %s are not kept: %s", part, error)
            with suppress(OSError):
                new.unlink()

    def _doom(self, part: int) -> Path:
        return self._folder / f"{part}.condemned"

    def condemned(self, part: int) -> dict[str, str]:
        """Return the keys of steps that took a worker down, with what is said of each."""
        try:
            sealed = self._doom(part).read_bytes()
        except OSError:
            return {}
        if not hmac.compare_digest(sealed[:SEAL], self._seal(part, sealed[SEAL:])):
            return {}
        found: dict[str, str] = json.loads(sealed[SEAL:])
        return found

    def condemn(self, part: int, keys: dict[str, str]) -> None:
        """Keep the keys of steps that took a worker down; none are forgotten."""
        try:
            if not keys:
                self._doom(part).unlink(missing_ok=True)
                return
            self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            content = json.dumps(keys).encode()
            self._doom(part).write_bytes(self._seal(part, content) + content)
        except OSError as error:
            log.warning("what took workers down in part %s is not kept: %s", part, error)

    def remove(self, part: int) -> None:
        """Forget a part."""
        for file in (self._file(part), self._aside(part), self._doom(part)):
            with suppress(OSError):
                file.unlink()

    def _seal(self, part: int, content: bytes) -> bytes:
        return hmac.digest(self._key(), f"{part}:".encode() + content, "sha256")

    def _key(self) -> bytes:
        """Return the key beside the folder, made when it is first wanted."""
        file = self._folder.with_suffix(".key")
        if not file.exists():
            self._folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            new = self._folder.with_suffix(f".key.{os.getpid()}")
            with suppress(OSError):
                new.unlink()
            new.touch(mode=0o600)
            new.write_bytes(secrets.token_bytes(32))
            with suppress(FileExistsError):
                os.link(new, file)  # whoever is first has made it
            new.unlink()
        return file.read_bytes()

    def _make_room(self, last: int) -> None:
        files = sorted(
            ((f.stat().st_mtime, f.stat().st_size, f) for f in self._folder.iterdir()),
            key=lambda row: row[:2],
        )
        total = sum(size for _, size, _ in files)
        for _, size, file in files:
            if total <= self._most:
                break
            if file != self._file(last):
                file.unlink(missing_ok=True)
                total -= size
