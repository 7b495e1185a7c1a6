from typing import Literal

from pydantic import Field

from offsetter.core.values import Frozen


class PrintMode(Frozen):
    id: str
    name: str
    dpi: int = Field(gt=0)
    m2_per_h: float = Field(gt=0)
    white_passes: int = Field(ge=1)


class Printer(Frozen):
    """A roll printer. media_mm is the roll, printable_mm what its heads reach, margin_mm what each end needs."""

    id: str
    name: str
    method: str
    media: str
    media_mm: float
    printable_mm: float
    margin_mm: float
    modes: tuple[PrintMode, ...]
    plate_shift_mm: float
    load_card: tuple[str, ...]
    care_before: str


class Press(Frozen):
    id: str
    name: str
    kind: Literal["clamp", "swing-away", "drawer", "self-opening", "mug"]
    platen_width_mm: float
    platen_height_mm: float
    highest_c: float
    gauge: dict[str, str]
    """Word for a pressure to what this press shows for it: from memory until the shop has tried it."""


class Oven(Frozen):
    id: str
    name: str
    width_mm: float
    length_mm: float
    highest_c: float
