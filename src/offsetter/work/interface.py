"""Long work: submitted under the hash of what it makes, followed in real units, cancelled for good.

Where it stands is kept on a board that every process of the shop reads: whichever a browser hangs on can follow it or stop it.
"""

from collections.abc import AsyncIterator, Callable
from typing import Protocol

from offsetter.core.values import Left, Progress


class Board(Protocol):
    """Where long work stands, for every process. Who owns work says again and again that it lives; else it is left to others."""

    def take(self, key: str, task: str, arguments: dict[str, str], owner: str, first: Progress) -> bool:
        """Put it up as this owner's; False where one that lives has it."""

    def tell(self, key: str, owner: str, events: tuple[Progress, ...]) -> bool:
        """Events up to the newest; False where it is not this owner's any more."""

    def beat(self, owner: str) -> tuple[str, ...]:
        """This owner lives; gives those of its works that somebody wants stopped."""

    def events(self, key: str) -> tuple[Progress, ...]:
        """Those that are kept: what was found meanwhile, and the newest."""

    def stop(self, key: str) -> bool:
        """Ask its owner to stop it; False when nothing runs."""

    def stop_others(self, task: str, but: str) -> None:
        """Ask the same of all works of a task but one."""

    def leave(self, owner: str) -> None:
        """This owner goes: what it has not done is anybody's."""

    def take_over(self, owner: str) -> tuple[Left, ...]:
        """What was left, now this owner's."""


class Work(Protocol):
    """What a back end for long work must do; local child processes now, a task queue later."""

    def submit(self, key: str, task: str, arguments: dict[str, str], *, alone: bool = False) -> None:
        """Start the task, unless one with this key runs already. alone: others of its task are stopped."""

    def after(self, task: str, then: Callable[[dict[str, str]], None]) -> None:
        """Called with the arguments of each such task that is done, in a thread of its own."""

    def latest(self, key: str) -> Progress | None: ...

    def cancel(self, key: str) -> bool:
        """Stop it for good; what it had half made is thrown away. False when nothing was running."""

    def follow(self, key: str, after: int) -> AsyncIterator[Progress]:
        """Events numbered above after, until the last one."""

    def warm(self) -> None:
        """Get ready for the first task, and go on with what a process that is gone has left."""

    def close(self) -> None: ...
