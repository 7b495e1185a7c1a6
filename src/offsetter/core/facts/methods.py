from decimal import Decimal
from typing import Literal

from pydantic import Field

from offsetter.core.values import Fact, Frozen

Channel = Literal["C", "M", "Y", "K", "W"]


Tone = Literal["any", "white", "light", "dark"]
LeftOut = Literal["white"]


class MethodCost(Frozen):
    """Money of one print, from memory until the shop's own prices: media by sheet or by square metre, ink by covered square metre."""

    sheet: tuple[float, float] | None = None
    """Printable sheet in mm, when it is printed on sheets."""
    sheet_price: Decimal = Decimal(0)
    """Of everything that one print sheet takes with it."""
    media_m2: Decimal = Decimal(0)
    colour_m2: Decimal = Decimal(0)
    white_m2: Decimal = Decimal(0)
    extra_m2: Decimal = Decimal(0)
    """Powder and the like, by covered square metre."""
    extra_piece: Decimal = Decimal(0)
    """Pre-treatment and the like, on dark cloth."""
    cover_piece: Decimal = Decimal(0)
    """A piece's share of sheets that are used up by counting."""
    setup_min: float = Field(0, ge=0)


class ColouredSheet(Frozen):
    name: str = Field(min_length=2, max_length=40)
    colour: str = Field(pattern=r"^#[0-9A-Fa-f]{6}$")

    @property
    def medium(self) -> str:
        """What the store counts it as."""
        return f"coloured-sheet-{self.name.replace(' ', '-')}"


class Method(Fact):
    """One of the ways to put a picture on a blank. What nobody gave is None and is asked for."""

    id: str
    name: str
    marking: str
    carrier: str
    blanks: str
    mirror: bool
    white: Literal["none", "plate", "sheet"]
    plate_order: tuple[Literal["colour", "white"], ...]
    why_mirror: str
    rank: int = 100
    """Its place in lists."""
    medium: str = "transfer"
    """Short word for what is printed."""
    holds: str = ""
    """What has to hold faint pixels and thin strokes, when something does."""
    leaves_out: dict[LeftOut, str] = {}
    """Stations that have nothing to do here, each with the reason."""
    prepares_first: str = ""
    """Why Prepare comes before Print; empty: it comes after."""
    sheets: tuple[ColouredSheet, ...] = ()
    """Coloured sheets to choose from, where one gives the colour."""
    composite_black: bool = False
    """All four toners for one heavy, even layer of one colour."""
    min_stroke_mm: float | None = None
    min_gap_mm: float | None = None
    faint_floor: float | None = Field(None, ge=0, le=1)
    """Share of white (0 to 1) under which powder or toner does not hold."""
    dpi: int | None = None
    laydown_ml_m2: dict[Channel, float] = {}
    """Ink volume on one square metre at 100 % of one channel, all passes together."""
    ink_limit_pct: float | None = None
    plate_shift_mm: float | None = None
    choke_mm: float | None = None
    white_level_pct: float | None = Field(None, ge=0, le=100)
    white_opacity: float | None = Field(None, ge=0, le=1)
    knock_out_delta_e: float | None = None
    kinds: tuple[Literal["cloth", "hard"], ...] = ("cloth",)
    shapes: tuple[Literal["flat", "mug"], ...] = ("flat",)
    lies: Literal["in", "ink", "coat", "film", "sheet"] = "film"
    """Where the colour ends up: in the fibre, as ink on the yarns, as a thin coat, as a film that grips, as a sheet."""
    tone: Tone = "any"
    """Which blanks' colours it is for; a white it brings along makes it any or dark."""
    fibre: str = ""
    """The fibre that holds the marking; from fibre_least on it is worth doing, from fibre_full on nothing is lost."""
    fibre_least: float = Field(0, ge=0, le=1)
    fibre_full: float = Field(0, ge=0, le=1)
    needs_coat: bool = False
    """Hard blanks must carry a coating that takes dye."""
    is_translucent: bool = False
    colours: int | None = Field(None, ge=1)
    """The most colours in one go; None: any picture."""
    uneven: Literal["flat", "pad", "risers"] = "flat"
    """What a zip, a seam or a knot under the print asks for: flat cannot, pad clears it, risers print over it one way."""
    largest_mm: tuple[float, float] = (0, 0)
    is_trimmed: bool = False
    """Cut to shape by hand: all of the carrier's coating shows."""
    is_weeded: bool = False
    cut_offset_mm: float | None = Field(None, ge=-10, le=50)
    """Of the line that a cutter follows, outside the print; None: no cutter follows one."""
    takes_most: bool = False
    """What practice reaches for where dye does not go: it holds on most cloths."""
    over_edge: str = ""
    """What a print over the blank's edge asks for, on cloth."""
    is_profiled: bool = False
    """The shipped profile is of this method's own print condition; for the others it stands in."""
    wash_life: str = ""
    hand_feel: str = ""
    cost: MethodCost = MethodCost()
    sources: dict[str, str] = {}
    """Field to where its value comes from: practice, memory, maker, house or trial."""

    @property
    def colorant(self) -> Literal["ink", "toner"]:
        """What it prints with, in a sentence."""
        return "toner" if "laser" in self.marking or "toner" in self.marking else "ink"

    @property
    def makes(self) -> Literal["transfer", "garment"]:
        """What has been printed when the printer is done: something to press, or the piece itself."""
        return "garment" if self.prepares_first else "transfer"
