"""CIELAB under D50 and the CIEDE2000 difference, in doubles.

Single precision gets one of the published CIEDE2000 pairs wrong (hue difference of exactly 180 degrees).
"""

from functools import lru_cache
from itertools import product

import numpy as np
from numpy.typing import ArrayLike, NDArray

from offsetter.core.sentences import say

Floats = NDArray[np.float64]

# Linear sRGB to XYZ adapted to D50 by the Bradford transform (ICC.1 sRGB v2 colorants), Y of white = 1.
SRGB_TO_XYZ_D50 = np.array([
    [0.4360747, 0.3850649, 0.1430804], [0.2225045, 0.7168786, 0.0606169], [0.0139322, 0.0971045, 0.7141733],
])  # fmt: skip
D50 = np.array([0.96422, 1.0, 0.82521])  # ICC.1, profile connection space white
_EPSILON, _KAPPA = 216 / 24389, 24389 / 27  # CIE 15, exact fractions
TABLE = 65
"""Nodes along each axis of a colour table: 17 and 33 are visibly coarser in a soft ramp."""


def linear_of_srgb(share: ArrayLike) -> Floats:
    """Linear light (0 to 1) of sRGB values from 0 to 1 (IEC 61966-2-1)."""
    v = np.asarray(share, dtype=np.float64)
    return np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)


def srgb_of_linear(light: ArrayLike) -> Floats:
    v = np.clip(np.asarray(light, dtype=np.float64), 0, 1)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)


def lab_of_srgb(rgb: ArrayLike) -> Floats:
    """Lab (D50) of sRGB values from 0 to 255, last axis of three."""
    return lab_of_xyz(linear_of_srgb(np.asarray(rgb, dtype=np.float64) / 255) @ SRGB_TO_XYZ_D50.T)


def lab_of_xyz(xyz: ArrayLike) -> Floats:
    """Lab of XYZ (D50, Y of white = 1), last axis of three (CIE 15)."""
    v = np.asarray(xyz, dtype=np.float64) / D50
    f = np.where(v > _EPSILON, np.cbrt(v), (_KAPPA * v + 16) / 116)
    x, y, z = f[..., 0], f[..., 1], f[..., 2]
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def xyz_of_lab(lab: ArrayLike) -> Floats:
    """XYZ (D50, Y of white = 1) of Lab, last axis of three (CIE 15)."""
    v = np.asarray(lab, dtype=np.float64)
    fy = (v[..., 0] + 16) / 116
    f = np.stack([fy + v[..., 1] / 500, fy, fy - v[..., 2] / 200], axis=-1)
    return np.asarray(np.where(f**3 > _EPSILON, f**3, (116 * f - 16) / _KAPPA) * D50)


def srgb_of_lab(lab: ArrayLike) -> Floats:
    """sRGB from 0 to 255 of Lab (D50), what lies outside cut off."""
    linear = xyz_of_lab(lab) @ np.linalg.inv(SRGB_TO_XYZ_D50).T
    return srgb_of_linear(linear) * 255


def hex_of_lab(lab: ArrayLike) -> str:
    """How a screen shows a Lab colour."""
    return "#" + "".join(f"{round(v):02X}" for v in srgb_of_lab(lab).reshape(-1)[:3])


def rgb_of_hex(colour: str) -> tuple[int, int, int]:
    """Red, green and blue (0 to 255) of '#RRGGBB'. Raises ValueError for anything else."""
    if len(colour) != 7 or colour[0] != "#":
        raise ValueError(say("“{colour}” is not a colour like #1A2B3C", colour=colour))
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def delta_e_2000(lab_1: ArrayLike, lab_2: ArrayLike) -> Floats:
    """CIEDE2000 of Lab arrays (last axis of three, broadcast), kL = kC = kH = 1.

    Source: Sharma, Wu, Dalal, Color Research & Application 30 (2005), equations 2 to 22.
    """
    one, two = np.asarray(lab_1, dtype=np.float64), np.asarray(lab_2, dtype=np.float64)
    c_mean7 = ((np.hypot(one[..., 1], one[..., 2]) + np.hypot(two[..., 1], two[..., 2])) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(c_mean7 / (c_mean7 + 25.0**7)))
    a1, a2, b1, b2 = (1 + g) * one[..., 1], (1 + g) * two[..., 1], one[..., 2], two[..., 2]
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    turn = h2 - h1
    dh = np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn))
    dh = np.where(grey, 0, dh)
    dl, dc = two[..., 0] - one[..., 0], c2 - c1
    big_dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh) / 2)
    l_mean, c_mean = (one[..., 0] + two[..., 0]) / 2, (c1 + c2) / 2
    h_sum = h1 + h2
    h_mean = np.where(np.abs(turn) <= 180, h_sum / 2, np.where(h_sum < 360, (h_sum + 360) / 2, (h_sum - 360) / 2))
    h_mean = np.where(grey, h_sum, h_mean)
    t = (
        1 - 0.17 * np.cos(np.radians(h_mean - 30)) + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6)) - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )  # fmt: skip
    rotation = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))
    c7 = c_mean**7
    r_t = -2 * np.sqrt(c7 / (c7 + 25.0**7)) * np.sin(np.radians(2 * rotation))
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    parts = (dl / s_l) ** 2 + (dc / s_c) ** 2 + (big_dh / s_h) ** 2 + r_t * (dc / s_c) * (big_dh / s_h)
    return np.asarray(np.sqrt(np.maximum(parts, 0)))


@lru_cache(maxsize=16)
def cloth_difference_table(cloth: str) -> NDArray[np.float32]:
    """CIEDE2000 of every node of a 65-cubed sRGB table to the cloth, shape (65, 65, 65), indexed r, g, b."""
    axis, to = np.linspace(0, 255, TABLE), lab_of_srgb(rgb_of_hex(cloth))
    found = np.empty((TABLE, TABLE, TABLE), np.float32)
    green, blue = np.meshgrid(axis, axis, indexing="ij")
    # One red at a time: all at once would take fifty megabytes for a table of one.
    for at, red in enumerate(axis):
        nodes = np.stack([np.full_like(green, red), green, blue], axis=-1)
        found[at] = delta_e_2000(lab_of_srgb(nodes), to)
    return found


@lru_cache(maxsize=32)
def far_cells(cloth: str, beyond: float) -> NDArray[np.bool_]:
    """Cells of cloth_difference_table whose eight nodes all lie at beyond or further, shape (64, 64, 64)."""
    table = cloth_difference_table(cloth)
    ends = (slice(None, -1), slice(1, None))
    far = np.ones((TABLE - 1, TABLE - 1, TABLE - 1), np.bool_)
    for i, j, k in product(ends, ends, ends):
        far &= table[i, j, k] >= beyond
    return far


@lru_cache(maxsize=1)
def lightness_tables() -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Tables for L* of 8-bit sRGB: luminance parts (3, 256) that add up to 0..1, then L*/100 of 16,385 luminances."""
    luminance = SRGB_TO_XYZ_D50[1][:, None] * linear_of_srgb(np.arange(256) / 255)[None, :]
    y = np.linspace(0, 1, 16385)
    lightness = np.where(y > _EPSILON, 116 * np.cbrt(y) - 16, _KAPPA * y) / 100
    return luminance.astype(np.float32), lightness.astype(np.float32)
