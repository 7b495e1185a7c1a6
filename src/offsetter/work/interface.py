"""Long work: submitted under the hash of what it makes, followed in real units, cancelled for good."""

from collections.abc import AsyncIterator, Callable
from typing import Literal, Protocol

from offsetter.core.values import Frozen

Stage = Literal["queued", "running", "done", "failed", "cancelled"]


class Progress(Frozen):
    """One event. done and whole count units ("rows of dots"); problem has the three parts when it failed."""

    number: int
    stage: Stage
    done: int = 0
    whole: int = 0
    unit: str = ""
    said: tuple[str, ...] = ()
    """What was found meanwhile, in sentences."""
    problem: dict[str, str] | None = None

    @property
    def is_last(self) -> bool:
        return self.stage in ("done", "failed", "cancelled")


class Work(Protocol):
    """What a back end for long work must do; local child processes now, a task queue later."""

    def submit(self, key: str, task: str, arguments: dict[str, str], then: Callable[[], None] | None = None) -> None:
        """Start the task, unless one with this key runs already. then: called once it is done, in a thread of its own."""

    def latest(self, key: str) -> Progress | None: ...

    def cancel(self, key: str) -> bool:
        """Stop it for good; what it had half made is thrown away. False when nothing was running."""

    def follow(self, key: str, after: int) -> AsyncIterator[Progress]:
        """Events numbered above after, until the last one."""

    def warm(self) -> None:
        """Get ready for the first task, if there is something to get ready."""

    def close(self) -> None: ...
