"""A garment laid flat, in millimetres: x to the wearer's left of the centre line, y down from the collar's edge."""

from functools import lru_cache

from offsetter.core.facts.blanks import GarmentSize

SHOULDER_SLOPE_MM = 45.0  # a crew tee's shoulder falls about a thumb's length: from memory
ARMHOLE_MM = 225.0
WAIST_MM, HEM_FALL_MM = 9.0, 6.0  # how far a side seam runs in and a hem falls in its middle: from memory


@lru_cache(maxsize=256)
def outline(size: GarmentSize) -> str:
    """SVG path of the front, in mm: the curves of a sewn thing through its measured points."""
    half, neck, top = size.chest_mm / 2, size.collar_width_mm / 2, -size.collar_drop_mm
    hem, shoulder = size.length_mm - size.collar_drop_mm, top + SHOULDER_SLOPE_MM
    armpit, tip = shoulder + ARMHOLE_MM - SHOULDER_SLOPE_MM, (half - 25, shoulder)
    cuff = (half + size.sleeve_mm * 0.72, shoulder + size.sleeve_mm * 0.78)
    under, pit, end = (cuff[0] - 78, cuff[1] + 78), (half, armpit), (half - 3, hem - HEM_FALL_MM)
    edge = [_bent((neck, top), tip, 0.35, 0.27, 0.72, 0.7)]
    if size.sleeve_mm:
        edge += [
            _bent(tip, cuff, 0.38, 0.22, 0.76, 0.66),
            _bent(cuff, under, 0.3, 0.3, 0.7, 0.7),
            _bent(under, pit, 0.5, 0.35, 0.85, 0.6),
        ]
    else:  # a waistcoat: the armhole is cut in
        edge.append((tip, (half - 62, shoulder + 55), (half - 52, armpit - 35), pit))
    # A side seam runs in at the waist by a finger's breadth and out again.
    edge.append(
        (pit, (half - WAIST_MM, armpit + (hem - armpit) * 0.3), (half - WAIST_MM, armpit + (hem - armpit) * 0.7), end)
    )
    low = hem + HEM_FALL_MM / 3  # a cubic's lowest point is three quarters of the way to its handles
    bottom = (end, (half * 0.5, low), (-half * 0.5, low), (-end[0], end[1]))
    left = [tuple((-x, y) for x, y in reversed(piece)) for piece in reversed(edge)]
    drop = top + -top / 0.75
    neckline = ((-neck, top), (-neck * 0.8, drop), (neck * 0.8, drop), (neck, top))
    steps = "".join(
        f"C{' '.join(f'{x:.1f} {y:.1f}' for x, y in piece[1:])}" for piece in (*edge, bottom, *left, neckline)
    )
    return f"M{neck:.1f} {top:.1f}{steps}Z"


Point = tuple[float, float]


def _bent(a: Point, b: Point, x1: float, y1: float, x2: float, y2: float) -> tuple[Point, Point, Point, Point]:
    """From a to b by a curve whose handles lie at these shares of the way across and down."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    return a, (a[0] + dx * x1, a[1] + dy * y1), (a[0] + dx * x2, a[1] + dy * y2), b


def collar(size: GarmentSize) -> str:
    """SVG path of the collar's edge, in mm: its lowest point is the origin's height."""
    neck, top = size.collar_width_mm / 2, -size.collar_drop_mm
    low = top + -top / 0.75
    return f"M{-neck:.1f} {top:.1f}C{-neck * 0.8:.1f} {low:.1f} {neck * 0.8:.1f} {low:.1f} {neck:.1f} {top:.1f}"


def bounds(size: GarmentSize) -> tuple[float, float, float, float]:
    """Left, top, right, bottom of the drawn garment in mm."""
    half = size.chest_mm / 2 + size.sleeve_mm * 0.72
    return -half, -size.collar_drop_mm, half, size.length_mm - size.collar_drop_mm


def widest_print_mm(size: GarmentSize, seam_mm: float = 30.0) -> float:
    """The widest print that stays clear of both side seams (30 mm each: common practice, no source)."""
    return size.chest_mm - 2 * seam_mm
