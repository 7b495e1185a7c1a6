"""A print that is larger than what prints or cures it takes, in parts that are laid side by side again."""

from offsetter.core.values import Frozen

MOST_PARTS = 60
"""Of one print: more is no print any more, but a wall (from memory)."""


class Tile(Frozen):
    """One part, on a cut length or sheet of its own. In whole micrometres."""

    number: int
    """Of its print on the run, from 1."""
    column: int
    row: int
    """From the lower left one, from 0."""
    left_um: int
    low_um: int
    width_um: int
    height_um: int
    """Of the print, as it lies on its medium."""
    x_um: int
    y_um: int
    """Its own lower left corner on its length."""


def parted(whole_um: int, most_um: int, overlap_um: int) -> tuple[tuple[int, int], ...]:
    """Begin and length of as few parts as can be, alike but for rounding, each but the first beginning overlap_um before the one before
    it ends. Empty: none is long enough to get on."""
    if whole_um <= most_um:
        return ((0, whole_um),)
    if most_um <= 2 * overlap_um:
        return ()
    count = -(-(whole_um - overlap_um) // (most_um - overlap_um))
    step = (whole_um - overlap_um) / count
    begins = [round(step * i) for i in range(count)]
    ends = [*(b + overlap_um for b in begins[1:]), whole_um]
    return tuple((b, e - b) for b, e in zip(begins, ends, strict=True))
