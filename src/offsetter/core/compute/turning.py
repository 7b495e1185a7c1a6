"""A print that lies at a slant: its picture turned by an angle that is no quarter."""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
TILE_PX = 512


def turned(picture: Bytes, degrees: float) -> Bytes:
    """The picture (rows, columns, channels; straight alpha last of four) turned against the clock round its middle, as it is seen, in the
    box that it then takes, with nothing around it. As many dots a mm as before; a colour counts by how much of it there is.
    """
    rows, columns = picture.shape[:2]
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    wide, high = max(1, round(columns * abs(c) + rows * abs(s))), max(1, round(columns * abs(s) + rows * abs(c)))
    out = np.zeros((high, wide, picture.shape[2]), np.uint8)
    for top in range(0, high, TILE_PX):
        for left in range(0, wide, TILE_PX):
            y, x = np.mgrid[top : min(top + TILE_PX, high), left : min(left + TILE_PX, wide)].astype(np.float64)
            dx, dy = x + 0.5 - wide / 2, y + 0.5 - high / 2
            u, v = c * dx - s * dy + columns / 2 - 0.5, s * dx + c * dy + rows / 2 - 0.5
            # What of the picture the tile sees, and as much round it as the cubic reaches.
            u0, u1 = max(0, math.floor(u.min()) - 2), min(columns, math.ceil(u.max()) + 3)
            v0, v1 = max(0, math.floor(v.min()) - 2), min(rows, math.ceil(v.max()) + 3)
            if u0 >= u1 or v0 >= v1:
                continue
            part = picture[v0:v1, u0:u1].astype(np.float32)
            if not part[..., -1].any():
                continue
            out[top : top + TILE_PX, left : left + TILE_PX] = _seen(
                part, (u - u0).astype(np.float32), (v - v0).astype(np.float32)
            )
    return out


def _seen(part: NDArray[np.float32], u: NDArray[np.float32], v: NDArray[np.float32]) -> Bytes:
    has_alpha = part.shape[2] == 4
    if has_alpha:
        part[..., :3] *= part[..., 3:] / 255
    found = cv2.remap(part, u, v, cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT, borderValue=(0, 0, 0, 0)).reshape(
        *u.shape, -1
    )
    if has_alpha:
        share = np.clip(found[..., 3:], 0, 255) / 255
        found[..., :3] = np.divide(found[..., :3], share, out=np.zeros_like(found[..., :3]), where=share > 0)
    return np.clip(np.rint(found), 0, 255).astype(np.uint8)
