"""Previews in processes of their own, behind acts and press mode. Each reads the same database and files as the server does;
what it keeps besides is a cache by the hash of what was asked, so that any of them, or the server itself, can answer."""

import asyncio
import gc
import logging
import os
import re
import select
import threading
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from multiprocessing import get_context
from pathlib import Path
from typing import Any, TypeVar

import anyio
from starlette.concurrency import run_in_threadpool

from offsetter.core.compute.plates import warm
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.bounded import Bounded
from offsetter.intake.limits import few_arenas
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from offsetter.web.services import Services

log = logging.getLogger("offsetter")
T = TypeVar("T", str, bytes)
HERE = 2
"""Previews at one time where there are no processes for them: they take a core each."""
MOST, BYTES_EACH = 8, 1_500_000_000
"""Processes, and the machine's memory that each wants; measured: about 250 MB in use."""
YIELDS = 5
"""How far they stand back from the server, in the system's own steps of niceness."""
AFTER_S = 4.0
"""After the start: the first page does not share its core with them."""
NEAR = 4_000
PICTURE = re.compile(r"/api/pictures/([0-9a-z]+)/")


def count_for(cores: int, memory_bytes: int) -> int:
    """How many a machine takes; none where there is one core, or too little memory."""
    return min(cores, MOST, memory_bytes // BYTES_EACH) if cores > 1 else 0


class Lookers:
    def __init__(self, services: Services, database_url: str, data_folder: Path, count: int) -> None:
        self._services, self._from = services, (database_url, str(data_folder), os.getpid())
        self._free = list(range(count))
        self._pools: list[ProcessPoolExecutor | None] = [None] * count
        self._near: Bounded[int] = Bounded(NEAR)
        self._lock = threading.Lock()
        self._making = threading.Lock()
        self._soon: threading.Timer | None = None
        self.turns = anyio.CapacityLimiter(count or HERE)

    def start(self) -> None:
        """Load them once the first page is out: they are loaded sooner where somebody asks sooner."""
        if self._pools:
            self._soon = threading.Timer(AFTER_S, self._load)
            self._soon.daemon = True
            self._soon.start()

    def _load(self) -> None:
        for at in range(len(self._pools)):
            self._pool(at).submit(warm)

    def close(self) -> None:
        if self._soon is not None:
            self._soon.cancel()
        for at, pool in enumerate(self._pools):
            if pool is not None:
                pool.shutdown(cancel_futures=True)  # a preview takes a moment
                self._pools[at] = None

    async def ask(self, near: str, work: Callable[..., T], *given: Any) -> T:
        """work(services, *given), in the process that knows most of `near`; only while a turn is held.

        Raises what work raises.
        """
        if not self._pools:
            return await run_in_threadpool(work, self._services, *given)
        at = self._taken(near)
        try:
            found = await self._answered(at, work, given)
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

    async def _answered(self, at: int, work: Callable[..., T], given: tuple[Any, ...]) -> T | Refusal | None:
        try:
            pool = self._pools[at]
            if pool is None:
                pool = await run_in_threadpool(self._pool, at)
            kind, *said = await asyncio.wrap_future(pool.submit(_look, work, given))
        except BrokenProcessPool:
            log.warning("A process for previews ended; another is started.")
            self._pools[at] = None
            return None
        return said[0] if kind == "done" else Refusal(*said) if kind == "refused" else None

    def _pool(self, at: int) -> ProcessPoolExecutor:
        """Made and begun where there is none: it takes a moment."""
        with self._making:
            pool = self._pools[at]
            if pool is None:
                pool = ProcessPoolExecutor(
                    1, mp_context=get_context("forkserver"), initializer=_begin, initargs=self._from
                )
                pool.submit(os.getpid)
                self._pools[at] = pool
            return pool


_own: Services | None = None
"""Of a process for previews."""


def _begin(database_url: str, data_folder: str, server: int) -> None:
    global _own
    threading.Thread(target=_end_with, args=(server,), daemon=True, name="ends with its server").start()
    os.nice(YIELDS)
    few_arenas()
    _own = Services(Base(engine_for(database_url), FileStore(Path(data_folder))))
    gc.freeze()  # as the server does


def _end_with(server: int) -> None:
    """Not with its parent: that is the system of forking, which lives as long as one of its children does."""
    with suppress(ProcessLookupError):  # it ended before this began
        select.select([os.pidfd_open(server)], [], [])
    os._exit(0)


def _look(work: Callable[..., str | bytes], given: tuple[Any, ...]) -> tuple[Any, ...]:
    try:
        return "done", work(_own, *given)
    except Refusal as refusal:
        return "refused", refusal.code, refusal.happened, refusal.kept, refusal.to_do
    except Exception:
        return ("failed",)
