"""What a set of plates is made from: everything that changes a dot, and nothing else."""

from functools import cached_property, lru_cache
from typing import Literal

from pydantic import Field, field_validator

from offsetter.core.compute.sheet import turned_box
from offsetter.core.compute.wrap import Bend
from offsetter.core.facts import Curve
from offsetter.core.facts.inks import FOUR, INKS, WHITE
from offsetter.core.sentences import say
from offsetter.core.units import px_of, um_of
from offsetter.core.values import Frozen, digest

WhiteBy = Literal["level", "lights", "mask", "file"]
Intent = Literal["relative", "perceptual", "saturation", "absolute"]


class Shift(Frozen):
    """A colour of the artwork printed as another: its neighbours go part of the way with it."""

    colour: str = Field(pattern=r"^#[0-9A-Fa-f]{6}$")
    """As the artwork has it."""
    lab: tuple[float, float, float]
    """What is asked of the inks in its place, under D50."""

    @field_validator("lab")
    @classmethod
    def is_a_colour(cls, lab: tuple[float, float, float]) -> tuple[float, float, float]:
        if not (0 <= lab[0] <= 100 and all(-128 <= v <= 127 for v in lab[1:])):
            raise ValueError(say("L goes from 0 to 100, a and b from -128 to 127"))
        return lab


class ColourSpec(Frozen):
    profile: str
    """Hash of the ICC profile's bytes, of ink shares."""
    intent: Intent = "relative"
    black_point: bool = True
    ink_limit_pct: float = Field(230, gt=0, le=400)
    composite_black: bool = False
    """One even layer of all four toners wherever the picture is, whatever its colours."""
    driver: str = ""
    """Hash of the RGB profile of a printer that separates by itself; its ink shares are then an estimate with profile."""
    inks: tuple[str, ...] = ()
    """Channels that the profile separates into, in its order; empty: C, M, Y, K."""
    light: tuple[str, ...] = ()
    """Light inks that are split off their full ones afterwards."""
    curves: tuple[Curve, ...] = ()
    """What corrects this printer's tones, a channel each of the profile's: asked to printed, 0 to 100."""
    shifts: tuple[Shift, ...] = ()

    @property
    def separates(self) -> tuple[str, ...]:
        """The profile's channels."""
        return self.inks or FOUR

    @property
    def lays(self) -> tuple[str, ...]:
        """All its colour channels, as their planes lie."""
        return self.separates + self.light

    @property
    def splits(self) -> tuple[int, ...]:
        """Of each light ink, the plane of its full one."""
        return tuple(self.separates.index(INKS[c].full) for c in self.light)


class WhiteSpec(Frozen):
    level_pct: float = Field(60, ge=0, le=100)
    choke_um: int = 250
    """Positive pulls the white in, negative spreads it."""
    cloth: str = "#FFFFFF"
    knock_out_delta_e: float | None = None
    """Leave white and colour out where the artwork is nearer than this to the cloth; None leaves nothing out."""
    faint_floor: float = Field(0.0, ge=0, le=1)
    """White below this share is cut, and the colour over it; 0 keeps all."""
    guard_um: int = Field(0, ge=0)
    """Strokes keep at least this much white, or all of it when they are thinner; 0 switches the guard off."""
    mask: str = ""
    """Hash of a picture that says where white lies, and how much; empty: the level and the picture's own lightness say it."""
    mask_dark: bool = False
    """White lies where the mask is dark, as on a plate's own print; else where it is light."""
    mask_part: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    """Left, top, right and bottom of what is printed, as shares of the whole picture: the mask is cropped as the artwork is."""
    own: bool = False
    """The mask is the white that the artwork's own file brings along."""
    lights_from: float | None = Field(None, ge=0, le=95)
    """White lies under the lights alone, from this L* up to all of it at 100; the level then says nothing. None: the level does."""

    @property
    def by(self) -> WhiteBy:
        """What says where it lies."""
        if self.mask or self.own:
            return "mask" if self.mask else "file"
        return "level" if self.lights_from is None else "lights"

    @property
    def said(self) -> str:
        """The same in words."""
        match self.by:
            case "mask":
                return say("by its own picture")
            case "file":
                return say("as the file has it")
            case "lights":
                return say("under the lights, from L* {lights_from}", lights_from=f"{self.lights_from or 0:.0f}")
            case _:
                return say("level {level} %", level=f"{self.level_pct:.0f}")

    def reach_um(self, holds_um: int) -> int:
        """Strokes up to this width feel the choke: it comes off both sides, and holds_um of white must be left."""
        return 2 * max(0, self.choke_um) + holds_um


