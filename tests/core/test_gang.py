"""Prints of several jobs on one run: laid without touching, around what is pinned, and shared out again by job."""

import cv2
import numpy as np
import pypdfium2
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy import ndimage
from shapely import Polygon, affinity, box
from shapely.strtree import STRtree

from offsetter.core.compute import gang
from offsetter.core.compute.contour import dense
from offsetter.core.compute.cut_spec import CutSpec
from offsetter.core.compute.cutting import line_round, placed
from offsetter.core.compute.cutting import mirrored as cut_mirrored
from offsetter.core.compute.gang import GangPiece, Laid, Room
from offsetter.core.compute.gang_shapes import outline_round
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec
from offsetter.core.compute.plates import make_plates
from offsetter.core.compute.turning import turned
from offsetter.core.facts import profile_bytes
from offsetter.core.quantities import a_length
from offsetter.core.sentences import shown
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
        assert said in shown(gang.trouble((one, at), at.model_copy(update=changed), by_id, ROLL))


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
    left, low, *_ = affinity.rotate(box(0, 0, piece.width_um, piece.height_um), laid.angle, origin=middle).bounds
    return tuple(
        affinity.translate(affinity.rotate(one, laid.angle, origin=middle), laid.x_um - left, laid.y_um - low)
        for one in (Polygon(piece.outline), label)
    )  # fmt: skip


def held_apart(laid: tuple[Laid, ...], by_id: dict[str, GangPiece], room: Room) -> None:
    """Judged by another's arithmetic: inside, apart by the gap, labels among what is apart."""
    inside = box(room.left_um, room.margin_um, room.left_um + room.usable_um, room.longest_um - room.margin_um).buffer(2)  # fmt: skip
    for cut in {p.cut for p in laid}:
        shapes = [worked_out(p, by_id[p.id], room) for p in laid if p.cut == cut]
        for i, mine in enumerate(shapes):
            assert all(inside.covers(s) for s in mine)
            assert mine[0].intersection(mine[1]).area < 1e6, "a label lies beside its print, not on it"
            for theirs in shapes[:i]:
                assert min(a.distance(b) for a in mine for b in theirs) >= room.gap_um - 30


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
    laid = gang.lay_gang(pieces, BY_OUTLINE, tries=4_000, seconds=5, found=lambda share, _: told.append(share))
    assert gang.faults_in(laid, by_id, BY_OUTLINE) == ()
    assert told[-1] == 1.0
    whole = sum(gang.lengths_um(laid, by_id, BY_OUTLINE))
    assert gang.bound_um(pieces, BY_OUTLINE) <= whole <= 0.85 * sum(gang.lengths_um(boxed, by_id, ROLL))
    assert {p.quarters for p in laid if p.id.startswith("letters")} == {0}, "it may not be turned"
    held_apart(laid, by_id, BY_OUTLINE)
    # What a person put somewhere stays; the rest is laid round its box.
    pin = next(p for p in laid if p.quarters > 1).model_copy(update={"pinned": True, "cut": 1})
    around = gang.lay_gang(pieces, BY_OUTLINE, (pin,), tries=800)
    assert pin in around
    assert gang.faults_in(around, by_id, BY_OUTLINE) == ()
    assert "outlines" in gang.trouble((pin,), pin, by_id, ROLL)


def sash(dots: int = 240) -> np.ndarray:
    """A band from corner to corner: no quarter turn makes it lie straight."""
    made = np.zeros((dots, dots), np.uint8)
    cv2.line(made, (24, dots - 24), (dots - 24, 24), 255, 30)
    return made


