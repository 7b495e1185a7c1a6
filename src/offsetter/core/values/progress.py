from typing import Literal

from offsetter.core.values.frozen import Frozen

Stage = Literal["queued", "running", "done", "failed", "cancelled"]


class Progress(Frozen):
    """One event of long work. done and whole count units ("rows of dots"); problem has the three parts when it failed."""

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


class Left(Frozen):
    """Work whose process is gone, as another takes it over."""

    key: str
    task: str
    arguments: dict[str, str]
    events: tuple[Progress, ...]
    tries: int
    """How often it was begun before."""
    is_stopping: bool
