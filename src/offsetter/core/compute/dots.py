"""Over the dots: inks, knock-out and limit, then the white; their sums. Compiled, because it touches every dot."""

import numba
import numpy as np
from numpy.typing import NDArray

Bytes = NDArray[np.uint8]
OVER, PRINTED, FAINT, KNOCKED = 0, 1, 2, 3
"""Counts of dots: over the limit, printed, cut for being faint, knocked out."""


@numba.njit(nogil=True, cache=True, fastmath=False)
def fill_inks(
    rgba: Bytes, inks: Bytes, curves: Bytes, black: int, has_white: bool, luminance: NDArray[np.float32], lightness: NDArray[np.float32], level: float,
    difference: NDArray[np.float32], is_far: NDArray[np.bool_], knock_out: float, ramp: float, floor: float, limit: int,
    mirror: bool, out: Bytes, white: NDArray[np.float32], levels: NDArray[np.int64], dots: NDArray[np.int64],
    counts: NDArray[np.int64],
) -> int:  # fmt: skip
    """Write a strip's inks in their order into out (rows, columns, planes) and, with has_white, each dot's share of white before any choke.

    rgba, inks: the strip; curves: what is printed for what is asked, 256 levels an ink, or one row for as it is; black: the ink that carries the drawing, negative for none;
    level 0 to 1; difference: the cloth's table; is_far: its cells that lie beyond the ramp whole; knock_out: CIEDE2000 or negative
    for none; mirror: write out right to left; out: nothing yet, with a last plane for the white; floor: white share under which the dot is cut; limit: sum of
    the inks in 255ths; white (rows, columns): as rgba lies, 0 to 1. Adds to levels and dots (one a plane of out) and counts; gives the highest total before the
    limit, in 255ths.
    """
    rows, columns = rgba.shape[0], rgba.shape[1]
    many, is_curved = inks.shape[2], curves.shape[0] == 256
    highest = 0
    top = difference.shape[0] - 1
    # Divided once for each of 256 levels, and not at every dot.
    share, cell, within = np.empty(256), np.empty(256, np.int64), np.empty(256)
    for v in range(256):
        share[v] = v / 255.0
        cell[v] = min(int(v * top / 255.0), top - 1)
        within[v] = v * top / 255.0 - cell[v]
    planes = out.shape[2]
    flat = out.reshape(rows, columns * planes)
    sums, inked = np.zeros(columns * planes, np.uint32), np.zeros(columns * planes, np.uint32)
    for y in range(rows):
        first, last = columns, -1
        for x in range(columns):
            if has_white:
                white[y, x] = 0.0
            a = rgba[y, x, 3]
            if a == 0:
                continue
            first, last = min(first, x), x
            r, g, b = rgba[y, x, 0], rgba[y, x, 1], rgba[y, x, 2]
            shown = share[a]
            if knock_out >= 0.0:
                ir, ig, ib = cell[r], cell[g], cell[b]
                if not is_far[ir, ig, ib]:
                    dr, dg, db = within[r], within[g], within[b]
                    far = 0.0
                    for i in range(2):
                        for j in range(2):
                            for k in range(2):
                                weight = (dr if i else 1 - dr) * (dg if j else 1 - dg) * (db if k else 1 - db)
                                far += weight * difference[ir + i, ig + j, ib + k]
                    left = (far - knock_out) / ramp
                    if left <= 0.0:
                        counts[KNOCKED] += 1
                        continue
                    if left < 1.0:
                        shown *= left
            if has_white and floor > 0.0 and shown < floor:
                counts[FAINT] += 1
                continue
            at = columns - 1 - x if mirror else x
            total = 0
            for i in range(many):
                asked = inks[y, x, i]
                v = int(curves[asked, i] if is_curved else asked)
                if shown != 1.0:
                    v = int(v * shown + 0.5)
                out[y, at, i] = v
                total += v
            highest = max(highest, total)
            if total > limit:
                # Black carries the drawing: only the chromatic inks give way, and always downwards.
                counts[OVER] += 1
                carries = np.int64(out[y, at, black]) if black >= 0 else 0
                scale = max(0.0, (limit - carries) / (total - carries)) if total > carries else 0.0
                for i in range(many):
                    out[y, at, i] = int(out[y, at, i] * scale)
                if black >= 0:
                    out[y, at, black] = min(carries, limit)
                total = 0
                for i in range(many):
                    total += out[y, at, i]
            counts[PRINTED] += total > 0
            if has_white:
                lit = luminance[0, r] + luminance[1, g] + luminance[2, b]
                grey = lightness[min(int(lit * 16384.0 + 0.5), 16384)]
                white[y, x] = shown * ((1.0 - level) * grey + level)
        if last >= 0:
            begin, end = (columns - 1 - last, columns - first) if mirror else (first, last + 1)
            row = flat[y, begin * planes : end * planes]
            into, some = sums[begin * planes : end * planes], inked[begin * planes : end * planes]
            for x in range(row.shape[0]):
                into[x] += row[x]
            for x in range(row.shape[0]):
                some[x] += row[x] > 0
    for i in range(planes):
        levels[i] += sums[i::planes].sum()
        dots[i] += inked[i::planes].sum()
    return highest


