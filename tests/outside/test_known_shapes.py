"""Choke and stroke widths against shapes whose size is known by construction."""

import numpy as np
import pytest
from scipy.ndimage import distance_transform_edt, gaussian_filter

from offsetter.core.compute.distance import distance_to_ground
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
from offsetter.core.compute.plates import STRIP_ROWS, make_plates
from offsetter.core.compute.strokes import thin_spots
from offsetter.core.compute.white import mask_of
from offsetter.core.facts import profile_bytes
from tests.core.shapes import bar, disc, square

DPI = 300
PX_MM = 25.4 / DPI


def white_of(rgba, mask=None, **white) -> np.ndarray:
    height, width = rgba.shape[:2]
    spec = PlateSpec(
        artwork="a", crop_px=(0, 0, width, height), width_um=round(width * PX_MM * 1000), dpi=DPI, mirrored=False,
        colour=ColourSpec(profile="p"), white=WhiteSpec(**{"level_pct": 100, "choke_um": 0, **white}),
    )  # fmt: skip
    return make_plates(rgba, spec, profile_bytes(), mask=mask).planes[..., 4]


def area(plate) -> float:
    return float(plate.sum()) / 255


@pytest.mark.parametrize("choke_mm", [0.0, 0.1, 0.25, 0.5])
def test_a_choked_disc_has_the_area_of_the_smaller_disc(choke_mm):
    radius = 240.0
    smaller = np.pi * (radius - choke_mm / PX_MM) ** 2
    # A quarter of a dot along the edge: what the distance transform of an anti-aliased edge costs.
    allowed = 2 * np.pi * radius * 0.3
    assert area(white_of(disc(radius, 560), choke_um=round(choke_mm * 1000))) == pytest.approx(smaller, abs=allowed)


@pytest.mark.parametrize("choke_mm", [0.1, 0.25, 0.5])
def test_a_choked_square_is_exact(choke_mm):
    plate = white_of(square(400, 520), choke_um=round(choke_mm * 1000))
    assert area(plate) == pytest.approx((400 - 2 * choke_mm / PX_MM) ** 2, rel=0.002)


@pytest.mark.parametrize("spread_mm", [0.1, 0.3])
def test_a_spread_square_grows_by_as_much(spread_mm):
    grown = spread_mm / PX_MM
    plate = white_of(square(300, 460), choke_um=-round(spread_mm * 1000))
    assert area(plate) == pytest.approx(300**2 + 4 * 300 * grown + np.pi * grown**2, rel=0.004)


@pytest.mark.parametrize("degrees", [0, 17, 45])
def test_a_choked_bar_loses_its_choke_on_both_sides(degrees):
    width_px, choke_mm = 40.0, 0.25
    middle = white_of(bar(width_px, degrees), choke_um=250)[200:400, 200:400]
    whole = white_of(bar(width_px, degrees))[200:400, 200:400]
    assert area(middle) / area(whole) == pytest.approx((width_px - 2 * choke_mm / PX_MM) / width_px, abs=0.012)


def test_the_guard_keeps_a_thin_bar_and_leaves_a_broad_one_alone():
    thin_px, broad_px = 0.5 / PX_MM, 3.0 / PX_MM
    lost = white_of(bar(thin_px, 0), choke_um=250)
    kept = white_of(bar(thin_px, 0), choke_um=250, guard_um=500)
    assert area(lost) < 0.1 * area(white_of(bar(thin_px, 0)))
    assert area(kept) > 0.9 * area(white_of(bar(thin_px, 0)))
    # The broad bar's four corners are the only thing that can look thin.
    assert area(white_of(bar(broad_px, 0), choke_um=250, guard_um=500)) == pytest.approx(
        area(white_of(bar(broad_px, 0), choke_um=250)), rel=0.01
    )


def test_strips_do_not_show():
    rgba = bar(60, 80, size=3 * STRIP_ROWS, length_px=700)
    whole = white_of(rgba, choke_um=400, guard_um=500)
    turned = white_of(np.ascontiguousarray(rgba[::-1]), choke_um=400, guard_um=500)[::-1]
    # Strips begin at other rows in the turned picture: a seam would make the two differ.
    assert np.abs(whole.astype(int) - turned).max() <= 1


@pytest.mark.parametrize("width_mm", [0.15, 0.2, 0.3, 0.4, 0.5, 0.8])
@pytest.mark.parametrize("degrees", [0, 17, 45])
def test_the_width_of_a_known_bar_is_read(width_mm, degrees):
    rung = thin_spots(bar(width_mm / PX_MM, degrees)[..., 3], 1.2 / PX_MM)
    assert rung.count == 1
    assert rung.spots[0].width_px * PX_MM == pytest.approx(width_mm, abs=0.04)
    assert rung.spots[0].x_px == pytest.approx(300, abs=3)


def test_a_broad_bar_is_not_thin():
    assert thin_spots(bar(1.0 / PX_MM, 17)[..., 3], 0.5 / PX_MM).count == 0


@pytest.mark.parametrize("is_dark", [False, True])
def test_white_by_a_mask_lies_where_the_mask_says_and_the_choke_holds_beside(is_dark):
    """A choked square whose white is a half, a wedge and clear: its area is that of the choked square times the mask's mean."""
    choke_px = 0.25 / PX_MM
    side = 400 - 2 * choke_px
    wedge = np.linspace(0, 255, 520).astype(np.uint8)
    for grey, share in (
        (np.full((520, 520), 128, np.uint8), 128 / 255),
        (np.tile(wedge, (520, 1)), 0.5),
        (np.zeros((520, 520), np.uint8), 0.0),
    ):
        drawn = 255 - grey if is_dark else grey
        mask = mask_of(np.dstack([drawn] * 3 + [np.full_like(grey, 255)]), (0, 0, 1, 1), is_dark=is_dark)
        plate = white_of(square(400, 520), mask=mask, choke_um=250)
        assert area(plate) == pytest.approx(side**2 * share, rel=0.006, abs=1)
    # A clear part of the mask carries none, whatever its colour; a mask of a quarter of the dots is the same mask.
    clear = np.dstack([np.full((520, 520, 3), 0 if is_dark else 255, np.uint8), np.zeros((520, 520), np.uint8)])
    assert area(white_of(square(400, 520), mask=mask_of(clear, (0, 0, 1, 1), is_dark=is_dark), choke_um=250)) == 0
    coarse = np.tile(np.linspace(0, 255, 260).astype(np.uint8), (260, 1))
    assert area(white_of(square(400, 520), mask=coarse, choke_um=250)) == pytest.approx(side**2 / 2, rel=0.006)


@pytest.mark.parametrize("reach", [0.5, 3.2, 7.0, 15.0, 40.0])
def test_distances_are_those_of_another_library_as_far_as_they_are_asked_for(reach):
    chance = np.random.default_rng(11)
    for blur in (1.2, 2.5, 6.0):
        field = gaussian_filter(chance.random((90, 130)), blur)
        inside = (field > np.quantile(field, 0.35)).astype(np.uint8)
        for edge_is_ground in (True, False):
            exact = distance_transform_edt(np.pad(inside, 1, constant_values=1 - edge_is_ground))[1:-1, 1:-1]
            ours = distance_to_ground(inside, reach, edge_is_ground=edge_is_ground)
            near = exact <= reach
            assert np.allclose(ours[near], exact[near], atol=1e-4)
            assert (ours[~near] > reach).all()
