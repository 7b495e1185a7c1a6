"""A run handed to its printer: what is known of it from the intent to the end, and what is never guessed."""

from datetime import datetime
from typing import Literal

from pydantic import Field

from offsetter.core.values import Frozen

SendState = Literal[
    "handing over", "waiting", "printing", "held up", "done", "cancelled", "failed", "not sent", "unknown", "in its folder", "taken",
]  # fmt: skip
"""unknown: the line broke while the printer was being told, and it does not know the job by its name; only a person knows."""
OPEN: tuple[SendState, ...] = ("handing over", "waiting", "printing", "held up", "unknown", "in its folder", "taken")


class Send(Frozen):
    id: str
    job: str
    run: str
    machine: str
    name: str
    """Unique: by it the printer is asked after a doubtful answer."""
    way: Literal["network", "folder"] = "network"
    state: SendState
    number: int | None = None
    """The printer's own for it."""
    tray: str = ""
    by: str
    made_at: datetime
    first_sheet: int = Field(1, ge=1)
    sheets: int = Field(1, ge=1)
    sheets_done: int = Field(0, ge=0)
    prints: int = Field(0, ge=0)
    """On those sheets."""
    planned_min: float = Field(0, ge=0)
    """By its mode, for those sheets."""
    begun_at: datetime | None = None
    ended_at: datetime | None = None
    """As they were heard; the second where it came out whole."""
    files: tuple[str, ...] = ()
    """In the machine's folder."""
    said: str = ""
    """What happened, in words."""
    passed: tuple[str, ...] = ()
    """Tasks of care that were put off for it, with the reason."""

    @property
    def is_open(self) -> bool:
        return self.state in OPEN

    def prints_done(self, per_sheet: tuple[int, ...]) -> int:
        """Prints on the sheets that came out. per_sheet: of the whole run."""
        begin = self.first_sheet - 1
        return sum(per_sheet[begin : begin + min(self.sheets_done, self.sheets)])
