"""Pieces laid on a roll or on sheets with the least waste: rectangles by our own search.

A skyline takes the piece that fits its lowest place best, turned where it is flush with something only so; the order and the turning of
the pieces are annealed. Everything is whole tenths of a millimetre, so that the same seed and the same number of tries give the same
layout. The gap is part of every piece and is given back at the edges, so that it lies between pieces alone.
"""

import math
from collections.abc import Callable
from typing import Literal

import numpy as np
from pydantic import Field

from offsetter.core.compute.skyline import ENDLESS, NO_LIMIT, Flags, Ints, anneal, lay
from offsetter.core.quantities import a_length, a_size
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

TENTHS = 10
MOST_PIECES = 5_000
MOST_MM = 20_000.0
TRIES_AT_ONCE = 400
COLD_SHARE = 0.001
"""Of the bound: how much worse a step may be at the beginning of a search."""
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
        cost = lay(
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
        self._cost, cost = anneal(
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
