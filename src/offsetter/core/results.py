"""What every station answers with."""

from typing import Annotated, Literal

from pydantic import Field

from offsetter.core.compute.cut_spec import CutSpec
from offsetter.core.compute.fitting import Fit, SpareAt
from offsetter.core.compute.lettering import Lettering
from offsetter.core.compute.plate_spec import PlateMeasure, WhiteBy
from offsetter.core.compute.platen import PlatenLayout
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.facts import ColouredSheet, Medium, SchoolQuestion, Stage
from offsetter.core.sentences import say
from offsetter.core.values import Finding, Frozen, Seen

State = Literal["open", "ready", "needs you", "blocked", "done", "out of date", "not needed"]
StationName = Literal["order", "method", "artwork", "colour", "white", "sheet", "print", "prepare", "press", "inspect"]


class Box(Frozen):
    """A print on the blank, in mm from the collar's edge and the centre line, wearer's side."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


class ObstacleDrawing(Frozen):
    """What stands up on this side: a rectangle in mm, and whether the print lies over it."""

    kind: str
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    stands_mm: float
    is_under: bool


class OtherPrint(Frozen):
    """Another print of the piece on the same side."""

    name: str
    box: Box
    is_first: bool
    """It is pressed before the one that is looked at."""


class GarmentDrawing(Frozen):
    """One side of the blank to scale: paths in mm, origin at the collar's lowest edge (or the shoulder seam), centre line."""

    outline: str
    collar: str
    bounds_mm: tuple[float, float, float, float]
    colour: str
    size: str
    box: Box | None
    place: str = "front chest"
    origin: str = "collar"
    obstacles: tuple[ObstacleDrawing, ...] = ()
    places: tuple[str, ...] = ()
    """Where else a print can sit on this blank."""
    centre_y_mm: float | None = None
    name: str = ""
    safe: str = ""
    """Inside it nothing is cut off or slopes away; empty where no such zone is told."""
    up_by: str = ""
    """What on the blank says which way is up."""
    others: tuple[OtherPrint, ...] = ()


class OrderDrawing(Frozen):
    kind: Literal["order"] = "order"
    garment: GarmentDrawing
    widest_mm: float
    widest_why: str
    pages: int = 1
    """Of the artwork's file."""
    fits: tuple[Fit, ...] = ()
    """Sizes that the print can be given in one touch."""
    spare: tuple[SpareAt, ...] = ()
    """Where the blank can be laid on a print that is larger on purpose."""


class SectionLayer(Frozen):
    what: str
    thickness_um: float
    role: Literal["cloth", "bond", "white", "colour", "dye"]
    source: str


class Ruled(Frozen):
    what: str
    reason: str
    is_good: bool


class MissingValue(Frozen):
    stage: str
    name: str
    fields: tuple[str, ...]


class MethodDrawing(Frozen):
    kind: Literal["method"] = "method"
    layers: tuple[SectionLayer, ...]
    cloth: str
    lies: str = "film"
    is_hard: bool = False
    reasons: tuple[Ruled, ...]
    schools: tuple[SchoolQuestion, ...]
    missing: tuple[MissingValue, ...] = ()
    """What nobody gave for the schools chosen."""


class ArtworkDrawing(Frozen):
    kind: Literal["artwork"] = "artwork"
    pixels: tuple[int, int]
    content_px: tuple[int, int, int, int]
    crop_px: tuple[int, int, int, int]
    width_mm: float
    height_mm: float
    strokes: tuple[tuple[float, float, float], ...]
    """x, y on the print and width, in mm."""
    gaps: tuple[tuple[float, float, float], ...]
    reachable_mm: dict[str, float]
    cloth: str
    is_vector: bool = False
    lettering: Lettering | None = None
    """None: nobody has read it yet."""


class ColourDrawing(Frozen):
    kind: Literal["colour"] = "colour"
    garment: GarmentDrawing
    colours: tuple["ColourStep", ...]
    over_limit_share: float
    limit_pct: float = 0.0
    """The most of all inks together that is laid."""
    brands: tuple["BrandStep", ...] = ()
    colorant: Literal["ink", "toner"] = "ink"
    misses_share: float = 0.0
    """Of the picture, colours that the print misses by more than CIEDE2000 2."""
    is_driven: bool = False
    """The printer separates by itself: ink shares are an estimate."""
    mirrored: bool = False
    condition: str = ""
    """Printer, medium and mode whose profile this is."""
    sheets: tuple[ColouredSheet, ...] = ()
    """Coloured sheets to choose from, where one gives the colour."""
    carrier: str = "#C9D0D3"
    """How the bare carrier looks: clear film over grey, paper, or the garment itself."""


class ColourStep(Frozen):
    """One of the artwork's own main colours and what becomes of it."""

    asked: str
    printed: str
    on_cloth: str
    ink_pct: dict[str, float]
    delta_e_2000: float
    share: float


