"""A run laid out: prints of one or several sorts in rows, on a roll cut into lengths or on sheets, or one on each garment."""

import math
from functools import lru_cache
from itertools import accumulate
from typing import Any, NamedTuple

from pydantic import Field, model_validator

from offsetter.core.compute.tiles import MOST_PARTS, Tile, parted
from offsetter.core.values import Frozen

LABEL_MM = 7.0
"""Height of the strip under each print that carries its label, outside the picture."""
WORTH_SAYING_UM = 250_000  # a quarter of a metre of film: under it another size is not worth a question (from memory)
MOST_NARROWER = 0.9  # a customer who asked for a size is offered no other one than this


Points = tuple[tuple[int, int], ...]
"""In whole micrometres, x to the right and y up."""


def turned_box(width_um: int, height_um: int, angle: int) -> tuple[int, int]:
    """What a print takes across and along, turned by whole degrees.

    >>> turned_box(100_000, 50_000, 90), turned_box(100_000, 100_000, 45)
    ((50000, 100000), (141421, 141421))
    """
    if angle % 90 == 0:
        return (height_um, width_um) if angle % 180 else (width_um, height_um)
    c, s = abs(math.cos(math.radians(angle))), abs(math.sin(math.radians(angle)))
    return round(width_um * c + height_um * s), round(width_um * s + height_um * c)


class Strip(Frozen):
    """Where a label stands: its upper left corner from the print's lower left one, upright, and how wide it is."""

    x_um: int
    y_um: int
    wide_um: int


class Place(Frozen):
    """One print: its lower left corner in whole micrometres from the roll's left edge and from its cut's leading edge."""

    number: int
    cut: int
    x_um: int
    y_um: int
    turned: bool
    sort: int = 0
    """Which of the run's sorts lies here."""
    half: bool = False
    """By half a turn besides."""

    @property
    def quarters(self) -> int:
        """Against the clock."""
        return self.turned + 2 * self.half


class Sort(Frozen):
    """Prints that are alike, as they lie on the roll (already turned when they are)."""

    width_um: int
    height_um: int
    strip: Strip | None = None
    """Where its label stands, upright, and turns with the print; None: below the print, however that lies."""
    outline: Points = ()
    """Round what is inked, as it lies: others' prints reach into its box. Empty: the box is its own."""
    slant: int = Field(0, ge=0, lt=90)
    """Whole degrees against the clock, besides the quarters of its place."""
    own_um: tuple[int, int] = (0, 0)
    """Of one at a slant: its width and height before it was turned."""

    def upright_um(self, quarters: int) -> tuple[int, int]:
        """Before it was turned."""
        return self.own_um if self.slant else turned_box(self.width_um, self.height_um, 90 * quarters)


