"""Holes that belong to a picture, as in a worn texture: no fault of the print, however small they are."""

import cv2
import numpy as np
from numpy.typing import NDArray

HOLE_MM2 = 2.0
"""Under this a hole is looked at as a fault when nobody says otherwise: common practice, no source."""
STEPS = 4  # of the size's doubling: a count at a limit is right to a fifth of the size


def hole_sizes(alpha: NDArray[np.uint8]) -> tuple[tuple[float, int], ...]:
    """Clear patches that the picture closes in, as (largest area in px2, how many) from small to large."""
    clear = cv2.copyMakeBorder((alpha < 128).astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=1)
    # Clear ground touches by its sides, the picture by its corners too; the frame added above is the open ground.
    count, labels, stats, _ = cv2.connectedComponentsWithStats(clear, connectivity=4)
    if count <= 2:
        return ()
    areas = np.delete(stats[:, cv2.CC_STAT_AREA], [0, labels[0, 0]])
    steps, counts = np.unique(np.ceil(np.log2(areas) * STEPS - 1e-9), return_counts=True)
    return tuple((round(float(2 ** (s / STEPS)), 3), int(n)) for s, n in zip(steps, counts, strict=True))


def holes_under(sizes: tuple[tuple[float, int], ...], limit_px2: float) -> int:
    return sum(n for size, n in sizes if size <= limit_px2)


def own_holes(alpha: NDArray[np.uint8], limit_px2: float) -> NDArray[np.uint8]:
    """The clear patches of at most limit_px2 that the picture closes in, as a mask (rows, columns; 0 or 255)."""
    clear = cv2.copyMakeBorder((alpha < 128).astype(np.uint8), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=1)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(clear, connectivity=4)
    is_hole = stats[:, cv2.CC_STAT_AREA] <= limit_px2
    is_hole[[0, labels[0, 0]]] = False
    return np.where(is_hole[labels[1:-1, 1:-1]], 255, 0).astype(np.uint8)
