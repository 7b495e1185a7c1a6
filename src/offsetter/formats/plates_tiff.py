"""Plates as one TIFF: CMYK with White as a named extra ink."""

from pathlib import Path

import numpy as np
import tifffile
from numpy.typing import NDArray

NAMES = ("Cyan", "Magenta", "Yellow", "Black", "White")
_SHORT, _ASCII = 3, 2
_INK_SET, _INK_NAMES, _NUMBER_OF_INKS = 332, 333, 334


def write_tiff(path: Path, planes: NDArray[np.uint8], dpi: int, profile: bytes | None = None) -> None:
    """Write planes at dpi: (rows, columns, 4 or 5) with 255 full ink, or 3 of a driver's RGB; deflate, readable by any TIFF 6 reader."""
    inks = planes.shape[2]
    if inks == 3:
        tifffile.imwrite(
            path, planes, photometric="rgb", planarconfig="contig", compression="adobe_deflate", compressionargs={"level": 1}, predictor=False,
            rowsperstrip=256, resolution=(dpi, dpi), resolutionunit="INCH", metadata=None, maxworkers=2, iccprofile=profile,
        )  # fmt: skip
        return
    names = "".join(f"{n}\0" for n in NAMES[:inks])
    tifffile.imwrite(
        path, planes, photometric="separated", planarconfig="contig", compression="adobe_deflate",
        compressionargs={"level": 1}, predictor=False, rowsperstrip=256, extrasamples=[0] * (inks - 4),
        resolution=(dpi, dpi), resolutionunit="INCH", metadata=None, maxworkers=2, iccprofile=profile,
        extratags=[(_INK_SET, _SHORT, 1, 1, True), (_NUMBER_OF_INKS, _SHORT, 1, inks, True),
                   (_INK_NAMES, _ASCII, len(names), names, True)],
    )  # fmt: skip
