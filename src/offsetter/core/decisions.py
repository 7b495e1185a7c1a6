"""The small typed documents that people decide; all else is derived from them."""

from datetime import datetime
from typing import Any, Literal

from pydantic import Field, field_validator

from offsetter.core.compute.plate_spec import Intent
from offsetter.core.values import Frozen

WIDEST_UM = 3_000_000


class BlankLine(Frozen):
    blank: str
    counts: dict[str, int]

    @field_validator("counts")
    @classmethod
    def are_counts(cls, counts: dict[str, int]) -> dict[str, int]:
        if any(n < 0 or n > 100_000 for n in counts.values()) or sum(counts.values()) < 1:
            raise ValueError("order at least one piece, and no size below 0 or over 100,000")
        return counts

    @property
    def pieces(self) -> int:
        return sum(self.counts.values())


class Decision(Frozen):
    settled: bool = False
    """The technician has said: this station is right."""


class OrderDoc(Decision):
    title: str = Field(min_length=1, max_length=120)
    customer: str = Field(min_length=1, max_length=120)
    due: datetime
    line: BlankLine
    quoted: float | None = Field(None, ge=0, le=1e6)
    """Price agreed for a piece."""

    @field_validator("due")
    @classmethod
    def has_a_zone(cls, due: datetime) -> datetime:
        if due.tzinfo is None:
            raise ValueError("give the due time with its time zone")
        return due


class PlaceDoc(Decision):
    """One print: its file, and where it sits on the blank."""

    file: str | None = None
    place: Literal["front chest"] = "front chest"
    width_um: int = Field(210_000, ge=5_000, le=WIDEST_UM)
    below_collar_um: int = Field(85_000, ge=0, le=900_000)
    offset_um: int = Field(0, ge=-400_000, le=400_000)


class Way(Decision):
    """Set at Method: almost everything after follows from it."""

    method: str
    printer: str
    mode: str
    press: str
    oven: str
    schools: dict[str, str] = {}
    recipe: str
    recipe_version: int
    profile: str


class ArtworkDoc(Decision):
    crop: Literal["none", "content"] = "content"
    accepted: tuple[str, ...] = ()
    """Codes of cautions that the technician has seen and takes."""


class ColourDoc(Decision):
    intent: Intent = "relative"
    black_point: bool = True
    ink_limit_pct: float | None = Field(None, ge=50, le=400)
    accepted: tuple[str, ...] = ()


class WhiteDoc(Decision):
    level_pct: float | None = Field(None, ge=0, le=100)
    choke_um: int | None = Field(None, ge=-2_000, le=2_000)
    knock_out: bool = True
    faint: Literal["cut", "keep"] = "cut"
    guard: bool = True
    accepted: tuple[str, ...] = ()


class SheetDoc(Decision):
    spares: int | None = Field(None, ge=0, le=1000)
    gap_um: int = Field(8_000, ge=0, le=100_000)
    across: int | None = Field(None, ge=1, le=50)
    rows_per_cut: int | None = Field(None, ge=1, le=200)
    turned: bool = False
    accepted: tuple[str, ...] = ()


DOCUMENTS: dict[str, type[Decision]] = {
    "order": OrderDoc, "place": PlaceDoc, "method": Way, "artwork": ArtworkDoc, "colour": ColourDoc,
    "white": WhiteDoc, "sheet": SheetDoc,
}  # fmt: skip


class Decisions(Frozen):
    """All documents of one print of a job; None where nobody has decided yet."""

    order: OrderDoc
    place: PlaceDoc = PlaceDoc()
    method: Way | None = None
    artwork: ArtworkDoc = ArtworkDoc()
    colour: ColourDoc = ColourDoc()
    white: WhiteDoc = WhiteDoc()
    sheet: SheetDoc = SheetDoc()

    def with_draft(self, station: str, body: dict[str, Any]) -> "Decisions":
        """The same decisions with one document replaced; raises pydantic's ValidationError for a bad one."""
        return self.model_copy(update={station: DOCUMENTS[station].model_validate(body)})
