"""Cut paths and layouts against geometry that is known, read back and looked at by libraries that did not make them."""

import functools
import itertools
import json
import math
import subprocess
import sys

import contourpy
import cv2
import ezdxf
import numpy as np
import pytest
import shapely
from ezdxf import path as ezpath
from PIL import Image
from shapely import Polygon
from shapely.affinity import rotate, translate
from svgelements import SVG, Path

from offsetter.core.compute.contour import CutPath, contour_of, dense, edge_of, plain_round
from offsetter.core.compute.cutting import begun_at
from offsetter.core.compute.nest import Piece, nest
from offsetter.core.values import Refusal

PX_MM = 25.4 / 300


def offsetter(*told: object) -> subprocess.CompletedProcess:
    return subprocess.run([sys.executable, "-m", "offsetter.cli", *map(str, told)], capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL)  # fmt: skip


def disc(radius: float, hole: float = 0, size: int = 700) -> np.ndarray:
    """An anti-aliased disc whose edge is known exactly, in dots."""
    y, x = np.mgrid[0:size, 0:size]
    d = np.hypot(x - size / 2 + 0.5, y - size / 2 + 0.5)
    inner = np.clip(d - hole + 0.5, 0, 1) if hole else 1
    return (np.clip(radius - d + 0.5, 0, 1) * inner * 255).round().astype(np.uint8)


@pytest.mark.parametrize("offset", [0.0, 2.0, -0.8])
@pytest.mark.parametrize("radius", [50, 200, 330])
def test_a_disc_is_cut_along_its_circle_as_a_few_arcs(radius, offset):
    made = contour_of(disc(radius), PX_MM, offset)
    true = radius * PX_MM + offset
    assert made.max_error_mm <= 0.05
    assert made.nodes <= 12
    assert made.area_mm2 == pytest.approx(math.pi * true**2, rel=0.003)
    left, top, right, bottom = made.bounds_mm
    middle = 350 * PX_MM
    for far in (middle - left, middle - top, right - middle, bottom - middle):
        assert far == pytest.approx(true, abs=0.05)


def test_a_ring_keeps_its_hole_until_the_line_closes_it_or_nobody_wants_it():
    ring = disc(250, 100)
    made = contour_of(ring, 0.1, 2)
    assert (made.rings, made.holes) == (1, 1)
    assert made.area_mm2 == pytest.approx(math.pi * (27**2 - 8**2), rel=0.002)
    assert contour_of(ring, 0.1, 2, keeps_holes=False).holes == 0
    assert contour_of(ring, 0.1, 10.5).holes == 0, "a hole of 10 mm radius is closed by a line set 10.5 mm into it"


def test_a_square_keeps_its_corners_until_the_blade_needs_them_round():
    alpha = np.zeros((400, 400), np.uint8)
    alpha[100:300, 100:300] = 255
    sharp = contour_of(alpha, 0.1, 0)
    assert sharp.nodes <= 8
    assert sharp.area_mm2 == pytest.approx(400, rel=0.003)
    blunt = contour_of(alpha, 0.1, 0, least_radius_mm=2)
    assert blunt.area_mm2 == pytest.approx(400 - (4 - math.pi) * 4, rel=0.003)
    set_off = contour_of(alpha, 0.1, 3)
    assert set_off.area_mm2 == pytest.approx(400 + 4 * 20 * 3 + math.pi * 9, rel=0.003), (
        "a square, four bars and a disc (Steiner)"
    )


@pytest.mark.parametrize(("alpha", "offset", "code"), [
    (np.zeros((50, 50), np.uint8), 1, "nothing-printed"), (disc(50), -9, "nothing-to-cut"), (disc(50), 1e9, "far-cut"), (disc(50), float("nan"), "far-cut"),
])  # fmt: skip
def test_nothing_to_cut_is_said(alpha, offset, code):
    with pytest.raises(Refusal) as refused:
        contour_of(alpha, PX_MM, offset)
    assert refused.value.code == code


