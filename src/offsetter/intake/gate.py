"""One at a time: among the threads of a process, and among the processes that share a folder."""

import fcntl
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

LOOKS_EVERY_S = 0.05


class Gate:
    def __init__(self, path: Path | None = None) -> None:
        """path: of the file that the processes hold; the system lets go of it for one that was killed. None: this process alone."""
        self.path = path
        self._here = threading.BoundedSemaphore(1)

    @contextmanager
    def held(self, within_s: float | None = None) -> Iterator[bool]:
        """False where it could not be had in this time; None waits as long as it takes."""
        end = None if within_s is None else time.monotonic() + within_s
        if not self._here.acquire(timeout=within_s):
            yield False
            return
        try:
            if self.path is None:
                yield True
                return
            self.path.parent.mkdir(parents=True, exist_ok=True)
            with self.path.open("a") as file:
                yield _taken(file.fileno(), end)
        finally:
            self._here.release()


def _taken(file: int, end: float | None) -> bool:
    if end is None:
        fcntl.flock(file, fcntl.LOCK_EX)
        return True
    while True:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            if time.monotonic() > end:
                return False
            time.sleep(LOOKS_EVERY_S)
        else:
            return True
