"""What a cutter is sent for a run: the line round every print, marks to find the sheet by, boxes to weed in, and a test cut.

Lengths in mm on one cut length of the run, x to the right, y downwards from its far end, as it lies before the person who loads it.
"""

import math
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.contour import Contour, CutPath, Role, contour_of, plain_round
from offsetter.core.compute.cut_spec import THROUGH_MM, CutSpec, CutStart, CutTurn, has_room_through
from offsetter.core.compute.sheet import Place, RunLayout

MARK_MM = 8.0
MARK_FROM_EDGE_MM = 4.0
"""Of the marks, from the printable edge and from the ends: from memory."""
CLEAR_MM = 5.0
"""Between a mark and any line: a cutter's eye must see nothing else there (from memory)."""
WEED_MM = 2.0
"""Between a print's line and the box that it is weeded in."""
TEST_CIRCLE_MM, TEST_SQUARE_MM = 8.0, 12.0
"""A circle in a square: both come out where the depth is right (practice)."""


def line_round(alpha: NDArray[np.uint8], mm_per_px: float, spec: CutSpec) -> Contour:
    """The line round one print, from where something is printed (255). Raises Refusal where there is none to cut."""
    if spec.shape != "outline":
        return plain_round(alpha, mm_per_px, spec.offset_um / 1000, spec.shape)
    return contour_of(alpha, mm_per_px, spec.offset_um / 1000, keeps_holes=spec.holes, least_radius_mm=spec.least_radius_um / 1000)  # fmt: skip


def begun_at(path: CutPath, starts: CutStart, turns: CutTurn) -> CutPath:
    """The same line from another node, or the other way round: a bow lies where it lay."""
    nodes = list(path.nodes)
    doubled_area = sum(x0 * y1 - x1 * y0 for (x0, y0, _), (x1, y1, _) in pairwise((*nodes, nodes[0])))
    # y runs downwards: what turns from x towards y goes with the clock. A ring of two bows is told by their bulge.
    is_clockwise = (doubled_area or sum(b for _, _, b in nodes)) > 0
    if turns and is_clockwise != (turns == "clockwise"):
        # Each piece is walked from its other end: its bulge goes with the node that it begins at now.
        nodes = [(x, y, -nodes[at - 1][2]) for at, (x, y, _) in reversed(list(enumerate(nodes)))]
        nodes = [nodes[-1], *nodes[:-1]]
    if starts != "corner":
        at = (max if starts == "foot" else min)(range(len(nodes)), key=lambda n: nodes[n][1])
        nodes = [*nodes[at:], *nodes[:at]]
    return path.model_copy(update={"nodes": tuple(nodes)})


def mirrored(paths: tuple[CutPath, ...], width_mm: float) -> tuple[CutPath, ...]:
    """As it lies on a carrier that is printed mirrored: a bow turns the other way."""
    return tuple(
        p.model_copy(update={"nodes": tuple((round(width_mm - x, 4), y, -b) for x, y, b in p.nodes)}) for p in paths
    )


def placed(paths: tuple[CutPath, ...], place: Place, layout: RunLayout) -> tuple[CutPath, ...]:
    """One print's lines where it lies on its cut length."""
    size, long_mm = layout.sorts[place.sort], layout.cut_lengths_um[place.cut - 1] / 1000
    high = size.height_um / 1000
    wide, left, top = size.width_um / 1000, place.x_um / 1000, long_mm - place.y_um / 1000 - high
    own_wide, own_high = (v / 1000 for v in size.upright_um(place.quarters))
    angle = math.radians(90 * place.quarters + size.slant)

    def put(x: float, y: float) -> tuple[float, float]:
        if size.slant:
            dx, dy = x - own_wide / 2, y - own_high / 2
            across, down = (
                wide / 2 + dx * math.cos(angle) + dy * math.sin(angle),
                high / 2 - dx * math.sin(angle) + dy * math.cos(angle),
            )
        else:
            # Turned a quarter against the clock: what was its right edge looks up.
            across, down = ((x, y), (y, high - x), (wide - x, high - y), (wide - y, x))[place.quarters]
        return left + across, top + down

    return tuple(
        p.model_copy(update={"nodes": tuple((*map(_rounded, put(x, y)), b) for x, y, b in p.nodes)}) for p in paths
    )


def _rounded(value: float) -> float:
    return round(value, 4)


