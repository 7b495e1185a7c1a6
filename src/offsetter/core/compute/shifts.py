"""A colour of the artwork printed as another, its neighbours going part of the way with it."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFilter

from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb, rgb_of_hex, srgb_of_lab
from offsetter.core.compute.plate_spec import Shift

WHOLE_DELTA_E, NONE_DELTA_E = 3.0, 14.0
"""CIEDE2000 to the colour up to which all goes along, and from which nothing does: from memory."""
_NODES = 33


def shifted(rgba: NDArray[np.uint8], shifts: tuple[Shift, ...]) -> NDArray[np.uint8]:
    """The picture (rows, columns, 4; sRGB) with its colours moved; alpha stays. Without shifts the same array."""
    if not shifts:
        return rgba
    picture = Image.fromarray(np.ascontiguousarray(rgba[..., :3]))
    moved = np.asarray(picture.filter(_table(shifts)))
    return np.dstack([moved, rgba[..., 3]])


@lru_cache(maxsize=16)
def _table(shifts: tuple[Shift, ...]) -> ImageFilter.Color3DLUT:
    axis = np.linspace(0, 255, _NODES)
    # The first channel moves quickest in Pillow's tables.
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")
    lab = lab_of_srgb(np.stack([red, green, blue], axis=-1).reshape(-1, 3))
    moved = lab.copy()
    for shift in shifts:
        source = lab_of_srgb(rgb_of_hex(shift.colour))
        share = np.clip((NONE_DELTA_E - delta_e_2000(lab, source)) / (NONE_DELTA_E - WHOLE_DELTA_E), 0, 1)
        moved += share[:, None] * (np.array(shift.lab) - source)
    return ImageFilter.Color3DLUT(_NODES, (srgb_of_lab(moved) / 255).reshape(-1).tolist())
