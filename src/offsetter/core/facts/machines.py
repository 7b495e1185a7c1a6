import re
from decimal import Decimal
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from offsetter.core.facts.inks import FOUR, INKS, WHITE, InkChannel
from offsetter.core.values import Fact, Frozen

SPEAKS_OF_FACES = re.compile(r"\bface (up|down)\b|face to the heads", re.IGNORECASE)
LARGEST_MM = 10_000
"""No roll, sheet or platen of a small shop is larger."""
MachineId = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")]
MachineName = Annotated[str, Field(min_length=2, max_length=40)]
Word = Annotated[str, Field(min_length=1, max_length=60)]
Line = Annotated[str, Field(min_length=1, max_length=240)]
PlatenMm = Annotated[float, Field(ge=30, le=3000)]
Sources = dict[Annotated[str, Field(max_length=60)], Annotated[str, Field(max_length=60)]]
"""Field to where its value comes from; a value that the shop has looked at is not among them."""


WornPart = Literal["drum", "belt", "fuser", "waste"]


class PrintMode(Frozen):
    id: MachineId
    name: Word
    dpi: int = Field(gt=0, le=4800)
    m2_per_h: float = Field(gt=0, le=1000)
    white_passes: int = Field(ge=1, le=8)


class Feed(Frozen):
    """One medium that a printer takes for one method: a roll, sheets, or the garment itself on its platen. Lengths in mm."""

    method: Word
    media: Word
    kind: Literal["roll", "sheet", "garment"] = "roll"
    media_mm: float = Field(gt=0, le=LARGEST_MM)
    length_mm: float = Field(gt=0, le=LARGEST_MM)
    """Of a sheet or a platen; of a roll what is cut off at most."""
    printable_mm: float = Field(gt=0, le=LARGEST_MM)
    margin_mm: float = Field(ge=0, le=1000)
    """Left free at each end."""
    price: Decimal | None = Field(None, ge=0, le=100_000)
    """Of one metre or one sheet; None: from the shop's list."""
    load_card: tuple[Line, ...] = Field(max_length=12)
    verdict: Annotated[str, Field(max_length=120)] = "Load it as the card says"
    """The one thing to do, in words."""
    faces: tuple[Line, ...] = Field((), max_length=2)
    """How its two faces are told apart, the printed one first."""
    prints: Literal["", "up", "down"] = ""
    """Which side of a sheet this printer prints as it lies in its tray: what a marked test sheet showed; empty: nobody tried."""
    offered: bool = True
    """False: the printer does not do it any more; jobs that were decided so still read it."""

    @model_validator(mode="after")
    def prints_inside_its_medium(self) -> "Feed":
        if self.printable_mm > self.media_mm or 2 * self.margin_mm >= self.length_mm:
            raise ValueError("what is printed is no wider than its medium, and its margins leave room between them")
        return self

    @property
    def face_said(self) -> str:
        """How a sheet is laid here, where a test sheet settled it."""
        if not self.prints or not self.faces:
            return ""
        face = self.faces[0].split(":")[0]
        return f"{face[:1].upper()}{face[1:]} face {self.prints.upper()} in the tray: a marked test sheet showed it."

    @property
    def steps(self) -> tuple[str, ...]:
        """The load card; what the test sheet showed stands where it speaks of faces."""
        said = self.face_said
        if not said:
            return self.load_card
        rest = tuple(s for s in self.load_card if not SPEAKS_OF_FACES.search(s))
        return (said, *rest)

    @property
    def told(self) -> str:
        """The one thing to do, in words."""
        if not self.face_said or not SPEAKS_OF_FACES.search(self.verdict):
            return self.verdict
        return f"{self.faces[0].split(':')[0]} face {self.prints} in the tray"


class Owned(Fact):
    """What every machine of the shop has."""

    id: MachineId
    name: MachineName
    began_as: str = Field("", max_length=40)
    """The general kind that it was set up as."""
    retired: bool = False
    """Gone, or out of use: jobs that were decided on it still read it, and it is offered to none."""
    sources: Sources = {}


