"""The line that a cutter follows: round what is printed, at a distance, smooth enough for its blade.

Marching squares find the edge of the alpha between the dots; it is simplified (Douglas-Peucker), set off, rounded, and fitted with arcs
and lines. Lengths in mm, x to the right, y downwards. The error is measured against the same edge set off without simplifying it further than by a hair.
"""

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Any, Literal

import contourpy
import cv2
import numba
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from offsetter.core.quantities import a_length
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

Points = NDArray[np.float64]

HALF = 127.5
"""The alpha at which the edge lies."""
MOST_ERROR_MM = 0.05
SPECK_MM2, HOLE_MM2 = 1.0, 4.0
"""Smaller ones cannot be cut or weeded: from memory."""
# Of the error that is promised: what each step may take. Marching squares take about a tenth of a dot besides.
SIMPLE_SHARE, ROUND_SHARE, ARC_SHARE = 0.3, 0.1, 0.3
HAIR_SHARE = 0.08
"""What the edge that the error is measured against is straightened by: most of its points go. It is added to the error that is told."""
DENSE_MM = 0.2
"""Between the points at which the error is measured."""
STRAIGHTEST = 0.001
"""A bulge below this is a line."""
MOST_OFFSET_MM = 100.0


Role = Literal["cut", "through", "weed", "mark", "test"]


class CutPath(Frozen):
    """A closed path: x and y of each node, and the bulge of the piece that begins there (tan of a quarter of its sweep; 0: straight;
    above 0 turns from x towards y)."""

    nodes: tuple[tuple[float, float, float], ...]
    is_hole: bool = False
    role: Role = "cut"


