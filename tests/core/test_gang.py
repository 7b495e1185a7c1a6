"""Prints of several jobs on one run: laid without touching, around what is pinned, and shared out again by job."""

from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import box
from shapely.strtree import STRtree

from offsetter.core.compute import gang
from offsetter.core.compute.gang import GangPiece, Laid, Room
from offsetter.core.quantities import a_length

ROLL = Room(media_um=460_000, printable_um=450_000, usable_um=420_000, longest_um=820_000, margin_um=10_000, gap_um=8_000, label_um=7_000)  # fmt: skip
SHEET = ROLL.model_copy(update={"media_um": 210_000, "printable_um": 200_000, "usable_um": 200_000, "longest_um": 297_000, "sheet_um": 297_000})  # fmt: skip


def pieces_of(*sizes_mm: tuple[int, int]) -> tuple[GangPiece, ...]:
    return tuple(GangPiece(id=f"p~{n}", width_um=w * 1000, height_um=h * 1000) for n, (w, h) in enumerate(sizes_mm))


def judged(laid: tuple[Laid, ...], pieces: tuple[GangPiece, ...], room: Room) -> None:
    """By another geometry library: every print once, inside, and apart by the gap with its label."""
    by_id = {p.id: p for p in pieces}
    assert sorted(p.id for p in laid) == sorted(by_id)
    for cut in {p.cut for p in laid}:
        shapes = []
        for p in (p for p in laid if p.cut == cut):
            w, h = by_id[p.id].width_um, by_id[p.id].height_um
            w, h = (h, w) if p.turned else (w, h)
            shapes.append(box(p.x_um, p.y_um - room.label_um, p.x_um + w, p.y_um + h))
        inside = box(room.left_um, room.margin_um, room.left_um + room.usable_um, room.longest_um - room.margin_um)
        assert all(inside.covers(s) for s in shapes)
        tree = STRtree(shapes)
        # Boxes that are the gap apart touch when each grows by half of it with square corners.
        for s in shapes:
            grown = s.buffer(room.gap_um - 1, join_style="mitre")
            assert len([i for i in tree.query(grown) if shapes[i].intersects(grown)]) == 1


SIZES = st.lists(st.tuples(st.integers(15, 180), st.integers(15, 250)), min_size=1, max_size=25)


@settings(max_examples=40, deadline=None)
@given(SIZES, st.sampled_from([ROLL, SHEET]), st.integers(0, 30_000), st.randoms(use_true_random=False))
def test_no_layout_touches_and_pins_stay(sizes, room, gap_um, chance):
    room = room.model_copy(update={"gap_um": gap_um})
    pieces = pieces_of(*sizes)
    laid = gang.lay_gang(pieces, room, tries=800)
    judged(laid, pieces, room)
    by_id = {p.id: p for p in pieces}
    assert gang.faults_in(laid, by_id, room) == ()
    assert sum(gang.lengths_um(laid, by_id, room)) >= gang.bound_um(pieces, room)
    assert gang.lay_gang(pieces, room, tries=800) == laid
    # Some of them pinned a little beside where they lay, wherever that is free.
    pins: tuple[Laid, ...] = ()
    for p in chance.sample(laid, min(4, len(laid))):
        moved = p.model_copy(update={"x_um": p.x_um + chance.randint(-9_999, 9_999), "pinned": True})
        if not gang.trouble((*pins, moved), moved, by_id, room):
            pins = (*pins, moved)
    around = gang.lay_gang(pieces, room, pins, tries=400)
    judged(around, pieces, room)
    assert set(pins) <= set(around)


def test_a_cut_sheet_is_put_together_again_within_two_per_cent():
    # A length of 404 x 800 mm sawn into 24 by hand, the gap taken off each: the optimum is known, in 5 mm steps.
    widths, heights = (54, 150, 204), (80, 100, 120, 140, 160, 90, 110)
    sizes = [(w - 8, h - 15) for w in widths for h in heights]
    assert sum(heights) == 800
    pieces = pieces_of(*sizes)
    room = ROLL.model_copy(update={"usable_um": 400_000, "longest_um": 812_000})
    laid = gang.lay_gang(pieces, room, tries=40_000)
    judged(laid, pieces, room)
    best = 800_000 - 8_000 + 20_000
    assert sum(gang.lengths_um(laid, {p.id: p for p in pieces}, room)) <= best * 1.02


def test_a_moved_print_is_drawn_to_its_neighbour_or_refused_in_words():
    pieces = pieces_of((100, 100), (100, 60))
    by_id = {p.id: p for p in pieces}
    one, two = gang.lay_gang(pieces, ROLL)
    beside = two.model_copy(update={"cut": 1, "x_um": one.x_um + 110_500, "y_um": one.y_um + 1_200, "turned": False})
    at = gang.snapped((one, two), beside, by_id, ROLL)
    assert (at.x_um, at.y_um) == (one.x_um + 108_000, one.y_um)
    assert gang.trouble((one, at), at, by_id, ROLL) == ""
    for changed, said in (
        ({"x_um": one.x_um + 50_000}, "on another print"), ({"x_um": one.x_um + 104_000}, f"{a_length(4, 1)} of the gap"),
        ({"x_um": 430_000}, "outside of what can be printed"), ({"y_um": 9_000}, "too near to the edge"), ({"y_um": 780_000}, "across the cut"),
    ):  # fmt: skip
        assert said in gang.trouble((one, at), at.model_copy(update=changed), by_id, ROLL)
