"""A run laid out on a roll: equal prints in rows, cut into lengths that the oven or the platen takes."""

from math import ceil

from offsetter.core.values import Frozen

LABEL_MM = 7.0
"""Height of the strip under each print that carries its label, outside the picture."""
WORTH_SAYING_UM = 250_000  # a quarter of a metre of film: under it another size is not worth a question (from memory)
MOST_NARROWER = 0.9  # a customer who asked for a size is offered no other one than this


class Place(Frozen):
    """One print: its lower left corner in whole micrometres from the roll's left edge and from its cut's leading edge."""

    number: int
    cut: int
    x_um: int
    y_um: int
    turned: bool


class RunLayout(Frozen):
    media_um: int
    printable_um: int
    width_um: int
    height_um: int
    """Of one print as it lies (already turned when it is)."""
    across: int
    rows_per_cut: int
    cut_lengths_um: tuple[int, ...]
    places: tuple[Place, ...]
    label_um: int
    length_um: int
    waste_share: float
    grid_length_um: int
    """What the other way round would take, 0 when it does not fit."""


class LayoutAsk(Frozen):
    print_width_um: int
    print_height_um: int
    copies: int
    gap_um: int
    margin_um: int
    media_um: int
    printable_um: int
    longest_cut_um: int
    widest_cut_um: int
    across: int | None = None
    rows_per_cut: int | None = None
    turned: bool = False
    labels: bool = True


def widest_print_um(ask: LayoutAsk) -> int:
    """The widest print that this roll, oven and margin take, unturned."""
    return min(ask.printable_um, ask.widest_cut_um)


def lay_out(ask: LayoutAsk) -> RunLayout | None:
    """Places for every copy, or None when not even one fits on a cut length."""
    laid = _lay(ask)
    if laid is None:
        return None
    other = _lay(ask.model_copy(update={"turned": not ask.turned, "across": None, "rows_per_cut": None}))
    return laid.model_copy(update={"grid_length_um": other.length_um if other else 0})


def one_more_across(ask: LayoutAsk, laid: RunLayout) -> tuple[int, RunLayout] | None:
    """The print width (whole mm, in micrometres) at which one more fits across, and the run it makes; None when that
    needs a print narrower by more than a tenth, or saves next to nothing."""
    if ask.turned:
        return None
    usable = widest_print_um(ask)
    width = (usable - laid.across * ask.gap_um) // (laid.across + 1) // 1000 * 1000
    if width < ask.print_width_um * MOST_NARROWER:
        return None
    height = round(ask.print_height_um * width / ask.print_width_um)
    smaller = _lay(ask.model_copy(update={"print_width_um": width, "print_height_um": height, "across": None}))
    if smaller is None or laid.length_um - smaller.length_um < WORTH_SAYING_UM:
        return None
    return width, smaller


def _lay(ask: LayoutAsk) -> RunLayout | None:
    wide, high = ask.print_width_um, ask.print_height_um
    if ask.turned:
        wide, high = high, wide
    label = round(LABEL_MM * 1000) if ask.labels else 0
    most_across = (widest_print_um(ask) + ask.gap_um) // (wide + ask.gap_um)
    pitch = high + label + ask.gap_um
    most_rows = (ask.longest_cut_um - 2 * ask.margin_um + ask.gap_um) // pitch
    if most_across < 1 or most_rows < 1:
        return None
    across = min(most_across, max(1, ask.across or most_across))
    rows = min(most_rows, max(1, ask.rows_per_cut or most_rows))
    row_count = ceil(ask.copies / across)
    cuts = ceil(row_count / rows)
    # Even lengths, so that no cut is left with a single row.
    rows = ceil(row_count / cuts) if ask.rows_per_cut is None else rows
    rows_in = [rows] * (row_count // rows) + ([row_count % rows] if row_count % rows else [])
    lengths = tuple(2 * ask.margin_um + n * pitch - ask.gap_um for n in rows_in)
    left = (ask.media_um - (across * wide + (across - 1) * ask.gap_um)) // 2
    places = []
    for i in range(ask.copies):
        row, column = divmod(i, across)
        cut, row_in_cut = divmod(row, rows)
        places.append(Place(
            number=i + 1, cut=cut + 1, x_um=left + column * (wide + ask.gap_um),
            y_um=ask.margin_um + row_in_cut * pitch + label, turned=ask.turned,
        ))  # fmt: skip
    length = sum(lengths)
    return RunLayout(
        media_um=ask.media_um, printable_um=ask.printable_um, width_um=wide, height_um=high, across=across,
        rows_per_cut=rows, cut_lengths_um=lengths, places=tuple(places), label_um=label, length_um=length,
        waste_share=round(1 - ask.copies * wide * high / (length * ask.media_um), 4), grid_length_um=0,
    )  # fmt: skip
