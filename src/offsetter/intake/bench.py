"""What the screen works with: the picture at bench size, cropped and whole, and the pixels kept for the magnifier."""

from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.resample import lit_of, shrink

OWN_WHITE = "white.npy"
BENCH_PX = 480
"""Longer side of a bench picture: what a print takes on a 1280 px screen."""


def bench_size(width: int, height: int) -> tuple[int, int]:
    scale = min(1.0, BENCH_PX / max(width, height))
    return max(1, round(width * scale)), max(1, round(height * scale))


def whole_picture(folder: Path) -> NDArray[np.uint8]:
    """What is printed of the picture, as it was kept for the magnifier."""
    facts = ArtworkFacts.model_validate_json((folder / "facts.json").read_text())
    left, top, right, bottom = facts.content_px
    return np.ascontiguousarray(np.load(folder / "full.npy", mmap_mode="r")[top:bottom, left:right])


def write_bench(
    rgba: NDArray[np.uint8], facts: ArtworkFacts, folder: Path, white: NDArray[np.uint8] | None = None
) -> None:
    """bench-content.npy, bench-none.npy (rows, columns, 4) and full.npy, to be read by memory map; the file's own white beside them."""
    if white is not None:
        np.save(folder / OWN_WHITE, white)
    left, top, right, bottom = facts.content_px
    lit = lit_of(rgba)
    for crop, whole, part in (
        ("content", rgba[top:bottom, left:right], lit[top:bottom, left:right]),
        ("none", rgba, lit),
    ):
        width, height = bench_size(part.shape[1], part.shape[0])
        small = whole if part.shape[:2] == (height, width) else shrink(part, width, height)
        np.save(folder / f"bench-{crop}.npy", small)
    np.save(folder / "full.npy", rgba)
    cv2.imwrite(str(folder / "art.png"), cv2.cvtColor(small, cv2.COLOR_RGBA2BGRA), [cv2.IMWRITE_PNG_COMPRESSION, 4])
