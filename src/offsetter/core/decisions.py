"""The small typed documents that people decide; all else is derived from them."""

from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator, model_validator

from offsetter.core.compute.art_ref import ArtRef, Fixes
from offsetter.core.compute.cut_spec import CutShape, CutStart, CutTurn
from offsetter.core.compute.plate_spec import Intent, Shift
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Seen

WIDEST_UM = 3_000_000


PrintPlace = Annotated[str, Field(pattern=r"^[a-z][a-z0-9 -]{1,23}$")]
"""On the blank: a place that its shape has, or one of its own."""
MOST_VERSIONS = 1_000_000
MOST_PIECES = 2_000
"""Names a job takes; a larger list is two jobs."""


Id = Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9._@:-]+$")]
"""Of a thing that the shop has: as long as a row's key may be."""
SizeName = Annotated[str, Field(min_length=1, max_length=20)]
PrintId = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,20}$")]


Pins = dict[Id, Annotated[int, Field(ge=1, le=MOST_VERSIONS)]]
"""Thing of the shop to the version of its measures that was decided with."""


class BlankLine(Frozen):
    """So many pieces of one blank, by size."""

    id: str = Field("a", pattern=r"^[a-z0-9]{1,8}$")
    blank: Id
    counts: dict[SizeName, int] = Field(max_length=20)

    @field_validator("counts")
    @classmethod
    def are_counts(cls, counts: dict[str, int]) -> dict[str, int]:
        if any(n < 0 or n > 100_000 for n in counts.values()) or sum(counts.values()) < 1:
            raise ValueError(say("order at least one piece, and no size below 0 or over 100,000"))
        return counts

    @property
    def pieces(self) -> int:
        return sum(self.counts.values())


class Named(Frozen):
    """One numbered piece with its own text."""

    number: int = Field(ge=1, le=MOST_PIECES)
    line: Annotated[str, Field(max_length=8)]
    size: SizeName
    text: str = Field(min_length=1, max_length=40)

    @property
    def slot(self) -> str:
        return f"{self.line}/{self.size}#{self.number}"


def kind_of(slot: str) -> str:
    """A slot is what takes a print: pieces of one line and size (a/M), or one numbered piece of them (a/M#7)."""
    return slot.split("#")[0]


def number_of(slot: str) -> int | None:
    """The number of a numbered piece; None for a slot whose pieces are alike."""
    _, mark, number = slot.partition("#")
    return int(number) if mark else None


class Decision(Frozen):
    settled: bool = False
    """The technician has said: this station is right."""
    seen: tuple[Seen, ...] | None = None
    """What the station had found then; None: it was settled before that was kept."""

    @model_validator(mode="before")
    @classmethod
    def reads_what_was_accepted(cls, body: Any) -> Any:
        """Earlier versions kept codes of cautions that nobody could set."""
        return (
            {k: v for k, v in body.items() if k != "accepted"}
            if isinstance(body, dict) and "accepted" in body
            else body
        )

    def says_the_same(self, other: "Decision") -> bool:
        """All but who has seen what."""
        return self.model_dump(exclude={"settled", "seen"}) == other.model_dump(exclude={"settled", "seen"})