def lines_of(layout: RunLayout, contours: tuple[Contour, ...], spec: CutSpec, cut: int) -> tuple[CutPath, ...]:
    """Everything for one cut length (from 1). contours: of each of the run's sorts, as it is printed. Inner lines before outer ones,
    so that nothing moves before it is cut."""
    found: list[CutPath] = []
    through: list[CutPath] = []
    for place in (p for p in layout.places if p.cut == cut):
        lines = placed(contours[place.sort].paths, place, layout)
        found += (begun_at(p, spec.starts, spec.turns) for p in sorted(lines, key=lambda p: not p.is_hole))
        if spec.through and has_room_through(layout.gap_um, spec.offset_um):
            through.append(box_through(lines))
        if spec.weed_boxes and layout.gap_um / 1000 > 2 * (spec.offset_um / 1000 + WEED_MM):
            found.append(_box(_bounds(lines), WEED_MM, "weed"))
    long_mm, wide_mm = layout.cut_lengths_um[cut - 1] / 1000, layout.media_um / 1000
    if spec.marks:
        found += marks_of(layout, cut)
    found += through  # last of all: until then the carrier holds everything
    if cut == 1 and (test := test_cut(wide_mm, long_mm, found)):
        found += test
    return tuple(found)


def box_through(lines: tuple[CutPath, ...]) -> CutPath:
    """Round one print's lines, through the carrier."""
    return _box(_bounds(lines), THROUGH_MM, "through")


def marks_of(layout: RunLayout, cut: int) -> tuple[CutPath, ...]:
    """Three squares near the corners of what is printed, the third set in: the sheet is never taken for itself turned half round."""
    long_mm = layout.cut_lengths_um[cut - 1] / 1000
    side = (layout.media_um - layout.printable_um) / 2000 + MARK_FROM_EDGE_MM
    right, low = layout.media_um / 1000 - side - MARK_MM, long_mm - MARK_FROM_EDGE_MM - MARK_MM
    corners = ((side, low), (right, low), (side + MARK_MM * 2, MARK_FROM_EDGE_MM))
    return tuple(_box((x, y, x + MARK_MM, y + MARK_MM), 0, "mark") for x, y in corners)


def test_cut(wide_mm: float, long_mm: float, lines: list[CutPath]) -> tuple[CutPath, ...]:
    """A circle in a square in the run's own waste, in the middle before its leading edge; nothing where there is no room."""
    half = TEST_SQUARE_MM / 2
    x, y = wide_mm / 2, long_mm - half - 2
    box = (x - half, y - half, x + half, y + half)
    if any(_near(box, _bounds((line,)), 2.0) for line in lines):
        return ()
    radius, bulge = TEST_CIRCLE_MM / 2, math.tan(math.pi / 4)
    circle = CutPath(nodes=((x - radius, y, bulge), (x + radius, y, bulge)), role="test")
    return circle, _box(box, 0, "test")


def _near(a: tuple[float, ...], b: tuple[float, ...], clear: float) -> bool:
    return a[0] < b[2] + clear and b[0] < a[2] + clear and a[1] < b[3] + clear and b[1] < a[3] + clear


def _bounds(lines: tuple[CutPath, ...]) -> tuple[float, float, float, float]:
    return Contour(paths=lines, area_mm2=0, max_error_mm=0).bounds_mm


def _box(bounds: tuple[float, float, float, float], wider: float, role: Role) -> CutPath:
    left, top, right, bottom = bounds
    left, top, right, bottom = left - wider, top - wider, right + wider, bottom + wider
    corners = ((left, top), (right, top), (right, bottom), (left, bottom))
    return CutPath(nodes=tuple((round(x, 4), round(y, 4), 0.0) for x, y in corners), role=role)


WINDS = 1.5
"""A contour against the sides of its print's box, before it is drawn: from memory."""


def expected_cut_m(width_mm: float, height_mm: float, copies: int) -> float:
    """About how far a blade travels for so many prints."""
    return round(2 * (width_mm + height_mm) * WINDS * copies / 1000, 3)


def long_mm(lines: tuple[CutPath, ...]) -> float:
    """How far the blade travels along them."""
    total = 0.0
    for path in lines:
        for (x0, y0, bulge), (x1, y1, _) in zip(path.nodes, (*path.nodes[1:], path.nodes[0]), strict=True):
            chord, sweep = math.hypot(x1 - x0, y1 - y0), abs(4 * math.atan(bulge))
            total += chord if not bulge else chord / 2 / math.sin(sweep / 2) * sweep
    return total
