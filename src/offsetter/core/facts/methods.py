from typing import Literal

from pydantic import Field

from offsetter.core.values import Frozen

Channel = Literal["C", "M", "Y", "K", "W"]


class Method(Frozen):
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
    sources: dict[str, str] = {}
    """Field to where its value comes from: practice, memory, maker, house or trial."""