class Contour(Frozen):
    paths: tuple[CutPath, ...]
    area_mm2: float
    """Inside the line, holes left out."""
    max_error_mm: float
    """The furthest that the line lies from where it should be, measured both ways."""

    @property
    def rings(self) -> int:
        return sum(not p.is_hole for p in self.paths)

    @property
    def holes(self) -> int:
        return sum(p.is_hole for p in self.paths)

    @property
    def nodes(self) -> int:
        return sum(len(p.nodes) for p in self.paths)

    @property
    def bounds_mm(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom."""
        points = np.vstack([dense(p) for p in self.paths])
        (left, top), (right, bottom) = points.min(0), points.max(0)
        return float(left), float(top), float(right), float(bottom)


def contour_of(
    alpha: NDArray[np.uint8], mm_per_px: float, offset_mm: float, *, max_error_mm: float = MOST_ERROR_MM,
    least_radius_mm: float = 0.0, keeps_holes: bool = True,
) -> Contour:  # fmt: skip
    """alpha: (height, width), 255 is printed. offset_mm: above 0 lies outside. least_radius_mm: what the blade can follow.

    Raises Refusal where nothing is printed or nothing is left to cut.
    """
    if not abs(offset_mm) <= MOST_OFFSET_MM:
        raise Refusal(
            "far-cut",
            say("A cut {offset} off the print is none.", offset=a_length(offset_mm, None)),
            say("Nothing was cut."),
            say("Give at most {most_offset}.", most_offset=a_length(MOST_OFFSET_MM)),
        )
    hair = max_error_mm * HAIR_SHARE
    edge = edge_of(alpha, mm_per_px)
    quads = _quads(max(abs(offset_mm), least_radius_mm), max_error_mm * ROUND_SHARE)

    def set_off(shape: BaseGeometry) -> BaseGeometry:
        made = shape.buffer(offset_mm, quad_segs=quads) if offset_mm else shape
        if least_radius_mm:
            # Opened and closed: corners and notches that the blade cannot follow go.
            made = made.buffer(-least_radius_mm, quad_segs=quads).buffer(2 * least_radius_mm, quad_segs=quads).buffer(-least_radius_mm, quad_segs=quads)  # fmt: skip
        return _without_specks(made, keeps_holes=keeps_holes)

    fine = edge.simplify(hair)
    exact, simple = set_off(fine), set_off(fine.simplify(max_error_mm * SIMPLE_SHARE))
    if exact.is_empty or simple.is_empty:
        raise Refusal("nothing-to-cut", say("What is printed is too small to be cut round."), say("Nothing was cut."), say("Set the line further out, or print it larger."))  # fmt: skip
    paths = tuple(
        CutPath(nodes=with_arcs(np.asarray(ring.coords)[:-1], max_error_mm * ARC_SHARE), is_hole=is_hole)
        for polygon in _polygons(simple)
        for is_hole, ring in [(False, polygon.exterior), *((True, r) for r in polygon.interiors)]
    )
    return Contour(
        paths=paths,
        area_mm2=round(abs(sum(_area(p) for p in paths)), 3),
        max_error_mm=round(_error(paths, exact) + hair, 4),
    )


def plain_round(
    alpha: NDArray[np.uint8], mm_per_px: float, offset_mm: float, shape: Literal["box", "rounded", "ellipse"], *,
    max_error_mm: float = MOST_ERROR_MM,
) -> Contour:  # fmt: skip
    """The smallest box, box with round corners or ellipse (of the picture's own proportions) that holds all of it, set off.

    Raises Refusal where nothing is printed or the line would lie inside out.
    """
    edge = edge_of(alpha, mm_per_px)
    left, top, right, bottom = edge.bounds
    wide, high = right - left, bottom - top
    middle = ((left + right) / 2, (top + bottom) / 2)
    if shape == "ellipse":
        points = shapely.get_coordinates(edge.convex_hull) - np.array(middle)
        grown = float(np.hypot(points[:, 0] / (wide / 2), points[:, 1] / (high / 2)).max())
        a, b = wide / 2 * grown + offset_mm, high / 2 * grown + offset_mm
        if min(a, b) <= 0:
            raise _inside_out()
        angles = np.arange(steps := 4 * _quads(max(a, b), max_error_mm * ROUND_SHARE)) * (2 * math.pi / steps)
        ring = np.column_stack([middle[0] + a * np.cos(angles), middle[1] + b * np.sin(angles)])
    else:
        box = shapely.box(left, top, right, bottom)
        radius = ROUNDED * min(wide, high) if shape == "rounded" else 0.0
        quads = _quads(abs(offset_mm) + radius, max_error_mm * ROUND_SHARE)
        made = box.buffer(radius + offset_mm, quad_segs=quads) if radius else box.buffer(offset_mm, join_style="mitre")
        if made.is_empty:
            raise _inside_out()
        ring = np.asarray(made.exterior.coords)[:-1]
    exact = Polygon(ring)
    path = CutPath(nodes=with_arcs(ring, max_error_mm * ARC_SHARE))
    return Contour(
        paths=(path,), area_mm2=round(_area(path), 3), max_error_mm=round(_error((path,), MultiPolygon([exact])), 4)
    )


ROUNDED = 0.12
"""Radius of round corners against the shorter side: from memory."""


def _inside_out() -> Refusal:
    return Refusal("nothing-to-cut", say("The line lies so far inside that nothing is left to cut."), say("Nothing was cut."), say("Set the line further out, or print it larger."))  # fmt: skip


def edge_of(alpha: NDArray[np.uint8], mm_per_px: float) -> BaseGeometry:
    """What is printed, as polygons in mm. Raises Refusal where there is nothing."""
    coarse = _some_in(alpha)
    count, _, boxes, _ = cv2.connectedComponentsWithStats(coarse, connectivity=8)
    if count == 1:
        raise Refusal("nothing-printed", say("Nothing of this picture is printed: there is no edge to follow."), say("Nothing was cut."),
                      say("Choose a picture that has something on a clear ground."))  # fmt: skip
    polygons: list[Polygon] = []
    boxes = boxes[1:, :4] * CELL_PX
    if count > MOST_APART:
        left, top = np.maximum(boxes[:, :2].min(0) - CELL_PX, 0)
        right, bottom = (boxes[:, :2] + boxes[:, 2:]).max(0) + CELL_PX
        polygons = _edges(alpha[top:bottom, left:right], left, top, mm_per_px)
    else:
        # Part by part: the clear ground between them is most of a sheet, and costs as much as what is printed.
        # What reaches into its box of another part is part of that one: laid together they are the picture.
        for left, top, wide, high in boxes:
            left, top = max(0, left - CELL_PX), max(0, top - CELL_PX)
            polygons += _edges(
                alpha[top : top + high + 2 * CELL_PX, left : left + wide + 2 * CELL_PX], left, top, mm_per_px
            )
    return shapely.make_valid(shapely.union_all(polygons))


CELL_PX = 4
"""Side of the squares by which parts are told apart: what is nearer to each other may be one."""


def _cells_over(dots: int) -> int:
    """Squares over so many dots."""
    return -(-dots // CELL_PX)


def _some_in(alpha: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """1 for every square in which something is printed."""
    high, wide = _cells_over(alpha.shape[0]), _cells_over(alpha.shape[1])
    whole = cv2.copyMakeBorder(
        alpha,
        0,
        high * CELL_PX - alpha.shape[0],
        0,
        wide * CELL_PX - alpha.shape[1],
        cv2.BORDER_CONSTANT,
        value=0,
    )
    most = whole.reshape(high, CELL_PX, wide * CELL_PX).max(1).reshape(high, wide, CELL_PX).max(2)
    return np.asarray(most > HALF, dtype=np.uint8)


MOST_APART = 200
"""Parts of a picture from which on they are looked at all at once."""


def _edges(alpha: NDArray[np.uint8], left: int, top: int, mm_per_px: float) -> list[Polygon]:
    part = np.pad(alpha, 1)
    made: Any = contourpy.contour_generator(z=part, fill_type=contourpy.FillType.OuterOffset).filled(HALF, 1e9)
    polygons = []
    for points, offsets in zip(made[0], made[1], strict=True):
        # The picture's frame was widened by a dot; a dot's value stands at its middle.
        placed = (np.asarray(points) + np.array([left - 0.5, top - 0.5])) * mm_per_px
        rings = [placed[a:b] for a, b in pairwise(offsets)]
        polygons.append(Polygon(rings[0], [r for r in rings[1:] if len(r) > 3]))
    return polygons


def _polygons(shape: BaseGeometry) -> Iterator[Polygon]:
    if isinstance(shape, Polygon):
        yield shape
    elif hasattr(shape, "geoms"):
        for part in shape.geoms:
            yield from _polygons(part)


def _without_specks(shape: BaseGeometry, *, keeps_holes: bool) -> BaseGeometry:
    kept = [
        Polygon(p.exterior, [h for h in p.interiors if keeps_holes and Polygon(h).area >= HOLE_MM2])
        for p in _polygons(shape) if Polygon(p.exterior).area >= SPECK_MM2
    ]  # fmt: skip
    return MultiPolygon(kept) if kept else Polygon()


def _quads(radius_mm: float, error_mm: float) -> int:
    """Pieces in a quarter circle whose chords stay so near to it."""
    if radius_mm <= 0:
        return 1
    return min(256, max(8, math.ceil(math.pi / 4 / math.acos(max(0.0, 1 - error_mm / radius_mm)))))


def with_arcs(points: Points, within_mm: float) -> tuple[tuple[float, float, float], ...]:
    """A closed ring as few lines and arcs, every point of it within so far of them."""
    count = len(points)
    # It begins at a corner, so that a smooth run is not cut in two.
    before, after = points - np.roll(points, 1, 0), np.roll(points, -1, 0) - points
    turn = np.abs(
        np.angle(np.exp(1j * (np.arctan2(after[:, 1], after[:, 0]) - np.arctan2(before[:, 1], before[:, 0]))))
    )
    around = np.ascontiguousarray(np.vstack([np.roll(points, -int(turn.argmax()), 0), points[int(turn.argmax())]]))
    nodes, at = [], 0
    while at < count:
        step, best, bulge = 1, at + 1, 0.0
        while at + step <= count and not math.isnan(found := _fitted(around, at, at + step, within_mm)):
            best, bulge, step = at + step, found, step * 2
        low, high = best, min(at + step, count + 1)
        while high - low > 1:
            middle = (low + high) // 2
            found = _fitted(around, at, middle, within_mm)
            low, high, bulge = (low, middle, bulge) if math.isnan(found) else (middle, high, found)
        nodes.append((round(float(around[at, 0]), 4), round(float(around[at, 1]), 4), round(bulge, 6)))
        at = low
    return tuple(nodes)


@numba.njit(nogil=True, cache=True, fastmath=False)
def _fitted(points: Points, first: int, last: int, within: float) -> float:
    """The bulge of one line or arc, of at most half a turn, from the first to the last of these points; nan: none fits."""
    if last - first == 1:
        return 0.0
    x0, y0 = points[first, 0], points[first, 1]
    ax, ay = points[last, 0] - x0, points[last, 1] - y0
    long = math.hypot(ax, ay)
    if long < 1e-9:
        return math.nan
    ax, ay = ax / long, ay / long
    is_line, top_x, h = True, 0.0, 0.0
    for i in range(first, last + 1):
        dx, dy = points[i, 0] - x0, points[i, 1] - y0
        x, y = dx * ax + dy * ay, dy * ax - dx * ay
        is_line = is_line and abs(y) <= within and -within <= x <= long + within
        if abs(y) > abs(h):
            top_x, h = x, y
    if is_line:
        return 0.0
    if h == 0.0:
        return math.nan
    # Through both ends and the point that lies furthest off the chord; on the bow's side, its centre on the other: at most half a turn.
    half = long / 2
    centre_y = (top_x * top_x - top_x * long + h * h) / (2 * h)
    radius, side = math.hypot(half, centre_y), 1.0 if h > 0 else -1.0
    if side * centre_y > 1e-9:
        return math.nan
    was_x, was_y = 0.0, 0.0
    for i in range(first, last + 1):
        dx, dy = points[i, 0] - x0, points[i, 1] - y0
        x, y = dx * ax + dy * ay, dy * ax - dx * ay
        if side * y < -within or abs(math.hypot(x - half, y - centre_y) - radius) > within:
            return math.nan
        # The middles of its pieces too: a long chord may leave the circle between two points of it.
        if i > first and abs(math.hypot((x + was_x) / 2 - half, (y + was_y) / 2 - centre_y) - radius) > 2 * within:
            return math.nan
        was_x, was_y = x, y
    bulge = math.tan(math.asin(min(1.0, half / radius)) / 2)
    # The bow lies on the side of its furthest point; to the left of the chord it turns from x towards y the other way round.
    return -side * bulge if bulge > STRAIGHTEST else 0.0


def dense(path: CutPath, every_mm: float = DENSE_MM) -> Points:
    """Points along a path, closed, no further apart than every_mm on its arcs."""
    found = []
    for (x0, y0, bulge), (x1, y1, _) in zip(path.nodes, (*path.nodes[1:], path.nodes[0]), strict=True):
        if not bulge:
            found.append(np.array([[x0, y0]]))
            continue
        sweep = 4 * math.atan(bulge)
        long = math.hypot(x1 - x0, y1 - y0)
        radius = long / 2 / math.sin(abs(sweep) / 2)
        # The centre lies across the chord, on the side away from the bow.
        far = radius * math.cos(sweep / 2) * math.copysign(1, bulge)
        cx, cy = (x0 + x1) / 2 - (y1 - y0) / long * far, (y0 + y1) / 2 + (x1 - x0) / long * far
        begin, steps = math.atan2(y0 - cy, x0 - cx), max(2, math.ceil(radius * abs(sweep) / every_mm))
        angles = begin + sweep * np.arange(steps) / steps
        found.append(np.column_stack([cx + radius * np.cos(angles), cy + radius * np.sin(angles)]))
    return np.vstack([*found, found[0][:1]])


def _area(path: CutPath) -> float:
    """Exactly, with the segments under its arcs; a hole's counts against."""
    total = 0.0
    for (x0, y0, bulge), (x1, y1, _) in zip(path.nodes, (*path.nodes[1:], path.nodes[0]), strict=True):
        total += (x0 * y1 - x1 * y0) / 2
        if bulge:
            sweep = 4 * math.atan(bulge)
            radius = math.hypot(x1 - x0, y1 - y0) / 2 / math.sin(abs(sweep) / 2)
            total += math.copysign(radius**2 / 2 * (abs(sweep) - math.sin(abs(sweep))), bulge)
    return -abs(total) if path.is_hole else abs(total)


def _error(paths: tuple[CutPath, ...], exact: BaseGeometry) -> float:
    """The furthest distance between the paths and where they should run, both ways."""
    made = shapely.MultiLineString([dense(p) for p in paths])
    wanted = exact.boundary
    return max(_furthest(made, wanted), _furthest(wanted, made))


def _furthest(these: BaseGeometry, those: BaseGeometry) -> float:
    tree = shapely.STRtree(_pieces(those))
    points = shapely.points(shapely.get_coordinates(these))
    _, distances = tree.query_nearest(points, return_distance=True, all_matches=False)
    return float(distances.max())


def _pieces(lines: BaseGeometry) -> NDArray[np.object_]:
    """Every line, cut into its straight pieces."""
    found = []
    for part in shapely.get_parts(lines):
        points = shapely.get_coordinates(part)
        found.append(np.stack([points[:-1], points[1:]], axis=1))
    made: NDArray[np.object_] = shapely.linestrings(np.concatenate(found))
    return made
