"""Sizes in one touch, and labels that give way to the print."""

import pytest

from offsetter.core.compute import placement
from offsetter.core.compute.fitting import Room, fits_on
from offsetter.core.compute.sheet import LayoutAsk, Want, fits, lay_out
from offsetter.core.facts import Blank, FlatSize

A4 = Room(wide_mm=200, long_mm=287)


def flat(width: float, height: float, **more) -> tuple[Blank, FlatSize]:
    size = FlatSize(width_mm=width, height_mm=height, **more)
    blank = Blank(id="plaque", name="Plaque", kind="hard", coated=True, colour="#FFFFFF", colour_name="white", thickness_mm=3, scorch_c=240,
                  sizes={"one": size}, price=1)  # fmt: skip
    return blank, size


def test_a_plaque_is_covered_with_its_bleed_and_the_sheet_filled_on_purpose():
    blank, size = flat(120, 120, is_round=True)
    side = placement.panel(blank, size, "front")
    found = {f.name: f for f in fits_on(side, 1.0, 60, (A4,), sheet=A4, may_bleed=True)}
    assert found["largest"].width_mm == 120
    assert found["cover"].width_mm == 126
    assert found["sheet"].width_mm == 200
    for fit in found.values():
        # Each lies in the middle: what hangs over is even.
        assert fit.below_mm + fit.height_mm / 2 == pytest.approx(60)


def test_no_choice_is_wider_than_what_prints_or_presses_it():
    blank, size = flat(250, 200)
    side = placement.panel(blank, size, "front")
    found = fits_on(side, 0.8, 60, (A4, Room(wide_mm=150, long_mm=400)), sheet=A4, may_bleed=True)
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
