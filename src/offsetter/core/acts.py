"""What hands and machines did: appended, never changed; an act is corrected by an act that voids it."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field

from offsetter.core.values import Frozen

Count = Annotated[int, Field(ge=1, le=100_000)]


class Printed(Frozen):
    kind: Literal["printed"] = "printed"
    run: str
    count: Count


class Prepared(Frozen):
    """One stage of preparing (powder, cure) done to count transfers."""

    kind: Literal["prepared"] = "prepared"
    run: str
    stage: str
    count: Count


class RanStage(Frozen):
    stage: str
    temperature_c: float | None
    planned_s: int
    ran_s: float = Field(ge=0, le=86_400)
    ended_early: bool = False


class Pressed(Frozen):
    kind: Literal["pressed"] = "pressed"
    run: str
    size: str
    stages: tuple[RanStage, ...] = ()


class Passed(Frozen):
    kind: Literal["good"] = "good"
    size: str
    count: Count


class Spoiled(Frozen):
    """what: a transfer alone, or a piece (blank and transfer together)."""

    kind: Literal["spoiled"] = "spoiled"
    what: Literal["transfer", "piece"]
    size: str | None = None
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
    good: dict[str, int] = {}
    waiting: dict[str, int] = {}


class Closed(Frozen):
    kind: Literal["closed"] = "closed"
    short: bool
    note: str = Field("", max_length=500)


class Voided(Frozen):
    kind: Literal["voided"] = "voided"
    voids: str
    reason: str = Field("", max_length=200)


ActBody = Annotated[
    Printed | Prepared | Pressed | Passed | Spoiled | Resolved | Closed | Voided, Field(discriminator="kind")
]


class Act(Frozen):
    """id is made where the hand was (the browser), so that sending twice is harmless."""

    id: str = Field(min_length=8, max_length=40)
    job: str
    at: datetime
    actor: str
    signature: str
    """Physical signature of the transfers it concerns; empty where it concerns none."""
    body: ActBody


def standing(acts: tuple[Act, ...]) -> tuple[Act, ...]:
    """Each act once, without voided ones and without the voiding."""
    by_id = {a.id: a for a in acts}
    voided = {a.body.voids for a in by_id.values() if isinstance(a.body, Voided)}
    return tuple(a for a in by_id.values() if a.id not in voided and not isinstance(a.body, Voided))
