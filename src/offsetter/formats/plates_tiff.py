"""Plates as one TIFF: CMYK with White as a named extra ink."""

import mmap
from collections.abc import Iterable, Iterator
from pathlib import Path

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray

NAMES = ("Cyan", "Magenta", "Yellow", "Black", "White")
STRIP_ROWS = 256
_SHORT, _ASCII = 3, 2
_INK_SET, _INK_NAMES, _NUMBER_OF_INKS = 332, 333, 334


def write_tiff(path: Path, planes: NDArray[np.uint8], dpi: int, profile: bytes | None = None) -> None:
    """Write planes at dpi: (rows, columns, 4 or 5) with 255 full ink, or 3 of a driver's RGB; deflate, readable by any TIFF 6 reader."""
    inks = planes.shape[2]
    if inks == 3:
        tifffile.imwrite(
            path, _packed(planes) if isinstance(planes, np.memmap) else planes, shape=planes.shape, dtype=np.uint8, photometric="rgb",
            planarconfig="contig", compression="adobe_deflate", compressionargs={"level": 1}, predictor=False, rowsperstrip=STRIP_ROWS, resolution=(dpi, dpi), resolutionunit="INCH", metadata=None, maxworkers=2, iccprofile=profile,
        )  # fmt: skip
        return
    names = "".join(f"{n}\0" for n in NAMES[:inks])
    # What lies in a file is packed strip by strip: none of it stays in memory.
    is_held = isinstance(planes, np.memmap)
    tifffile.imwrite(
        path, _packed(planes) if is_held else planes, shape=planes.shape, dtype=np.uint8, photometric="separated", planarconfig="contig", compression="adobe_deflate",
        compressionargs={"level": 1}, predictor=False, rowsperstrip=STRIP_ROWS, extrasamples=[0] * (inks - 4),
        resolution=(dpi, dpi), resolutionunit="INCH", metadata=None, maxworkers=2, iccprofile=profile,
        extratags=[(_INK_SET, _SHORT, 1, 1, True), (_NUMBER_OF_INKS, _SHORT, 1, inks, True),
                   (_INK_NAMES, _ASCII, len(names), names, True)],
    )  # fmt: skip


def read_plates(paths: Iterable[str], room: Path, large: int) -> Iterator[NDArray[np.uint8]]:
    """Planes of each file in turn; of more than so many bytes they lie in a file at room, until the next are asked for."""
    for path in paths:
        with tifffile.TiffFile(path) as file:
            size = file.series[0].size
        yield tifffile.imread(path, out=str(room)) if size > large else tifffile.imread(path)
        room.unlink(missing_ok=True)


def _packed(planes: NDArray[np.uint8]) -> Iterator[bytes]:
    for top in range(0, planes.shape[0], STRIP_ROWS):
        yield bytes(imagecodecs.deflate_encode(np.ascontiguousarray(planes[top : top + STRIP_ROWS]), level=1))  # type: ignore[arg-type]
        let_go(planes)


def let_go(planes: NDArray[np.uint8]) -> None:
    """Of planes that lie in a file: what was read or written of them leaves the memory, and stays in the file."""
    held = planes if isinstance(planes, np.memmap) else planes.base
    if isinstance(held, np.memmap) and (mapped := getattr(held, "_mmap", None)) is not None:
        mapped.madvise(mmap.MADV_DONTNEED)
