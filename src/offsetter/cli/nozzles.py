"""`offsetter nozzles` and `offsetter nozzle-sheet`: a check sheet made, and read back from a scan of it."""

from argparse import Namespace
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from offsetter.core.values import Refusal

SHEET_DPI = 600
MOST_BYTES = 2_000_000


def nozzles(asked: Namespace) -> dict[str, Any]:
    import numpy as np

    from offsetter.core.compute.nozzles import NozzleSheet, read_sheet
    from offsetter.intake.decode import decode

    path, scan = Path(asked.sheet), Path(asked.scan)
    if not path.is_file() or path.stat().st_size > MOST_BYTES:
        raise Refusal("no-sheet", f"“{path.name}” is no description of a nozzle sheet.", "", "Give the JSON that was made with the sheet.")  # fmt: skip
    try:
        sheet = NozzleSheet.model_validate_json(path.read_bytes())
    except ValidationError:
        raise Refusal("no-sheet", f"“{path.name}” is no description of a nozzle sheet.", "", "Give the JSON that was made with the sheet.") from None  # fmt: skip
    rgba = decode(scan, scan.name).rgba
    # What a scan leaves transparent is the scanner's white.
    alpha = rgba[:, :, 3:].astype(np.float32) / 255
    rgb = (rgba[:, :, :3] * alpha + 255 * (1 - alpha)).round().astype(np.uint8)
    read = read_sheet(rgb, sheet)
    return {
        "missing": {c: list(n) for c, n in read.missing.items()}, "lines": read.lines, "dpi": read.dpi, "turned": read.was_turned,
        "mirrored": read.was_mirrored, "missing_px": read.missing_px, "findings": [],
    }  # fmt: skip


def nozzle_sheet(asked: Namespace) -> dict[str, Any]:
    import cv2

    from offsetter.core.compute.nozzles import draw_sheet, sheet_for

    out = Path(asked.out)
    if out.suffix.lower() != ".png" or not out.parent.is_dir():
        raise Refusal("unknown-format", f"“{asked.out}” is no .png in a folder that exists.", "", "Name the file so.")
    sheet = sheet_for(tuple(c.strip() for c in asked.channels.split(",")), asked.lines, asked.name)
    drawn = draw_sheet(sheet, SHEET_DPI)
    cv2.imwrite(str(out), drawn[:, :, ::-1])
    out.with_suffix(".json").write_text(sheet.model_dump_json())
    return {"size_mm": [sheet.width_mm, sheet.height_mm], "dpi": SHEET_DPI, "lines": sheet.lines, "files": [str(out), str(out.with_suffix(".json"))]}  # fmt: skip