def test_both_files_read_back_by_other_libraries_hold_the_same_line(tmp_path):
    art = tmp_path / "ring.png"
    Image.fromarray(np.dstack([np.full((700, 700, 3), 40, np.uint8), disc(250, 100)])).save(art)
    told = [
        json.loads(
            offsetter(
                "contour", art, "--width-mm", 70, "--offset-mm", 2, "--out", tmp_path / f"cut.{end}", "--json"
            ).stdout
        )
        for end in ("svg", "dxf")
    ]
    assert told[0]["area_mm2"] == told[1]["area_mm2"]
    assert set(told[0]) >= {"rings", "holes", "nodes", "area_mm2", "max_error_mm"}
    # svgelements works in its own dots: the drawing's viewBox is millimetres, so it is read without its page's scale.
    svg = [e for e in SVG.parse(tmp_path / "cut.svg", reify=False).elements() if isinstance(e, Path)]
    from_svg = [
        Polygon(
            [(p.x, p.y) for p in e.npoint(np.linspace(0, 1, 4000))]
            if hasattr(e.npoint(np.linspace(0, 1, 2))[0], "x")
            else e.npoint(np.linspace(0, 1, 4000))
        )
        for e in svg
    ]
    drawing = ezdxf.readfile(tmp_path / "cut.dxf")
    assert not drawing.audit().errors
    assert drawing.units == ezdxf.units.MM
    lines = [e for e in drawing.modelspace() if e.dxf.layer == "CUT"]
    from_dxf = [Polygon([(v.x, v.y) for v in ezpath.make_path(e).flattening(0.001)]) for e in lines]
    for found in (from_svg, from_dxf):
        outer, hole = sorted(found, key=lambda p: -p.area)
        assert outer.difference(hole).area == pytest.approx(told[0]["area_mm2"], rel=0.002)
    height = 70.0
    flipped = [Polygon([(x, height - y) for x, y in p.exterior.coords]) for p in from_dxf]
    for a, b in zip(sorted(from_svg, key=lambda p: p.area), sorted(flipped, key=lambda p: p.area), strict=True):
        assert a.symmetric_difference(b).area < 0.01 * a.area


def known_optimum(seed: int, count: int, wide: int, high: int) -> list[tuple[int, int]]:
    """A rectangle cut apart from edge to edge: laid together again it wastes nothing (guillotine, by construction)."""
    chance, parts = np.random.default_rng(seed), [(wide, high)]
    while len(parts) < count:
        w, h = parts.pop(int(np.argmax([w * h * chance.uniform(0.5, 1) for w, h in parts])))
        at = int(chance.uniform(0.25, 0.75) * max(w, h)) or 1
        parts += [(at, h), (w - at, h)] if w >= h else [(w, at), (w, h - at)]
    return parts


def boxes_laid(pieces: tuple[Piece, ...], places) -> list[tuple[int, Polygon]]:
    sizes = {p.id: (p.width_mm, p.height_mm) for p in pieces}
    found = []
    for place in places:
        w, h = sizes[place["id"]] if place["rotation_deg"] in (0, 180) else sizes[place["id"]][::-1]
        found.append((place["sheet"], shapely.box(place["x_mm"], place["y_mm"], place["x_mm"] + w, place["y_mm"] + h)))
    return found


def apart(shapes: list[Polygon]) -> float:
    """The least distance between any two."""
    return min((a.distance(b) for i, a in enumerate(shapes) for b in shapes[:i]), default=math.inf)


def test_boxes_on_a_roll_lie_apart_inside_its_margins_and_near_the_known_optimum():
    pieces = tuple(
        Piece(id=str(n), width_mm=w, height_mm=h, rotate="90")
        for n, (w, h) in enumerate(known_optimum(2, 40, 112, 200))
    )
    found = [nest(pieces, gap_mm=0, margin_mm=0, roll_mm=112, seed=1, share=lambda t: t / 30_000) for _ in range(2)]
    assert found[0] == found[1], "the same seed and the same tries give the same layout"
    made = found[0]
    assert 200 <= made.length_mm <= 212, "within 6 % of what is known to be possible, in a short search"
    assert made.bound <= 200 <= made.length_mm <= made.grid
    shapes = [s for _, s in boxes_laid(pieces, [p.model_dump() for p in made.places])]
    assert sum(s.area for s in shapes) == pytest.approx(112 * 200)
    assert shapely.union_all(shapes).area == pytest.approx(112 * 200), "nothing overlaps"
    wider = nest(pieces, gap_mm=3, margin_mm=5, roll_mm=160, seed=1, share=lambda t: t / 2_000)
    spread = [s for _, s in boxes_laid(pieces, [p.model_dump() for p in wider.places])]
    assert apart(spread) >= 3 - 1e-6
    left, low, right, high = shapely.union_all(spread).bounds
    assert left >= 5 - 1e-6
    assert low >= 5 - 1e-6
    assert right <= 155 + 1e-6
    assert high <= wider.length_mm - 5 + 1e-6