class PlateSpec(Frozen):
    artwork: str
    """Hash of the original file."""
    crop_px: tuple[int, int, int, int]
    """Left, top, right, bottom of what is printed, in pixels of the upright original."""
    width_um: int = Field(gt=0)
    dpi: int = Field(gt=0, le=2880)
    mirrored: bool
    colour: ColourSpec
    white: WhiteSpec | None
    white_first: bool = False
    bend: Bend | None = None
    """Of a print for a wall that tapers: everything else speaks of it straight."""
    slant: int = Field(0, ge=0, lt=90)
    """Whole degrees against the clock that it lies at as it is printed: everything else speaks of it upright."""

    @property
    def printed_um(self) -> tuple[int, int]:
        """Width and height of what it lies in on the sheet."""
        wide, high = self.width_um, self.height_um
        if self.bend is not None:
            wide, high = map(um_of, self.bend.box_mm(wide / 1000, high / 1000))
        return turned_box(wide, high, self.slant)

    @property
    def lies_upright(self) -> bool:
        """Its dots are those of the picture as it is worn: neither bent nor at a slant."""
        return self.bend is None and not self.slant

    @property
    def channels(self) -> tuple[str, ...]:
        """As its planes lie."""
        return (*self.colour.lays, WHITE) if self.white else self.colour.lays

    @property
    def width_px(self) -> int:
        return px_of(self.width_um / 1000, self.dpi)

    @property
    def height_px(self) -> int:
        left, top, right, bottom = self.crop_px
        return px_of(self.width_um / 1000 * (bottom - top) / (right - left), self.dpi)

    @property
    def height_um(self) -> int:
        left, top, right, bottom = self.crop_px
        return um_of(self.width_um / 1000 * (bottom - top) / (right - left))

    @cached_property
    def key(self) -> str:
        """Two specs with this hash give the same dots."""
        told = self.model_dump(mode="json", exclude={"colour": {"curves"}})
        if self.bend is None:  # keys made before there was such a thing stay what they were
            del told["bend"]
        if not self.slant:
            del told["slant"]
        told["colour"]["curves"] = self.colour.curves and _named(self.colour.curves)
        if self.white:
            unused = {"mask": ("own", "lights_from"), "file": ("lights_from",)}
            for later in unused.get(self.white.by, ("mask", "mask_dark", "mask_part", "own")):
                del told["white"][later]
            if self.white.by == "level":
                del told["white"]["lights_from"]
        for later in ("composite_black", "driver", "curves", "shifts", "inks", "light"):
            if not told["colour"][later]:  # keys made before there was such a thing stay what they were
                del told["colour"][later]
        return digest("plates", 1, told)

    @property
    def inked_key(self) -> str:
        """Two specs with this hash have the same inks at one size of picture, and the same white before its choke."""
        white = self.white
        if white is not None:
            lights = white.lights_from if white.by == "lights" else None
            after = {"choke_um": 0, "guard_um": 0, "mask": "", "own": False, "lights_from": lights}
            white = white.model_copy(update=after)
        plain = {"width_um": 1, "dpi": 1, "mirrored": False, "white_first": False, "bend": None, "slant": 0}
        return self.model_copy(update={**plain, "white": white}).key


@lru_cache(maxsize=64)
def _named(curves: tuple[Curve, ...]) -> str:
    """Curves by their hash: they are long, and the same for every print of a condition."""
    return digest("curves", curves)


class PlateMeasure(Frozen):
    """What was measured on a set of plates; channel shares are means over the whole print, 0 to 100."""

    quality: Literal["preview", "device"]
    coverage_pct: dict[str, float]
    area_mm2: dict[str, float]
    """Area that carries any of the channel."""
    total_max_pct: float
    """Highest total of the colour channels before the limit was applied."""
    over_limit_share: float
    """Share of the printed area that was over the limit before."""
    thin_kept: int = 0
    """Dots that the guard kept from the choke."""
    knocked_out_share: float = 0.0
    faint_cut_share: float = 0.0
