"""Boxes laid one by one on the lowest place of a skyline, and the search over their order and turning. Compiled: a search lays tens of thousands.

Everything is whole tenths of a millimetre.
"""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

NO_LIMIT = 1 << 62
ENDLESS = 1 << 40
EMPTY_WEIGHS = 0.8
"""What a search on a roll compares: so much of it is the length that the area takes with what lies empty below, the rest the length itself."""
FLUSH = 7
"""What fits best: as wide as its place, as high as the higher wall."""


@njit(cache=True, nogil=True)
def _merged(xs: Ints, ys: Ints, ws: Ints, segments: int) -> int:
    """Neighbours of one height become one; says how many are left."""
    s = 0
    while s + 1 < segments:
        if ys[s] == ys[s + 1]:
            ws[s] += ws[s + 1]
            for t in range(s + 1, segments - 1):
                xs[t], ys[t], ws[t] = xs[t + 1], ys[t + 1], ws[t + 1]
            segments -= 1
        else:
            s += 1
    return segments


@njit(cache=True, nogil=True)
def _is_clear(x: int, y: int, wide: int, high: int, sheet: int, fixed: Ints) -> bool:
    for f in range(fixed.shape[0]):
        if (
            fixed[f, 0] == sheet and x < fixed[f, 1] + fixed[f, 3] and x + wide > fixed[f, 1]
            and y < fixed[f, 2] + fixed[f, 4] and y + high > fixed[f, 2]
        ):  # fmt: skip
            return False
    return True


@njit(cache=True, nogil=True)
def _around(xs: Ints, ys: Ints, ws: Ints, segments: int, at: int, sheet: int, fixed: Ints) -> int:
    """Nothing fits on the lowest segment: the part of it below the next fixed box is given up to that box's top. The same count: none is there."""
    left, right, base = xs[at], xs[at] + ws[at], ys[at]
    hit = -1
    for f in range(fixed.shape[0]):
        if (
            fixed[f, 0] == sheet and fixed[f, 1] < right and fixed[f, 1] + fixed[f, 3] > left and fixed[f, 2] + fixed[f, 4] > base
            and (hit < 0 or fixed[f, 2] < fixed[hit, 2])
        ):  # fmt: skip
            hit = f
    if hit < 0:
        return -1
    from_x, to_x, top = (
        max(left, fixed[hit, 1]),
        min(right, fixed[hit, 1] + fixed[hit, 3]),
        fixed[hit, 2] + fixed[hit, 4],
    )
    more = (1 if from_x > left else 0) + (1 if to_x < right else 0)
    for s in range(segments - 1 + more, at + more, -1):
        xs[s], ys[s], ws[s] = xs[s - more], ys[s - more], ws[s - more]
    t = at
    if from_x > left:
        xs[t], ys[t], ws[t] = left, base, from_x - left
        t += 1
    xs[t], ys[t], ws[t] = from_x, top, to_x - from_x
    if to_x < right:
        xs[t + 1], ys[t + 1], ws[t + 1] = to_x, base, right - to_x
    return _merged(xs, ys, ws, segments + more)


@njit(cache=True, nogil=True)
def _fit(a: int, b: int, w: int, hi: int, lo: int) -> int:
    """How well a box a by b lies between walls w apart, their tops hi and lo over the ground."""
    if a == w:
        return FLUSH if b == hi else 6 if b == lo else 5 if b < lo else 3
    return 4 if b == hi else 3 if b == lo else 0


