"""What is done with a machine, and what it took: appended, never changed, like a job's acts."""

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from offsetter.core.values import Frozen

Ink = Annotated[str, Field(pattern=r"^[A-Z][A-Za-z]{0,7}$")]
Pct = Annotated[float, Field(ge=0, le=100)]
Amount = Annotated[float, Field(ge=0, le=1_000_000)]


class Levels(Frozen):
    """Levels read after what came before."""

    kind: Literal["levels"] = "levels"
    pct: dict[Ink, Pct] = Field(max_length=16)
    by_hand: bool = False
    """Somebody looked; otherwise the printer said it."""


class Took(Frozen):
    """A printing: what its plates say that it takes. sign -1: it was taken back."""

    kind: Literal["took"] = "took"
    job: str = Field(max_length=40)
    run: str = Field(max_length=40)
    count: int = Field(ge=0, le=100_000)
    sheets: int = Field(0, ge=0, le=100_000)
    m2: Amount = 0
    expected: dict[Ink, Amount] = Field({}, max_length=16)
    """mL of ink; of toner A4 pages at 5 % coverage."""
    sign: Literal[1, -1] = 1


class Filled(Frozen):
    """A bottle poured in, or a cartridge changed: a new count begins."""

    kind: Literal["filled"] = "filled"
    channel: Ink
    way: Literal["poured", "changed"] = "poured"
    amount_ml: float | None = Field(None, gt=0, le=20_000)
    """None: until it was full."""
    lot: str = Field("", max_length=60)
    expires: date | None = None


class Loaded(Frozen):
    """A roll hung, or sheets laid into a tray."""

    kind: Literal["loaded"] = "loaded"
    tray: str = Field(min_length=1, max_length=120)
    media: str = Field(min_length=1, max_length=60)
    amount: Amount | None = None
    """Metres, or sheets; None: not counted."""
    lot: str = Field("", max_length=60)


class Cared(Frozen):
    """A task of care done, or skipped with a reason. totals: what the machine had done until then."""

    kind: Literal["cared"] = "cared"
    task: str = Field(pattern=r"^[a-z0-9-]{2,40}$")
    outcome: Literal["done", "skipped"] = "done"
    reason: str = Field("", max_length=200)
    totals: dict[Annotated[str, Field(max_length=12)], Amount] = {}


class Room(Frozen):
    """The air that it stands in."""

    kind: Literal["room"] = "room"
    celsius: float | None = Field(None, ge=-20, le=60)
    humidity_pct: Pct | None = None


MachineBody = Annotated[Levels | Took | Filled | Loaded | Cared | Room, Field(discriminator="kind")]
ByHand = Annotated[Levels | Filled | Loaded | Cared | Room, Field(discriminator="kind")]
"""What a person may record."""


class MachineAct(Frozen):
    id: str = Field(pattern=r"^[A-Za-z0-9-]{8,60}$")
    machine: str = Field(max_length=40)
    at: datetime
    actor: str = Field("", max_length=80)
    """Empty: the machine itself."""
    body: MachineBody