class OrderDoc(Decision):
    title: str = Field(min_length=1, max_length=120)
    customer: str = Field(min_length=1, max_length=120)
    due: datetime
    lines: tuple[BlankLine, ...] = Field(min_length=1, max_length=12)
    prints: tuple[PrintId, ...] = Field(("front",), min_length=1, max_length=8)
    """The prints on a piece, in the order in which they are pressed."""
    names: tuple[Named, ...] = Field((), max_length=MOST_PIECES)
    quoted: float | None = Field(None, ge=0, le=1e6)
    """Price agreed for a piece."""
    agreed: str = Field("", max_length=300)
    """To which quotation the customer said yes, who and how; empty: nobody noted it."""
    pins: Pins = Field({}, max_length=12)
    """Of its blanks; one that is not there is as it is today."""

    @model_validator(mode="before")
    @classmethod
    def reads_one_line(cls, body: Any) -> Any:
        """Orders taken before a job could hold several blanks name one line."""
        if isinstance(body, dict) and "line" in body:
            return {**{k: v for k, v in body.items() if k != "line"}, "lines": [body["line"]]}
        return body

    @model_validator(mode="after")
    def is_told_apart(self) -> "OrderDoc":
        ids, numbers = [ln.id for ln in self.lines], [n.number for n in self.names]
        if len(set(ids)) < len(ids) or len(set(self.prints)) < len(self.prints) or len(set(numbers)) < len(numbers):
            raise ValueError(say("every blank line, print and numbered piece needs a name of its own"))
        ordered = self.ordered
        for slot in (n.slot for n in self.names):
            if kind_of(slot) not in ordered:
                raise ValueError(say("piece {number_of} is of a size that is not ordered", number_of=number_of(slot)))
        return self

    @property
    def pieces(self) -> int:
        return sum(ln.pieces for ln in self.lines)

    @property
    def ordered(self) -> dict[str, int]:
        """Kind (line/size) to pieces, kinds nobody wants left out."""
        return {f"{ln.id}/{s}": n for ln in self.lines for s, n in ln.counts.items() if n}

    def in_proportion(self, pieces: int) -> "OrderDoc":
        """As many pieces of the same, sizes shared out as they are here; without names, which fit one piece each."""
        exact = {k: pieces * n / self.pieces for k, n in self.ordered.items()}
        given = {k: int(e) for k, e in exact.items()}
        for kind in sorted(exact, key=lambda k: given[k] - exact[k])[: pieces - sum(given.values())]:
            given[kind] += 1
        lines = tuple(
            ln.model_copy(update={"counts": {s: given.get(f"{ln.id}/{s}", 0) for s in ln.counts}}) for ln in self.lines
        )
        kept = tuple(ln for ln in lines if any(ln.counts.values()))
        return self.model_copy(update={"lines": kept, "names": ()})

    def line_of(self, kind: str) -> BlankLine:
        return next(ln for ln in self.lines if ln.id == kind.split("/")[0])

    @field_validator("due")
    @classmethod
    def has_a_zone(cls, due: datetime) -> datetime:
        if due.tzinfo is None:
            raise ValueError(say("give the due time with its time zone"))
        return due


class NameStyle(Frozen):
    """How each numbered piece's own text is set: in the shipped type, in one colour."""

    height_um: int = Field(30_000, ge=5_000, le=400_000)
    """Of a capital letter."""
    colour: str = Field("#FFFFFF", pattern=r"^#[0-9A-Fa-f]{6}$")


class PlaceDoc(Decision):
    """One print: its file (or the names' own text), and where it sits on the blank."""

    file: str | None = Field(None, pattern=r"^[0-9A-Za-z ]{1,64}$")
    page: int = Field(1, ge=1, le=200)
    """Of the file, when it has several."""
    place: PrintPlace = "front chest"
    lines: tuple[Annotated[str, Field(max_length=8)], ...] = Field((), max_length=12)
    """Blank lines that take this print; empty: all of them."""
    text: NameStyle | None = None
    """Set: every numbered piece gets its own text instead of the file."""
    width_um: int = Field(210_000, ge=5_000, le=WIDEST_UM)
    widths_um: dict[SizeName, Annotated[int, Field(ge=5_000, le=WIDEST_UM)]] = Field({}, max_length=40)
    """Sizes that take another width."""
    below_collar_um: int = Field(85_000, ge=-50_000, le=3_000_000)
    """From the collar's edge; on a sleeve from the shoulder seam, on flat things and mugs from the upper edge (a bleed lies above it)."""
    offset_um: int = Field(0, ge=-1_500_000, le=1_500_000)

    def width_for(self, size: str) -> int:
        return self.widths_um.get(size, self.width_um)

    def is_on(self, line: str) -> bool:
        return not self.lines or line in self.lines


