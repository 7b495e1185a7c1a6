"""Prints of a shared run by what is inked of them: their outlines, where a label finds room beside them, and a layout that interlocks.

Turned by quarters a print's dots stay those of its plates; at a slant it has plates of its own, so slants go by steps. Its label turns
with it.
"""

import math
from collections.abc import Callable
from functools import lru_cache

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon
from shapely.affinity import affine_transform
from shapely.geometry.base import BaseGeometry

from offsetter.core.compute.nest_shapes import eased, strip_of
from offsetter.core.compute.sheet import Points, Strip, turned_box
from offsetter.core.values import Frozen

CLOSES_UM = 4_000
"""Gaps within a print that no other print is laid into: lettering is one thing. From memory."""
LABEL_WIDE_UM = 60_000
"""Of a label that stands beside an outline; from memory."""
TRIED = 24
"""Places along the print where its label is tried."""
LEAST_SECONDS = 3


def outline_round(inked: NDArray[np.uint8], width_um: int, height_um: int, *, more_um: int = 0) -> Points:
    """Round all that is inked (rows, columns; above 0), in micrometres from the lower left corner, never inside it.

    more_um: by how much further out, for a cutter's line. Empty where nothing is inked.
    """
    found = cv2.findContours((inked > 0).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)[0]
    dot = width_um / inked.shape[1], height_um / inked.shape[0]
    parts = []
    for ring in found:
        # Through the middles of its outermost dots: half a dot and its corner lie outside of it.
        points = [((x + 0.5) * dot[0], height_um - (y + 0.5) * dot[1]) for x, y in ring[:, 0, :]]
        parts.append(shapely.linearrings([*points, points[0]]) if len(points) > 2 else shapely.MultiPoint(points))
    if not parts:
        return ()
    whole = shapely.union_all([shapely.make_valid(Polygon(p)) if p.geom_type == "LinearRing" else p.convex_hull for p in parts])  # fmt: skip
    reach = max(dot)
    closed = whole.buffer(reach + CLOSES_UM).buffer(-CLOSES_UM)
    if not isinstance(closed, Polygon):
        closed = closed.convex_hull
    if more_um > 0:
        closed = closed.buffer(more_um)
    room = shapely.box(-more_um, -more_um, width_um + more_um, height_um + more_um)
    kept = eased(_one(Polygon(closed.exterior).intersection(room)), 50.0)
    return tuple((round(x), round(y)) for x, y in list(_one(kept.intersection(room)).exterior.coords)[:-1])


def _one(shape: BaseGeometry) -> Polygon:
    return shape if isinstance(shape, Polygon) else Polygon(shape.convex_hull)


@lru_cache(maxsize=2_000)
def rigid(outline: Points, width_um: int, height_um: int, label_um: int) -> tuple[Polygon, Strip]:
    """A print with its label as one piece, and where the label stands: as near below the outline as it finds room."""
    shape = Polygon(outline) if outline else shapely.box(0, 0, width_um, height_um)
    if not outline or not label_um:
        below = shapely.box(0, -label_um, width_um, height_um) if label_um and not outline else shape
        return below, Strip(x_um=0, y_um=0, wide_um=width_um)
    wide = min(width_um, LABEL_WIDE_UM)
    best, at = math.inf, Strip(x_um=0, y_um=0, wide_um=wide)
    for step in range(TRIED + 1):
        left = round((width_um - wide) * step / TRIED)
        column = shape.intersection(shapely.box(left, -1e9, left + wide, 1e9))
        if column.is_empty:
            continue
        top = math.floor(column.bounds[1])
        strip = shapely.box(left, top - label_um, left + wide, top)
        lost = strip.union(shape).convex_hull.area
        if lost < best - 1:
            best, at = lost, Strip(x_um=left, y_um=top, wide_um=wide)
    # Grown into the print by a hair, so that the two are one.
    strip = shapely.box(at.x_um, at.y_um - label_um, at.x_um + at.wide_um, at.y_um).union(shape)
    one = strip.buffer(300, join_style="mitre").buffer(-300, join_style="mitre") if not isinstance(strip, Polygon) else strip  # fmt: skip
    return (Polygon(one.exterior) if isinstance(one, Polygon) else one.convex_hull), at


