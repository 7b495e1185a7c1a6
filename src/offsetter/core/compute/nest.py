"""Pieces laid on a roll or on sheets with the least waste: rectangles by our own search.

A skyline takes the piece that fits its lowest place best, turned where it is flush with something only so; the order and the turning of
the pieces are annealed. Everything is whole tenths of a millimetre, so that the same seed and the same number of tries give the same
layout. The gap is part of every piece and is given back at the edges, so that it lies between pieces alone.
"""

import math
from collections.abc import Callable
from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray
from pydantic import Field

from offsetter.core.quantities import a_length, a_size
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]

TENTHS = 10
NO_LIMIT = 1 << 62
MOST_PIECES = 5_000
MOST_MM = 20_000.0
ENDLESS = 1 << 40
TRIES_AT_ONCE = 400
COLD_SHARE = 0.001
"""Of the bound: how much worse a step may be at the beginning of a search."""
EMPTY_WEIGHS = 0.8
"""What a search on a roll compares: so much of it is the length that the area takes with what lies empty below, the rest the length itself."""
FLUSH = 7
"""What fits best: as wide as its place, as high as the higher wall."""
COLD_SHEET = 0.003
"""The same on sheets: of what fills the last one."""


class Piece(Frozen):
    """So many alike, as they are printed. rotate: the angles that the machine, the cutter or the cloth allows."""

    id: str = Field(min_length=1, max_length=60)
    width_mm: float | None = Field(None, gt=0, le=MOST_MM)
    height_mm: float | None = Field(None, gt=0, le=MOST_MM)
    outline_mm: tuple[tuple[float, float], ...] | None = Field(None, min_length=3, max_length=5_000)
    count: int = Field(1, ge=1, le=MOST_PIECES)
    rotate: Literal["0", "90", "180", "any"] = "0"


class NestPlace(Frozen):
    """The lower left corner of the turned piece's box; y runs along the roll. Sheets are counted from 1; angles counter-clockwise."""

    id: str
    sheet: int
    x_mm: float
    y_mm: float
    rotation_deg: float


class Nested(Frozen):
    places: tuple[NestPlace, ...]
    length_mm: float
    """Of the roll that is used, its margins with it; 0 on sheets."""
    sheets: int
    """0 on a roll."""
    waste_pct: float
    bound: float
    """No layout is shorter (mm), or takes fewer sheets."""
    grid: float
    """What rows of one kind after the other would take: mm, or sheets."""


class Fixed(Frozen):
    """A box that lies where it lies, the gap in it. sheet: from 0."""

    sheet: int
    x: int
    y: int
    wide: int
    high: int


class Boxes(Frozen):
    """What the search works on, in tenths of a millimetre, the gap in every piece."""

    wide: tuple[int, ...]
    high: tuple[int, ...]
    turns: tuple[bool, ...]
    turned_wide: tuple[int, ...] = ()
    """Where a turned box is another than its sides changed over (a label's strip stays below); empty: it is not."""
    turned_high: tuple[int, ...] = ()
    fixed: tuple[Fixed, ...] = ()
    """What the others are laid around."""
    room: int
    """Across."""
    deep: int
    """Along; ENDLESS on a roll."""


