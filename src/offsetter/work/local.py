"""Long work in local child processes, one a task: killing a process is the one way to stop it for certain."""

import asyncio
import logging
import multiprocessing
import os
import secrets
import signal
import socket
import threading
import time
from collections.abc import AsyncIterator, Callable
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from pathlib import Path

from offsetter.core.sentences import say
from offsetter.core.values import Progress, Stage
from offsetter.intake.gate import Gate
from offsetter.work.interface import Board
from offsetter.work.runner import GIVES_WAY, run

log = logging.getLogger("offsetter")
BEATS_EVERY_S, LOOKS_EVERY_S = 1.0, 4.0
"""How often a process says that it lives, and looks for what others left."""
TELLS_EVERY_S, ASKS_EVERY_S, HERE_S = 0.25, 0.3, 0.05
"""How often progress goes to the other processes, theirs is asked for, and our own is looked at."""
LAST_WORD_S = 60
"""The database may be away for so long when work ends."""
MOST_TRIES = 2
"""Of work that was killed: once more, for it may have been the machine's trouble and not its own."""
DIED = {
    "code": "work-died", "happened": say("The work was stopped from outside: it took more memory or time than it may."),
    "kept": say("The job is as it was."), "to_do": say("Make the print smaller or the resolution lower, and try again."),
}  # fmt: skip
CRASHED = {
    "code": "work-crashed", "happened": say("The work stopped on a fault inside Offsetter."),
    "kept": say("The job is as it was; what was half made is thrown away."),
    "to_do": say("Try once more; if it happens again, send the server's log: the fault stands there in full."),
}  # fmt: skip


