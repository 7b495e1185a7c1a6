"""What hands and machines did: appended, never changed; an act is corrected by an act that voids it.

Fields that came later have defaults, so that acts recorded by earlier versions stay readable (tests/core/acts).
"""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from offsetter.core.values import Frozen

Count = Annotated[int, Field(ge=1, le=100_000)]
Counts = dict[str, Annotated[int, Field(ge=0, le=100_000)]]


class Printed(Frozen):
    kind: Literal["printed"] = "printed"
    run: str
    count: Count
    per: Counts = {}
    """Signature to prints, worked out from the run when it was recorded."""
    lot: str = Field("", max_length=60)
    """Of the roll and powder, as written on them."""


class RanStage(Frozen):
    stage: str
    temperature_c: float | None
    planned_s: int
    ran_s: float = Field(ge=0, le=86_400)
    ended_early: bool = False
    warm_at_s: float | None = Field(None, ge=0, le=86_400)
    """The latest moment at which a touch found it still warm."""
    again: bool = False
    """Done once more, to save a piece that had not let go."""
    covers: tuple[str, ...] = Field((), max_length=6)
    """Sheets that are used up by counting and lay over or under it."""


class Prepared(Frozen):
    """One stage of preparing (powder, cure) done to count transfers; without a run, to garments that are printed afterwards."""

    kind: Literal["prepared"] = "prepared"
    run: str = ""
    stage: str
    count: Count
    per: Counts = {}
    ran: RanStage | None = None
    """As the clock saw it; None where it was ticked by hand."""


class Pressed(Frozen):
    kind: Literal["pressed"] = "pressed"
    run: str
    size: str
    line: str = "a"
    print: str = "front"
    number: int | None = None
    """Of the numbered piece, where this print is its own text."""
    press: str = ""
    recipe: str = ""
    """By which its stages went, filled in when it was recorded; empty in acts of the time when there was film alone."""
    stages: tuple[RanStage, ...] = ()
    count: Count = 1
    """Alike pieces that lay in one pressing."""
    together: Count = 1
    """All that lay in it, pieces of other names among them."""

    @property
    def slot(self) -> str:
        return f"{self.line}/{self.size}" + (f"#{self.number}" if self.number else "")


class Passed(Frozen):
    kind: Literal["good"] = "good"
    size: str
    line: str = "a"
    count: Count


class Spoiled(Frozen):
    """what: a transfer alone, a blank alone, or a piece (blank and what was pressed on it)."""

    kind: Literal["spoiled"] = "spoiled"
    what: Literal["transfer", "blank", "piece"]
    size: str | None = None
    line: str = "a"
    number: int | None = None
    print: str = "front"
    """Of a transfer."""
    had: tuple[str, ...] = ()
    """Prints that a piece had taken; empty in old acts: all."""
    outcome: Literal["scrap", "second"] = "scrap"
    count: Count
    stage: str
    cause: str = Field(max_length=200)


class Resolved(Frozen):
    """What the technician chose for work that no longer matches.

    use: take it as it is. rest: print again what is not pressed yet. all: make everything again.
    counts are what the choice took out, fixed when it was made.
    """

    kind: Literal["resolved"] = "resolved"
    old: str
    new: str
    way: Literal["use", "rest", "all"]
    reason: str = Field(min_length=1, max_length=300)
    transfers: int = Field(0, ge=0)
    good: Counts = {}
    """Kind to good pieces put aside (a bare size in old acts)."""
    waiting: Counts = {}
    out: dict[str, Counts] = {}
    """Print to slot to pressed prints put aside with their pieces."""


class Stored(Frozen):
    """Transfers left over, laid into the store."""

    kind: Literal["stored"] = "stored"
    of: str
    """Their physical signature."""
    run: str = ""
    count: Count
    note: str = Field("", max_length=200)


class Fetched(Frozen):
    """Transfers taken out of the store for this job; stored is the act that laid them there."""

    kind: Literal["fetched"] = "fetched"
    stored: str
    count: Count


class SetUp(Frozen):
    """A press read back before piece one: how it stands from now on."""

    kind: Literal["set-up"] = "set-up"
    press: str
    temperature_c: float | None = None
    time_s: int | None = None
    pressure: str = ""
    thickness_mm: float | None = None
    pad: str = ""
    changed: tuple[str, ...] = ()


class Renewed(Frozen):
    """A sheet that is used up by counting, taken new at a press."""

    kind: Literal["renewed"] = "renewed"
    press: str
    cover: str = Field(min_length=1, max_length=60)


class Signed(Frozen):
    """The proof agreed to, as the prints were then."""

    kind: Literal["signed"] = "signed"
    by: str = Field(min_length=1, max_length=120)
    how: str = Field("", max_length=120)
    signatures: dict[str, tuple[str, ...]]
    """Print to the physical signatures shown."""


class Held(Frozen):
    kind: Literal["held"] = "held"
    reason: str = Field(min_length=1, max_length=300)


class Resumed(Frozen):
    kind: Literal["resumed"] = "resumed"


class Cancelled(Frozen):
    kind: Literal["cancelled"] = "cancelled"
    reason: str = Field(min_length=1, max_length=300)


class Photographed(Frozen):
    kind: Literal["photographed"] = "photographed"
    file: str
    of: str = ""
    """The act it belongs to."""
    note: str = Field("", max_length=200)


class Closed(Frozen):
    kind: Literal["closed"] = "closed"
    short: bool
    note: str = Field("", max_length=500)


class Voided(Frozen):
    kind: Literal["voided"] = "voided"
    voids: str
    reason: str = Field("", max_length=200)


ActBody = Annotated[
    Printed | Prepared | Pressed | Passed | Spoiled | Resolved | Stored | Fetched | SetUp | Renewed | Signed | Held | Resumed | Cancelled
    | Photographed | Closed | Voided,
    Field(discriminator="kind"),
]  # fmt: skip


class Act(Frozen):
    """id is made where the hand was (the browser), so that sending twice is harmless."""

    id: str = Field(min_length=8, max_length=40)
    job: str
    at: datetime
    actor: str
    signature: str
    """Physical signature of the transfers it concerns; empty where it concerns none."""
    body: ActBody


Standing = Literal["open", "held", "cancelled", "closed"]


def standing(acts: tuple[Act, ...]) -> tuple[Act, ...]:
    """Each act once, without voided ones and without the voiding."""
    by_id = {a.id: a for a in acts}
    voided = {a.body.voids for a in by_id.values() if isinstance(a.body, Voided)}
    return tuple(a for a in by_id.values() if a.id not in voided and not isinstance(a.body, Voided))


def job_standing(acts: tuple[Act, ...]) -> tuple[Standing, str]:
    """Whether a job may be worked on, and the reason if not."""
    done = sorted(standing(acts), key=lambda a: (a.at, a.id))
    if any(isinstance(a.body, Closed) for a in done):
        return "closed", ""
    cancelled = next((a.body for a in done if isinstance(a.body, Cancelled)), None)
    if cancelled:
        return "cancelled", cancelled.reason
    last = next((a.body for a in reversed(done) if isinstance(a.body, Held | Resumed)), None)
    return ("held", last.reason) if isinstance(last, Held) else ("open", "")
