import cv2
import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]


def resample(rgba: Bytes, width_px: int, height_px: int) -> Bytes:
    """The picture at another size; colour under alpha 0 does not bleed in."""
    if rgba.shape[:2] == (height_px, width_px):
        return rgba
    if width_px < rgba.shape[1]:
        return shrink(lit_of(rgba), width_px, height_px)
    return grow(rgba, width_px, height_px, cv2.INTER_CUBIC)


def grow(rgba: Bytes, width_px: int, height_px: int, way: int) -> Bytes:
    """A larger picture by one of OpenCV's windows."""
    alpha = rgba[..., 3:4].astype(np.float32) * np.float32(1 / 255)
    lit = np.concatenate([rgba[..., :3] * alpha, alpha * 255], axis=2).astype(np.float32)
    return _unlit(np.asarray(cv2.resize(lit, (width_px, height_px), interpolation=way), np.float32))


def lit_of(rgba: Bytes) -> NDArray[np.uint16]:
    """Colours lit by their alpha, in sixteen bits: a quarter of the time of floats, and finer than what comes out."""
    alpha = rgba[..., 3]
    by = cv2.merge([alpha, alpha, alpha, np.full_like(alpha, 255)])
    return np.asarray(cv2.multiply(rgba, by, dtype=cv2.CV_16U), np.uint16)


def shrink(lit: NDArray[np.uint16], width_px: int, height_px: int) -> Bytes:
    """A smaller picture of one that is lit already."""
    sized = cv2.resize(lit, (width_px, height_px), interpolation=cv2.INTER_AREA)
    return _unlit(sized.astype(np.float32) * np.float32(1 / 255))


def _unlit(sized: NDArray[np.float32]) -> Bytes:
    # A window that rings goes over the top in colour and alpha alike: only unclipped do they belong together.
    shown = sized[..., 3:4]
    with np.errstate(divide="ignore", invalid="ignore"):
        colour = np.where(shown > 0, sized[..., :3] * 255 / shown, 0)
    return np.asarray(np.rint(np.clip(np.concatenate([colour, shown], axis=2), 0, 255)).astype(np.uint8))