class Printer(Owned):
    modes: tuple[PrintMode, ...] = Field(min_length=1, max_length=12)
    plate_shift_mm: float = Field(ge=0, le=10)
    care_before: Annotated[str, Field(max_length=240)]
    takes: Literal["inks", "rgb"] = "inks"
    """What is sent to it: ink shares, or the RGB of a driver that separates by itself."""
    inks: tuple[InkChannel, ...] = Field(FOUR, min_length=4, max_length=10)
    """Of colour, that it holds; white is the method's."""
    feeds: tuple[Feed, ...] = Field(min_length=1, max_length=20)
    tanks_ml: dict[InkChannel, Annotated[float, Field(gt=0, le=20_000)]] = Field({}, max_length=16)
    """What each ink's tank or cartridge holds when it is full; empty: nobody said, and levels stay shares."""
    yields: dict[InkChannel, Annotated[int, Field(ge=10, le=1_000_000)]] = Field({}, max_length=16)
    """Of toner: A4 pages at 5 % coverage that a full cartridge gives."""
    part_pages: dict[WornPart, Annotated[int, Field(ge=100, le=10_000_000)]] = Field({}, max_length=4)
    """A4 pages that a worn part is good for, or until the waste box is full."""
    cleaning_ml: float = Field(0.0, ge=0, le=100)
    """Of each ink, besides what is laid, with every job."""

    @model_validator(mode="before")
    @classmethod
    def reads_one_roll(cls, body: Any) -> Any:
        """Printers of the first versions took one roll for one method."""
        if isinstance(body, dict) and "media_mm" in body:
            names = ("method", "media", "media_mm", "printable_mm", "margin_mm", "load_card")
            feed = {n: body[n] for n in names} | {"length_mm": 840, "verdict": "matte face up, leading edge square"}
            return {**{k: v for k, v in body.items() if k not in names}, "feeds": [feed]}
        return body

    @model_validator(mode="after")
    def holds_known_inks(self) -> "Printer":
        if self.inks[:4] != FOUR or len(set(self.inks)) < len(self.inks) or not {*self.inks} <= INKS.keys() - {WHITE}:
            raise ValueError("its inks are C, M, Y and K, and after them others that are known, each once")
        return self

    @property
    def offers(self) -> tuple[Feed, ...]:
        """What new work may be sent to it on."""
        return () if self.retired else tuple(f for f in self.feeds if f.offered)

    @property
    def methods(self) -> tuple[str, ...]:
        """What it is offered for."""
        return tuple(dict.fromkeys(f.method for f in self.offers))

    def feed(self, method: str) -> Feed | None:
        """What it takes for a method; None when it cannot do it."""
        return next((f for f in self.feeds if f.method == method), None)


class HeatReading(Frozen):
    run: Literal["heating", "cooling"]
    minute: float = Field(ge=0, le=240)
    celsius: float = Field(ge=-10, le=350)


class Press(Owned):
    kind: Literal["clamp", "swing-away", "drawer", "self-opening", "mug"]
    platen_width_mm: PlatenMm
    platen_height_mm: PlatenMm
    highest_c: float = Field(ge=60, le=400)
    gauge: dict[Word, Word] = Field(max_length=12)
    """Word for a pressure to what this press shows for it: from memory until the shop has tried it."""
    gauge_of: dict[Annotated[str, Field(min_length=1, max_length=60)], dict[Word, Word]] = Field({}, max_length=60)
    """Person to the words that mean something else in their hands: one closes a knob firm where another calls it medium."""
    opens_mm: float = Field(40.0, gt=0, le=500)
    """Thickest thing that goes in: from memory until it is measured."""
    readings: tuple[HeatReading, ...] = Field((), max_length=200)
    """Of a probe on its platen: one heating run and one cooling run."""
    room_c: float | None = Field(None, ge=-10, le=50)
    """Measured when the readings were taken, never fitted."""
    settle_min: float = Field(0.5, ge=0, le=30)
    """From the set temperature reached to even heat: from memory."""
    lower_warm_min: float = Field(2.0, ge=0, le=30)
    """Until the lower platen is warm, closed on nothing: practice, 120 s."""

    def gauge_for(self, person: str) -> dict[str, str]:
        """What this press shows for each word when this person closes it."""
        return {**self.gauge, **self.gauge_of.get(person, {})}

    @property
    def is_mug(self) -> bool:
        return self.kind == "mug"


class Oven(Owned):
    width_mm: PlatenMm
    length_mm: PlatenMm
    highest_c: float = Field(ge=60, le=400)


class Cutter(Owned):
    """A cutter that stands apart from the printer: it finds the printed marks and follows the line."""

    width_mm: PlatenMm
    """That its blade reaches across."""
    speed_mm_s: float = Field(gt=0, le=2000)
    least_radius_mm: float = Field(0.0, ge=0, le=10)
    """Corners sharper than this its blade cannot follow: the line is rounded there."""


class Probe(Owned):
    """What measures: colour on a printed chart, or the heat of what it is held to."""

    measures: Literal["colour", "heat"]
    address: str = Field("", max_length=200)
    """On the shop's network, as http://; empty: it is read by hand. Judged whenever it is spoken to."""


Machine = Printer | Press | Oven | Cutter | Probe
