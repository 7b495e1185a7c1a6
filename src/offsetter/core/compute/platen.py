"""How many things go under a press in one pressing, and where each lies: a grid with an even gap, drawn to scale."""

import math
from functools import lru_cache

from offsetter.core.values import Frozen

LEAST_GAP_MM = 8.0
"""Between two things, and from a thing to the platen's edge: heat is uneven at the edge. From memory."""
MOST = 60


class Spot(Frozen):
    """One thing's place in mm from the platen's upper left corner."""

    x_mm: float
    y_mm: float


class PlatenLayout(Frozen):
    """Lengths in mm; a thing's width and height as it lies."""

    width_mm: float
    height_mm: float
    thing_width_mm: float
    thing_height_mm: float
    is_round: bool = False
    spots: tuple[Spot, ...] = ()


class Laying(Frozen):
    """How pieces come under the press: a pair is two things, and so many things lie under it at once."""

    items: int = 1
    at_once: int = 1

    def things(self, pieces: int) -> int:
        return pieces * self.items

    def loads(self, pieces: int) -> int:
        """Pressings for so many pieces."""
        return math.ceil(self.things(pieces) / self.at_once)


ONE_BY_ONE = Laying()


@lru_cache(maxsize=256)
def lay_on(
    platen_mm: tuple[float, float],
    thing_mm: tuple[float, float],
    *,
    is_round: bool = False,
    alone: bool = False,
    items: int = 1,
) -> PlatenLayout:
    """As many as the platen takes, turned when more go on so; one in the middle where it is larger than the platen, or alone.

    items: things that make one piece and stay together.
    """
    width, height = platen_mm
    upright, turned = thing_mm, (thing_mm[1], thing_mm[0])
    wide, high = max((upright, turned), key=lambda t: _across(width, t[0]) * _across(height, t[1]))
    across, down = _across(width, wide), _across(height, high)
    if alone or across * down < 2:
        (wide, high), across, down = upright, 1, 1
    while across * down > MOST or (across * down > items and across * down % items):
        across, down = (across - 1, down) if across >= down else (across, down - 1)
    gap_x, gap_y = (width - across * wide) / (across + 1), (height - down * high) / (down + 1)
    spots = [
        Spot(x_mm=round(gap_x + i * (wide + gap_x), 2), y_mm=round(gap_y + j * (high + gap_y), 2))
        for j in range(down)
        for i in range(across)
    ]
    return PlatenLayout(width_mm=width, height_mm=height, thing_width_mm=wide, thing_height_mm=high, is_round=is_round,
                        spots=tuple(spots))  # fmt: skip


def _across(room_mm: float, thing_mm: float) -> int:
    """Side by side along one edge, with the least gap between and outside."""
    return max(0, int((room_mm - LEAST_GAP_MM) // (thing_mm + LEAST_GAP_MM)))