class BrandStep(Frozen):
    """A customer's colour in this artwork."""

    name: str
    lab: tuple[float, float, float]
    shown: str
    in_artwork: str
    """The artwork's nearest colour."""
    artwork_delta_e: float
    share: float
    printed_lab: tuple[float, float, float]
    printed: str
    delta_e: float
    """Between the colour and what the artwork's colour prints as, on full white."""
    within_delta_e: float
    nearest_lab: tuple[float, float, float]
    nearest: str
    nearest_delta_e: float
    nearest_pct: tuple[float, ...]
    ask_lab: tuple[float, float, float]
    """What to print in its place to come as near as this intent does."""
    ask_delta_e: float


class WhiteDrawing(Frozen):
    kind: Literal["white"] = "white"
    garment: GarmentDrawing
    choke_mm: float
    shift_mm: float
    why: str = ""
    """Why none is needed."""
    level_pct: float = 60.0
    by: WhiteBy = "level"
    """What says where it lies."""
    own_white: str = ""
    """What the file calls the white that it brings along; empty: it brings none."""


class SheetDrawing(Frozen):
    kind: Literal["sheet"] = "sheet"
    layout: RunLayout | None
    mirrored: bool
    label: str
    media_name: str
    colour: str
    spares: int
    spares_why: str = ""
    names: tuple[str, ...] = ()
    """Of the run's sorts."""
    feed: Literal["roll", "sheet", "garment"] = "roll"
    medium: str = "film"
    order_said: str = ""
    """What is printed over what, and which face looks up."""
    cut: CutSpec | None = None
    """Where a cutter follows a line."""
    weeds: bool = False
    """What is not wanted is weeded out of it."""


class LoadDrawing(Frozen):
    kind: Literal["print"] = "print"
    steps: tuple[str, ...]
    printer: str
    mirrored: bool
    would_show: bool
    mirror_sentence: str
    measure: PlateMeasure | None
    ink_ml: dict[str, float]
    """Of one print, a channel."""
    width_mm: float
    height_mm: float
    feed: Literal["roll", "sheet", "garment"] = "roll"
    medium: str = "film"
    media: str = ""
    faces: tuple[str, ...] = ()
    prints: Literal["", "up", "down"] = ""
    """Which side this printer prints, as a marked test sheet showed; empty: nobody tried."""
    method: str = ""
    printer_id: str = ""
    wet: bool = True
    """It leaves the printer wet, for powder."""
    card: Medium | None = None
    """Of the medium: how its faces are told apart."""


class StagesDrawing(Frozen):
    kind: Literal["stages"] = "stages"
    stages: tuple[Stage, ...]
    cuts: tuple[int, ...]
    """Transfers on each cut length."""
    turn: str = ""
    shield: str = ""
    counts: str = "transfers"
    """What the stages of preparing are done to."""
    comes_first: str = ""
    """Why preparing comes before printing; empty: it does not."""
    to_prepare: int = 0
    """Pieces that still want preparing, where it comes before printing."""
    prepared: dict[str, int] = {}
    """Stage to pieces prepared so far, where it comes before printing."""
    platen: PlatenLayout | None = None
    """Where things lie in one pressing; None where nothing is pressed."""
    parts: int = 1
    """That each print is laid together from: a piece goes through the stages with every one of them."""


class InspectDrawing(Frozen):
    kind: Literal["inspect"] = "inspect"
    garment: GarmentDrawing
    causes: dict[str, tuple[str, ...]] = {}
    """Stage (print and handling among them) to what can have gone wrong there by this method."""


Drawing = Annotated[
    OrderDrawing | MethodDrawing | ArtworkDrawing | ColourDrawing | WhiteDrawing | SheetDrawing | LoadDrawing
    | StagesDrawing | InspectDrawing,
    Field(discriminator="kind"),
]  # fmt: skip


class StationResult(Frozen):
    station: StationName
    name: str
    state: State
    telling: str
    """The one reading under the station's name."""
    verdict: str
    sub: str
    findings: tuple[Finding, ...] = ()
    drawing: Drawing | None = None
    waits_for: str = ""
    """What has to come first, when nothing can be said yet."""


def as_accepted(result: StationResult, seen: tuple[Seen, ...]) -> StationResult:
    """A station that was said to be right, against what was seen then: something new or worse needs the person again."""
    known = {s.code: s for s in seen}
    worse = [f for f in result.findings if f.severity != "note" and not (f.code in known and known[f.code].covers(f))]
    if not worse or result.state not in ("done", "blocked"):
        return result
    findings = tuple(f.model_copy(update={"is_new": True}) if f in worse else f for f in result.findings)
    if result.state == "blocked":
        return result.model_copy(update={"findings": findings})
    return result.model_copy(
        update={
            "findings": findings,
            "state": "needs you",
            "verdict": say("New since you said yes: {message}", message=worse[0].message),
        }
    )


def state_of(findings: tuple[Finding, ...], *, settled: bool) -> State:
    """blocked by a blocker; done when settled; needs you for a caution; else ready."""
    if any(f.severity == "blocker" for f in findings):
        return "blocked"
    if settled:
        return "done"
    if any(f.severity == "caution" for f in findings):
        return "needs you"
    return "ready"
