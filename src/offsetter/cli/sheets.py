"""What is cut and what is laid: contours and layouts."""

import time
from argparse import Namespace
from pathlib import Path
from typing import Any

from offsetter.cli.reading import findings_told, json_file
from offsetter.core.units import px_of
from offsetter.core.values import Refusal

CONTOUR_DPI = 300
NEST_SECONDS = 5.0


def contour(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.contour import contour_of
    from offsetter.formats.cut_files import write_cut
    from offsetter.intake.decode import decode

    art, out = Path(asked.art), Path(asked.out)
    if not out.parent.is_dir():
        raise Refusal("no-folder", f"There is no folder {out.parent}.", "", "Make it first.")
    picture = decode(art, art.name)
    if picture.is_vector:
        # Drawn again so finely that its dots do not show in the line.
        picture = decode(art, art.name, scale=px_of(asked.width_mm, CONTOUR_DPI) / picture.rgba.shape[1])
    height, width = picture.rgba.shape[:2]
    scale = asked.width_mm / width
    made = contour_of(
        picture.rgba[:, :, 3], scale, asked.offset_mm, max_error_mm=asked.max_error_mm, least_radius_mm=asked.least_radius_mm,
        keeps_holes=not asked.no_holes,
    )  # fmt: skip
    write_cut(out, made.paths, asked.width_mm, height * scale)
    return {
        "rings": made.rings, "holes": made.holes, "nodes": made.nodes, "area_mm2": made.area_mm2, "max_error_mm": made.max_error_mm,
        "bounds_mm": [round(v, 3) for v in made.bounds_mm], "files": [str(out)], "findings": findings_told(picture.notes),
    }  # fmt: skip


def nest(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute import nest as search
    from offsetter.core.compute.nest_shapes import nest_shapes
    from offsetter.formats.nest_svg import write_nest

    told = json_file(Path(asked.pieces))
    rows = told.get("pieces") if isinstance(told, dict) else None
    if not isinstance(rows, list) or not rows:
        raise Refusal(
            "no-pieces", f"“{Path(asked.pieces).name}” holds no list “pieces”.", "", "Give at least one piece."
        )
    pieces = tuple(search.Piece.model_validate(row) for row in rows)
    if len({p.id for p in pieces}) < len(pieces):
        raise Refusal("twice", "Two pieces have one id.", "", "Give each its own, and a count where they are alike.")
    out = Path(asked.out) if asked.out else None
    if out is not None and (out.suffix.lower() != ".svg" or not out.parent.is_dir()):
        raise Refusal("unknown-format", f"“{asked.out}” is no .svg in a folder that exists.", "", "Name the file so.")
    began = time.monotonic()
    has_shapes = any(p.outline_mm for p in pieces) and asked.roll is not None
    seconds = asked.seconds if asked.seconds is not None else NEST_SECONDS

    def share(tries: int) -> float:
        if asked.iterations is not None:
            return tries / max(1, int(asked.iterations))
        # Shapes are laid as boxes first, and that is the floor.
        return float((time.monotonic() - began) / (min(1.0, seconds / 4) if has_shapes else seconds or 1e-9))

    made = search.nest(
        pieces,
        gap_mm=asked.gap_mm,
        margin_mm=asked.margin_mm,
        roll_mm=asked.roll,
        sheet_mm=asked.sheet,
        seed=asked.seed,
        share=share,
    )
    if has_shapes:
        left = max(1, round(seconds - (time.monotonic() - began)))
        made = nest_shapes(
            pieces,
            roll_mm=asked.roll,
            gap_mm=asked.gap_mm,
            margin_mm=asked.margin_mm,
            seconds=left,
            seed=asked.seed,
            boxes=made,
        )
    if out is not None:
        write_nest(out, made, pieces, asked.roll or asked.sheet[0], made.length_mm or asked.sheet[1])
    size = {"length_mm": made.length_mm, "bound_mm": made.bound, "grid_length_mm": made.grid} if asked.roll is not None else {
        "sheets": made.sheets, "bound_sheets": round(made.bound), "grid_sheets": round(made.grid)}  # fmt: skip
    return {
        **size,
        "waste_pct": made.waste_pct,
        "places": [p.model_dump() for p in made.places],
        "seconds": round(time.monotonic() - began, 3),
    }