class RunLayout(Frozen):
    media_um: int
    printable_um: int
    sorts: tuple[Sort, ...]
    across: int
    rows_per_cut: int
    cut_lengths_um: tuple[int, ...]
    places: tuple[Place, ...]
    label_um: int
    gap_um: int = 0
    length_um: int
    waste_share: float
    grid_length_um: int
    """What the other way round would take, 0 when it does not fit."""
    sheet_um: int = 0
    """Length of one sheet, or of a garment printer's platen; 0 on a roll."""
    tiles: tuple[Tile, ...] = ()
    """Of prints that are in parts, one for each length or sheet. A place is then where its last part lies, and its corner where
    the whole print would begin."""
    share: float = 1.0
    """Of its lengths or sheets, where other jobs' prints lie on them too."""

    @property
    def sheets(self) -> float:
        """That it takes, where it is no roll: parts of them where they are shared."""
        return len(self.cut_lengths_um) * self.share

    @property
    def parts(self) -> int:
        """That one print is laid together from."""
        return len(self.tiles) // len(self.places) if self.tiles else 1

    def lengths_of(self, first: int, count: int) -> int:
        """Lengths or sheets that count prints after the first ones lie on."""
        places = self.places[first : first + count]
        return len(places) * self.parts if self.tiles else len({p.cut for p in places})

    def with_sorts(self, kept: list[int]) -> "RunLayout":
        """The same run with some of its sorts alone; their share of it goes by area, label and gap with it."""
        areas = [
            (self.sorts[p.sort].width_um + self.gap_um) * (self.sorts[p.sort].height_um + self.label_um + self.gap_um)
            for p in self.places
        ]
        share = sum(a for a, p in zip(areas, self.places, strict=True) if p.sort in kept) / sum(areas)
        places = tuple(p.model_copy(update={"sort": kept.index(p.sort)}) for p in self.places if p.sort in kept)
        return self.model_copy(update={
            "sorts": tuple(self.sorts[i] for i in kept), "places": places, "length_um": round(self.length_um * share), "share": share,
        })  # fmt: skip

    @model_validator(mode="before")
    @classmethod
    def reads_one_sort(cls, body: Any) -> Any:
        """Runs released before there were several sorts name one width and height."""
        if isinstance(body, dict) and "width_um" in body:
            rest = {k: v for k, v in body.items() if k not in ("width_um", "height_um")}
            return {**rest, "sorts": [{"width_um": body["width_um"], "height_um": body["height_um"]}]}
        return body


class Want(Frozen):
    """So many prints of one size, unturned."""

    width_um: int
    height_um: int
    copies: int


class LayoutAsk(Frozen):
    wants: tuple[Want, ...]
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
    sheet_um: int = 0
    """Length of one sheet; 0 on a roll."""
    overlap_um: int | None = None
    """Of a print's parts, where one that is too large may be printed in parts; None: it may not."""
    part_um: tuple[int, int] = (0, 0)
    """Widest and longest part, unturned, that goes under the press at once; 0: whatever is printed."""
    is_garment: bool = False
    """One print each: what is printed is the piece itself."""

    @property
    def copies(self) -> int:
        return sum(w.copies for w in self.wants)


def widest_print_um(ask: LayoutAsk) -> int:
    """The widest print that this roll, oven and margin take, unturned."""
    return min(ask.printable_um, ask.widest_cut_um)


def fits(ask: LayoutAsk) -> bool:
    """Whether every sort fits on a cut length, as it is turned."""
    label = round(LABEL_MM * 1000) if ask.labels else 0
    usable, longest = widest_print_um(ask), ask.longest_cut_um - 2 * ask.margin_um + ask.gap_um
    sizes = [(w.height_um, w.width_um) if ask.turned else (w.width_um, w.height_um) for w in ask.wants]
    return bool(sizes) and all(w <= usable and h + label + ask.gap_um <= longest for w, h in sizes)


@lru_cache(maxsize=64)
def lay_out(ask: LayoutAsk) -> RunLayout | None:
    """Places for every copy, or None when one of the sorts fits on no cut length."""
    laid = _lay(ask)
    if laid is None:
        return None
    other = ask.model_copy(update={"turned": not ask.turned, "across": None, "rows_per_cut": None})
    return laid.model_copy(
        update={"grid_length_um": 0 if laid.tiles or not fits(other) else sum(_ranged(other).lengths)}
    )


def one_more_across(ask: LayoutAsk, laid: RunLayout) -> tuple[int, RunLayout] | None:
    """The print width (whole mm, in micrometres) at which one more fits across, and the run it makes; None when that
    needs a print narrower by more than a tenth, saves next to nothing, or the run carries several sorts."""
    if ask.turned or ask.sheet_um or len(ask.wants) != 1 or laid.tiles:
        return None
    (want,) = ask.wants
    usable = widest_print_um(ask)
    width = (usable - laid.across * ask.gap_um) // (laid.across + 1) // 1000 * 1000
    if width < want.width_um * MOST_NARROWER:
        return None
    narrower = want.model_copy(update={"width_um": width, "height_um": round(want.height_um * width / want.width_um)})
    smaller = _lay(ask.model_copy(update={"wants": (narrower,), "across": None}))
    if smaller is None or laid.length_um - smaller.length_um < WORTH_SAYING_UM:
        return None
    return width, smaller