def boxes_of(
    pieces: tuple[Piece, ...], gap_mm: float, margin_mm: float, room_mm: float, deep_mm: float | None
) -> tuple[Boxes, tuple[str, ...]]:
    """Every single piece as its box, and whose it is. Raises Refusal for a piece that fits nowhere."""
    if gap_mm < 0 or margin_mm < 0:
        raise Refusal(
            "negative-gap",
            say("A gap or margin below nothing cannot be kept."),
            say("Nothing was laid."),
            say("Give 0 or more."),
        )
    count = sum(p.count for p in pieces)
    if not 1 <= count <= MOST_PIECES:
        raise Refusal(
            "too-many-pieces",
            say("{count} pieces cannot be laid in one go.", count=count),
            say("Nothing was laid."),
            say("Give 1 to {most_pieces}.", most_pieces=MOST_PIECES),
        )
    inside = room_mm - 2 * margin_mm
    along = math.inf if deep_mm is None else deep_mm - 2 * margin_mm
    if inside <= 0 or along <= 0:
        raise Refusal(
            "no-room",
            say("The margins leave no room between them."),
            say("Nothing was laid."),
            say("Give smaller margins."),
        )
    gap = math.ceil(round(gap_mm * TENTHS, 6))
    wide, high, turns, whose = [], [], [], []
    for p in pieces:
        w, h = size_of(p)
        may_turn = p.rotate in ("90", "any")
        if not (w <= inside and h <= along) and not (may_turn and h <= inside and w <= along):
            raise Refusal("too-large", say("“{id}” is {size} and fits nowhere: there is room for {which}.", id=p.id, size=a_size(w, h, None), which=a_length(inside, None) if deep_mm is None else a_size(inside, along, None)),
                          say("Nothing was laid."), say("Make it smaller, let it turn, or take a larger sheet."))  # fmt: skip
        tenths = (math.ceil(round(w * TENTHS, 6)) + gap, math.ceil(round(h * TENTHS, 6)) + gap)
        wide += [tenths[0]] * p.count
        high += [tenths[1]] * p.count
        turns += [may_turn and tenths[0] != tenths[1]] * p.count
        whose += [p.id] * p.count
    room, deep = (
        math.floor(round(inside * TENTHS, 6)) + gap,
        ENDLESS if deep_mm is None else math.floor(round(along * TENTHS, 6)) + gap,
    )
    return Boxes(wide=tuple(wide), high=tuple(high), turns=tuple(turns), room=room, deep=deep), tuple(whose)


def size_of(piece: Piece) -> tuple[float, float]:
    """Width and height of its box in mm. Raises Refusal for a piece without a size."""
    if piece.outline_mm is not None:
        xs, ys = zip(*piece.outline_mm, strict=True)
        size = max(xs) - min(xs), max(ys) - min(ys)
        if not all(math.isfinite(v) and 0 < v <= MOST_MM for v in size):
            raise Refusal(
                "no-size",
                say("The outline of “{id}” has no width or no height.", id=piece.id),
                say("Nothing was laid."),
                say("Give an outline with an area."),
            )
        return size
    if piece.width_mm is None or piece.height_mm is None:
        raise Refusal(
            "no-size",
            say("“{id}” has neither width and height nor an outline.", id=piece.id),
            say("Nothing was laid."),
            say("Give one of them."),
        )
    return piece.width_mm, piece.height_mm


