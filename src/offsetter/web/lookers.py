"""Previews in processes of their own, behind acts and press mode. Each reads the same database and files as the server does;
what it keeps besides is a cache by the hash of what was asked, so that any of them, or the server itself, can answer."""

import logging
import os
import re
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from pathlib import Path
from typing import Any, TypeVar

import anyio
from starlette.concurrency import run_in_threadpool

from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.bounded import Bounded
from offsetter.intake.limits import end_with_parent
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from offsetter.web.services import Services
from offsetter.work.local import LocalWork

log = logging.getLogger("offsetter")
T = TypeVar("T", str, bytes)
HERE = 2
"""Previews at one time where there are no processes for them: they take a core each."""
MOST, BYTES_EACH = 4, 1_500_000_000
"""Processes, and the machine's memory that each wants; measured: about 250 MB in use."""
YIELDS = 5
"""How far they stand back from the server, in the system's own steps of niceness."""
NEAR = 4_000
PICTURE = re.compile(r"/api/pictures/([0-9a-z]+)/")


def count_for(cores: int, memory_bytes: int) -> int:
    """How many a machine takes; none where there is one core, or too little memory."""
    return min(cores, MOST, memory_bytes // BYTES_EACH) if cores > 1 else 0


class Lookers:
    def __init__(self, services: Services, database_url: str, data_folder: Path, count: int) -> None:
        self._services, self._from = services, (database_url, str(data_folder))
        self._free = list(range(count))
        self._pools: list[ProcessPoolExecutor | None] = [None] * count
        self._near: Bounded[int] = Bounded(NEAR)
        self._lock = threading.Lock()
        self.turns = anyio.CapacityLimiter(count or HERE)

    def start(self) -> None:
        """Begin to load them, beside everything else."""
        for at in range(len(self._pools)):
            self._pool(at).submit(os.getpid)

    def close(self) -> None:
        for pool in self._pools:
            if pool is not None:
                pool.shutdown(cancel_futures=True)  # a preview takes a moment

    async def ask(self, near: str, work: Callable[..., T], *given: Any) -> T:
        """work(services, *given), in the process that knows most of `near`; only while a turn is held.

        Raises what work raises.
        """
        if not self._pools:
            return await run_in_threadpool(work, self._services, *given)
        at = self._taken(near)
        try:
            found = await run_in_threadpool(self._answered, at, work, given)
        finally:
            with self._lock:
                self._free.append(at)
        if isinstance(found, Refusal):
            raise found
        if found is None:  # said by the server itself: it tells a fault as it tells all faults
            return await run_in_threadpool(work, self._services, *given)
        self._near[near] = at
        if isinstance(found, str):
            self._near.update(dict.fromkeys(PICTURE.findall(found), at))
        return found

    def _taken(self, near: str) -> int:
        with self._lock:
            wished = self._near.get(near)
            at = wished if wished is not None and wished in self._free else self._free[0]
            self._free.remove(at)
            return at

    def _answered(self, at: int, work: Callable[..., T], given: tuple[Any, ...]) -> T | Refusal | None:
        try:
            kind, *said = self._pool(at).submit(_look, work, given).result()
        except BrokenProcessPool:
            log.warning("A process for previews ended; another is started.")
            self._pools[at] = None
            return None
        return said[0] if kind == "done" else Refusal(*said) if kind == "refused" else None

    def _pool(self, at: int) -> ProcessPoolExecutor:
        pool = self._pools[at]
        if pool is None:
            pool = self._pools[at] = ProcessPoolExecutor(
                1, mp_context=get_context("forkserver"), initializer=_begin, initargs=self._from
            )
        return pool


_own: Services | None = None
"""Of a process for previews."""


def _begin(database_url: str, data_folder: str) -> None:
    global _own
    end_with_parent()
    os.nice(YIELDS)
    _own = Services(Base(engine_for(database_url), FileStore(Path(data_folder)), LocalWork()))


def _look(work: Callable[..., str | bytes], given: tuple[Any, ...]) -> tuple[Any, ...]:
    try:
        return "done", work(_own, *given)
    except Refusal as refusal:
        return "refused", refusal.code, refusal.happened, refusal.kept, refusal.to_do
    except Exception:
        return ("failed",)
