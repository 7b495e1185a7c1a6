"""Long work in local child processes, one a task: killing a process is the one way to stop it for certain."""

import asyncio
import logging
import multiprocessing
import threading
from collections.abc import AsyncIterator, Callable
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess

from offsetter.work.interface import Progress, Stage
from offsetter.work.runner import run

log = logging.getLogger("offsetter")
AT_ONCE = 1
"""A set of plates uses both cores by itself."""
BESIDE = ("plan",)
"""Tasks that nobody stands and waits for: they give way to all else, and keep no plates waiting."""
DIED = {
    "code": "work-died", "happened": "The work was stopped from outside: it took more memory or time than it may.",
    "kept": "The job is as it was.", "to_do": "Make the print smaller or the resolution lower, and try again.",
}  # fmt: skip
CRASHED = {
    "code": "work-crashed", "happened": "The work stopped on a fault inside Offsetter.",
    "kept": "The job is as it was; what was half made is thrown away.",
    "to_do": "Try once more; if it happens again, send the server's log: the fault stands there in full.",
}  # fmt: skip


class LocalWork:
    def __init__(self) -> None:
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(
            ["offsetter.work.runner", "offsetter.core.compute.plates", "offsetter.intake.header"]
        )
        self._tasks: dict[str, _Task] = {}
        self._lock = threading.Lock()
        self._slots = {lane: threading.Semaphore(AT_ONCE) for lane in ("", *BESIDE)}

    def warm(self) -> None:
        """Load what workers load now, beside everything else: the first file is not kept waiting for it."""
        forkserver.ensure_running()

    def submit(self, key: str, task: str, arguments: dict[str, str], then: Callable[[], None] | None = None) -> None:
        with self._lock:
            known = self._tasks.get(key)
            if known is not None and not known.events[-1].is_last:
                return
            made = self._tasks[key] = _Task()
        threading.Thread(
            target=self._attend, args=(made, task, arguments, then), daemon=True, name=f"work {task}"
        ).start()

    def latest(self, key: str) -> Progress | None:
        task = self._tasks.get(key)
        return task.events[-1] if task else None

    def cancel(self, key: str) -> bool:
        task = self._tasks.get(key)
        if task is None or task.events[-1].is_last:
            return False
        task.cancelled = True
        if task.process is not None:
            task.process.kill()
        return True

    async def follow(self, key: str, after: int) -> AsyncIterator[Progress]:
        task = self._tasks.get(key)
        while task is not None:
            for event in task.events[max(0, after) :]:
                yield event
                after = event.number
                if event.is_last:
                    return
            await asyncio.sleep(0.05)

    def close(self) -> None:
        for key in list(self._tasks):
            self.cancel(key)

    def _attend(self, task: "_Task", name: str, arguments: dict[str, str], then: Callable[[], None] | None) -> None:
        with self._slots[name if name in BESIDE else ""]:
            if task.cancelled:
                task.say("cancelled")
                return
            ours, theirs = self._context.Pipe(duplex=False)
            process = self._context.Process(target=run, args=(name, arguments, theirs), daemon=True)
            process.start()
            # Only what runs can be killed; who cancels before sees no process yet, and is heeded below.
            task.process = process
            theirs.close()
            if task.cancelled:
                process.kill()
            last = _relay(ours, task)
            process.join()
            if last is not None:
                # Whoever hears that it is done finds what follows from it done as well.
                if last.stage == "done" and then is not None:
                    _follow_up(name, then)
                task.tell(last)
            else:
                # A signal's number is below 0: the machine, or a limit, ended it.
                died = (process.exitcode or 0) < 0
                task.say("cancelled") if task.cancelled else task.say("failed", problem=DIED if died else CRASHED)


class _Task:
    def __init__(self) -> None:
        self.events: list[Progress] = [Progress(number=1, stage="queued")]
        self.process: BaseProcess | None = None
        self.cancelled = False

    def say(
        self, stage: Stage, done: int = 0, whole: int = 0, unit: str = "", problem: dict[str, str] | None = None,
        found: tuple[str, ...] = (),
    ) -> None:  # fmt: skip
        self.tell(Progress(number=0, stage=stage, done=done, whole=whole, unit=unit, problem=problem, said=found))

    def tell(self, event: Progress) -> None:
        self.events.append(event.model_copy(update={"number": len(self.events) + 1}))


def _relay(pipe: Connection, task: _Task) -> Progress | None:
    """Tell what the child tells; gives its last word, untold, or None when it ended without one."""
    while True:
        try:
            stage, done, whole, unit, problem, found = pipe.recv()
        except (EOFError, OSError):
            return None
        event = Progress(number=0, stage=stage, done=done, whole=whole, unit=unit, problem=problem, said=found)
        if event.is_last:
            return event
        task.tell(event)


def _follow_up(name: str, then: Callable[[], None]) -> None:
    try:
        then()
    except Exception:  # the work itself is done and kept; what follows from it is made up at the next look
        log.exception("after %s", name)
