"""How a print is cut round."""

from pydantic import Field

from offsetter.core.values import Frozen


class CutSpec(Frozen):
    """Part of what a print physically is."""

    offset_um: int = Field(ge=-10_000, le=50_000)
    holes: bool = True
    weed_boxes: bool = True
    least_radius_um: int = Field(0, ge=0, le=10_000)
    """That the blade of the cutter apart can follow."""
    marks: bool = False
    """For a cutter that stands apart: the marks are printed with the run."""