class Way(Decision):
    """Set at Method: almost everything after follows from it."""

    method: Id
    printer: Id
    mode: Id
    press: Id
    oven: Id | Literal[""] = ""
    """Empty where nothing is cured in one."""
    schools: dict[Id, Id] = Field({}, max_length=40)
    because: str = Field("", max_length=200)
    """Why it differs from what the cloth asks, in the person's own words."""
    recipe: Id
    recipe_version: int = Field(ge=0, le=MOST_VERSIONS)
    profile: Id
    calibration: int = Field(0, ge=0, le=MOST_VERSIONS)
    """Version of the print condition whose correction and ink limit hold; 0: none."""
    pins: Pins = Field({}, max_length=8)
    """Of its printer, press and oven; one that is not there is as it is today."""


Language = Literal["en", "de", "fr", "es", "it", "pt"]


class ArtworkDoc(Decision):
    crop: Literal["none", "content"] = "content"
    language: Language = "en"
    """Of the lettering, for its spelling."""
    fixes: Fixes = Fixes()
    """What is put right in the picture, again whenever its file is replaced."""


class ColourDoc(Decision):
    intent: Intent = "relative"
    black_point: bool = True
    ink_limit_pct: float | None = Field(None, ge=50, le=400)
    sheet_colour: str = Field("#E8B923", pattern=r"^#[0-9A-Fa-f]{6}$")
    """Of the coloured sheet, where one gives the colour."""
    shifts: tuple[Shift, ...] = Field((), max_length=12)
    """Colours of the artwork that are printed as another."""


class WhiteDoc(Decision):
    level_pct: float | None = Field(None, ge=0, le=100)
    choke_um: int | None = Field(None, ge=-2_000, le=2_000)
    knock_out: bool = True
    faint: Literal["cut", "keep"] = "cut"
    guard: bool = True
    mask: str | None = Field(None, pattern=r"^[0-9A-Za-z]{1,64}$")
    """A picture that says where white lies instead of the level; None: the artwork's own lightness does."""
    mask_dark: bool = False
    """White lies where that picture is dark."""
    lights_from: float | None = Field(None, ge=0, le=95)
    """White lies under what is lighter than this L* alone; None: under all of the artwork."""
    own: bool = True
    """Where the artwork's file brings a white of its own, that is where white lies."""


class SheetDoc(Decision):
    spares: int | None = Field(None, ge=0, le=1000)
    gap_um: int = Field(8_000, ge=0, le=100_000)
    across: int | None = Field(None, ge=1, le=50)
    rows_per_cut: int | None = Field(None, ge=1, le=200)
    turned: bool | None = None
    """None: unturned, unless only turned it fits."""
    cut_offset_um: int | None = Field(None, ge=-10_000, le=50_000)
    """Of the cutter's line, outside the print; None: as the method has it."""
    cut_shape: CutShape = "outline"
    cut_through: bool = False
    cut_starts: CutStart = "corner"
    cut_turns: CutTurn = ""
    cut_holes: bool = True
    """Holes inside a print are cut out too."""
    weed_boxes: bool = True
    crop_marks: bool = False
    """At the corners of every print, outside it."""
    in_parts: bool = False
    """A print that is too large is printed in parts."""
    overlap_um: int = Field(0, ge=0, le=50_000)
    """Of such parts; 0: edge to edge."""


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

    @property
    def art_ref(self) -> str | None:
        """What is printed of the file: its page, with what was put right. None without a file."""
        place = self.place
        return str(ArtRef(file=place.file, page=place.page, fixes=self.artwork.fixes)) if place.file else None

    def with_draft(self, station: str, body: dict[str, Any]) -> "Decisions":
        """The same decisions with one document replaced; raises pydantic's ValidationError for a bad one."""
        return self.model_copy(update={station: DOCUMENTS[station].model_validate(body)})
