"""Sizes in one touch, and labels that give way to the print."""

from datetime import UTC, datetime

import pytest

from offsetter.core import derive
from offsetter.core.compute import placement
from offsetter.core.compute.advice import advise
from offsetter.core.compute.fit import AdviceArt, AdviceJob
from offsetter.core.compute.fitting import COVERS_MM, Room, fits_on, spare_sides
from offsetter.core.compute.sheet import LayoutAsk, Want, fits, lay_out
from offsetter.core.decisions import BlankLine, Decisions, OrderDoc
from offsetter.core.facts import Blank, FlatSize, Levels, advice_facts
from offsetter.core.prints import advice_here

A4 = Room(wide_mm=200, long_mm=287)


def flat(width: float, height: float, **more) -> tuple[Blank, FlatSize]:
    size = FlatSize(width_mm=width, height_mm=height, **more)
    blank = Blank(id="plaque", name="Plaque", kind="hard", coated=True, colour="#FFFFFF", colour_name="white", thickness_mm=3, scorch_c=240,
                  sizes={"one": size}, price=1)  # fmt: skip
    return blank, size


def test_a_plaque_is_covered_with_its_bleed_and_the_sheet_filled_on_purpose():
    blank, size = flat(120, 120, is_round=True)
    side = placement.panel(blank, size, "front")
    found = {f.name: f for f in fits_on(side, 1.0, 60, (A4,), widest_mm=424, sheet=A4, may_bleed=True)}
    assert found["largest"].width_mm == 120
    assert found["cover"].width_mm == 126
    assert found["sheet"].width_mm == 200
    for fit in found.values():
        # Each lies in the middle: what hangs over is even.
        assert fit.below_mm + fit.height_mm / 2 == pytest.approx(60)


def test_no_choice_is_wider_than_what_prints_or_presses_it():
    blank, size = flat(250, 200)
    side = placement.panel(blank, size, "front")
    found = fits_on(side, 0.8, 60, (A4, Room(wide_mm=150, long_mm=400)), widest_mm=424, sheet=A4, may_bleed=True)
    # 150 mm of platen bound it: upright 150 wide, turned 187 x 150.
    assert {f.name: f.width_mm for f in found} == {"largest": 187}


def test_a_safe_zone_keeps_three_millimetres_from_a_round_edge_and_a_square_one():
    (_, disc), (_, square) = flat(100, 100, is_round=True), flat(100, 60)
    assert placement.safe_zone(square) == "M-47.0 3L47.0 3L47.0 57.0L-47.0 57.0Z"
    assert placement.safe_zone(disc).startswith("M0 3C")
    assert "97.00" in placement.safe_zone(disc)


def test_a_print_that_fills_its_sheet_is_laid_without_labels():
    ask = LayoutAsk(wants=(Want(width_um=200_000, height_um=285_000, copies=2),), gap_um=0, margin_um=5_000, media_um=210_000,
                    printable_um=200_000, longest_cut_um=297_000, widest_cut_um=200_000, sheet_um=297_000)  # fmt: skip
    assert not fits(ask)
    bare = ask.model_copy(update={"labels": False})
    assert fits(bare)
    laid = lay_out(bare)
    assert laid is not None
    assert (laid.label_um, len(laid.cut_lengths_um)) == (0, 2)


def test_what_is_advised_for_its_size_fits_on_the_shops_own_sheets(shop):
    order = OrderDoc(
        title="x",
        customer="y",
        due=datetime(2030, 1, 1, tzinfo=UTC),
        lines=(BlankLine(blank="tee-black", counts={"M": 1}),),
    )
    here = advice_here(shop, Levels(), 1000)
    blank = shop.blanks["tee-black"].model_copy(update={"colour": "#FFFFFF"})
    for width in (150, 199, 205, 210, 215, 270, 275):
        asked = AdviceJob(
            blank=derive.advice_blank(blank),
            artwork=AdviceArt(kind="graphic"),
            width_mm=width,
            height_mm=width * 0.9,
            quantity=4,
        )
        for one in advise(asked, shop.methods, shop.recipes, advice_facts(), here).ranked:
            way = derive.proposed_way(shop, "p", one.method, blank)
            if one.verdict == "ruled-out" or way is None:
                continue
            want = Want(width_um=width * 1000, height_um=width * 900, copies=1)
            assert fits(derive.layout_ask(shop, Decisions(order=order), way, (want,))), (one.method, width)


def test_the_largest_is_never_wider_than_the_shop_makes_in_one_piece():
    blank, size = flat(500, 500)
    side = placement.panel(blank, size, "front")
    (largest,) = fits_on(side, 0.2, 60, (Room(wide_mm=450),), widest_mm=450, sheet=None, may_bleed=False)
    assert (largest.name, largest.width_mm) == ("largest", 450)


def test_a_print_larger_on_purpose_leaves_its_spare_on_the_side_that_is_chosen(shop):
    """A panel of 8 x 10 in printed 8 x 13 (with a bleed): spare in length alone (common practice, no source)."""
    panel = FlatSize(width_mm=203.2, height_mm=254)
    side = placement.panel(shop.blanks["coaster"].model_copy(update={"sizes": {"one": panel}}), panel, "front")
    wide, high = 203.2 + 2 * COVERS_MM, 330.2
    sides = {s.name: s for s in spare_sides(side, wide, high)}
    assert set(sides) == {"all round", "at the foot", "at the head"}
    for s in sides.values():  # wherever it lies, the panel is covered with its bleed
        assert s.below_mm <= -COVERS_MM + 1e-6
        assert s.below_mm + high >= 254 + COVERS_MM - 1e-6
    assert sides["at the foot"].below_mm + high - 254 == pytest.approx(330.2 - 254 - COVERS_MM)
    assert sides["at the head"].below_mm == pytest.approx(-(330.2 - 254 - COVERS_MM))
    assert spare_sides(side, wide, 254 + 2 * COVERS_MM) == (), "the bleed alone is no spare"
    assert spare_sides(side, 190, 330) == (), "a print that leaves an edge bare has none"
