"""A picture at the dots it is printed at, row by row, as they are asked for: a print may be larger than the memory."""

import cv2
import numba
import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
Floats = NDArray[np.float32]
BICUBIC = -0.75
"""Of the window, as OpenCV's has it."""


class Sized:
    """The picture (rows, columns, 4; straight alpha) at another size; colour under alpha 0 does not bleed in."""

    def __init__(self, rgba: Bytes, width_px: int, height_px: int) -> None:
        self.shape = (height_px, width_px)
        self._rgba = rgba

    def rows(self, top: int, bottom: int) -> Bytes:
        """Those from top to bottom, the same whichever others are asked for with them."""
        if self._rgba.shape[:2] == self.shape:
            return self._rgba[top:bottom]
        height, width = self.shape
        if width < self._rgba.shape[1]:
            out = np.empty((bottom - top, width, 4), np.uint8)
            _smaller(self._rgba, top, height, out)
            return out
        rows, down = _neighbours(top, bottom, self._rgba.shape[0], height)
        columns, across = _neighbours(0, width, self._rgba.shape[1], width)
        low = int(rows.min())
        lit = _across(self._rgba[low : int(rows.max()) + 1], columns, across)
        out = np.empty((bottom - top, width, 4), np.uint8)
        _down(lit, rows - low, down, out)
        return out


def resample(rgba: Bytes, width_px: int, height_px: int) -> Bytes:
    """The whole of it at another size."""
    return Sized(rgba, width_px, height_px).rows(0, height_px)


def _neighbours(first: int, last: int, of: int, to: int) -> tuple[NDArray[np.int64], Floats]:
    """Of the dots from first to last of `to`: the four of `of` that each is mixed from, and what each of them counts for."""
    centre = ((np.arange(first, last) + 0.5) * (of / to) - 0.5).astype(np.float32)
    before = np.floor(centre)
    a, x = np.float32(BICUBIC), centre - before
    y = 1 - x
    outer = ((a * (x + 1) - 5 * a) * (x + 1) + 8 * a) * (x + 1) - 4 * a
    left, right = ((a + 2) * x - (a + 3)) * x * x + 1, ((a + 2) * y - (a + 3)) * y * y + 1
    taps = np.stack([outer, left, right, 1 - outer - left - right], axis=1).astype(np.float32)
    return np.clip(before.astype(np.int64)[:, None] + np.arange(-1, 3), 0, of - 1), taps


@numba.njit(nogil=True, cache=True, fastmath=False)
def _smaller(rgba: Bytes, top: int, height: int, out: Bytes) -> None:
    """Rows from top on of the picture at so many rows: every dot the mean of the area that it takes, colours lit by their alpha."""
    along, across = rgba.shape[0] / height, rgba.shape[1] / out.shape[1]
    for y in range(out.shape[0]):
        y0, y1 = (top + y) * along, (top + y + 1) * along
        for x in range(out.shape[1]):
            x0, x1 = x * across, (x + 1) * across
            r, g, b, a = 0.0, 0.0, 0.0, 0.0
            for j in range(int(y0), min(int(np.ceil(y1 - 1e-9)), rgba.shape[0])):
                deep = min(y1, j + 1.0) - max(y0, float(j))
                for i in range(int(x0), min(int(np.ceil(x1 - 1e-9)), rgba.shape[1])):
                    by = deep * (min(x1, i + 1.0) - max(x0, float(i))) * rgba[j, i, 3]
                    r += by * rgba[j, i, 0]
                    g += by * rgba[j, i, 1]
                    b += by * rgba[j, i, 2]
                    a += by
            if a > 0:
                out[y, x, 0], out[y, x, 1], out[y, x, 2] = (
                    np.uint8(r / a + 0.5),
                    np.uint8(g / a + 0.5),
                    np.uint8(b / a + 0.5),
                )
            else:
                out[y, x, 0], out[y, x, 1], out[y, x, 2] = 0, 0, 0
            out[y, x, 3] = np.uint8(a / (along * across) + 0.5)


@numba.njit(nogil=True, cache=True, fastmath=False)
def _across(rgba: Bytes, taken: NDArray[np.int64], taps: Floats) -> Floats:
    """Each row's dots mixed by four taps, colours lit by their alpha (0 to 255)."""
    out = np.empty((rgba.shape[0], taken.shape[0], 4), np.float32)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            r, g, b, a = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
            for k in range(4):
                at = taken[x, k]
                by = taps[x, k] * np.float32(rgba[y, at, 3])
                r += by * np.float32(rgba[y, at, 0])
                g += by * np.float32(rgba[y, at, 1])
                b += by * np.float32(rgba[y, at, 2])
                a += by
            out[y, x, 0], out[y, x, 1], out[y, x, 2], out[y, x, 3] = r, g, b, a
    return out


@numba.njit(nogil=True, cache=True, fastmath=False)
def _down(lit: Floats, taken: NDArray[np.int64], taps: Floats, out: Bytes) -> None:
    """Rows of lit colours (rows, columns, 4) mixed by four taps each, and unlit."""
    most = np.float32(255)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            r, g, b, a = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
            for k in range(4):
                at, by = taken[y, k], taps[y, k]
                r += by * lit[at, x, 0]
                g += by * lit[at, x, 1]
                b += by * lit[at, x, 2]
                a += by * lit[at, x, 3]
            # A window that rings goes over the top in colour and alpha alike: only unclipped do they belong together.
            if a > 0:
                out[y, x, 0] = np.uint8(np.rint(min(max(r / a, np.float32(0)), most)))
                out[y, x, 1] = np.uint8(np.rint(min(max(g / a, np.float32(0)), most)))
                out[y, x, 2] = np.uint8(np.rint(min(max(b / a, np.float32(0)), most)))
            else:
                out[y, x, 0], out[y, x, 1], out[y, x, 2] = 0, 0, 0
            out[y, x, 3] = np.uint8(np.rint(min(max(a, np.float32(0)), most)))


def _lit(rgba: Bytes) -> Floats:
    alpha = rgba[..., 3:4].astype(np.float32) * np.float32(1 / 255)
    return np.asarray(np.concatenate([rgba[..., :3] * alpha, alpha * 255], axis=2), np.float32)


def grow(rgba: Bytes, width_px: int, height_px: int, way: int) -> Bytes:
    """A larger picture by one of OpenCV's windows."""
    return _unlit(np.asarray(cv2.resize(_lit(rgba), (width_px, height_px), interpolation=way), np.float32))


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
