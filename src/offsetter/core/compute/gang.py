"""Prints of several jobs laid on one run: on a roll in the lengths that what cures it takes, or on sheets.

Each print lies with its label below it, upright or turned a quarter; by outlines it turns further, its label with it. What a person pinned
stays; the rest is laid around it. First the lengths are filled by a search over all of them, then each is made as short as it can be by a
search of its own.
"""

import math
from collections import defaultdict
from collections.abc import Callable, Iterable
from typing import Literal

from pydantic import Field

from offsetter.core.compute.nest import TRIES_AT_ONCE, Boxes, Fixed, Search
from offsetter.core.compute.sheet import (
    LABEL_MM,
    LayoutAsk,
    Place,
    Points,
    RunLayout,
    Sort,
    Strip,
    Want,
    lay_out,
    turned_box,
    widest_print_um,
)
from offsetter.core.compute.skyline import ENDLESS
from offsetter.core.quantities import a_length, a_size
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

Turns = Literal["0", "180", "90", "any"]
"""The angles that a print may lie at: as it is, by halves, by quarters, at any; a layout by boxes knows quarters alone."""
QUARTERS = ("90", "any")
TENTH_UM = 100
MOST_PRINTS = 600
TRIES, TRIES_PRINTS = 400_000, 40_000_000
"""Of a whole search, and how many prints all of its tries may lay: a few seconds."""
MOST_SHAPES, SHAPES_S = 150, 10
"""Prints that are searched for by their outlines, and for how long."""
TOUCHES_UM = 25
"""Of a gap between outlines: under a dot."""
SNAP_UM = 4_000
"""Within this a print that is moved goes to its neighbour's edge: from memory."""


class GangPiece(Frozen):
    """One print, as it is printed. id: of its lot and its number in it."""

    id: str
    width_um: int
    height_um: int
    turns: Turns = "90"
    outline: Points = ()
    """What is inked of it; empty: its whole box."""


class Room(Frozen):
    """What a run lies on, in micrometres."""

    media_um: int
    printable_um: int
    usable_um: int
    """Across, of what is printable: what the oven or the platen takes."""
    longest_um: int
    """Of a cut length, margins with it; a sheet's own length."""
    margin_um: int
    gap_um: int
    label_um: int
    sheet_um: int = 0
    """0 on a roll."""
    by_outline: bool = False
    """Prints lie by what is inked of them, their labels turned with them; else by their boxes, every label below its print."""

    @property
    def left_um(self) -> int:
        return (self.media_um - self.usable_um) // 2


class Laid(Frozen):
    """Where a print lies: the lower left corner of the print itself, its label's strip below it."""

    id: str
    cut: int
    """From 1."""
    x_um: int
    y_um: int
    turned: bool
    pinned: bool = False
    half: bool = False
    """By half a turn besides."""
    slant: int = Field(0, ge=0, lt=90)
    """By so many degrees besides, against the clock: by outlines alone."""

    @property
    def quarters(self) -> int:
        """Against the clock."""
        return self.turned + 2 * self.half

    @property
    def angle(self) -> int:
        """Whole degrees against the clock."""
        return 90 * self.quarters + self.slant


def room_of(ask: LayoutAsk) -> Room:
    """ask: of any of the jobs; what they are laid on is the same for all."""
    return Room(
        media_um=ask.media_um, printable_um=ask.printable_um, usable_um=widest_print_um(ask), longest_um=ask.longest_cut_um, margin_um=ask.margin_um,
        gap_um=ask.gap_um, label_um=round(LABEL_MM * 1000) if ask.labels else 0, sheet_um=ask.sheet_um,
    )  # fmt: skip


