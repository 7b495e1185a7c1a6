"""Plates as one TIFF: each ink a sample, named; of four, White is an extra sample beside CMYK (TIFF 6.0, section 16)."""

import mmap
from collections.abc import Iterable, Iterator
from pathlib import Path

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray

from offsetter.core.facts.inks import BY_NAME, FOUR, WHITE, name_of

STRIP_ROWS = 256
_SHORT, _ASCII = 3, 2
_CMYK, _OTHER = 1, 2
"""Ink sets: of others, each is what its name says."""
_INK_SET, _INK_NAMES, _NUMBER_OF_INKS = 332, 333, 334


def write_tiff(
    path: Path, planes: NDArray[np.uint8], dpi: int, channels: tuple[str, ...], profile: bytes | None = None
) -> None:
    """Write planes at dpi: (rows, columns, channels) with 255 full ink, or 3 of a driver's RGB; deflate, readable by any TIFF 6 reader."""
    inks = planes.shape[2]
    if inks == 3:
        tifffile.imwrite(
            path, _packed(planes) if isinstance(planes, np.memmap) else planes, shape=planes.shape, dtype=np.uint8, photometric="rgb",
            planarconfig="contig", compression="adobe_deflate", compressionargs={"level": 1}, predictor=False, rowsperstrip=STRIP_ROWS, resolution=(dpi, dpi), resolutionunit="INCH", metadata=None, maxworkers=2, iccprofile=profile,
        )  # fmt: skip
        return
    names = "".join(f"{plate_name(c)}\0" for c in channels)
    is_four = tuple(c for c in channels if c != WHITE) == FOUR
    # What lies in a file is packed strip by strip: none of it stays in memory.
    is_held = isinstance(planes, np.memmap)
    tifffile.imwrite(
        path, _packed(planes) if is_held else planes, shape=planes.shape, dtype=np.uint8, photometric="separated", planarconfig="contig", compression="adobe_deflate",
        compressionargs={"level": 1}, predictor=False, rowsperstrip=STRIP_ROWS, extrasamples=[0] * (inks - 4),
        resolution=(dpi, dpi), resolutionunit="INCH", metadata=None, maxworkers=2, iccprofile=profile,
        extratags=[(_INK_SET, _SHORT, 1, _CMYK if is_four else _OTHER, True), (_NUMBER_OF_INKS, _SHORT, 1, inks, True),
                   (_INK_NAMES, _ASCII, len(names), names, True)],
    )  # fmt: skip


def plate_name(channel: str) -> str:
    """As a plate is called in a file: Cyan, Light Magenta."""
    return name_of(channel).title()


def read_plates(paths: Iterable[str], room: Path, large: int) -> Iterator[tuple[NDArray[np.uint8], tuple[str, ...]]]:
    """Planes and their channels of each file in turn; of more than so many bytes they lie in a file at room, until the next are
    asked for. No channels: of a driver's RGB."""
    for path in paths:
        with tifffile.TiffFile(path) as file:
            size = file.series[0].size
            named = file.pages.first.tags.get(_INK_NAMES)
            names = str(named.value).split("\0") if named is not None else []
            channels = tuple(BY_NAME[n.lower()] for n in names if n)
        yield (tifffile.imread(path, out=str(room)) if size > large else tifffile.imread(path)), channels
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