class _Row:
    """Prints side by side: as high as its first, which is its highest."""

    def __init__(self, height_um: int) -> None:
        self.height_um, self.width_um = height_um, 0
        self.prints: list[tuple[int, int]] = []

    def add(self, sort: int, width_um: int, gap_um: int) -> None:
        x = self.width_um + gap_um if self.prints else 0
        self.prints.append((sort, x))
        self.width_um = x + width_um


class _Ranged(NamedTuple):
    """Prints in rows, how much of a length each row takes, rows to a length, and how long those are."""

    rows: list[_Row]
    pitches: list[int]
    cuts: list[int]
    lengths: list[int]


def _ranged(ask: LayoutAsk) -> _Ranged:
    """Of prints that all fit."""
    label = round(LABEL_MM * 1000) if ask.labels else 0
    rows = _rows(ask, _sorts(ask), widest_print_um(ask))
    pitches = [r.height_um + label + ask.gap_um for r in rows]
    longest = ask.longest_cut_um - 2 * ask.margin_um + ask.gap_um
    cuts = [1] * len(rows) if ask.is_garment else _cut(pitches, longest, ask.rows_per_cut, fill=bool(ask.sheet_um))
    ends = list(accumulate(cuts))
    taken = [sum(pitches[end - count : end]) for end, count in zip(ends, cuts, strict=True)]
    return _Ranged(rows, pitches, cuts, [ask.sheet_um or t - ask.gap_um + 2 * ask.margin_um for t in taken])


def _sorts(ask: LayoutAsk) -> list[Sort]:
    return [Sort(width_um=w.height_um, height_um=w.width_um) if ask.turned else
            Sort(width_um=w.width_um, height_um=w.height_um) for w in ask.wants]  # fmt: skip


def _lay(ask: LayoutAsk) -> RunLayout | None:
    sorts = _sorts(ask)
    label = round(LABEL_MM * 1000) if ask.labels else 0
    if ask.overlap_um is not None and not ask.is_garment and not (fits(ask) and _goes_under(ask)):
        return _in_parts(ask, sorts, label)
    if not fits(ask):
        return None
    rows, pitches, cuts, lengths = _ranged(ask)
    left = (ask.media_um - max(r.width_um for r in rows)) // 2
    places: list[Place] = []
    at = 0
    for number, count in enumerate(cuts, 1):
        # On its platen a garment's print lies in the middle; everything else begins at the leading edge.
        y = (ask.sheet_um - rows[at].height_um) // 2 if ask.is_garment else ask.margin_um
        for row, pitch in zip(rows[at : at + count], pitches[at : at + count], strict=True):
            places += [
                Place(number=len(places) + i, cut=number, x_um=left + x, y_um=y + label, turned=ask.turned, sort=sort)
                for i, (sort, x) in enumerate(row.prints, 1)
            ]
            y += pitch
        at += count
    length = sum(lengths)
    printed = sum(w.width_um * w.height_um * w.copies for w in ask.wants)
    return RunLayout(
        media_um=ask.media_um, printable_um=ask.printable_um, sorts=tuple(sorts), across=max(len(r.prints) for r in rows),
        rows_per_cut=max(cuts), cut_lengths_um=tuple(lengths),
        places=tuple(places), label_um=label,
        gap_um=ask.gap_um, length_um=length, waste_share=round(1 - printed / (length * ask.media_um), 4), grid_length_um=0,
        sheet_um=ask.sheet_um,
    )  # fmt: skip


def _goes_under(ask: LayoutAsk) -> bool:
    wide, high = ask.part_um
    return all(w.width_um <= (wide or w.width_um) and w.height_um <= (high or w.height_um) for w in ask.wants)


