"""How a print is cut round."""

from typing import Literal

from pydantic import Field

from offsetter.core.values import Frozen

CutShape = Literal["outline", "box", "rounded", "ellipse"]
CutStart = Literal["corner", "foot", "head"]
CutTurn = Literal["", "clockwise", "against"]

THROUGH_MM = 3.0
"""Between a print's line and the box that goes through the carrier: from memory."""


def has_room_through(gap_um: int, offset_um: int) -> bool:
    """Boxes through the carrier lie between the prints and do not touch."""
    return gap_um / 1000 > 2 * (offset_um / 1000 + THROUGH_MM)


class CutSpec(Frozen):
    """Part of what a print physically is."""

    offset_um: int = Field(ge=-10_000, le=50_000)
    shape: CutShape = "outline"
    """What the line follows: the picture's own edge, or a plain shape round all of it."""
    holes: bool = True
    weed_boxes: bool = True
    through: bool = False
    """Besides the line, a box round every print that goes through the carrier too: the prints come apart."""
    starts: CutStart = "corner"
    """Where the blade goes in: at the sharpest corner, or at the end that is nearest to its user or furthest."""
    turns: CutTurn = ""
    """Which way round it goes; empty: as it comes."""
    least_radius_um: int = Field(0, ge=0, le=10_000)
    """That the blade of the cutter apart can follow."""
    marks: bool = False
    """For a cutter that stands apart: the marks are printed with the run."""
    in_print: bool = True
    """The lines go with the print file, as a plate of their own: the printer cuts. Else they are files beside it alone."""