def lay_gang(
    pieces: tuple[GangPiece, ...], room: Room, pinned: tuple[Laid, ...] = (), *, seed: int = 1, tries: int = 0, seconds: int = SHAPES_S,
    found: Callable[[float, tuple[Laid, ...]], None] | None = None,
) -> tuple[Laid, ...]:  # fmt: skip
    """A place for every print. tries: of the search; 0: the first layout alone. seconds: of each round
    by outlines. found: told the share that is done and the best so far.

    The same pieces, room, pins, seed and tries give the same layout. Raises Refusal for a print that fits nowhere.
    """
    by_id = {p.id: p for p in pieces}
    fixed = tuple(p for p in pinned if p.id in by_id)
    free = tuple(p for p in pieces if p.id not in {f.id for f in fixed})
    for piece in free:
        _refuse_too_large(piece, room)
    if len(pieces) > MOST_PRINTS:
        raise Refusal("too-many-prints", say("{pieces} prints cannot be laid on one run.", pieces=len(pieces)), say("Nothing was laid."), say("Lay at most {most_prints}.", most_prints=MOST_PRINTS))  # fmt: skip
    if not free:
        return fixed
    filling = Search(_boxes(free, room, fixed, by_id), seed)
    best = _shortened(filling, free, room, fixed, by_id, seed, 0)
    if found:
        found(0.0, best)
    spent = 0
    while spent < tries and not filling.is_proven:
        before = filling.cost
        filling.step(spent / tries)
        spent += TRIES_AT_ONCE
        if found and filling.cost < before:
            best = shorter(best, _shortened(filling, free, room, fixed, by_id, seed, 0), by_id, room)
            found(0.5 * spent / tries, best)
    if tries:
        best = shorter(best, _shortened(filling, free, room, fixed, by_id, seed, tries), by_id, room)
        # Round what is pinned our own search lays by boxes: the library holds nothing where it is.
        if room.by_outline and not fixed and len(free) <= MOST_SHAPES:
            if found:
                found(0.5, best)
            best = _interlocked(free, by_id, room, seed, seconds, found, best)
        if found:
            found(1.0, best)
    return best