class Search:
    """An annealed search that can be gone on with: each step tries some more, and `best` is what to show meanwhile."""

    def __init__(self, boxes: Boxes, seed: int) -> None:
        self._boxes, self._seed, self._steps = boxes, seed, 0
        self._wide, self._high = np.array(boxes.wide, np.int64), np.array(boxes.high, np.int64)
        self._turned_wide = np.array(boxes.turned_wide or boxes.high, np.int64)
        self._turned_high = np.array(boxes.turned_high or boxes.wide, np.int64)
        self._turns = np.array(boxes.turns, np.bool_)
        self._fixed = np.array([[f.sheet, f.x, f.y, f.wide, f.high] for f in boxes.fixed], np.int64).reshape(-1, 5)
        count = len(self._wide)
        self.bound = self._bound()
        self._order, self._turned, self._cost = self._greedy(count)
        self.order, self.turned, self.cost = self._order.copy(), self._turned.copy(), self._cost

    def _bound(self) -> float:
        """By area, and by what no two can share: tenths along, or sheets."""
        as_it_is, turned = self._wide * self._high, self._turned_wide * self._turned_high
        area = float(
            np.where(self._turns, np.minimum(as_it_is, turned), as_it_is).sum()
            + (self._fixed[:, 3] * self._fixed[:, 4]).sum()
        )
        if self._boxes.deep < ENDLESS:
            return max(1.0, math.ceil(area / self._boxes.room / self._boxes.deep - 1e-9))
        along = np.where(self._wide <= self._boxes.room, self._high, ENDLESS)
        along_turned = np.where(self._turns & (self._turned_wide <= self._boxes.room), self._turned_high, ENDLESS)
        at_least = float(np.minimum(along, along_turned).max()) if len(along) else 0.0
        pinned = float((self._fixed[:, 2] + self._fixed[:, 4]).max()) if len(self._fixed) else 0.0
        return max(math.ceil(area / self._boxes.room), at_least, pinned)

    def _greedy(self, count: int) -> tuple[Ints, Flags, float]:
        """The best of a few orders, at once: the first thing on the screen, and the floor of the search."""
        best: tuple[Ints, Flags, float] | None = None
        stands = self._turns & (self._turned_wide < self._wide)
        for turned in (np.zeros(count, np.bool_), stands, self._turns & ~stands):
            turned = self._allowed(turned)
            wide, high = self._lying(turned)
            for key in (wide * high, high, wide, np.maximum(wide, high), wide + high):
                order = np.lexsort((np.arange(count), -key)).astype(np.int64)
                cost = self._laid(order, turned)[0]
                if best is None or cost < best[2]:
                    best = (order, turned, cost)
        assert best is not None
        return best

    def _allowed(self, turned: Flags) -> Flags:
        """Turned where it has to be, unturned where it may not lie turned."""
        fits = (self._wide <= self._boxes.room) & (self._high <= self._boxes.deep)
        fits_turned = self._turns & (self._turned_wide <= self._boxes.room) & (self._turned_high <= self._boxes.deep)
        made: Flags = np.where(~fits, True, turned & fits_turned)
        return made

    def _lying(self, turned: Flags) -> tuple[Ints, Ints]:
        return np.where(turned, self._turned_wide, self._wide), np.where(turned, self._turned_high, self._high)

    def _laid(self, order: Ints, turned: Flags) -> tuple[float, Ints, Ints, Ints, Flags]:
        """Its cost; x, y, sheet, and whether each piece came to lie turned."""
        (wide, high), (other_wide, other_high) = self._lying(turned), self._lying(~turned)
        x, y, sheet, over = np.empty_like(order), np.empty_like(order), np.empty_like(order), np.empty_like(turned)
        cost = _lay(
            order, wide, high, other_wide, other_high, self._free(), self._boxes.room, self._boxes.deep, self._fixed, NO_LIMIT,
            x, y, sheet, over,
        )[0]  # fmt: skip
        return cost, x, y, sheet, turned ^ over

    def _free(self) -> Flags:
        """May lie either way."""
        fits = (self._wide <= self._boxes.room) & (self._high <= self._boxes.deep)
        made: Flags = (
            self._turns & fits & (self._turned_wide <= self._boxes.room) & (self._turned_high <= self._boxes.deep)
        )
        return made

    @property
    def is_proven(self) -> bool:
        """Nothing better is possible."""
        if self._boxes.deep < ENDLESS:
            return math.ceil(self.cost) <= self.bound
        return self.cost <= self.bound

    def step(self, share: float, tries: int = TRIES_AT_ONCE) -> None:
        """Some more tries. share: of the whole search that is over, 0 to 1: it cools by it."""
        self._steps += 1
        is_roll = self._boxes.deep == ENDLESS
        heat = max(0.0, 1 - share) * (COLD_SHARE * self.bound if is_roll else COLD_SHEET)
        self._cost, cost = _anneal(
            self._order, self._turned, self.order, self.turned, self._cost, self.cost, self._wide, self._high, self._turned_wide,
            self._turned_high, self._free(), self._boxes.room, self._boxes.deep, self._fixed, heat, tries, (self._seed * 1_000_003 + self._steps) % (1 << 31),
        )  # fmt: skip
        self.cost = cost

    def places(self) -> tuple[Ints, Ints, Ints, Flags]:
        """x, y, sheet (from 0) and whether turned, of the best so far."""
        return self._laid(self.order, self.turned)[1:]


def warm() -> None:
    """Have the search compiled, and kept beside its source: set-up does it, so that no first look waits for it."""
    for deep in (ENDLESS, 100):
        Search(
            Boxes(
                wide=(10, 20),
                high=(20, 10),
                turns=(True, True),
                room=50,
                deep=deep,
                fixed=(Fixed(sheet=0, x=0, y=0, wide=5, high=5),),
            ),
            1,
        ).step(0.5, 2)