class LocalWork:
    def __init__(self, board: Board, lanes: Path) -> None:
        """lanes: a folder that the processes of this machine share; in it they see to it that one set of plates is made at a time."""
        self._board, self._lanes = board, lanes
        self._owner = f"{socket.gethostname()[:40]} {os.getpid()} {secrets.token_hex(4)}"
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(
            ["offsetter.work.runner", "offsetter.core.compute.plates", "offsetter.intake.header"]
        )
        self._tasks: dict[str, _Task] = {}
        self._then: dict[str, Callable[[dict[str, str]], None]] = {}
        self._lock = threading.Lock()
        # A set of plates uses both cores by itself.
        self._gates = {lane: Gate(lanes / (lane or "work")) for lane in ("", *GIVES_WAY)}
        self._over = threading.Event()
        self._heart: threading.Thread | None = None

    def warm(self) -> None:
        """Load what workers load now, beside everything else: the first file is not kept waiting for it."""
        forkserver.ensure_running()
        self._live()

    def after(self, task: str, then: Callable[[dict[str, str]], None]) -> None:
        self._then[task] = then

    def submit(self, key: str, task: str, arguments: dict[str, str], *, alone: bool = False) -> None:
        self._live()
        if alone:
            for other in [t for t in list(self._tasks.values()) if t.name == task and t.key != key]:
                self.cancel(other.key)
            self._board.stop_others(task, key)
        with self._lock:
            known = self._tasks.get(key)
            if known is not None and not known.events[-1].is_last:
                return
            made = _Task(key, task, arguments, (Progress(number=1, stage="queued"),))
            if not self._board.take(key, task, arguments, self._owner, made.events[-1]):
                return
            self._tasks[key] = made
        self._begin(made)

    def latest(self, key: str) -> Progress | None:
        task = self._tasks.get(key)
        events = task.events if task else self._board.events(key)
        return events[-1] if events else None

    def cancel(self, key: str) -> bool:
        task = self._tasks.get(key)
        if task is None:
            return self._board.stop(key)
        if task.events[-1].is_last:
            return False
        task.cancel()
        return True

    async def follow(self, key: str, after: int) -> AsyncIterator[Progress]:
        while True:
            task = self._tasks.get(key)
            events = task.events if task else await asyncio.to_thread(self._board.events, key)
            if not events:
                return
            for event in [e for e in events if e.number > after]:
                yield event
                after = event.number
                if event.is_last:
                    return
            if events[-1].is_last:  # begun anew and over, since the one who follows last heard of it
                yield events[-1]
                return
            await asyncio.sleep(HERE_S if task else ASKS_EVERY_S)

    def close(self) -> None:
        """What this process does is left to the next one; searches are begun anew by whoever looks."""
        self._over.set()
        for task in list(self._tasks.values()):
            task.is_left = task.name not in GIVES_WAY
            task.cancel()
        if self._heart is not None:
            self._heart.join(5)
            for task in list(self._tasks.values()):
                task.ended.wait(5)
            self._try("leaving work", lambda: self._board.leave(self._owner))

    # What goes on beside the requests.

    def _live(self) -> None:
        with self._lock:
            if self._heart is None and not self._over.is_set():
                self._heart = threading.Thread(target=self._beat, daemon=True, name="work that lives")
                self._heart.start()

    def _beat(self) -> None:
        looked = 0.0
        while not self._over.wait(BEATS_EVERY_S):
            if self._tasks:
                self._try("saying that work goes on", self._renew)
            if time.monotonic() - looked > LOOKS_EVERY_S:
                looked = time.monotonic()
                self._try("looking for work that was left", self._take_over)

    def _renew(self) -> None:
        for key in self._board.beat(self._owner):
            self.cancel(key)

    def _take_over(self) -> None:
        for left in self._board.take_over(self._owner):
            made = _Task(left.key, left.task, left.arguments, left.events, left.tries)
            with self._lock:
                self._tasks[left.key] = made
            self._begin(made)
            if left.is_stopping:
                made.cancel()

    def _begin(self, task: "_Task") -> None:
        threading.Thread(target=self._attend, args=(task,), daemon=True, name=f"work {task.name}").start()

    def _attend(self, task: "_Task") -> None:
        try:
            last = self._done(task)
            if not task.is_left:
                self._last_word(task, last)
        finally:
            with self._lock:
                if self._tasks.get(task.key) is task:
                    del self._tasks[task.key]
            task.ended.set()

    def _done(self, task: "_Task") -> Progress:
        """Does it; gives its last event, not told yet."""
        with self._gates[task.name if task.name in GIVES_WAY else ""].held():
            while not task.cancelled and task.tries < MOST_TRIES:
                task.tries += 1
                ours, theirs = self._context.Pipe(duplex=False)
                process = self._context.Process(target=run, args=(task.name, task.arguments, theirs), daemon=True)
                process.start()
                # Only what runs can be killed; who cancels before sees no process yet, and is heeded below.
                task.process = process
                theirs.close()
                if task.cancelled:
                    process.kill()
                last = self._relay(ours, task)
                process.join()
                if last is not None:
                    # Whoever hears that it is done finds what follows from it done as well.
                    if last.stage == "done" and task.name in self._then:
                        self._try(f"after {task.name}", lambda: self._then[task.name](task.arguments))
                    return last
                if process.exitcode != -signal.SIGKILL and not task.cancelled:
                    # A signal's number is below 0: the machine, or a limit, ended it.
                    died = (process.exitcode or 0) < 0
                    return _event("failed", problem=DIED if died else CRASHED)
            return _event("cancelled") if task.cancelled else _event("failed", problem=DIED)

    def _relay(self, pipe: Connection, task: "_Task") -> Progress | None:
        """Tell what the child tells; gives its last word, untold, or None when it ended without one."""
        while True:
            try:
                stage, done, whole, unit, problem, found = pipe.recv()
            except (EOFError, OSError):
                return None
            event = _event(stage, done, whole, unit, problem, found)
            if event.is_last:
                return event
            self._tell(task, event)

    def _tell(self, task: "_Task", event: Progress) -> None:
        """Here at once, to the other processes now and then."""
        task.events = task.and_then(event)
        now = time.monotonic()
        if now - task.told_at >= TELLS_EVERY_S or event.said:
            task.told_at = now
            self._try("telling of work", lambda: self._told(task, task.events))

    def _told(self, task: "_Task", events: tuple[Progress, ...]) -> None:
        if not self._board.tell(task.key, self._owner, events):
            task.is_left = True  # another took it for left, and does it
            task.cancel()

    def _last_word(self, task: "_Task", event: Progress) -> None:
        """To the other processes first: who hears here that it is over may begin it anew at once."""
        events, end = task.and_then(event), time.monotonic() + LAST_WORD_S
        while not self._try("telling of work", lambda: self._told(task, events)):
            if time.monotonic() > end or self._over.wait(1):
                break
        task.events = events

    @staticmethod
    def _try(what: str, act: Callable[[], None]) -> bool:
        """The work goes on where the database is away for a moment, or what follows from it fails."""
        try:
            act()
        except Exception:
            log.exception(what)
            return False
        return True


class _Task:
    def __init__(
        self, key: str, name: str, arguments: dict[str, str], events: tuple[Progress, ...], tries: int = 0
    ) -> None:
        self.key, self.name, self.arguments, self.events, self.tries = key, name, arguments, events, tries
        self.process: BaseProcess | None = None
        self.cancelled = self.is_left = False
        self.told_at = 0.0
        self.ended = threading.Event()

    def and_then(self, event: Progress) -> tuple[Progress, ...]:
        """Events up to this one, which gets its number."""
        return (*self.events, event.model_copy(update={"number": self.events[-1].number + 1}))

    def cancel(self) -> None:
        self.cancelled = True
        if self.process is not None:
            self.process.kill()


def _event(stage: Stage, done: int = 0, whole: int = 0, unit: str = "", problem: dict[str, str] | None = None, said: tuple[str, ...] = ()) -> Progress:  # fmt: skip
    return Progress(number=0, stage=stage, done=done, whole=whole, unit=unit, problem=problem, said=said)
