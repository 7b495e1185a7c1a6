"""What a set of plates is made from: everything that changes a dot, and nothing else."""

from typing import Literal

from pydantic import Field

from offsetter.core.units import px_of, um_of
from offsetter.core.values import Frozen, digest

Intent = Literal["relative", "perceptual", "saturation", "absolute"]


class ColourSpec(Frozen):
    profile: str
    """Hash of the ICC profile's bytes."""
    intent: Intent = "relative"
    black_point: bool = True
    ink_limit_pct: float = Field(230, gt=0, le=400)
    composite_black: bool = False
    """One even layer of all four toners wherever the picture is, whatever its colours."""


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

    @property
    def key(self) -> str:
        """Two specs with this hash give the same dots."""
        told = self.model_dump(mode="json")
        if not self.colour.composite_black:  # keys made before there was such a thing stay what they were
            del told["colour"]["composite_black"]
        return digest("plates", 1, told)


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