def tries_for(count: int) -> int:
    """Of a search over so many prints."""
    return min(TRIES, TRIES_PRINTS // max(1, count))


def shorter(one: tuple[Laid, ...], other: tuple[Laid, ...], pieces: dict[str, GangPiece], room: Room) -> tuple[Laid, ...]:  # fmt: skip
    """The one of two layouts that takes less; the first when they take the same."""
    return other if sum(lengths_um(other, pieces, room)) < sum(lengths_um(one, pieces, room)) else one


def lengths_um(laid: Iterable[Laid], pieces: dict[str, GangPiece], room: Room) -> tuple[int, ...]:
    """Of each cut length, or of each sheet. One that a person left empty between two others is none."""
    ends: dict[int, int] = {}
    for p in laid:
        ends[p.cut] = max(ends.get(p.cut, 0), _with_label(p, pieces, room)[3] + room.margin_um)
    return tuple(room.sheet_um or ends[cut] for cut in sorted(ends))


def bound_um(pieces: Iterable[GangPiece], room: Room) -> int:
    """No run of these is shorter, or takes fewer sheets: by area, with a label and a gap to each, and by the longest print."""
    inside = room.longest_um - 2 * room.margin_um + room.gap_um
    if room.by_outline:
        # Every gap is shared by two outlines, however they lie: none is counted.
        along = sum(inked_um2(p, room, with_label=True) for p in pieces) / room.usable_um
        lengths = max(1, math.ceil(along / (inside - room.gap_um) - 1e-9))
        return lengths * room.sheet_um if room.sheet_um else math.ceil(along) + 2 * room.margin_um * lengths
    boxes = [_box(p, room, turned=False) for p in pieces]
    area = sum(min(a * b for a, b in ((w, h), _box(p, room, turned=True)) if p.turns in QUARTERS or (a, b) == (w, h)) for (w, h), p in zip(boxes, pieces, strict=True))  # fmt: skip
    along = area / (room.usable_um + room.gap_um)
    lengths = max(1, math.ceil(along / inside - 1e-9))
    return (
        lengths * room.sheet_um
        if room.sheet_um
        else math.ceil(along) - lengths * room.gap_um + 2 * room.margin_um * lengths
    )


def alone_um(jobs: Iterable[tuple[Want, ...]], room: Room) -> int:
    """What the same prints take where each job has a run of its own, in rows, turned where that is shorter. jobs: of each its prints."""
    whole = 0
    for wants in jobs:
        ask = LayoutAsk(
            wants=wants, gap_um=room.gap_um, margin_um=room.margin_um, media_um=room.media_um, printable_um=room.printable_um, longest_cut_um=room.longest_um,
            widest_cut_um=room.usable_um, labels=bool(room.label_um), sheet_um=room.sheet_um,
        )  # fmt: skip
        laid = [one for turned in (False, True) if (one := lay_out(ask.model_copy(update={"turned": turned})))]
        whole += min((one.length_um for one in laid), default=0)
    return whole


def trouble(laid: tuple[Laid, ...], moved: Laid, pieces: dict[str, GangPiece], room: Room) -> str:
    """Why a print cannot lie there, in words; empty: it can. laid: the others, and the moved one as it was."""
    if (moved.half or moved.slant) and not room.by_outline:
        return say(
            "{which} only by outlines: its label stands below it",
            which=say("half round") if moved.half else say("at a slant"),
        )
    if moved.slant and not pieces[moved.id].outline:
        return say("not at a slant: its box is its own")
    x0, y0, x1, y1 = _with_label(moved, pieces, room)
    left, right = x0 - room.left_um, room.left_um + room.usable_um - x1
    if left < 0 or right < 0:
        return say("{value} outside of what can be printed", value=a_length(-min(left, right) / 1000, 1))
    below, above = y0 - room.margin_um, room.longest_um - room.margin_um - y1
    if below < 0:
        return say("{value} too near to the edge", value=a_length(-below / 1000, 1))
    if above < 0:
        return say("{value} across the cut", value=a_length(-above / 1000, 1))
    for other in laid:
        if other.id == moved.id or other.cut != moved.cut:
            continue
        a0, b0, a1, b1 = _with_label(other, pieces, room)
        across, along = max(a0 - x1, x0 - a1), max(b0 - y1, y0 - b1)
        apart = max(across, along)
        if room.by_outline and apart < room.gap_um:
            apart = _apart_um(other, moved, pieces, room)
        if apart < 0:
            return say("it lies on another print or its label")
        if apart < room.gap_um:
            return say("{gap} of the gap are missing", gap=a_length((room.gap_um - apart) / 1000, 1))
    return ""


def snapped(laid: tuple[Laid, ...], moved: Laid, pieces: dict[str, GangPiece], room: Room) -> Laid:
    """Drawn to the edges and neighbours that it is let go near to, across and along by itself."""
    left, low, right, up = _frame(pieces[moved.id], room, moved.angle)
    xs = [room.left_um - left, room.left_um + room.usable_um - right]
    ys = [room.margin_um - low, room.longest_um - room.margin_um - up]
    for other in laid:
        if other.id == moved.id or other.cut != moved.cut:
            continue
        a0, b0, a1, b1 = _with_label(other, pieces, room)
        xs += [a0 - left, a1 - right, a1 + room.gap_um - left, a0 - room.gap_um - right]
        ys += [b0 - low, b1 - up, b1 + room.gap_um - low, b0 - room.gap_um - up]
    x = min(xs, key=lambda at: (abs(at - moved.x_um), at))
    y = min(ys, key=lambda at: (abs(at - moved.y_um), at))
    return moved.model_copy(update={
        "x_um": x if abs(x - moved.x_um) <= SNAP_UM else moved.x_um, "y_um": y if abs(y - moved.y_um) <= SNAP_UM else moved.y_um,
    })  # fmt: skip


def faults_in(laid: tuple[Laid, ...], pieces: dict[str, GangPiece], room: Room) -> tuple[str, ...]:
    """What is wrong with a layout as a whole; nothing is shown or released that has any."""
    missing = set(pieces) - {p.id for p in laid}
    found = [f"{p.id}: {why}" for p in laid if (why := trouble(laid, p, pieces, room))]
    return (*(say("{m}: it lies nowhere", m=m) for m in sorted(missing)), *found)


def run_layout(
    laid: tuple[Laid, ...], pieces: dict[str, GangPiece], room: Room, lot_of: Callable[[str], int]
) -> tuple[RunLayout, tuple[int, ...]]:
    """As a run carries it, in the order in which it leaves the printer; and of each of its sorts the lot. lot_of: a print's id to its lot."""
    cuts = sorted({p.cut for p in laid})
    in_order = sorted(laid, key=lambda p: (p.cut, p.y_um, p.x_um))
    kinds = list(dict.fromkeys((lot_of(p.id), p.angle) for p in sorted(in_order, key=lambda p: (lot_of(p.id), p.angle))))  # fmt: skip
    sorts = []
    for lot, angle in kinds:
        piece = pieces[next(p for p in in_order if (lot_of(p.id), p.angle) == (lot, angle)).id]
        wide, high = turned_box(piece.width_um, piece.height_um, angle)
        outline = shape_um(piece, room.model_copy(update={"label_um": 0}), angle)
        own = (piece.width_um, piece.height_um) if angle % 90 else (0, 0)
        sorts.append(
            Sort(
                width_um=wide,
                height_um=high,
                strip=label_strip(piece, room),
                outline=outline,
                slant=angle % 90,
                own_um=own,
            )
        )
    places = tuple(
        Place(number=n, cut=cuts.index(p.cut) + 1, x_um=p.x_um, y_um=p.y_um, turned=p.turned, half=p.half, sort=kinds.index((lot_of(p.id), p.angle)))
        for n, p in enumerate(in_order, 1)
    )  # fmt: skip
    lengths = lengths_um(laid, pieces, room)
    per_cut = [sum(p.cut == n for p in places) for n in range(1, len(lengths) + 1)]
    printed = sum(inked_um2(pieces[p.id], room) for p in laid)
    layout = RunLayout(
        media_um=room.media_um, printable_um=room.printable_um, sorts=tuple(sorts), across=1, rows_per_cut=max(per_cut), cut_lengths_um=lengths,
        places=places, label_um=room.label_um, gap_um=room.gap_um, length_um=sum(lengths), sheet_um=room.sheet_um, grid_length_um=0,
        waste_share=round(1 - printed / (sum(lengths) * room.media_um), 4),
    )  # fmt: skip
    return layout, tuple(lot for lot, _ in kinds)


def inked_um2(piece: GangPiece, room: Room, *, with_label: bool = False) -> float:
    """What one print takes of the medium."""
    if not room.by_outline:
        return piece.width_um * (piece.height_um + (room.label_um if with_label else 0))
    from offsetter.core.compute.gang_shapes import rigid

    label = room.label_um if with_label else 0
    return float(rigid(piece.outline, piece.width_um, piece.height_um, label)[0].area)


def label_strip(piece: GangPiece, room: Room) -> Strip | None:
    """Where its label stands, upright; None where it stands below the print, however that lies."""
    if not room.by_outline:
        return None
    from offsetter.core.compute.gang_shapes import rigid

    return rigid(piece.outline, piece.width_um, piece.height_um, room.label_um)[1]


def shape_um(piece: GangPiece, room: Room, angle: int) -> Points:
    """Its outline with its label as it lies, from the lower left corner of the print itself; empty by boxes."""
    if not room.by_outline:
        return ()
    from offsetter.core.compute.gang_shapes import as_it_lies

    shape = as_it_lies(piece.outline, piece.width_um, piece.height_um, room.label_um, angle)
    return tuple((round(x), round(y)) for x, y in list(shape.exterior.coords)[:-1])


# How the search sees it.


def _frame(piece: GangPiece, room: Room, angle: int) -> tuple[int, int, int, int]:
    """The box round a print and its label as it lies, from the lower left corner of the print itself."""
    if not room.by_outline:
        wide, high = turned_box(piece.width_um, piece.height_um, angle)
        return 0, -room.label_um, wide, high
    from offsetter.core.compute.gang_shapes import as_it_lies

    left, low, right, up = as_it_lies(piece.outline, piece.width_um, piece.height_um, room.label_um, angle).bounds
    return round(left), round(low), round(right), round(up)


def _apart_um(one: Laid, other: Laid, pieces: dict[str, GangPiece], room: Room) -> int:
    """Between two outlines; below 0 where they lie on each other."""
    from shapely import affinity

    from offsetter.core.compute.gang_shapes import as_it_lies

    a, b = (
        affinity.translate(as_it_lies(p.outline, p.width_um, p.height_um, room.label_um, at.angle), at.x_um, at.y_um)
        for at, p in ((one, pieces[one.id]), (other, pieces[other.id]))
    )
    apart = a.distance(b)
    if apart <= 0 and a.intersection(b).area > TOUCHES_UM**2:
        return -1
    return room.gap_um if apart >= room.gap_um - TOUCHES_UM else round(apart)


def _interlocked(
    free: tuple[GangPiece, ...], pieces: dict[str, GangPiece], room: Room, seed: int, seconds: int,
    found: Callable[[float, tuple[Laid, ...]], None] | None, best: tuple[Laid, ...],
) -> tuple[Laid, ...]:  # fmt: skip
    """By their outlines; best where that finds nothing shorter that holds."""
    # Loaded by the first that is laid so: the server's start does not wait for it.
    from offsetter.core.compute.gang_shapes import Shape, interlocked

    # More angles are more to search through, and may end further off: what may lie at any is laid by quarters as well.
    rounds: list[tuple[Turns, ...]] = [tuple("90" if p.turns == "any" else p.turns for p in free)]
    if any(p.turns == "any" for p in free):
        rounds.append(tuple(p.turns for p in free))
    for at, turns in enumerate(rounds):
        alike: defaultdict[tuple[Points, int, int, Turns], list[str]] = defaultdict(list)
        for p, may in zip(free, turns, strict=True):
            alike[p.outline, p.width_um, p.height_um, may].append(p.id)
        shapes = tuple(Shape(ids=tuple(ids), outline=o, width_um=w, height_um=h, turns=t) for (o, w, h, t), ids in alike.items())  # fmt: skip

        def done(share: float, at: int = at, so_far: tuple[Laid, ...] = best) -> None:
            if found:
                found(0.5 + 0.5 * (at + share) / len(rounds), so_far)

        put = interlocked(
            shapes, room.usable_um, room.longest_um - 2 * room.margin_um, room.gap_um, room.label_um, seconds=seconds, seed=seed, done=done,
        )  # fmt: skip
        laid = tuple(
            Laid(id=p.id, cut=p.cut, x_um=p.x_um + room.left_um, y_um=p.y_um + room.margin_um, turned=p.angle // 90 % 2 == 1, half=p.angle >= 180,
                 slant=p.angle % 90)
            for p in put or ()
        )  # fmt: skip
        if laid and not faults_in(laid, pieces, room):
            best = shorter(best, laid, pieces, room)
    return best


def _box(piece: GangPiece, room: Room, *, turned: bool) -> tuple[int, int]:
    """With its label and the gap."""
    left, low, right, up = _frame(piece, room, 90 * turned)
    return right - left + room.gap_um, up - low + room.gap_um


def _with_label(laid: Laid, pieces: dict[str, GangPiece], room: Room) -> tuple[int, int, int, int]:
    left, low, right, up = _frame(pieces[laid.id], room, laid.angle)
    return laid.x_um + left, laid.y_um + low, laid.x_um + right, laid.y_um + up


def _refuse_too_large(piece: GangPiece, room: Room) -> None:
    inside = room.longest_um - 2 * room.margin_um + room.gap_um
    fits = any(w <= room.usable_um + room.gap_um and h <= inside for w, h in (_box(piece, room, turned=t) for t in ((False, True) if piece.turns in QUARTERS else (False,))))  # fmt: skip
    if not fits:
        raise Refusal("too-large", say("A print of {size} fits nowhere: there is room for {size2} with its label.", size=a_size(piece.width_um / 1000, piece.height_um / 1000), size2=a_size(room.usable_um / 1000, (inside - room.gap_um) / 1000)), say("Nothing was laid."), say("Make it smaller, or print it another way."))  # fmt: skip


def _up(um: int) -> int:
    return -(-um // TENTH_UM)


def _boxes(
    free: tuple[GangPiece, ...],
    room: Room,
    fixed: tuple[Laid, ...],
    pieces: dict[str, GangPiece],
    *,
    deep: int | None = None,
) -> Boxes:
    """deep: in tenths; None: of a cut length."""
    upright = [_box(p, room, turned=False) for p in free]
    turned = [_box(p, room, turned=True) for p in free]
    inside = (room.longest_um - 2 * room.margin_um + room.gap_um) // TENTH_UM
    return Boxes(
        wide=tuple(_up(w) for w, _ in upright), high=tuple(_up(h) for _, h in upright), turns=tuple(p.turns in QUARTERS for p in free),
        turned_wide=tuple(_up(w) for w, _ in turned), turned_high=tuple(_up(h) for _, h in turned), room=(room.usable_um + room.gap_um) // TENTH_UM,
        deep=inside if deep is None else deep, fixed=tuple(_fixed(f, pieces, room) for f in fixed),
    )  # fmt: skip


def _fixed(laid: Laid, pieces: dict[str, GangPiece], room: Room) -> Fixed:
    """Rounded outwards, so that a pin between two tenths keeps its gap."""
    x0, y0, x1, y1 = _with_label(laid, pieces, room)
    x, y = max(0, x0 - room.left_um) // TENTH_UM, max(0, y0 - room.margin_um) // TENTH_UM
    return Fixed(sheet=laid.cut - 1, x=x, y=y, wide=_up(x1 - room.left_um + room.gap_um) - x, high=_up(y1 - room.margin_um + room.gap_um) - y)  # fmt: skip


def _shortened(
    filling: Search, free: tuple[GangPiece, ...], room: Room, fixed: tuple[Laid, ...], pieces: dict[str, GangPiece], seed: int, tries: int
) -> tuple[Laid, ...]:  # fmt: skip
    """The lengths as they are filled, each laid once more by itself for its own length; tries: over all of them."""
    x, y, sheet, turned = filling.places()
    laid: list[Laid] = list(fixed)
    for cut in sorted({int(s) for s in sheet}):
        which = [i for i in range(len(free)) if sheet[i] == cut]
        own = tuple(f.model_copy(update={"cut": 1}) for f in fixed if f.cut == cut + 1)
        places = [(int(x[i]), int(y[i]), bool(turned[i])) for i in which]
        if not room.sheet_um:
            alone = Search(_boxes(tuple(free[i] for i in which), room, own, pieces, deep=ENDLESS), seed)
            share = max(1, tries * len(which) // len(free)) if tries else 0
            spent = 0
            while spent < share and not alone.is_proven:
                alone.step(spent / share)
                spent += TRIES_AT_ONCE
            as_filled = max(y + h for (_, y, t), i in zip(places, which, strict=True) for h in (_up(_box(free[i], room, turned=t)[1]),))  # fmt: skip
            if alone.cost < as_filled:
                ax, ay, _, at = alone.places()
                places = [(int(ax[k]), int(ay[k]), bool(at[k])) for k in range(len(which))]
        for i, (px, py, is_turned) in zip(which, places, strict=True):
            left, low, *_ = _frame(free[i], room, 90 * is_turned)
            laid.append(Laid(
                id=free[i].id, cut=cut + 1, x_um=room.left_um + px * TENTH_UM - left, y_um=room.margin_um + py * TENTH_UM - low, turned=is_turned,
            ))  # fmt: skip
    return tuple(laid)
