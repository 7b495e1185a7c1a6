"""Prints of several jobs on one run: laid without touching, around what is pinned, and shared out again by job."""

import cv2
import numpy as np
import pypdfium2
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon, affinity, box
from shapely.strtree import STRtree

from offsetter.core.compute import gang
from offsetter.core.compute.gang import GangPiece, Laid, Room
from offsetter.core.compute.gang_shapes import outline_round
from offsetter.core.quantities import a_length
from offsetter.formats.plates_pdf import RunLabels, SortLabel, write_run_pdf

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


def drawn(kind: str, dots: int = 240) -> np.ndarray:
    """A picture's ink: rows, columns."""
    made = np.zeros((dots, dots), np.uint8)
    if kind == "hook":
        made[4:-4, 4:70], made[170:-4, 4:-4] = 255, 255
    elif kind == "peak":
        cv2.fillPoly(made, [np.array([[dots // 2, 3], [dots - 4, dots - 4], [3, dots - 4]])], 255)
    else:
        for at in range(5):
            made[90:150, 8 + at * 46 : 38 + at * 46] = 255
    return made


KINDS = {"hook": 150_000, "peak": 120_000, "letters": 110_000}
BY_OUTLINE = ROLL.model_copy(update={"by_outline": True})


def outlined(count: int = 5) -> tuple[GangPiece, ...]:
    return tuple(
        GangPiece(id=f"{kind}~{n}", width_um=um, height_um=um, outline=outline_round(drawn(kind), um, um), turns="0" if kind == "letters" else "90")
        for kind, um in KINDS.items() for n in range(count)
    )  # fmt: skip


def worked_out(laid: Laid, piece: GangPiece, room: Room) -> tuple[Polygon, Polygon]:
    """Ink's outline and label where they lie, by shapely's own turning about the middle of the print's box."""
    strip = gang.label_strip(piece, room)
    label = box(strip.x_um, strip.y_um - room.label_um, strip.x_um + strip.wide_um, strip.y_um)
    middle = (piece.width_um / 2, piece.height_um / 2)
    shift = (middle[1] - middle[0], middle[0] - middle[1]) if laid.turned else (0, 0)
    return tuple(
        affinity.translate(affinity.rotate(one, 90 * laid.quarters, origin=middle), laid.x_um + shift[0], laid.y_um + shift[1])
        for one in (Polygon(piece.outline), label)
    )  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_an_outline_never_runs_through_ink(kind):
    ink, um = drawn(kind), KINDS[kind]
    outline = Polygon(outline_round(ink, um, um))
    dot = um / ink.shape[1]
    dots = [box(x * dot, um - (y + 1) * dot, (x + 1) * dot, um - y * dot) for y, x in np.argwhere(ink)]
    assert all(outline.buffer(1).covers(d) for d in dots)
    assert outline.area < len(dots) * dot**2 * (2.2 if kind == "letters" else 1.1)
    assert len(outline.exterior.coords) <= 70


def test_prints_reach_into_each_other_by_their_outlines():
    pieces = outlined()
    by_id = {p.id: p for p in pieces}
    boxed = gang.lay_gang(pieces, ROLL, tries=4_000)
    told: list[float] = []
    laid = gang.lay_gang(pieces, BY_OUTLINE, tries=4_000, found=lambda share, _: told.append(share))
    assert gang.faults_in(laid, by_id, BY_OUTLINE) == ()
    assert told[-1] == 1.0
    whole = sum(gang.lengths_um(laid, by_id, BY_OUTLINE))
    assert gang.bound_um(pieces, BY_OUTLINE) <= whole <= 0.85 * sum(gang.lengths_um(boxed, by_id, ROLL))
    assert {p.quarters for p in laid if p.id.startswith("letters")} == {0}, "it may not be turned"
    # Judged by another's arithmetic: inside, apart by the gap, labels among what is apart.
    for cut in {p.cut for p in laid}:
        shapes = [worked_out(p, by_id[p.id], BY_OUTLINE) for p in laid if p.cut == cut]
        inside = box(ROLL.left_um, ROLL.margin_um, ROLL.left_um + ROLL.usable_um, ROLL.longest_um - ROLL.margin_um).buffer(2)  # fmt: skip
        for i, mine in enumerate(shapes):
            assert all(inside.covers(s) for s in mine)
            assert mine[0].intersection(mine[1]).area < 1e6, "a label lies beside its print, not on it"
            for theirs in shapes[:i]:
                assert min(a.distance(b) for a in mine for b in theirs) >= ROLL.gap_um - 30
    # What a person put somewhere stays; the rest is laid round its box.
    pin = next(p for p in laid if p.quarters > 1).model_copy(update={"pinned": True, "cut": 1})
    around = gang.lay_gang(pieces, BY_OUTLINE, (pin,), tries=800)
    assert pin in around
    assert gang.faults_in(around, by_id, BY_OUTLINE) == ()
    assert "outlines" in gang.trouble((pin,), pin, by_id, ROLL)


def test_what_reaches_into_a_prints_box_keeps_its_ink(tmp_path):
    """Two hooks, one turned half round into the other, read back by another program as they are printed."""
    ink = drawn("hook")
    piece = GangPiece(id="hook~1", width_um=150_000, height_um=150_000, outline=outline_round(ink, 150_000, 150_000))
    other = piece.model_copy(update={"id": "hook~2"})
    room = BY_OUTLINE.model_copy(update={"gap_um": 3_000})
    one = Laid(id="hook~1", cut=1, x_um=40_000, y_um=40_000, turned=False)
    two = Laid(id="hook~2", cut=1, x_um=70_000, y_um=94_000, turned=False, half=True)
    by_id = {p.id: p for p in (piece, other)}
    assert gang.faults_in((one, two), by_id, room) == ()
    layout, _ = gang.run_layout((one, two), by_id, room, lambda i: int(i[-1]) - 1)
    plates = np.zeros((*ink.shape, 4), np.uint8)
    plates[ink > 0] = (0, 0, 0, 255)
    sorts = tuple(SortLabel(name="M", placing="80 mm below the collar") for _ in layout.sorts)
    labels = RunLabels(title="Hooks", run="R1", mirrored=False, sorts=sorts)
    write_run_pdf(tmp_path / "run.pdf", iter([(plates, ("C", "M", "Y", "K"))] * 2), layout, labels)
    page = pypdfium2.PdfDocument(tmp_path / "run.pdf")[0]
    assert page.get_textpage().get_text_range().count("Hooks") == 2
    shown = page.render(scale=2).to_numpy()[..., 0] < 128
    dots_per_um = 2 * 72 / 25_400
    for laid in (one, two):
        turned = np.rot90(ink, laid.quarters)
        left, low = laid.x_um * dots_per_um, laid.y_um * dots_per_um
        side = 150_000 * dots_per_um
        held = missing = 0
        for y, x in np.argwhere(turned[::6, ::6] > 0):
            at = shown[
                round(shown.shape[0] - low - side + (6 * y + 0.5) / 240 * side),
                round(left + (6 * x + 0.5) / 240 * side),
            ]
            held, missing = held + bool(at), missing + (not at)
        assert missing <= 0.01 * held
