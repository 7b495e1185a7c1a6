import cv2
import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]


def resample(rgba: Bytes, width_px: int, height_px: int) -> Bytes:
    """The picture at another size; colour under alpha 0 does not bleed in."""
    if rgba.shape[:2] == (height_px, width_px):
        return rgba
    is_smaller = width_px < rgba.shape[1]
    way = cv2.INTER_AREA if is_smaller else cv2.INTER_CUBIC
    alpha = rgba[..., 3:4].astype(np.float32) * np.float32(1 / 255)
    lit = np.concatenate([rgba[..., :3] * alpha, alpha * 255], axis=2).astype(np.float32)
    sized = cv2.resize(lit, (width_px, height_px), interpolation=way)
    shown = np.clip(sized[..., 3:4], 0, 255)
    with np.errstate(divide="ignore", invalid="ignore"):
        colour = np.where(shown > 0, sized[..., :3] * 255 / shown, 0)
    return np.asarray(np.rint(np.clip(np.concatenate([colour, shown], axis=2), 0, 255)).astype(np.uint8))