@lru_cache(maxsize=8_000)
def as_it_lies(outline: Points, width_um: int, height_um: int, label_um: int, angle: int) -> Polygon:
    """The same turned against the clock by so many degrees, the box that the print then takes with its lower left corner at nothing."""
    shape, _ = rigid(outline, width_um, height_um, label_um)
    quarters, slant = divmod(angle, 90)
    if slant:
        wide, high = turned_box(width_um, height_um, angle)
        c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        x, y = width_um / 2, height_um / 2
        return affine_transform(shape, [c, -s, s, c, wide / 2 - c * x + s * y, high / 2 - s * x - c * y])
    turn = {0: [1, 0, 0, 1, 0, 0], 1: [0, -1, 1, 0, height_um, 0], 2: [-1, 0, 0, -1, width_um, height_um], 3: [0, 1, -1, 0, 0, width_um]}  # fmt: skip
    return affine_transform(shape, turn[quarters])


class Shape(Frozen):
    """Prints that are alike. turns: the angles that they may lie at."""

    ids: tuple[str, ...]
    outline: Points
    width_um: int
    height_um: int
    turns: str

    @property
    def may_turn(self) -> str:
        """What has no outline is boxed in, by a cutter or by its label: it lies along its box."""
        return "90" if self.turns == "any" and not self.outline else "steps" if self.turns == "any" else self.turns


class Put(Frozen):
    """Where one lies: the lower left corner of its print, from the left of what is usable and from the margin."""

    id: str
    cut: int
    x_um: int
    y_um: int
    angle: int
    """Whole degrees against the clock."""


def interlocked(
    shapes: tuple[Shape, ...], usable_um: int, deep_um: int, gap_um: int, label_um: int, *, seconds: int, seed: int,
    done: Callable[[float], None] = lambda share: None,
) -> tuple[Put, ...] | None:  # fmt: skip
    """All of them, length after length, each as full as the search makes it; None where it finds nothing. deep_um: of one length."""
    left = {i: (shape, at) for shape in shapes for at, i in enumerate(shape.ids)}
    whole, laid, cut = len(left), [], 0
    while left:
        cut += 1
        kinds = [s for s in shapes if any(i in left for i in s.ids)]
        ids = [[i for i in s.ids if i in left] for s in kinds]
        share = max(LEAST_SECONDS, round(seconds * len(left) / whole))
        found = strip_of(
            [affine_transform(rigid(s.outline, s.width_um, s.height_um, label_um)[0], [0.001, 0, 0, 0.001, 0, 0]) for s in kinds],
            [len(i) for i in ids], [s.may_turn for s in kinds], usable_um / 1000, gap_um / 1000, seconds=share, seed=seed,
        )  # fmt: skip
        if found is None:
            return None
        inside = [(n, angle, shape) for n, angle, shape in found if round(shape.bounds[3] * 1000) <= deep_um]
        if not inside:
            return None
        for n, angle, shape in sorted(inside, key=lambda f: (f[2].bounds[1], f[2].bounds[0])):
            s, angle = kinds[n], round(angle) % 360
            left_um, low_um, right_um, _ = as_it_lies(s.outline, s.width_um, s.height_um, label_um, angle).bounds
            # The library's angles are a hair off: what leans out by that is pushed in.
            x_um = min(max(shape.bounds[0] * 1000 - left_um, -math.floor(left_um)), usable_um - math.ceil(right_um))
            y_um = max(shape.bounds[1] * 1000 - low_um, -math.floor(low_um))
            taken = ids[n].pop(0)
            del left[taken]
            laid.append(Put(id=taken, cut=cut, x_um=round(x_um), y_um=round(y_um), angle=angle))
        done(1 - len(left) / whole)
    return tuple(laid)
