"""A garment laid flat, in millimetres: x to the wearer's left of the centre line, y down from the collar's edge."""

from offsetter.core.facts.blanks import GarmentSize

SHOULDER_SLOPE_MM = 45.0  # a crew tee's shoulder falls about a thumb's length: from memory
ARMHOLE_MM = 225.0


def outline(size: GarmentSize) -> str:
    """SVG path of the front, in mm."""
    half, neck, top = size.chest_mm / 2, size.collar_width_mm / 2, -size.collar_drop_mm
    hem, shoulder = size.length_mm - size.collar_drop_mm, top + SHOULDER_SLOPE_MM
    cuff_x, cuff_y = half + size.sleeve_mm * 0.72, shoulder + size.sleeve_mm * 0.78
    armpit = shoulder + ARMHOLE_MM - SHOULDER_SLOPE_MM
    if size.sleeve_mm == 0:  # a waistcoat: the armhole is cut in
        cuff_x, cuff_y = half - 45, shoulder + 60

    def side(sign: int) -> list[tuple[float, float]]:
        edge = [
            (neck, top),
            (half - 25, shoulder),
            (cuff_x, cuff_y),
            *([(cuff_x - 78, cuff_y + 78)] if size.sleeve_mm else []),
            (half, armpit),
            (half, hem),
        ]
        return [(sign * x, y) for x, y in edge]

    right, left = side(1), side(-1)
    points = [*right, *reversed(left)]
    steps = [f"{'M' if i == 0 else 'L'}{x:.1f} {y:.1f}" for i, (x, y) in enumerate(points)]
    low = top + -top / 0.75  # a cubic's lowest point is three quarters of the way to its handles
    edge = f"C{-neck * 0.8:.1f} {low:.1f} {neck * 0.8:.1f} {low:.1f} {neck:.1f} {top:.1f}Z"
    return " ".join([*steps, edge])


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