@njit(cache=True, nogil=True)
def lay(
    order: Ints,
    wide: Ints,
    high: Ints,
    other_wide: Ints,
    other_high: Ints,
    free: Flags,
    room: int,
    deep: int,
    fixed: Ints,
    spare: int,
    out_x: Ints,
    out_y: Ints,
    out_sheet: Ints,
    out_over: Flags,
) -> tuple[float, float]:
    """The skyline: tenths along on a roll; on sheets one less than their number, and how full the last one is. Then by what a search
    compares two that are as long: the one that left less empty on its way has more room to lose at its end. spare: once more area than that
    lies empty it is given up, and infinitely long. other_wide, other_high: the box turned over; out_over: it was laid so."""
    count, pinned = order.shape[0], fixed.shape[0]
    most = 2 * count + 3 * pinned + 4
    xs, ys, ws = np.empty(most, np.int64), np.empty(most, np.int64), np.empty(most, np.int64)
    # What is left, as a chain in the given order.
    follows = np.empty(count + 1, np.int64)
    for i in range(count):
        follows[i] = i + 1
    first, left, sheet, top, last_area, empty = 0, count, 0, 0, 0, 0
    xs[0], ys[0], ws[0], segments = 0, 0, room, 1
    while left > 0:
        at = 0
        for s in range(1, segments):
            if ys[s] < ys[at]:
                at = s
        base, w = ys[at], ws[at]
        if base >= deep:
            sheet, segments, last_area = sheet + 1, 1, 0
            xs[0], ys[0], ws[0] = 0, 0, room
            continue
        wall_left = ys[at - 1] - base if at > 0 else ENDLESS
        wall_right = ys[at + 1] - base if at + 1 < segments else ENDLESS
        hi, lo = max(wall_left, wall_right), min(wall_left, wall_right)
        # Against the taller wall.
        to_left = wall_left >= wall_right
        best, best_before, best_score, best_over = -1, -1, -1, False
        before, i = -1, first
        while i < count:
            p = order[i]
            for turn in range(2 if free[p] else 1):
                a, b = (other_wide[p], other_high[p]) if turn else (wide[p], high[p])
                if a > w or base + b > deep:
                    continue
                # Turned over only where it is then flush with a wall, or fills the width without rising over one.
                if turn and not (b in (hi, lo) or (a == w and b < lo)):
                    continue
                score = _fit(a, b, w, hi, lo)
                if score > best_score and (
                    pinned == 0 or _is_clear(xs[at] if to_left or a == w else xs[at] + w - a, base, a, b, sheet, fixed)
                ):
                    best, best_before, best_score, best_over = i, before, score, turn == 1
            if best_score == FLUSH:
                break
            before, i = i, follows[i]
        if best < 0:
            around = _around(xs, ys, ws, segments, at, sheet, fixed) if pinned else -1
            if around > 0:
                segments = around
                continue
            # Nothing fits here: filled up to the lower wall.
            rise = min(lo, deep - base) if lo < ENDLESS else deep - base
            empty += w * rise
            if empty > spare:
                return math.inf, math.inf
            ys[at] = base + rise
            segments = _merged(xs, ys, ws, segments)
            continue
        p = order[best]
        a, b = (other_wide[p], other_high[p]) if best_over else (wide[p], high[p])
        out_over[p] = best_over
        if best_before < 0:
            first = follows[best]
        else:
            follows[best_before] = follows[best]
        left -= 1
        x = xs[at] if to_left or a == w else xs[at] + w - a
        out_x[p], out_y[p], out_sheet[p] = x, base, sheet
        last_area += a * b
        top = max(top, base + b)
        if a == w:
            ys[at] = base + b
        else:
            for s in range(segments, at + 1, -1):
                xs[s], ys[s], ws[s] = xs[s - 1], ys[s - 1], ws[s - 1]
            segments += 1
            if to_left:
                xs[at + 1], ys[at + 1], ws[at + 1] = xs[at] + a, base, w - a
                ys[at], ws[at] = base + b, a
            else:
                xs[at + 1], ys[at + 1], ws[at + 1] = x, base + b, a
                ws[at] = w - a
        segments = _merged(xs, ys, ws, segments)
    for f in range(pinned):
        top = max(top, fixed[f, 2] + fixed[f, 4])
        if fixed[f, 0] > sheet:
            sheet, last_area = fixed[f, 0], 0
    for f in range(pinned):
        last_area += fixed[f, 3] * fixed[f, 4] if fixed[f, 0] == sheet else 0
    if deep >= ENDLESS:
        filled = (last_area + empty) / room
        return float(top), top + EMPTY_WEIGHS * (filled - top)
    share = sheet + last_area / (room * deep)
    return share, share


@njit(cache=True, nogil=True)
def anneal(
    order: Ints, turned: Flags, best_order: Ints, best_turned: Flags, cost: float, best_cost: float, wide: Ints, high: Ints,
    turned_wide: Ints, turned_high: Ints, free: Flags, room: int, deep: int, fixed: Ints, heat: float, tries: int, seed: int,
) -> tuple[float, float]:  # fmt: skip
    """So many tries from order and turned on, which go with them, best_order and best_turned with the shortest; the cost of both."""
    np.random.seed(seed)
    count = order.shape[0]
    w, h = np.where(turned, turned_wide, wide), np.where(turned, turned_high, high)
    other_w, other_h = np.where(turned, wide, turned_wide), np.where(turned, high, turned_high)
    x, y, sheet = np.empty(count, np.int64), np.empty(count, np.int64), np.empty(count, np.int64)
    over = np.empty(count, np.bool_)
    # On a roll what may lie empty is known before a layout is made: its length is at least all of its area.
    is_roll, area = deep >= ENDLESS and fixed.shape[0] == 0, 0
    for p in range(count):
        area += min(w[p] * h[p], other_w[p] * other_h[p]) if free[p] else w[p] * h[p]
    for _ in range(tries):
        kind = np.random.randint(0, 3)
        i, j = np.random.randint(0, count), np.random.randint(0, count)
        if kind == 2 and not free[i]:
            kind = 0
        if kind == 0:
            order[i], order[j] = order[j], order[i]
        elif kind == 1:
            moved = order[i]
            if i < j:
                for k in range(i, j):
                    order[k] = order[k + 1]
            else:
                for k in range(i, j, -1):
                    order[k] = order[k - 1]
            order[j] = moved
        else:
            turned[i] = not turned[i]
            w[i], h[i], other_w[i], other_h[i] = other_w[i], other_h[i], w[i], h[i]
        # Worse by so much is taken as well, the more seldom the more it is.
        most = cost - heat * math.log(1 - np.random.random())
        spare = int(most * room) - area if is_roll else NO_LIMIT
        long, found = lay(order, w, h, other_w, other_h, free, room, deep, fixed, spare, x, y, sheet, over)
        if found <= most:
            cost = found
            if long < best_cost:
                best_cost = long
                best_order[:] = order
                best_turned[:] = turned
            continue
        if kind == 0:
            order[i], order[j] = order[j], order[i]
        elif kind == 1:
            moved = order[j]
            if i < j:
                for k in range(j, i, -1):
                    order[k] = order[k - 1]
            else:
                for k in range(j, i):
                    order[k] = order[k + 1]
            order[i] = moved
        else:
            turned[i] = not turned[i]
            w[i], h[i], other_w[i], other_h[i] = other_w[i], other_h[i], w[i], h[i]
    return cost, best_cost