def test_sheets_reach_the_known_optimum():
    parts = [part for n in range(4) for part in known_optimum(n, 10, 3200, 4500)]
    pieces = tuple(
        Piece(id=str(n), width_mm=w / 10 * 0.97, height_mm=h / 10 * 0.97, rotate="90") for n, (w, h) in enumerate(parts)
    )
    made = nest(pieces, gap_mm=0, margin_mm=0, sheet_mm=(320, 450), seed=1, share=lambda t: t / 60_000)
    assert made.sheets == 4, "forty pieces cut from four sheets, shrunk by 3 %"
    by_sheet: dict[int, list[Polygon]] = {}
    for sheet, shape in boxes_laid(pieces, [p.model_dump() for p in made.places]):
        by_sheet.setdefault(sheet, []).append(shape)
        assert shape.bounds[2] <= 320.001
        assert shape.bounds[3] <= 450.001
    for shapes in by_sheet.values():
        assert shapely.union_all(shapes).area == pytest.approx(sum(s.area for s in shapes), rel=1e-6)


def test_true_shapes_take_less_roll_than_their_boxes_and_never_touch(tmp_path):
    chance = np.random.default_rng(5)
    outlines = []
    for _ in range(8):
        corners = int(chance.integers(3, 7))
        far = chance.uniform(25, 60, corners)
        turn = 2 * np.pi * np.arange(corners) / corners
        outlines.append(
            [
                [round(float(60 + r * np.cos(a)), 2), round(float(60 + r * np.sin(a)), 2)]
                for r, a in zip(far, turn, strict=True)
            ]
        )
    told = {"pieces": [{"id": f"s{n}", "outline_mm": o, "count": 2, "rotate": "any"} for n, o in enumerate(outlines)]}
    (tmp_path / "pieces.json").write_text(json.dumps(told))
    done = offsetter(
        "nest",
        tmp_path / "pieces.json",
        "--roll",
        400,
        "--gap-mm",
        3,
        "--margin-mm",
        5,
        "--seconds",
        4,
        "--out",
        tmp_path / "n.svg",
        "--json",
    )
    made = json.loads(done.stdout)
    assert (tmp_path / "n.svg").read_text().count("<polygon") == 16
    boxes = tuple(Piece.model_validate(p) for p in told["pieces"])
    assert (
        made["length_mm"] < nest(boxes, gap_mm=3, margin_mm=5, roll_mm=400, seed=1, share=lambda t: t / 4_000).length_mm
    )
    shapes = []
    for place in made["places"]:
        turned = rotate(Polygon(outlines[int(place["id"][1:])]), place["rotation_deg"], origin=(0, 0))
        shapes.append(translate(turned, place["x_mm"] - turned.bounds[0], place["y_mm"] - turned.bounds[1]))
    assert apart(shapes) >= 3 - 0.03
    whole = shapely.union_all(shapes).bounds
    assert whole[0] >= 5 - 0.03
    assert whole[2] <= 395 + 0.03
    assert whole[3] <= made["length_mm"] - 5 + 0.03
    assert made["bound_mm"] <= made["length_mm"]


@pytest.mark.parametrize(("told", "more", "said"), [
    ({"pieces": [{"id": "a", "width_mm": 500, "height_mm": 10}]}, ("--roll", 400), "fits nowhere"),
    ({"pieces": [{"id": "a", "width_mm": 50, "height_mm": 10}]}, ("--sheet", "100x100", "--margin-mm", 60), "no room"),
    ({"pieces": [{"id": "a", "width_mm": 5, "height_mm": 5, "count": 5001}]}, ("--roll", 400), "count"),
    ({"pieces": [{"id": "a", "outline_mm": [[0, 0], [10, 10], [10, 0], [0, 10]]}]}, ("--roll", 400), "crosses itself"),
    ({"pieces": [{"id": "a", "outline_mm": [[0, 0], [10, 0], [20, 0]]}]}, ("--roll", 400), "no height"),
    ({"pieces": [{"id": "a", "width_mm": 5}]}, ("--roll", 400), "neither width"), ({"pieces": []}, ("--roll", 400), "pieces"), ([], ("--roll", 400), "pieces"),
    ({"pieces": [{"id": "a", "width_mm": 5, "height_mm": 5}, {"id": "a", "width_mm": 5, "height_mm": 5}]}, ("--roll", 400), "one id"),
    ({"pieces": [{"id": "a", "width_mm": 5, "height_mm": 5}]}, ("--roll", 400, "--gap-mm", -1), "gap"),
])  # fmt: skip
def test_what_cannot_be_laid_is_said_in_one_sentence(tmp_path, told, more, said):
    (tmp_path / "p.json").write_text(json.dumps(told))
    done = offsetter("nest", tmp_path / "p.json", *more, "--seconds", 1, "--json")
    assert done.returncode == 2, done.stdout
    assert said in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def star(points: int = 5, radius: float = 300) -> np.ndarray:
    turned = np.arange(2 * points) * math.pi / points - math.pi / 2
    far = np.where(np.arange(2 * points) % 2, radius * 0.4, radius)
    alpha = np.zeros((700, 700), np.uint8)
    corners = np.column_stack([350 + far * np.cos(turned), 350 + far * np.sin(turned)])
    return cv2.fillPoly(alpha, [np.rint(corners * 16).astype(np.int32)], 255, cv2.LINE_AA, shift=4)