def test_at_a_slant_what_no_quarter_straightens_lies_closer():
    um, many = 150_000, 6
    pieces = tuple(
        GangPiece(id=f"sash~{n}", width_um=um, height_um=um, outline=outline_round(sash(), um, um), turns="any")
        for n in range(many)
    )
    by_id = {p.id: p for p in pieces}
    straight = tuple(p.model_copy(update={"turns": "90"}) for p in pieces)
    by_quarters, laid = (gang.lay_gang(some, BY_OUTLINE, tries=400, seconds=5) for some in (straight, pieces))
    assert {p.slant for p in by_quarters} == {0}
    assert any(p.slant for p in laid)
    held_apart(laid, by_id, BY_OUTLINE)
    lengths = [sum(gang.lengths_um(some, by_id, BY_OUTLINE)) for some in (by_quarters, laid)]
    assert lengths[1] < 0.95 * lengths[0]
    one = next(p for p in laid if p.slant)
    assert "slant" in gang.trouble((), one.model_copy(update={"half": False}), by_id, ROLL)
    boxed = {one.id: by_id[one.id].model_copy(update={"outline": ()})}
    assert "its box is its own" in gang.trouble((), one, boxed, BY_OUTLINE)


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_slanted_prints_plates_label_and_line_lie_as_it_was_laid(mirrored, tmp_path):
    """A flag that has no symmetry at 120 degrees, its run read back by another program, its picture turned by another library."""
    high, wide, um = 160, 240, 60_000
    alpha = np.zeros((high, wide), np.uint8)
    alpha[10:-10, 10:60], alpha[10:80, 10:-30] = 255, 255
    rgba = np.dstack([np.zeros((high, wide, 3), np.uint8), alpha])
    spec = PlateSpec(
        artwork="flag", crop_px=(0, 0, wide, high), width_um=um, dpi=200, mirrored=mirrored, colour=ColourSpec(profile="ours"), white=None, slant=30,
    )  # fmt: skip
    as_printed = alpha[:, ::-1] if mirrored else alpha
    piece = GangPiece(
        id="flag~1",
        width_um=um,
        height_um=um * high // wide,
        outline=outline_round(as_printed, um, um * high // wide),
        turns="any",
    )
    one = Laid(id="flag~1", cut=1, x_um=60_000, y_um=50_000, turned=True, slant=30)
    layout, _ = gang.run_layout((one,), {piece.id: piece}, BY_OUTLINE, lambda _: 0)
    assert (layout.sorts[0].slant, layout.sorts[0].own_um) == (30, (piece.width_um, piece.height_um))
    made = make_plates(rgba, spec, profile_bytes(), as_printed=True)
    assert made.measure.coverage_pct["K"] == pytest.approx(make_plates(rgba, spec.model_copy(update={"slant": 0}), profile_bytes()).measure.coverage_pct["K"], rel=0.01)  # fmt: skip
    labels = RunLabels(title="Flag", run="R1", mirrored=mirrored, sorts=(SortLabel(name="M", placing="80 mm below the collar"),))  # fmt: skip
    write_run_pdf(tmp_path / "run.pdf", iter([(made.planes, spec.channels)]), layout, labels)
    page = pypdfium2.PdfDocument(tmp_path / "run.pdf")[0]
    px = 200 / 25_400
    shown = page.render(scale=200 / 72).to_numpy()[..., 0] < 128
    # Where ink should be: the picture turned about its middle by Pillow, its box's corner where the print was laid.
    tall = Image.fromarray(as_printed).resize((round(um * px), round(piece.height_um * px))).rotate(one.angle, expand=True, resample=Image.Resampling.BICUBIC)  # fmt: skip
    wanted = np.zeros_like(shown)
    at = shown.shape[0] - round(one.y_um * px) - tall.height, round(one.x_um * px)
    wanted[at[0] : at[0] + tall.height, at[1] : at[1] + tall.width] = np.asarray(tall) > 127
    both = cv2.erode(wanted.astype(np.uint8), np.ones((5, 5))) > 0
    assert shown[both].mean() > 0.995
    # What is inked besides is the label: in its own strip, which is turned with the print.
    strip = worked_out(one, piece, BY_OUTLINE)[1].buffer(500)
    besides = np.argwhere(shown & ~(cv2.dilate(wanted.astype(np.uint8), np.ones((7, 7))) > 0))
    points = shapely.points(besides[:, 1] / px, (shown.shape[0] - besides[:, 0]) / px)
    assert len(besides) > 50
    assert shapely.contains(strip, points).mean() > 0.99
    # A cutter's line follows it.
    line = line_round(alpha, um / 1000 / wide, CutSpec(offset_um=1_000))
    paths = cut_mirrored(line.paths, um / 1000) if mirrored else line.paths
    (ring,) = placed(paths, layout.places[0], layout)
    long_mm = layout.cut_lengths_um[0] / 1000
    around = Polygon([(x, long_mm - y) for x, y in dense(ring, 0.05)])
    inked = shapely.points(
        *(np.argwhere(both)[:, ::-1].T * [[1], [-1]] / px / 1000 + [[0], [shown.shape[0] / px / 1000]])
    )
    assert shapely.contains(around, inked).all()
    area = wanted.sum() / (px * 1000) ** 2
    assert area < around.area < 1.35 * area


def test_a_picture_turned_keeps_its_colours_to_the_edge():
    """Against scipy's own turning; a colour beside what is clear is not darkened by it."""
    rgba = np.zeros((90, 140, 4), np.uint8)
    yy, xx = np.mgrid[0:90, 0:140]
    rgba[..., 0], rgba[..., 1], rgba[..., 2] = 120 + xx // 2, 90 + yy, 200
    rgba[..., 3] = np.where((xx - 70) ** 2 / 55**2 + (yy - 45) ** 2 / 35**2 < 1, 255, 0)
    rgba[rgba[..., 3] == 0] = 0
    found = turned(rgba, 30)
    theirs = ndimage.rotate(np.dstack([rgba[..., 3], rgba[..., 0]]).astype(float), 30, order=1)
    assert np.abs(np.subtract(found.shape[:2], theirs.shape[:2])).max() <= 1
    rows, columns = min(found.shape[0], theirs.shape[0]), min(found.shape[1], theirs.shape[1])
    inside = theirs[:rows, :columns, 0] > 254.5
    assert np.abs(found[:rows, :columns, 0][inside] - theirs[:rows, :columns, 1][inside]).mean() < 1.0
    edge = (found[..., 3] > 20) & (found[..., 3] < 235)
    assert edge.sum() > 100
    assert np.abs(found[..., 2][edge].astype(int) - 200).max() <= 6


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
