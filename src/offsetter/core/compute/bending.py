"""A print bent for a wall that tapers, and seen on the cup again."""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.wrap import Bend, Cup

Bytes = NDArray[np.uint8]
ROWS_AT_ONCE = 256
VIEW_PX = 220
"""Of a cup's largest width, in its picture."""
TURNS = (-0.5 * math.pi, 0.0, 0.5 * math.pi)
"""The cup as it is seen: from its left, its front, its right; the handle is behind."""


def bent(rgba: Bytes, bend: Bend, width_mm: float, height_mm: float) -> Bytes:
    """The picture (rows, columns, channels), straight, as it is printed: its box filled with nothing around it. As many dots a mm as before."""
    rows, columns = rgba.shape[:2]
    per_mm = columns / width_mm
    wide, high = bend.box_mm(width_mm, height_mm)
    out_w, out_h = max(1, math.ceil(wide * per_mm)), max(1, math.ceil(high * per_mm))
    out = np.zeros((out_h, out_w, rgba.shape[2]), np.uint8)
    for first in range(0, out_h, ROWS_AT_ONCE):
        y, x = np.mgrid[first : min(first + ROWS_AT_ONCE, out_h), 0:out_w].astype(np.float64) + 0.5
        u, v = straight_at(x / per_mm, y / per_mm, bend, width_mm, height_mm)
        out[first : first + ROWS_AT_ONCE] = cv2.remap(
            rgba, (u * columns / width_mm - 0.5).astype(np.float32), (v * rows / height_mm - 0.5).astype(np.float32), cv2.INTER_LINEAR,
            borderMode=cv2.BORDER_CONSTANT, borderValue=(0, 0, 0, 0),
        )  # fmt: skip
    return out


def straight_at(
    x_mm: NDArray[np.float64], y_mm: NDArray[np.float64], bend: Bend, width_mm: float, height_mm: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Points of the bent print's box to where they come from in the straight one: u across and v down, from its left upper corner."""
    top, angle = bend.radius_um / 1000, bend.angle(width_mm, height_mm)
    wide, high = bend.box_mm(width_mm, height_mm)
    if top > 0:
        # The centre lies below: the upper edge is the outer one, and its middle is the box's top.
        dx, dy = x_mm - wide / 2, top - y_mm
        return (np.arctan2(dx, dy) / angle + 0.5) * width_mm, top - np.hypot(dx, dy)
    # The centre lies above: the lower edge is the outer one, and its middle is the box's foot.
    outer = height_mm - top
    dx, dy = x_mm - wide / 2, outer - (high - y_mm)
    return (np.arctan2(dx, dy) / angle + 0.5) * width_mm, np.hypot(dx, dy) + top


def on_the_cup(picture: Bytes, cup: Cup, width_mm: float, height_mm: float, colour: tuple[int, int, int]) -> Bytes:
    """The cup from three sides with its print (rows, columns, 4; straight) round it, each as an eye far away sees it: RGBA."""
    per_mm = VIEW_PX / max(cup.rim_mm, cup.foot_mm)
    high, wide = round(cup.slant_mm * per_mm), VIEW_PX
    y, x = np.mgrid[0:high, 0:wide].astype(np.float64) + 0.5
    down, across = y / per_mm, (x - wide / 2) / per_mm
    radius = (cup.rim_mm + (cup.foot_mm - cup.rim_mm) * down / cup.slant_mm) / 2
    inside = np.abs(across) < radius
    middle = cup.below_mm + height_mm / 2
    around = (cup.rim_mm + (cup.foot_mm - cup.rim_mm) * middle / cup.slant_mm) / 2
    seen = np.arcsin(np.clip(across / radius, -1, 1))
    rows, columns = picture.shape[:2]
    views = []
    for turn in TURNS:
        # Where on the wall the eye meets it, as an angle round the axis, -pi to pi.
        at = np.remainder(seen + turn - cup.turned_mm / around + math.pi, 2 * math.pi) - math.pi
        u, v = at * around / width_mm + 0.5, (down - cup.below_mm) / height_mm
        found = cv2.remap(picture, (u * columns - 0.5).astype(np.float32), (v * rows - 0.5).astype(np.float32), cv2.INTER_LINEAR,
                          borderMode=cv2.BORDER_CONSTANT, borderValue=(0, 0, 0, 0)).astype(np.float64)  # fmt: skip
        share = found[..., 3:] / 255
        shade = 0.72 + 0.28 * np.cos(seen)[..., None]
        wall = (found[..., :3] * share + np.array(colour, np.float64) * (1 - share)) * shade
        views.append(np.dstack([np.rint(wall).astype(np.uint8), np.where(inside, 255, 0).astype(np.uint8)]))
    gap = np.zeros((high, VIEW_PX // 8, 4), np.uint8)
    return np.ascontiguousarray(np.hstack([views[0], gap, views[1], gap, views[2]]))