@numba.njit(nogil=True, cache=True, fastmath=False)
def lay_white(
    white: NDArray[np.float32], kept: NDArray[np.float32], has_kept: bool, mirror: bool, out: Bytes,
    levels: NDArray[np.int64], dots: NDArray[np.int64], counts: NDArray[np.int64],
) -> None:  # fmt: skip
    """Write the white as the last plane of out, whose inks are there: the share that fill_inks found of it, less what the choke takes.

    kept (rows, columns): share of white left by the choke, with has_kept; the rest as of fill_inks.
    """
    columns, last = white.shape[1], out.shape[2] - 1
    whole, laid, alone = 0, 0, 0
    for y in range(white.shape[0]):
        for x in range(columns):
            share = white[y, x]
            if share <= 0.0:
                continue
            if has_kept:
                share *= kept[y, x]
            w = int(share * 255.0 + 0.5)
            if w == 0:
                continue
            at = columns - 1 - x if mirror else x
            under = 0
            for i in range(last):
                under |= out[y, at, i]
            out[y, at, last] = w
            whole += w
            laid += 1
            alone += under == 0
    levels[last] += whole
    dots[last] += laid
    counts[PRINTED] += alone


@numba.njit(nogil=True, cache=True, fastmath=False)
def alike_where_clear(rgba: Bytes) -> Bytes:
    """The strip with one colour wherever nothing shows: a colour engine looks up a colour once while it does not change."""
    out = np.empty_like(rgba)
    for y in range(rgba.shape[0]):
        r, g, b = np.uint8(0), np.uint8(0), np.uint8(0)
        for x in range(rgba.shape[1]):
            a = rgba[y, x, 3]
            if a != 0:
                r, g, b = rgba[y, x, 0], rgba[y, x, 1], rgba[y, x, 2]
            out[y, x, 0], out[y, x, 1], out[y, x, 2], out[y, x, 3] = r, g, b, 255
    return out


UNMELTED_WHITE = 0.86  # linear light of the white plate before heat, a little dull: from memory


@numba.njit(nogil=True, cache=True, fastmath=False)
def mix_look(
    look: int, planes: Bytes, alpha: Bytes, seen: Bytes, cloth: NDArray[np.float32], opacity: float, strength: float,
    to_linear: NDArray[np.float32], to_srgb: Bytes, out: Bytes,
) -> None:  # fmt: skip
    """Write the RGBA of a print into out. look: 0 on the carrier, 1 pressed on full white, 2 on the cloth.

    planes: inks and, as the last, W of a full dot; alpha: share of dots (255 all); seen: sRGB of the colour inks on white;
    cloth: linear light; strength: share of the colour that the cloth keeps; to_linear and to_srgb: tables.
    """
    steps = to_srgb.shape[0] - 1
    for y in range(planes.shape[0]):
        for x in range(planes.shape[1]):
            most = 0
            for i in range(planes.shape[2]):
                most = max(most, planes[y, x, i])
            if most == 0:
                continue
            white = planes[y, x, planes.shape[2] - 1] / 255.0 * opacity
            share = alpha[y, x] / 255.0
            for i in range(3):
                light = to_linear[seen[y, x, i]]
                if look == 0:
                    light += white * (UNMELTED_WHITE - light)
                elif look == 2:
                    light = 1.0 - strength * (1.0 - light)
                    light = cloth[i] + share * (light * (cloth[i] + white * (1.0 - cloth[i])) - cloth[i])
                out[y, x, i] = to_srgb[min(int(light * steps + 0.5), steps)]
            # On the cloth the ground is mixed in already, in linear light; film and proof are laid over theirs.
            out[y, x, 3] = 255 if look == 2 else alpha[y, x]


@numba.njit(nogil=True, cache=True, fastmath=False)
def full_dots(planes: Bytes, alpha: Bytes) -> Bytes:
    """The planes as they are inside a dot: their share taken out again where the artwork fades."""
    out = np.zeros_like(planes)
    for y in range(planes.shape[0]):
        for x in range(planes.shape[1]):
            a = int(alpha[y, x])
            if a == 0:
                continue
            for i in range(planes.shape[2]):
                out[y, x, i] = min(255, int(planes[y, x, i]) * 255 // a)
    return out