def _in_parts(ask: LayoutAsk, sorts: list[Sort], label_um: int) -> RunLayout | None:
    """Every part on a length of its own: how they are laid together again matters more than the medium between them."""
    wide, high = widest_print_um(ask), ask.longest_cut_um - 2 * ask.margin_um - label_um
    broad_part, long_part = ask.part_um[::-1] if ask.turned else ask.part_um
    wide, high = min(wide, broad_part or wide), min(high, long_part or high)
    places: list[Place] = []
    tiles: list[Tile] = []
    lengths: list[int] = []
    for sort, (size, want) in enumerate(zip(sorts, ask.wants, strict=True)):
        across, along = (
            parted(of, most, ask.overlap_um or 0) for of, most in ((size.width_um, wide), (size.height_um, high))
        )
        if not 1 <= len(across) * len(along) <= MOST_PARTS:
            return None
        for _ in range(want.copies):
            number, y = len(places) + 1, ask.margin_um + label_um
            for row, (low, tall) in enumerate(along):
                for column, (left, broad) in enumerate(across):
                    tiles.append(Tile(number=number, column=column, row=row, left_um=left, low_um=low, width_um=broad, height_um=tall,
                                      x_um=(ask.media_um - broad) // 2, y_um=y))  # fmt: skip
                    lengths.append(ask.sheet_um or y + tall + ask.margin_um)
            last = tiles[-1]
            places.append(Place(number=number, cut=len(lengths), x_um=last.x_um - last.left_um, y_um=y - last.low_um, turned=ask.turned, sort=sort))  # fmt: skip
    printed = sum(w.width_um * w.height_um * w.copies for w in ask.wants)
    return RunLayout(
        media_um=ask.media_um, printable_um=ask.printable_um, sorts=tuple(sorts), across=1, rows_per_cut=1, cut_lengths_um=tuple(lengths),
        places=tuple(places), label_um=label_um, gap_um=ask.gap_um, length_um=sum(lengths),
        waste_share=round(1 - min(1.0, printed / (sum(lengths) * ask.media_um)), 4), grid_length_um=0, sheet_um=ask.sheet_um, tiles=tuple(tiles),
    )  # fmt: skip


def _rows(ask: LayoutAsk, sorts: list[Sort], usable_um: int) -> list[_Row]:
    """The highest sorts first; a row takes whatever still fits beside its first print."""
    rows: list[_Row] = []
    by_height = sorted(range(len(sorts)), key=lambda i: (-sorts[i].height_um, i))
    for i in by_height:
        for _ in range(ask.wants[i].copies):
            wide = sorts[i].width_um
            row = rows[-1] if rows else None
            full = row is None or row.width_um + ask.gap_um + wide > usable_um
            if row is None or full or ask.is_garment or len(row.prints) >= (ask.across or len(row.prints) + 1):
                row = _Row(sorts[i].height_um)
                rows.append(row)
            row.add(i, wide, ask.gap_um)
    return rows


def _cut(pitches: list[int], longest_um: int, most_rows: int | None, *, fill: bool = False) -> list[int]:
    """Rows in each cut length: as few lengths as can be, and those as even as can be; fill: sheets are filled one by one."""

    def greedy(cap: int) -> list[int]:
        counts: list[int] = []
        filled = 0
        for pitch in pitches:
            if not counts or filled + pitch > cap or (most_rows and counts[-1] >= most_rows):
                counts.append(0)
                filled = 0
            counts[-1] += 1
            filled += pitch
        return counts

    fewest = len(greedy(longest_um))
    if most_rows or fill:
        return greedy(longest_um)
    low, high = max(pitches), longest_um
    while low < high:
        middle = (low + high) // 2
        if len(greedy(middle)) <= fewest:
            high = middle
        else:
            low = middle + 1
    return greedy(low)
