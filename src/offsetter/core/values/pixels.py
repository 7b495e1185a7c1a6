"""How large a picture may be that is held whole."""

import math

MOST_PX = 140_000_000  # twice A3 at 600 dpi
LONGEST_PX = 30_000 - 1


def most_enlarged(wide: float, high: float) -> float:
    """How many times larger a drawing of so many pixels can be drawn at most.

    >>> round(most_enlarged(3000, 900), 1)
    7.2
    """
    return min(LONGEST_PX / max(wide, high), math.sqrt(MOST_PX / (wide * high)))
