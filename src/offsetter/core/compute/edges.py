"""Where the magnifier should look: the edge at which a shifted white plate would be seen first."""

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.strokes import ThinSpot
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

Bytes = NDArray[np.uint8]


class EdgeSpot(Frozen):
    """x and y as shares (0 to 1) of the print's width and height, from its upper left, wearer's side."""

    x: float
    y: float
    why: str


def worst_edge(rgba: Bytes, thin: tuple[ThinSpot, ...], crop_px: tuple[int, int, int, int]) -> EdgeSpot:
    """The thinnest stroke if there is one, else the darkest colour that meets the cloth.

    rgba: the cropped picture at any size; thin: spots in pixels of the original; crop_px: its crop there.
    """
    strokes = [s for s in thin if not s.is_dot]
    if strokes:
        left, top, right, bottom = crop_px
        spot = strokes[0]
        return EdgeSpot(x=(spot.x_px - left) / (right - left), y=(spot.y_px - top) / (bottom - top),
                        why=say("the thinnest stroke: least white"))  # fmt: skip
    solid = (rgba[..., 3] > 127).astype(np.uint8)
    inner = cv2.erode(solid, np.ones((3, 3), np.uint8), borderValue=0)
    edge = solid - inner
    if not edge.any():
        return EdgeSpot(x=0.5, y=0.5, why=say("no hard edge: the middle"))
    brightest = np.maximum(np.maximum(rgba[..., 0], rgba[..., 1]), rgba[..., 2])
    luma = cv2.blur(brightest, (3, 3)).astype(np.float32)
    # A dark edge over white shows a rim most; ties go to the middle of the picture.
    rows, columns = np.nonzero(edge)
    height, width = edge.shape
    far = np.hypot(columns / width - 0.5, rows / height - 0.5)
    best = int(np.argmin(luma[rows, columns] + 8 * far))
    return EdgeSpot(x=float(columns[best] / width), y=float(rows[best] / height),
                    why=say("the darkest edge: a rim shows most"))  # fmt: skip
