"""True shapes on a roll, at the angles that they may lie at: a library searches, and what it lays is checked before it is believed."""

import math
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
import spyrrow
from shapely import Polygon
from shapely.affinity import rotate, translate

from offsetter.core.compute.nest import Nested, NestPlace, Piece, size_of
from offsetter.core.sentences import say
from offsetter.core.values import Refusal

MOST_NODES = 60
SIMPLER_MM = 0.2
"""By how much an outline may grow to have fewer nodes; it never shrinks."""
TOUCHES_MM = 0.02
STEP_DEG = 15
"""Of the angles of a print on a shared run: every slant is a set of plates more."""
ANGLES: dict[str, list[float] | None] = {
    "0": [0.0], "180": [0.0, 180.0], "90": [0.0, 90.0, 180.0, 270.0], "any": None, "steps": [float(a) for a in range(0, 360, STEP_DEG)],
}  # fmt: skip


def outline_of(piece: Piece) -> Polygon:
    """Its shape in mm. Raises Refusal for one that crosses itself."""
    if piece.outline_mm is None:
        wide, high = size_of(piece)
        return shapely.box(0, 0, wide, high)
    size_of(piece)
    made = Polygon(piece.outline_mm)
    if not made.is_valid:
        # One that only touches itself is mended; where it falls apart, its largest part is not the piece.
        mended = shapely.make_valid(made)
        made = max(getattr(mended, "geoms", [mended]), key=lambda g: g.area, default=Polygon())
        if made.is_empty or made.area < 0.98 * mended.area or not isinstance(made, Polygon):
            raise Refusal(
                "crossing-outline",
                say("The outline of “{id}” crosses itself.", id=piece.id),
                say("Nothing was laid."),
                say("Give its parts as pieces of their own."),
            )
    if made.area <= 0:
        raise Refusal(
            "no-size",
            say("The outline of “{id}” has no area.", id=piece.id),
            say("Nothing was laid."),
            say("Give an outline with an area."),
        )
    return made


def nest_shapes(
    pieces: tuple[Piece, ...],
    *,
    roll_mm: float,
    gap_mm: float,
    margin_mm: float,
    seconds: int,
    seed: int,
    boxes: Nested,
) -> Nested:
    """boxes: the same pieces laid as boxes: what is answered where nothing shorter is found. seconds: of the search, by the clock.

    The same seed does not give the same layout under a clock: whoever keeps it keeps the places. Raises Refusal.
    """
    inside = roll_mm - 2 * margin_mm
    shapes = [outline_of(p) for p in pieces]
    found = strip_of(shapes, [p.count for p in pieces], [p.rotate for p in pieces], inside, gap_mm, seconds=seconds, seed=seed)  # fmt: skip
    if found is None:
        return boxes
    laid = [(n, a, translate(s, margin_mm, margin_mm)) for n, a, s in found]
    length = max(s.bounds[3] for *_, s in laid) + margin_mm
    if length >= boxes.length_mm:
        return boxes
    area = sum(s.area for *_, s in laid)
    places = tuple(
        NestPlace(
            id=pieces[n].id, sheet=1, x_mm=round(s.bounds[0], 3), y_mm=round(s.bounds[1], 3), rotation_deg=round(a, 3)
        )
        for n, a, s in laid
    )
    return boxes.model_copy(update={
        "places": places, "length_mm": round(length, 3), "waste_pct": round(100 * (1 - area / (roll_mm * length)), 2),
        "bound": round(max(area / inside, max(_narrowest(s) for s in shapes)) + 2 * margin_mm, 3),
    })  # fmt: skip


def strip_of(
    shapes: list[Polygon], counts: list[int], turns: list[str], inside_mm: float, gap_mm: float, *, seconds: int, seed: int
) -> list[tuple[int, float, Polygon]] | None:  # fmt: skip
    """So many of each on a strip of this width, in mm: which shape, its angle in degrees, and itself as it lies, from nothing on.

    None where nothing was found, or where what was found does not hold. turns: of each, one of ANGLES.
    """
    items = []
    for n, shape in enumerate(shapes):
        # On the library's strip the roll runs to the right: a quarter turn, never a mirror.
        ring = [(y, -x) for x, y in eased(shape, SIMPLER_MM / 4).exterior.coords[:-1]]
        items.append(spyrrow.Item(str(n), ring, demand=counts[n], allowed_orientations=ANGLES[turns[n]]))
    told = _solved(items, inside_mm, gap_mm, seconds, seed)
    if told is None:
        return None
    laid: list[tuple[int, float, Polygon]] = []
    for put in told.placed_items:
        x, y = put.translation
        turned = rotate(shapes[int(put.id)], put.rotation, origin=(0, 0))
        # Back from the strip: its x runs along the roll, its y from the right edge.
        laid.append((int(put.id), put.rotation % 360, translate(turned, -y, x)))
    left, low = min(s.bounds[0] for *_, s in laid), min(s.bounds[1] for *_, s in laid)
    laid = [(n, a, translate(s, -left, -low)) for n, a, s in laid]
    return laid if _holds([s for *_, s in laid], inside_mm, gap_mm) else None


def _solved(items: list[Any], inside: float, gap_mm: float, seconds: int, seed: int) -> Any:
    """The library's layout, or None where it gives up: it panics on what it cannot take."""
    try:
        # The gap is kept to the strip's edges too, where none is wanted.
        asked = spyrrow.StripPackingInstance("run", inside + 2 * gap_mm + 0.01, items)
        told = spyrrow.StripPackingConfig(early_termination=True, total_computation_time=max(2, seconds), min_items_separation=gap_mm or None, seed=seed, num_workers=1)  # fmt: skip
        return asked.solve(told)
    except KeyboardInterrupt:
        raise
    except BaseException:
        return None


def eased(shape: Polygon, step: float) -> Polygon:
    """With few nodes and never inside itself. step: by how much it may grow at first, in its own unit; more where that is not enough."""
    by = 0.0
    made = Polygon(shape.exterior)
    while len(made.exterior.coords) > MOST_NODES:
        by = by * 2 or step
        grown = Polygon(shape.exterior).buffer(by, join_style="mitre").simplify(by)
        made = (
            Polygon(grown.exterior)
            if isinstance(grown, Polygon)
            else Polygon(shape.convex_hull.exterior).buffer(by).simplify(by)
        )
    return made


def _holds(laid: list[Polygon], right: float, gap_mm: float) -> bool:
    """Nothing overlaps, nothing lies nearer than the gap, nothing off the roll: looked at by an independent library."""
    if any(s.bounds[2] > right + TOUCHES_MM for s in laid):
        return False
    tree = shapely.STRtree(laid)
    one, other = tree.query(laid, predicate="dwithin", distance=max(gap_mm, TOUCHES_MM))
    for i, j in zip(one, other, strict=True):
        if i < j and (
            laid[i].distance(laid[j]) < gap_mm - TOUCHES_MM or laid[i].intersection(laid[j]).area > TOUCHES_MM
        ):
            return False
    return True


def _narrowest(shape: Polygon) -> float:
    """The least that it takes along the roll at any angle."""
    hull = np.asarray(shape.convex_hull.exterior.coords)
    least = math.inf
    for (x0, y0), (x1, y1) in pairwise(hull):
        normal = np.array([y0 - y1, x1 - x0])
        if (size := float(np.hypot(*normal))) > 0:
            across = hull @ (normal / size)
            least = min(least, float(np.ptp(across)))
    return least
