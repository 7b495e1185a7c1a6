"""The white plate's geometry: where it may lie once the edge is pulled in or let out.

w = alpha * ((1 - t) * g + t), t the level, g = L*/100 (D50) of the colour; then the cloth's own colour is
knocked out over a soft ramp of CIEDE2000; then the edge is moved. Distances are exact, so a straight anti-aliased edge lands where it should to a part of a dot.
"""

import math

import cv2
import numba
import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.distance import distance_to_ground, near

Grey = NDArray[np.uint8]
Shares = NDArray[np.float32]

KNOCK_OUT_RAMP = 6.0  # CIEDE2000 over which the cloth's colour fades in: from memory, soft enough for photographs
HARD_EDGE = 127


def mask_of(rgba: NDArray[np.uint8], part: tuple[float, float, float, float], *, is_dark: bool) -> Grey:
    """Where white lies, 255 full, from a picture (rows, columns, 4): its lightness as it is coded, or the other way round; nothing
    where the picture is clear. part: left, top, right, bottom as shares of it."""
    cut = part_of(rgba, part)
    grey = cv2.cvtColor(cut, cv2.COLOR_RGBA2GRAY)
    if is_dark:
        grey = cv2.bitwise_not(grey)
    return np.asarray(cv2.multiply(grey, cut[..., 3], scale=1 / 255))


def part_of(whole: NDArray[np.uint8], part: tuple[float, float, float, float]) -> NDArray[np.uint8]:
    """part: left, top, right, bottom as shares of the whole (rows, columns, or with channels)."""
    rows, columns = whole.shape[:2]
    left, top, right, bottom = (round(v * n) for v, n in zip(part, (columns, rows, columns, rows), strict=True))
    return np.ascontiguousarray(whole[top : max(bottom, top + 1), left : max(right, left + 1)])


def lights(lightness: Shares, begin_l: float) -> Shares:
    """Share of white by lightness (L*/100) where it lies under the lights alone: none below begin_l, all at 100."""
    return np.asarray(np.clip((lightness * 100 - begin_l) / (100 - begin_l), 0, 1), dtype=np.float32)


def fitted(mask: Grey, columns: int, rows: int) -> Grey:
    """The mask at the plate's own dots."""
    if mask.shape == (rows, columns):
        return mask
    shrinks = mask.shape[1] > columns
    return np.asarray(cv2.resize(mask, (columns, rows), interpolation=cv2.INTER_AREA if shrinks else cv2.INTER_CUBIC))


def masked(white: Grey, mask: Grey) -> Grey:
    """What the mask leaves of a white plate of the same dots."""
    return np.asarray(cv2.multiply(white, mask, scale=1 / 255))


def support_of(alpha: Grey, floor: int) -> Grey:
    """0 or 255: what the white must cover. A hard edge is cut at half; a soft one reaches down to floor (0 to 255)."""
    hard = cv2.threshold(alpha, HARD_EDGE, 255, cv2.THRESH_BINARY)[1]
    visible = cv2.threshold(alpha, max(1, floor) - 1, 255, cv2.THRESH_BINARY)[1]
    around = cv2.dilate(hard, np.ones((3, 3), np.uint8))
    soft = cv2.bitwise_and(visible, cv2.bitwise_not(around))
    if not soft.any():
        return np.asarray(hard)
    # A faint fringe belongs to a soft edge; one dot of anti-aliasing round a hard edge does not.
    soft = cv2.bitwise_and(cv2.dilate(soft, np.ones((3, 3), np.uint8)), visible)
    return np.asarray(cv2.bitwise_or(hard, soft))


def pad_rows(choke_px: float, guard_px: float) -> int:
    """Rows a strip needs above and below so that its result equals the whole plate's."""
    reach = max(choke_px, 0) + guard_px / 2
    return math.ceil(max(abs(choke_px), 3 * reach) + 6)


def keep_share(support: Grey, choke_px: float, guard_px: float) -> tuple[Shares | None, NDArray[np.bool_] | None]:
    """Share of white kept at each dot (0 to 1) by a choke of choke_px dots, and which dots the guard saved.

    None stands for ones everywhere. guard_px is the least white stroke to leave standing; strokes that are
    thinner already stay whole.
    """
    if choke_px <= 0 or not support.any():
        return None, None
    reach = choke_px + max(0.0, guard_px) / 2
    distance = distance_to_ground(support, max(choke_px + 1, reach), edge_is_ground=True)
    if guard_px <= 0:
        return _less(distance, choke_px), None
    # The second distance only decides what counts as thin.
    to_core = near((distance > reach).astype(np.uint8), reach + 1)
    if not _mark_thin(to_core, support):
        return _less(distance, choke_px), None
    # A square neighbourhood is dilated row by row, then column by column: many times quicker than a disc.
    size = 2 * math.ceil(reach) + 1
    widest = np.where(to_core, distance, np.float32(0))
    cv2.dilate(widest, np.ones((size, size), np.uint8), dst=widest)
    _keep_thin(distance, widest, to_core, np.float32(choke_px), np.float32(guard_px / 2))
    return distance, to_core.view(np.bool_)


@numba.njit(nogil=True, cache=True, fastmath=False)
def _mark_thin(near_core: Grey, support: Grey) -> bool:
    """Turn 1 where a core is near into 1 where a stroke is thin; whether there is such a dot."""
    found = False
    for y in range(support.shape[0]):
        for x in range(support.shape[1]):
            thin = near_core[y, x] == 0 and support[y, x] > 0
            near_core[y, x] = thin
            found = found or thin
    return found


@numba.njit(nogil=True, cache=True, fastmath=False)
def _keep_thin(distance: Shares, widest: Shares, thin: Grey, choke: np.float32, half: np.float32) -> None:
    """The share of white that is kept, in the distance's place; thin then says where the guard kept more than the choke had."""
    zero, one = np.float32(0), np.float32(1)
    for y in range(distance.shape[0]):
        for x in range(distance.shape[1]):
            kept = min(max(distance[y, x] - choke, zero), one)
            if thin[y, x]:
                # Half the stroke, less half of what must stand.
                less = min(max(widest[y, x] - half, zero), choke)
                guarded = min(max(distance[y, x] - less, zero), one)
                thin[y, x] = guarded > kept
                kept = guarded
            distance[y, x] = kept


def _less(distance: Shares, choke_px: float) -> Shares:
    """Share of white that a choke leaves at a distance from the edge, in place."""
    distance -= np.float32(choke_px)
    return np.asarray(np.clip(distance, 0, 1, out=distance))


def spread(white: Grey, support: Grey, spread_px: float) -> Grey:
    """The white let out by spread_px dots past its support, at the strength it has at the edge."""
    outside = cv2.distanceTransform(cv2.bitwise_not(support), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    reach = np.clip(np.float32(spread_px) + 1 - outside, 0, 1)
    size = 2 * math.ceil(spread_px + 1) + 1
    near = cv2.dilate(white, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size)))
    return np.asarray(np.maximum(white, np.rint(near * reach).astype(np.uint8)))
