"""Cut paths as SVG and DXF: millimetres, true arcs, a layer for each kind of line. Nothing in them is drawn twice or filled."""

import io
import math
from pathlib import Path

from offsetter.core.compute.contour import CutPath
from offsetter.core.values import Refusal

LOOKS = {"cut": "#d01a5b", "through": "#7a1fd0", "weed": "#d07a00", "mark": "#111111", "test": "#0a7d4f"}
"""By role: a cutter's program tells layers by their colour as well."""
COLOURS = {"cut": 1, "through": 6, "weed": 30, "mark": 7, "test": 3}
FORMATS = (".svg", ".dxf")


def write_cut(target: Path, paths: tuple[CutPath, ...], width_mm: float, height_mm: float) -> None:
    """As its name ends, whole or not at all. The page is what was printed: its left upper corner is 0, 0."""
    suffix = target.suffix.lower()
    if suffix not in FORMATS:
        raise Refusal(
            "unknown-format", f"“{target.name}” is neither .svg nor .dxf.", "Nothing was written.", "Name the file so."
        )
    data = svg_of(paths, width_mm, height_mm) if suffix == ".svg" else dxf_of(paths, height_mm)
    part = target.with_name(target.name + ".part")
    try:
        part.write_text(data)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def svg_of(paths: tuple[CutPath, ...], width_mm: float, height_mm: float) -> str:
    """One group a role; y runs downwards as on the sheet."""
    groups = []
    for role in dict.fromkeys(p.role for p in paths):
        drawn = "".join(f'<path d="{d_of(p)}"/>' for p in paths if p.role == role)
        groups.append(f'<g id="{role.upper()}" fill="none" stroke="{LOOKS[role]}" stroke-width="0.1">{drawn}</g>')
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width_mm:g}mm" height="{height_mm:g}mm" viewBox="0 0 {width_mm:g} {height_mm:g}">'
        f"{''.join(groups)}</svg>\n"
    )


def d_of(path: CutPath) -> str:
    """As an SVG path says it."""
    (x, y, _), said = path.nodes[0], []
    said.append(f"M{x:.4f} {y:.4f}")
    for (x0, y0, bulge), (x1, y1, _) in zip(path.nodes, (*path.nodes[1:], path.nodes[0]), strict=True):
        if not bulge:
            said.append(f"L{x1:.4f} {y1:.4f}")
            continue
        radius = math.hypot(x1 - x0, y1 - y0) / 2 / math.sin(2 * math.atan(abs(bulge)))
        large, sweep = int(abs(bulge) > 1), int(bulge > 0)
        said.append(f"A{radius:.4f} {radius:.4f} 0 {large} {sweep} {x1:.4f} {y1:.4f}")
    return f"{''.join(said)}Z"


def dxf_of(paths: tuple[CutPath, ...], height_mm: float) -> str:
    """One closed polyline a path, in mm; y runs upwards, so bows turn the other way."""
    # Loaded where it is written: the server's start does not wait for it.
    from ezdxf import units
    from ezdxf.document import Drawing

    made = Drawing.new("R2010")
    made.units = units.MM
    for role in dict.fromkeys(p.role for p in paths):
        made.layers.add(role.upper(), color=COLOURS[role])
    space = made.modelspace()
    for path in paths:
        points = [(x, height_mm - y, -bulge) for x, y, bulge in path.nodes]
        space.add_lwpolyline(points, format="xyb", close=True, dxfattribs={"layer": path.role.upper()})
    out = io.StringIO()
    made.write(out)
    return out.getvalue()
