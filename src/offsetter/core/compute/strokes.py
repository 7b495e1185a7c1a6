"""Thin strokes and gaps of a shape, to a part of a pixel.

An opening by the limit finds where the shape is thin; there alone the shape is enlarged four times and the
ridge of its distance transform read. On bars drawn at 300 ppi the width is within about 0.04 mm.
"""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.values import Frozen

Grey = NDArray[np.uint8]
Parts = tuple[NDArray[np.int32], NDArray[np.int64]]
"""Which part of the shape a place hangs together with, and the parts' areas."""
ENLARGE = 4
SPOTS_KEPT = 60
MEASURED = 180
TILE = 256
SOLID = 176  # a place that stays under this (69 %) is a fade, not a stroke
FINE_PX = 8.0
LONG = 3  # an acute corner looks thin for nearly this many widths; a stroke goes on
LADDER_PX = (2.0, 4.0, 6.0, 8.0, 12.0, 16.0, 32.0)
"""Limits at which a file's strokes are measured once, so that any print size can be judged at once."""


class ThinSpot(Frozen):
    x_px: float
    y_px: float
    width_px: float
    is_dot: bool
    """A speck that stands alone, not a narrow part of something larger."""


class ThinRung(Frozen):
    limit_px: float
    count: int
    spots: tuple[ThinSpot, ...]
    """The thinnest, at most 60."""


def thin_spots(shape: Grey, limit_px: float) -> ThinRung:
    """Parts of the shape (0 to 255, edge at 127.5) that are narrower than limit_px, thinnest first.

    What never gets solid, a soft fringe, is no stroke: its faintness is judged elsewhere.
    """
    return _Shapes(shape).rung(limit_px)


def thin_ladder(shape: Grey) -> tuple[ThinRung, ...]:
    """thin_spots at every limit of LADDER_PX."""
    shapes = _Shapes(shape)
    return tuple(shapes.rung(limit) for limit in LADDER_PX)


def rung_for(ladder: tuple[ThinRung, ...], limit_px: float) -> ThinRung:
    """The measured rung that sees everything under limit_px, cut down to what really is under it; nothing where nothing is measured."""
    if not ladder:
        return ThinRung(limit_px=limit_px, count=0, spots=())
    rung = next((r for r in ladder if r.limit_px >= limit_px), ladder[-1])
    spots = tuple(s for s in rung.spots if s.width_px < limit_px)
    count = rung.count if len(spots) == len(rung.spots) else len(spots)
    return ThinRung(limit_px=limit_px, count=count, spots=spots)