def area_of(path) -> Polygon:
    return Polygon(dense(path, 0.01))


@pytest.mark.parametrize("offset", [0.0, 1.5])
def test_a_plain_shape_holds_all_of_the_picture_and_is_the_smallest_of_its_kind(offset):
    printed = edge_of(star(), 0.1)
    left, top, right, bottom = printed.bounds
    wide, high = right - left, bottom - top
    lines = {s: plain_round(star(), 0.1, offset, s) for s in ("box", "rounded", "ellipse")}
    for made in lines.values():
        assert made.max_error_mm <= 0.05
        assert area_of(made.paths[0]).buffer(0.06 - min(offset, 0.05)).contains(printed)
    assert lines["box"].area_mm2 == pytest.approx((wide + 2 * offset) * (high + 2 * offset), rel=1e-3)
    round_by = 0.12 * min(wide, high) + offset
    assert lines["rounded"].area_mm2 == pytest.approx(wide * high + 2 * round_by * (wide + high) + math.pi * round_by**2, rel=1e-3)  # fmt: skip
    # The ellipse touches the picture where it is set off by nothing.
    if not offset:
        assert printed.distance(area_of(lines["ellipse"].paths[0]).exterior) < 0.06
    with pytest.raises(Refusal, match="so far inside"):
        plain_round(star(), 0.1, -60, "box")


def test_the_blade_goes_in_where_it_is_told_and_round_as_it_is_told():
    made = contour_of(star(), 0.1, 1.0).paths[0]
    whole = area_of(made)
    for turns in ("clockwise", "against"):
        for starts, wanted in (("foot", whole.bounds[3]), ("head", whole.bounds[1])):
            line = begun_at(made, starts, turns)
            assert area_of(line).symmetric_difference(whole).area < 1e-6 * whole.area, "the same line"
            assert line.nodes[0][1] == pytest.approx(wanted, abs=1.5)
            # y runs downwards: with the clock for the eye is against it for the library.
            assert area_of(line).exterior.is_ccw == (turns == "clockwise")
    circle = CutPath(nodes=((0, 0, 1.0), (10, 0, 1.0)))
    other = begun_at(circle, "corner", "against")
    assert [b for *_, b in other.nodes] == [-1.0, -1.0]
    assert begun_at(other, "corner", "against") == other


def test_parts_of_a_picture_are_followed_as_if_they_were_looked_at_all_at_once():
    """Against contourpy over the whole picture: parts a dot apart, within each other, soft, at the edge and of all sizes."""
    chance, mm = np.random.default_rng(4), 25.4 / 300
    alpha = np.zeros((403, 511), np.uint8)
    for _ in range(60):
        middle, radius = tuple(int(v) for v in chance.integers(0, (511, 403))), int(chance.integers(1, 26))
        cv2.circle(alpha, middle, radius, 255, int(chance.choice([-1, 1, 2])), cv2.LINE_AA)
    whole = contourpy.contour_generator(z=np.pad(alpha, 1), fill_type=contourpy.FillType.OuterOffset).filled(127.5, 1e9)
    rings = [(p[a:b] - 0.5) * mm for p, o in zip(*whole, strict=True) for a, b in itertools.pairwise(o)]
    wanted = shapely.make_valid(
        functools.reduce(shapely.symmetric_difference, (shapely.Polygon(r) for r in rings if len(r) > 3))
    )
    found = edge_of(alpha, mm)
    assert found.area > 100
    assert shapely.symmetric_difference(found, wanted).area < 1e-6
