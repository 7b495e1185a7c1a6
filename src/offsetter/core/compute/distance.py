"""Exact distances to the ground as far as somebody asks for them: a choke and its guard look no further than a few dots.

Felzenszwalb, Huttenlocher (2012) part the squared distance into a row's and a column's share; with a bound of few dots the
column's is found by trying all of them.
"""

import math
from functools import lru_cache

import cv2
import numba
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]
Shares = NDArray[np.float32]
FAR_DOTS = 24
"""Beyond it, trying every dot takes longer than the whole transform."""


def distance_to_ground(inside: Grey, reach_px: float, *, edge_is_ground: bool) -> Shares:
    """Of every dot, from its middle to the middle of the nearest that is 0 (rows, columns); whatever is further than reach_px says
    some figure above it. edge_is_ground: a picture that runs to its edge ends there."""
    cap = math.ceil(reach_px) + 1
    if cap <= FAR_DOTS:
        return _within(inside, cap, edge_is_ground)
    border = int(edge_is_ground)
    wide = cv2.copyMakeBorder(inside, border, border, border, border, cv2.BORDER_CONSTANT, value=0)
    whole = cv2.distanceTransform(wide, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(whole[border : whole.shape[0] - border, border : whole.shape[1] - border], dtype=np.float32)


def near(inside: Grey, reach_px: float) -> Grey:
    """1 where a dot that is 1 lies no further than reach_px by the 5x5 mask's distances, which are within 2 % of a few dots; else 0."""
    if reach_px <= NEAR_DOTS:
        return np.asarray(cv2.dilate(inside, _ball(reach_px)))
    return np.asarray(cv2.distanceTransform(1 - inside, cv2.DIST_L2, cv2.DIST_MASK_5) <= reach_px, dtype=np.uint8)


NEAR_DOTS = 12.0
"""Up to here all dots round one are looked at in less time than the whole transform takes."""


@lru_cache(maxsize=64)
def _ball(reach_px: float) -> Grey:
    """The dots so near to the one in its middle."""
    side = math.floor(reach_px)
    alone = np.ones((2 * side + 1, 2 * side + 1), np.uint8)
    alone[side, side] = 0
    return np.asarray(cv2.distanceTransform(alone, cv2.DIST_L2, cv2.DIST_MASK_5) <= reach_px, dtype=np.uint8)


@numba.njit(nogil=True, cache=True, fastmath=False)
def _within(inside: Grey, cap: int, edge_is_ground: bool) -> Shares:
    rows, columns = inside.shape
    zero, one, far = np.float32(0), np.float32(1), np.float32(cap + 1)
    # Squared distance within its own column; whole rows at a time, which a processor does eight dots at once.
    down = np.empty((rows, columns), np.float32)
    run = np.full(columns, zero if edge_is_ground else far, np.float32)
    for y in range(rows):
        for x in range(columns):
            further = run[x] + one
            further = further if further < far else far
            run[x] = zero if inside[y, x] == 0 else further
            down[y, x] = run[x]
    run[:] = zero if edge_is_ground else far
    for y in range(rows - 1, -1, -1):
        for x in range(columns):
            further = run[x] + one
            further = further if further < far else far
            run[x] = zero if inside[y, x] == 0 else further
            nearest = run[x] if run[x] < down[y, x] else down[y, x]
            down[y, x] = nearest * nearest
    sides = np.empty(columns, np.float32)
    for x in range(columns):
        edge = min(x + 1, columns - x, cap + 1) if edge_is_ground else cap + 1
        sides[x] = edge * edge
    out = np.empty((rows, columns), np.float32)
    for y in range(rows):
        best, own = out[y], down[y]
        for x in range(columns):
            best[x] = sides[x] if sides[x] < own[x] else own[x]
        for aside in range(1, cap + 1):
            squared = np.float32(aside * aside)
            later, further_on = own[aside:], best[aside:]
            for x in range(columns - aside):
                there = later[x] + squared
                best[x] = there if there < best[x] else best[x]
            for x in range(columns - aside):
                there = own[x] + squared
                further_on[x] = there if there < further_on[x] else further_on[x]
        for x in range(columns):
            best[x] = np.sqrt(best[x])
    return out
