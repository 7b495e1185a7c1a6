"""A garment laid flat, in millimetres: x to the wearer's left of the centre line, y down from the collar's edge."""

from offsetter.core.facts.blanks import GarmentSize
from offsetter.core.values import Frozen

BACK_DROP_MM = 22.0  # a crew tee's collar lies this far below the shoulder line at the back: from memory
CUFF_SHARE, SEAM_MM = 0.82, 20.0  # a sleeve narrows to its cuff; a print keeps clear of its seams: from memory
SLEEVE_WIDE_MM = 210.0
SHOULDER_SLOPE_MM = 45.0  # a crew tee's shoulder falls about a thumb's length: from memory
ARMHOLE_MM = 225.0


class Panel(Frozen):
    """One side of a garment to scale: paths in mm, the origin where prints on it are measured from."""

    outline: str
    collar: str
    bounds_mm: tuple[float, float, float, float]
    widest_mm: float
    """The widest print that keeps clear of the seams."""
    origin: str


def panel(size: GarmentSize, place: str) -> Panel:
    """The side of a tee that a print lies on."""
    if place.endswith("sleeve"):
        return _sleeve(size)
    side = size if place != "back" else size.model_copy(update={"collar_drop_mm": BACK_DROP_MM})
    return Panel(outline=outline(side), collar=collar(side), bounds_mm=bounds(side), widest_mm=widest_print_mm(side),
                 origin="collar")  # fmt: skip


def _sleeve(size: GarmentSize) -> Panel:
    half, cuff, long = SLEEVE_WIDE_MM / 2, SLEEVE_WIDE_MM / 2 * CUFF_SHARE, size.sleeve_mm
    hem = long - 20
    return Panel(
        outline=f"M{-half:.1f} 0L{half:.1f} 0L{cuff:.1f} {long:.1f}L{-cuff:.1f} {long:.1f}Z",
        collar=f"M{-cuff - 2:.1f} {hem:.1f}L{cuff + 2:.1f} {hem:.1f}", bounds_mm=(-half, 0, half, long),
        widest_mm=2 * (cuff - SEAM_MM), origin="shoulder seam",
    )  # fmt: skip


def outline(size: GarmentSize) -> str:
    """SVG path of the front, in mm."""
    half, neck, top = size.chest_mm / 2, size.collar_width_mm / 2, -size.collar_drop_mm
    hem, shoulder = size.length_mm - size.collar_drop_mm, top + SHOULDER_SLOPE_MM
    cuff_x, cuff_y = half + size.sleeve_mm * 0.72, shoulder + size.sleeve_mm * 0.78
    armpit = shoulder + ARMHOLE_MM - SHOULDER_SLOPE_MM

    def side(sign: int) -> list[tuple[float, float]]:
        edge = [
            (neck, top),
            (half - 25, shoulder),
            (cuff_x, cuff_y),
            (cuff_x - 78, cuff_y + 78),
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