def nest(
    pieces: tuple[Piece, ...], *, gap_mm: float, margin_mm: float, roll_mm: float | None = None, sheet_mm: tuple[float, float] | None = None,
    seed: int = 1, share: Callable[[int], float],
) -> Nested:  # fmt: skip
    """Boxes on a roll so wide, or on sheets of that width and length. share: of the tries so far, how much of the search is over
    (1 or more ends it). Raises Refusal."""
    room = roll_mm if roll_mm is not None else sheet_mm[0] if sheet_mm else 0.0
    boxes, whose = boxes_of(pieces, gap_mm, margin_mm, room, sheet_mm[1] if sheet_mm else None)
    search, tries = Search(boxes, seed), 0
    while not search.is_proven and (over := share(tries)) < 1:
        search.step(over)
        tries += TRIES_AT_ONCE
    return told(search, boxes, whose, pieces, gap_mm, margin_mm, room, sheet_mm)


def told(
    search: Search, boxes: Boxes, whose: tuple[str, ...], pieces: tuple[Piece, ...], gap_mm: float, margin_mm: float, room_mm: float,
    sheet_mm: tuple[float, float] | None,
) -> Nested:  # fmt: skip
    """The best so far, in millimetres."""
    x, y, sheet, turned = search.places()
    places = tuple(
        NestPlace(id=whose[i], sheet=int(sheet[i]) + 1, x_mm=round(margin_mm + x[i] / TENTHS, 3), y_mm=round(margin_mm + y[i] / TENTHS, 3),
                  rotation_deg=90.0 if turned[i] else 0.0)
        for i in range(len(whose))
    )  # fmt: skip
    sizes = [size_of(p) for p in pieces]
    area = sum(w * h * p.count for (w, h), p in zip(sizes, pieces, strict=True))
    if sheet_mm is None:
        gap = math.ceil(round(gap_mm * TENTHS, 6))
        length = round((search.cost - gap) / TENTHS + 2 * margin_mm, 3)
        bound = round(max(0.0, (search.bound - gap) / TENTHS + 2 * margin_mm), 3)
        return Nested(places=places, length_mm=length, sheets=0, waste_pct=_waste(area, room_mm * length), bound=bound,
                      grid=round((_grid(boxes) - gap) / TENTHS + 2 * margin_mm, 3))  # fmt: skip
    sheets = math.ceil(search.cost)
    return Nested(places=places, length_mm=0, sheets=sheets, waste_pct=_waste(area, sheet_mm[0] * sheet_mm[1] * sheets), bound=search.bound,
                  grid=_grid(boxes))  # fmt: skip


def _waste(area: float, whole: float) -> float:
    return round(100 * (1 - area / whole), 2) if whole else 0.0


def _grid(boxes: Boxes) -> float:
    """Rows of one size after the other, unturned where they fit so: what hands would do."""
    sizes: dict[tuple[int, int], int] = {}
    for w, h, may in zip(boxes.wide, boxes.high, boxes.turns, strict=True):
        fits = w <= boxes.room and h <= boxes.deep
        size = (w, h) if fits or not may else (h, w)
        sizes[size] = sizes.get(size, 0) + 1
    along, sheets = 0, 1
    for (w, h), count in sizes.items():
        for _ in range(math.ceil(count / max(1, boxes.room // w))):
            if along + h > boxes.deep:
                sheets, along = sheets + 1, 0
            along += h
    return float(along if boxes.deep == ENDLESS else sheets)


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
def _lay(
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
def _anneal(
    order: Ints, turned: Flags, best_order: Ints, best_turned: Flags, cost: float, best_cost: float, wide: Ints, high: Ints,
    turned_wide: Ints, turned_high: Ints, free: Flags, room: int, deep: int, fixed: Ints, heat: float, tries: int, seed: int,
) -> tuple[float, float]:  # fmt: skip
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
        long, found = _lay(order, w, h, other_w, other_h, free, room, deep, fixed, spare, x, y, sheet, over)
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
