"""Cups whose wall tapers: rolled out it is a sector of a ring, so a straight picture is bent before it is printed, and lies straight on the cup.

A wall of slant s between a rim and a foot of the diameters D and d rolls out between two circles round one centre: the rim's with radius
R = s D / |D - d|, and no point of it is stretched (a cone is developable). Lengths in mm, y down along the wall from the rim.
"""

import math

from offsetter.core.facts.blanks import MugSize
from offsetter.core.values import Frozen

STRAIGHT_MM = 0.2
"""Rims and feet that differ by less are alike: paper does not know better."""


class Bend(Frozen):
    """How a print is bent. radius_um: of its upper edge; below 0 where the cup is narrower at its rim, so that the ring's centre lies above."""

    radius_um: int

    def angle(self, width_mm: float, height_mm: float) -> float:
        """That the print goes round the ring's centre, in radians; its width is measured half way down."""
        return width_mm / abs(self.radius_um / 1000 - height_mm / 2)

    def box_mm(self, width_mm: float, height_mm: float) -> tuple[float, float]:
        """Width and height of what the bent print lies in."""
        top, half = self.radius_um / 1000, self.angle(width_mm, height_mm) / 2
        outer, inner = max(abs(top), abs(top - height_mm)), min(abs(top), abs(top - height_mm))
        wide = 2 * outer * math.sin(min(half, math.pi / 2))
        return wide, outer - inner * math.cos(half) if half < math.pi / 2 else outer - outer * math.cos(half)


def is_tapered(size: MugSize) -> bool:
    return size.base_diameter_mm is not None and abs(size.base_diameter_mm - size.diameter_mm) >= STRAIGHT_MM


def slant_mm(size: MugSize) -> float:
    """How long the wall is, from rim to foot."""
    foot = size.base_diameter_mm if size.base_diameter_mm is not None else size.diameter_mm
    return math.hypot(size.height_mm, (size.diameter_mm - foot) / 2)


def rim_radius_mm(size: MugSize) -> float:
    """Of the rim's circle in the flat; below 0 where the cup is narrower there. Of a straight one: infinite."""
    foot = size.base_diameter_mm if size.base_diameter_mm is not None else size.diameter_mm
    differ = size.diameter_mm - foot
    return math.inf if not differ else slant_mm(size) * size.diameter_mm / differ


def narrowest_mm(size: MugSize) -> float:
    """Round the cup, where it is thinnest."""
    foot = size.base_diameter_mm if size.base_diameter_mm is not None else size.diameter_mm
    return math.pi * min(size.diameter_mm, foot)


def bend_of(size: MugSize, below_mm: float) -> Bend | None:
    """Of a print that begins so far below the rim; None where the wall is straight."""
    return Bend(radius_um=round((rim_radius_mm(size) - below_mm) * 1000)) if is_tapered(size) else None


class Cup(Frozen):
    """What a wrap ends up on. turned_mm: its middle, from the middle opposite the handle, measured round the cup half way down the print."""

    rim_mm: float
    foot_mm: float
    slant_mm: float
    below_mm: float
    turned_mm: float = 0.0


def cup_of(size: MugSize, below_mm: float, turned_mm: float) -> Cup:
    foot = size.base_diameter_mm if size.base_diameter_mm is not None else size.diameter_mm
    return Cup(rim_mm=size.diameter_mm, foot_mm=foot, slant_mm=slant_mm(size), below_mm=below_mm, turned_mm=turned_mm)
