"""A stand-in for a printer with nozzles out and the scanner beside it: what comes out of a nozzle sheet that was printed and scanned."""

import cv2
import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
PAPER, AROUND_MM = 250, 4.0


def scanned(
    printed: Bytes, printed_dpi: int, dpi: int, seed: int, *, contrast: float = 1.0, skew_deg: float = 0.0, bent_mm: float = 0.0,
    blur_px: float = 0.0, noise: float = 0.0, upside_down: bool = False, mirrored: bool = False,
) -> Bytes:  # fmt: skip
    """RGB of a sheet as a scanner sees it: contrast of the ink, turned by degrees, corners bent by up to mm, softened, with noise."""
    chance = np.random.default_rng(seed)
    seen = PAPER - (PAPER - printed.astype(np.float32)) * contrast
    high, wide = seen.shape[:2]
    scale, around = dpi / printed_dpi, round(AROUND_MM / 25.4 * dpi)
    size = (round(wide * scale) + 2 * around, round(high * scale) + 2 * around)
    corners = np.array([(0, 0), (wide, 0), (0, high), (wide, high)], np.float32)
    angle, middle = np.deg2rad(skew_deg), np.array((wide / 2, high / 2), np.float32)
    turn = np.array(((np.cos(angle), -np.sin(angle)), (np.sin(angle), np.cos(angle))), np.float32)
    there = (corners - middle) @ turn.T * scale + np.array((size[0] / 2, size[1] / 2), np.float32)
    there += chance.uniform(-bent_mm, bent_mm, there.shape).astype(np.float32) * dpi / 25.4
    if scale < 1:
        # A scanner's dot gathers all the light that falls on it.
        seen = cv2.GaussianBlur(seen, (0, 0), 0.45 / scale)
    move = cv2.getPerspectiveTransform(corners, there.astype(np.float32))
    seen = cv2.warpPerspective(seen, move, size, flags=cv2.INTER_LINEAR, borderValue=(PAPER,) * 3)
    if blur_px:
        seen = cv2.GaussianBlur(seen, (0, 0), blur_px)
    if noise:
        seen = seen + chance.normal(0, noise, seen.shape)
    found = np.clip(seen, 0, 255).astype(np.uint8)
    found = found[::-1, ::-1] if upside_down else found
    return np.ascontiguousarray(found[:, ::-1] if mirrored else found)
