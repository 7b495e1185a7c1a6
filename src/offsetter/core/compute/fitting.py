"""The sizes a print can be given in one touch: the largest that fits, one that covers the blank, one that fills the sheet."""

from typing import Literal

from offsetter.core.compute.placement import Panel
from offsetter.core.values import Frozen

COVERS_MM = 3.0
"""Over each edge of a hard blank that is covered: a hand lays it 2 mm true (from memory), and a millimetre more."""

FitName = Literal["largest", "cover", "sheet"]


class Fit(Frozen):
    """In mm, from where prints on this side are measured."""

    name: FitName
    width_mm: float
    height_mm: float
    below_mm: float
    offset_mm: float = 0.0


class SpareAt(Frozen):
    """Where the spare of a print that is larger than its blank on purpose is left."""

    name: Literal["all round", "at the foot", "at the head", "on the right", "on the left"]
    below_mm: float
    offset_mm: float


class Room(Frozen):
    """What printer and press take in mm, lying either way; None: as long as one likes."""

    wide_mm: float
    long_mm: float | None = None

    def largest(self, shape: float) -> float:
        """The widest print of this shape (height by width) that goes in, turned a quarter or not."""
        long = self.long_mm
        upright = self.wide_mm if long is None else min(self.wide_mm, long / shape)
        turned = self.wide_mm / shape if long is None else min(long, self.wide_mm / shape)
        return max(upright, turned)


def fits_on(
    side: Panel,
    shape: float,
    below_mm: float,
    rooms: tuple[Room, ...],
    *,
    widest_mm: float,
    sheet: Room | None,
    may_bleed: bool,
) -> tuple[Fit, ...]:
    """The choices that differ, in whole mm. shape: height by width. rooms: every limit that holds whatever the blank;
    widest_mm: the widest print that the shop makes in one piece.

    below_mm: where a print on a garment lies now; its top stays there. On flat things prints lie in the middle.
    """
    most = min(widest_mm, *(r.largest(shape) for r in rooms))
    left, top, right, bottom = side.bounds_mm
    high = (side.highest_mm or bottom - top) if side.centre_y_mm is not None else bottom - max(below_mm, 0)
    found = [_laid("largest", min(side.widest_mm, high / shape, most), side, shape, below_mm)]
    if may_bleed:
        cover = max(right - left + 2 * COVERS_MM, (bottom - top + 2 * COVERS_MM) / shape)
        if cover <= most:
            found.append(_laid("cover", float(-int(-cover // 1)), side, shape, below_mm, whole=False))
        if sheet is not None:
            found.append(_laid("sheet", min(most, sheet.largest(shape)), side, shape, below_mm))
    elif sheet is not None and (fill := min(most, sheet.largest(shape))) <= min(side.widest_mm, high / shape):
        found.append(_laid("sheet", fill, side, shape, below_mm))
    by_width = {f.width_mm: f for f in reversed(found) if f.width_mm >= 5}
    return tuple(f for f in found if by_width.get(f.width_mm) is f)


def spare_sides(side: Panel, width_mm: float, height_mm: float) -> tuple[SpareAt, ...]:
    """The blank in the middle of the print, or near one end of it with its bleed; none where there is no more than the bleed."""
    left, top, right, bottom = side.bounds_mm
    wide, high = width_mm - (right - left), height_mm - (bottom - top)
    if min(wide, high) < 2 * COVERS_MM:
        return ()
    middle, over = (top + bottom - height_mm) / 2, width_mm / 2 + left - COVERS_MM
    found = [SpareAt(name="all round", below_mm=middle, offset_mm=0)]
    if high > 2 * COVERS_MM + 1:
        found += [SpareAt(name="at the foot", below_mm=top - COVERS_MM, offset_mm=0),
                  SpareAt(name="at the head", below_mm=bottom + COVERS_MM - height_mm, offset_mm=0)]  # fmt: skip
    if wide > 2 * COVERS_MM + 1:
        found += [SpareAt(name="on the right", below_mm=middle, offset_mm=over), SpareAt(name="on the left", below_mm=middle, offset_mm=-over)]  # fmt: skip
    return tuple(found) if len(found) > 1 else ()


def _laid(name: FitName, width: float, side: Panel, shape: float, below: float, *, whole: bool = True) -> Fit:
    wide = float(int(width)) if whole else width
    top = side.centre_y_mm - wide * shape / 2 if side.centre_y_mm is not None else below
    return Fit(name=name, width_mm=wide, height_mm=round(wide * shape, 1), below_mm=round(top, 2))