class _Shapes:
    """The shape at the sizes it is looked at, each with its distances, made once."""

    def __init__(self, shape: Grey) -> None:
        self._shape = shape
        self._made: dict[int, tuple[Grey, Grey, NDArray[np.float32], Parts]] = {}

    def rung(self, limit_px: float) -> ThinRung:
        shrink = max(1, int(limit_px // FINE_PX)) if limit_px >= 2 * FINE_PX else 1
        if min(self._shape.shape) <= 4 * shrink:
            shrink = 1
        rung = _measure(*self._at(shrink), limit_px / shrink)
        spots = tuple(
            s.model_copy(update={"x_px": round(s.x_px * shrink, 1), "y_px": round(s.y_px * shrink, 1),
                                 "width_px": round(s.width_px * shrink, 2)}) for s in rung.spots)  # fmt: skip
        return ThinRung(limit_px=limit_px, count=rung.count, spots=spots)

    def _at(self, shrink: int) -> tuple[Grey, Grey, NDArray[np.float32], Parts]:
        if shrink not in self._made:
            # A wide limit needs no fine look: the width is read to a few hundredths of itself either way.
            small = cv2.resize(self._shape, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA)
            shape = np.asarray(small, dtype=np.uint8) if shrink > 1 else self._shape
            # One row of ground all round: the picture's edge is an edge.
            framed = cv2.copyMakeBorder((shape > 127).astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0)
            distance = cv2.distanceTransform(framed, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
            inside = np.ascontiguousarray(framed[1:-1, 1:-1])
            _, labels, stats, _ = cv2.connectedComponentsWithStats(inside, connectivity=8)
            parts = np.asarray(labels, np.int32), stats[:, cv2.CC_STAT_AREA].astype(np.int64)
            self._made[shrink] = shape, np.asarray(framed, np.uint8), np.asarray(distance, np.float32), parts
        return self._made[shrink]


def _measure(shape: Grey, framed: Grey, distance: NDArray[np.float32], parts: Parts, limit_px: float) -> ThinRung:
    reach = limit_px / 2
    core = (distance > reach).astype(np.uint8)
    opened = cv2.dilate(core, _disc(reach + 1))
    thin = np.ascontiguousarray(cv2.bitwise_and(framed, 1 - opened)[1:-1, 1:-1], dtype=np.uint8)
    if not thin.any():
        return ThinRung(limit_px=limit_px, count=0, spots=())
    _, found = cv2.connectedComponents(thin, connectivity=8)
    labels = np.asarray(found, np.int32)
    # Thin places are few: what is asked of them is asked of their own pixels alone.
    pieces = _Pieces(thin, labels)
    deepest = np.maximum.reduceat(distance[1:-1, 1:-1][pieces.rows, pieces.columns], pieces.starts)
    solid = np.maximum.reduceat(shape[pieces.rows, pieces.columns], pieces.starts)
    part = parts[0][pieces.rows[pieces.starts], pieces.columns[pieces.starts]]
    # A speck that is the whole of what hangs together there.
    is_dot = parts[1][part] == pieces.area
    # Corners and line ends look thin to an opening; a stroke is longer than it is wide.
    is_long = np.hypot(pieces.boxes[:, 2], pieces.boxes[:, 3]) >= LONG * limit_px
    wanted = (pieces.area >= 2) & (solid >= SOLID) & (is_dot | is_long)
    ranked = np.flatnonzero(wanted)[np.argsort(deepest[wanted], kind="stable")]
    # Of a thousand specks the thinnest are measured, and those that may not be under the limit at all; of thousands, some of these.
    sure = int((2 * deepest[ranked[MEASURED:]] + 1 < limit_px).sum())
    unsure = ranked[MEASURED + sure :]
    looked_at = unsure[:: max(1, math.ceil(len(unsure) / MEASURED))]
    spots, under = [], 0
    for number, at in enumerate((*ranked[:MEASURED], *looked_at)):
        x, y, wide, high = (int(v) for v in pieces.boxes[at])
        width = _ridge_width(shape, labels, int(at) + 1, (x, y, wide, high), limit_px)
        if width < limit_px:
            under += number >= MEASURED
            cx, cy = pieces.centres[at]
            spots.append(ThinSpot(x_px=round(float(cx), 1), y_px=round(float(cy), 1), width_px=round(width, 2), is_dot=bool(is_dot[at])))  # fmt: skip
    spots.sort(key=lambda s: s.width_px)
    missed = round(under / max(1, len(looked_at)) * (len(unsure) - len(looked_at)))
    return ThinRung(limit_px=limit_px, count=len(spots) + sure + missed, spots=tuple(spots[:SPOTS_KEPT]))


class _Pieces:
    """The labelled pieces of a mask, by label from 1: where their pixels are, how many, their boxes and centres."""

    def __init__(self, thin: Grey, labels: NDArray[np.int32]) -> None:
        flat = labels.ravel()
        at = np.flatnonzero(thin.view(np.bool_))
        at = at[np.argsort(flat[at], kind="stable")]
        self.rows, self.columns = np.divmod(at, labels.shape[1])
        of = flat[at]
        self.starts = np.flatnonzero(np.diff(of, prepend=0))
        self.area = np.diff(self.starts, append=len(of))
        left, right = (f.reduceat(self.columns, self.starts) for f in (np.minimum, np.maximum))
        top, bottom = (f.reduceat(self.rows, self.starts) for f in (np.minimum, np.maximum))
        self.boxes = np.stack([left, top, right - left + 1, bottom - top + 1], axis=1)
        """Left, top, width, height."""
        sums = np.stack([np.add.reduceat(v, self.starts) for v in (self.columns, self.rows)], axis=1)
        self.centres = sums / self.area[:, None]


def _disc(radius: float) -> Grey:
    y, x = np.mgrid[-math.ceil(radius) : math.ceil(radius) + 1, -math.ceil(radius) : math.ceil(radius) + 1]
    return np.asarray(np.hypot(x, y) <= radius, dtype=np.uint8)


def _ridge_width(
    shape: Grey, labels: NDArray[np.int32], label: int, box: tuple[int, int, int, int], limit_px: float
) -> float:
    """Median width along the middle of one thin part; box: its left, top, width, height."""
    x, y, wide, high = box
    # A long line is read piece by piece: what lies inside its box and is not the line costs nothing.
    margin = 2 if max(wide, high) <= TILE else math.ceil(limit_px) + 2
    widths = []
    for top in range(y, y + high, TILE):
        for left in range(x, x + wide, TILE):
            piece = np.s_[top : min(top + TILE, y + high), left : min(left + TILE, x + wide)]
            mine = labels[piece] == label
            if mine.any():
                widths.append(_ridge(shape, mine, left, top, margin))
    found = np.concatenate(widths)
    return float(np.median(found)) / ENLARGE if found.size else 1.0


def _ridge(shape: Grey, mine: NDArray[np.bool_], left: int, top: int, margin: int) -> NDArray[np.float32]:
    """Widths along the middle of what is mine, in enlarged pixels."""
    high, wide = mine.shape
    above, before = min(margin, top), min(margin, left)
    cut = shape[top - above : top + high + margin, left - before : left + wide + margin]
    own = np.zeros(cut.shape, np.uint8)
    own[above : above + high, before : before + wide] = mine
    # A margin of ground, so that a stroke at the picture's edge has an edge.
    cut, own = (
        np.asarray(cv2.copyMakeBorder(p, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0), np.uint8) for p in (cut, own)
    )
    large = cv2.resize(cut, None, fx=ENLARGE, fy=ENLARGE, interpolation=cv2.INTER_LINEAR)
    where = cv2.resize(own, None, fx=ENLARGE, fy=ENLARGE, interpolation=cv2.INTER_NEAREST)
    distance = cv2.distanceTransform((large > 127).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    ridge = (distance >= cv2.dilate(distance, np.ones((3, 3), np.uint8))) & (where > 0) & (distance > 0)
    return np.asarray(2 * distance[ridge] - 0.5, np.float32)
