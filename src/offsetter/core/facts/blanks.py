from decimal import Decimal
from typing import Literal

from pydantic import Field, model_validator

from offsetter.core.values import Frozen


class GarmentSize(Frozen):
    """A garment laid flat, in mm: chest is the width across, collar_drop from shoulder line to collar edge."""

    chest_mm: float = Field(gt=0)
    length_mm: float = Field(gt=0)
    collar_width_mm: float = Field(gt=0)
    collar_drop_mm: float = Field(gt=0)
    sleeve_mm: float = Field(gt=0)


class Blank(Frozen):
    id: str
    name: str
    kind: Literal["cloth", "hard"]
    fibres: dict[str, float]
    """Fibre to its share, together 1."""
    colour: str = Field(pattern=r"^#[0-9A-Fa-f]{6}$")
    colour_name: str
    thickness_mm: float = Field(gt=0)
    scorch_c: float
    sizes: dict[str, GarmentSize]
    price: Decimal

    @model_validator(mode="after")
    def fibres_make_one(self) -> "Blank":
        if self.kind == "cloth" and abs(sum(self.fibres.values()) - 1) > 1e-6:
            raise ValueError(f"the fibre shares of {self.name} make {sum(self.fibres.values()):.0%}, not 100 %")
        return self
