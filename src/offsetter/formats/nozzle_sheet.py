"""A nozzle sheet as files that a printer takes: ink by ink as TIFF, or as a picture at its exact size."""

from io import BytesIO
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from offsetter.core.compute.nozzles import INK_RGB, LINE_MM, LINE_THICK_MM, PATCH_MM, NozzleSheet, draw_sheet
from offsetter.core.facts.inks import FOUR, INKS
from offsetter.core.values import Refusal
from offsetter.formats.plates_pdf import write_pdf
from offsetter.formats.plates_tiff import write_tiff


def write_picture(sheet: NozzleSheet, dpi: int) -> bytes:
    """PNG at dpi, as it is to look."""
    out = BytesIO()
    Image.fromarray(draw_sheet(sheet, dpi, paper=255)).save(out, "PNG", dpi=(dpi, dpi))
    return out.getvalue()


def write_plates(path: Path, sheet: NozzleSheet, dpi: int) -> None:
    """As TIFF, each line in its own ink alone, at full. Raises Refusal for inks that plates have no place for."""
    write_tiff(path, plates_of(sheet, dpi), dpi, plates_in(sheet))


def write_sheet_pdf(path: Path, sheet: NozzleSheet, dpi: int) -> None:
    """As PDF, a page of the sheet's exact size, for a printer that is sent it. Raises Refusal as above."""
    write_pdf(path, plates_of(sheet, dpi), sheet.width_mm, sheet.height_mm, plates_in(sheet))


def plates_in(sheet: NozzleSheet) -> tuple[str, ...]:
    """The four inks, whether they are on the sheet or not, and after them its others, white as the last. Raises Refusal for an ink that
    plates have no place for."""
    named = {r.channel for r in sheet.rows}
    if lost := sorted(named - INKS.keys()):
        raise Refusal(
            "no-such-plate", f"Plates have no place for {lost[0]}.", "Nothing was written.", "Take the picture instead."
        )
    return tuple(c for c in INKS if c in FOUR or c in named)


def plates_of(sheet: NozzleSheet, dpi: int) -> NDArray[np.uint8]:
    """Rows, columns, plates: each line in its own ink alone, at full. Raises Refusal for inks that plates have no place for."""
    inks = plates_in(sheet)
    scale = dpi / 25.4
    drawn = draw_sheet(sheet, dpi, {r.channel: tuple(range(1, len(r.lines_mm) + 1)) for r in sheet.rows}, paper=255)
    # What is left then is marks, squares and grounds: black.
    planes = np.zeros((*drawn.shape[:2], len(inks)), np.uint8)
    full = 255 - max(INK_RGB["K"])
    planes[:, :, inks.index("K")] = np.minimum(255, (255 - drawn.max(axis=2).astype(np.uint16)) * 255 // full)

    def box(plane: int, x: float, y: float, w: float, h: float) -> None:
        left, up = round(x * scale), round(y * scale)
        planes[up : up + max(1, round(h * scale)), left : left + max(1, round(w * scale)), plane] = 255

    for row in sheet.rows:
        plane = inks.index(row.channel)
        box(plane, *row.patch_mm, PATCH_MM, PATCH_MM)
        for x, y in row.lines_mm:
            box(plane, x, y, LINE_MM, LINE_THICK_MM)
    return planes
