"""Pictures put right: a ground taken out without a halo, edges hardened, strokes thickened to a width; refs that say what was done."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from offsetter.core.compute.art_ref import ArtRef, Fixes
from offsetter.core.compute.artwork import measure_artwork
from offsetter.core.compute.fixes import (
    apply_fixes,
    enlarged,
    flat_ground,
    hardened,
    thickened,
    without_ground,
)
from offsetter.core.compute.strokes import rung_for, thin_spots
from offsetter.core.stations.artwork import THICKEN_MORE_PX
from tests.core.shapes import bar, disc


def on_ground(rgba: np.ndarray, ground: tuple[int, int, int], noise: int = 0) -> np.ndarray:
    """The picture flattened on a ground, as a file without transparency comes."""
    a = rgba[..., 3:4] / 255
    flat = rgba[..., :3] * a + np.array(ground) * (1 - a)
    if noise:
        flat = flat + np.random.default_rng(3).integers(-noise, noise + 1, flat.shape)
    return np.dstack([np.rint(np.clip(flat, 0, 255)).astype(np.uint8), np.full(rgba.shape[:2], 255, np.uint8)])


@pytest.mark.parametrize(("ground", "noise"), [((255, 255, 255), 0), ((250, 248, 240), 3), ((12, 14, 16), 2)])
def test_a_flat_ground_is_found_and_taken_out_and_the_edge_keeps_its_own_colour(ground, noise):
    drawn = disc(150, 400, (40, 120, 200))
    found = flat_ground(on_ground(drawn, ground, noise))
    assert found is not None
    assert np.abs(np.array(found[0]) - ground).max() <= 2
    assert found[1] == pytest.approx(1 - np.pi * 150**2 / 400**2, abs=0.02)
    cut = without_ground(on_ground(drawn, ground, noise), 8)
    assert cut[..., 3].sum() / 255 == pytest.approx(drawn[..., 3].sum() / 255, rel=0.01)
    rim = (cut[..., 3] > 20) & (cut[..., 3] < 235)
    # Unmixed: no rim pixel keeps the ground's colour, which would be seen as a halo on other cloth.
    assert np.abs(cut[..., :3][rim].astype(int) - (40, 120, 200)).max() <= 12 + noise


def test_the_same_colour_inside_the_picture_stays():
    drawn = disc(150, 400, (40, 120, 200))
    eye = disc(40, 400, (255, 255, 255))[..., 3] > 127
    drawn[eye, :3] = 255
    cut = without_ground(on_ground(drawn, (255, 255, 255)), 8)
    assert cut[eye, 3].min() == 255


def test_a_photograph_to_its_edge_has_no_ground():
    y, x = np.mgrid[0:200, 0:200]
    photo = np.dstack([x, y, 255 - x, np.full_like(x, 255)]).astype(np.uint8)
    assert flat_ground(photo) is None
    assert without_ground(photo, 8) is photo


def test_hardening_leaves_the_edge_where_it_was_half_clear():
    soft = disc(100, 300)
    soft[..., 3] = cv2.GaussianBlur(soft[..., 3], (0, 0), 6)
    hard = hardened(soft)
    assert ((hard[..., 3] > 10) & (hard[..., 3] < 245)).sum() < 0.35 * (
        (soft[..., 3] > 10) & (soft[..., 3] < 245)
    ).sum()
    assert (hard[..., 3] > 127).sum() == pytest.approx((soft[..., 3] > 127).sum(), rel=0.03)


@pytest.mark.parametrize("degrees", [0, 17, 45])
@pytest.mark.parametrize(("was", "wanted"), [(3.0, 6.0), (4.0, 7.0)])
def test_a_thin_bar_is_brought_to_the_width_and_a_broad_one_is_left(was, wanted, degrees):
    thin = thickened(bar(was, degrees), wanted)
    assert thin[..., 3].sum() / 255 / 400 == pytest.approx(wanted, abs=0.6)
    assert not thin_spots(np.ascontiguousarray(thin[..., 3]), wanted - 1).count
    broad = bar(40, degrees)
    assert np.abs(thickened(broad, wanted)[..., 3].astype(int) - broad[..., 3]).sum() / 255 < 40


def test_thickening_follows_a_larger_drawing_of_the_same():
    small = apply_fixes(bar(3, 0), Fixes(thicken_px=6))
    large = apply_fixes(bar(6, 0, size=1200, length_px=800), Fixes(thicken_px=6), scale=2)
    assert large[..., 3].sum() / 4 == pytest.approx(small[..., 3].sum(), rel=0.08)


@pytest.mark.parametrize("least", [4.0, 6.0, 10.0])
@pytest.mark.parametrize("size", [39, 40])
def test_a_dot_too_small_to_hold_is_brought_up_and_a_broad_shape_is_not(least, size):
    sky = disc(80, 400)
    for n, radius in enumerate((1.0, 1.5, 1.9)):
        at = 20 + 60 * n
        sky[at : at + size, 20 : 20 + size] = disc(radius, size)
    after = apply_fixes(sky, Fixes(thicken_px=least + THICKEN_MORE_PX))
    thin = [
        rung_for(measure_artwork(a, file="f", name="a", mode="", profile=None).strokes, least) for a in (sky, after)
    ]
    assert [t.count for t in thin] == [3, 0]
    assert np.array_equal(sky[100:300, 100:300], after[100:300, 100:300])
    # Worked: the area of a disc of that diameter; its middle may lie between pixels.
    area = np.pi / 4 * (least + THICKEN_MORE_PX) ** 2
    assert after[20 : 20 + size, 20 : 20 + size, 3].sum() / 255 == pytest.approx(area, rel=0.35)


@given(page=st.integers(1, 200), ground=st.none() | st.floats(1, 60).map(lambda v: round(v, 1)), harden=st.booleans(), negative=st.booleans(),
       thick=st.none() | st.floats(1, 200).map(lambda v: round(v, 1)), times=st.none() | st.sampled_from([1.5, 2.0, 4.0]))  # fmt: skip
def test_a_ref_says_what_was_done_and_reads_back(page, ground, harden, negative, thick, times):
    ref = ArtRef(
        file="0123456789abcdef",
        page=page,
        fixes=Fixes(ground=ground, harden=harden, negative=negative, thicken_px=thick, enlarge=times),
    )
    assert ArtRef.read(str(ref)) == ref


@pytest.mark.parametrize("text", ["", "../x", "abc_q", "abc-", "ABC", "abc_g", "abc/def"])
def test_what_names_no_artwork_is_refused(text):
    with pytest.raises(ValueError):
        ArtRef.read(text)


def test_facts_name_the_ground_and_not_after_it_is_taken_out():
    boxed = on_ground(disc(150, 400, (40, 120, 200)), (255, 255, 255))
    facts = measure_artwork(boxed, file="f", name="a", mode="", profile=None)
    assert facts.ground is not None
    assert facts.ground.colour == "#FFFFFF"
    after = measure_artwork(without_ground(boxed, 8), file="f", name="a", mode="", profile=None)
    assert (after.ground, after.transparency) == (None, "hard")


@pytest.mark.parametrize("times", [2.0, 4.0])
def test_an_enlarged_picture_keeps_its_shape_its_colour_and_no_halo(times):
    """A disc is a disc of so many times the radius; the same window of Pillow's, another library's, judges the edge."""
    small = disc(40, 120, (200, 60, 30))
    large = enlarged(small, times)
    side = round(120 * times)
    assert large.shape == (side, side, 4)
    area = (large[..., 3] / 255.0).sum()
    assert area == pytest.approx(np.pi * (40 * times) ** 2, rel=0.01)
    inked = large[..., 3] > 200
    assert np.abs(large[..., :3][inked].astype(int) - (200, 60, 30)).max() <= 2, "no dark rim from clear pixels"
    theirs = np.asarray(Image.fromarray(small[..., 3]).resize((side, side), Image.Resampling.LANCZOS))
    assert np.abs(large[..., 3].astype(int) - theirs).mean() < 1.0


def test_thickening_an_enlarged_picture_means_its_file_pixels():
    bar = np.zeros((120, 160, 4), np.uint8)
    bar[40:80, 78:80] = (10, 20, 30, 255)
    fixed = apply_fixes(bar, Fixes(enlarge=2.0, thicken_px=6.0))
    assert (fixed[120, :, 3] / 255.0).sum() == pytest.approx(12, abs=1.5)
