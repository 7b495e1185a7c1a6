"""The white plate's formula, knock-out, faint edges, the ink limit and the sums, dot by dot."""

import json
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image, ImageCms

from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb
from offsetter.core.compute.colour import ink_colours
from offsetter.core.compute.distance import NEAR_DOTS, near
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
from offsetter.core.compute.plates import ink_picture, make_plates
from offsetter.core.compute.resample import Sized, resample
from offsetter.core.facts import profile_bytes
from offsetter.formats.plates_tiff import let_go, read_plates, write_tiff
from offsetter.intake import limits
from offsetter.work import runner
from offsetter.work.runner import full_plates
from tests.core.shapes import canvas, disc


def plates(rgba, *, limit=400.0, **white):
    height, width = rgba.shape[:2]
    spec = PlateSpec(
        artwork="a", crop_px=(0, 0, width, height), width_um=round(width / 300 * 25400), dpi=300, mirrored=False,
        colour=ColourSpec(profile="p", ink_limit_pct=limit), white=WhiteSpec(**{"level_pct": 60, "choke_um": 0, **white}),
    )  # fmt: skip
    return make_plates(rgba, spec, profile_bytes())


def flat(colour, alpha=255):
    rgba = canvas(40, 40, colour)
    rgba[..., 3] = alpha
    return rgba


@pytest.mark.parametrize("level", [0, 25, 60, 100])
@pytest.mark.parametrize("colour", [(0, 0, 0), (20, 20, 20), (200, 40, 40), (90, 140, 220), (255, 255, 255)])
@pytest.mark.parametrize("alpha", [255, 140])
def test_white_is_alpha_times_level_between_lightness_and_solid(level, colour, alpha):
    lightness, share = lab_of_srgb(colour)[0] / 100, level / 100
    expected = alpha / 255 * ((1 - share) * lightness + share) * 255
    made = plates(flat(colour, alpha), level_pct=level).planes[20, 20, 4]
    assert float(made) == pytest.approx(expected, abs=1.1)


def test_the_cloths_own_colour_is_left_out_over_a_soft_ramp():
    cloth = "#202428"
    ramp = canvas(20, 160)
    ramp[..., :3] = np.clip(np.array([32, 36, 40]) + np.arange(160)[None, :, None] // 2, 0, 255)
    ramp[..., 3] = 255
    made = plates(ramp, level_pct=100, cloth=cloth, knock_out_delta_e=9.0)
    apart = delta_e_2000(lab_of_srgb(ramp[10, :, :3]), lab_of_srgb((32, 36, 40)))
    white = made.planes[10, :, 4] / 255
    assert np.all(white[apart < 8.7] == 0)
    assert np.all(white[apart > 15.3] == 1)
    # The table is read between its nodes: a third of a CIEDE2000 unit in the darks.
    assert white == pytest.approx(np.clip((apart - 9) / 6, 0, 1), abs=0.07)
    assert made.planes[10, 0].sum() == 0, "colour goes with the white"
    assert made.measure.knocked_out_share == pytest.approx(float((apart < 9).mean()), abs=0.03)


def test_faint_dots_are_cut_with_their_colour_or_kept():
    faint = flat((200, 60, 60), alpha=20)
    assert plates(faint, faint_floor=0.1).planes.sum() == 0
    assert plates(faint, faint_floor=0.1).measure.faint_cut_share == 1
    assert plates(faint, faint_floor=0.0).planes[20, 20, 4] > 0


def test_a_soft_edge_is_choked_where_it_ends_not_where_it_is_half():
    """A glow keeps its white down to the faint floor; only its outermost rim is pulled in."""
    y, x = np.mgrid[0:400, 0:400] + 0.5
    glow = canvas(400, 400)
    glow[..., 3] = np.clip(255 * (1 - (np.hypot(x - 200, y - 200) - 60) / 120), 0, 255)
    white = plates(glow, level_pct=100, choke_um=250, faint_floor=0.1).planes[..., 4].astype(float)
    kept = white[200, 200:]
    half = int(np.argmax(glow[200, 200:, 3] < 100))
    assert kept[half] == pytest.approx(glow[200, 200 + half, 3], abs=2)
    assert kept[169:].max() == 0, "the last tenth and the choke"


@pytest.mark.parametrize("limit", [120.0, 200.0, 230.0])
def test_no_dot_is_over_the_limit_and_black_keeps_its_share(limit):
    colours = np.random.default_rng(3).integers(0, 255, (60, 60, 3))
    rgba = canvas(60, 60)
    rgba[..., :3], rgba[..., 3] = colours, 255
    free, held = plates(rgba), plates(rgba, limit=limit)
    assert held.planes[..., :4].sum(axis=2).max() <= round(limit * 2.55)
    over = free.planes[..., :4].sum(axis=2) > round(limit * 2.55)
    assert np.array_equal(held.planes[over][:, 3], free.planes[over][:, 3])
    assert np.array_equal(held.planes[~over], free.planes[~over])
    assert held.measure.over_limit_share == pytest.approx(over.mean(), abs=0.001)
    assert held.measure.total_max_pct == free.measure.total_max_pct, "what was asked, not what was allowed"


def test_sums_are_those_of_the_planes():
    made = plates(disc(90, 240, (180, 90, 40)), choke_um=200)
    for i, name in enumerate("CMYKW"):
        assert made.measure.coverage_pct[name] == pytest.approx(made.planes[..., i].mean() / 2.55, abs=0.001)
        area = np.count_nonzero(made.planes[..., i]) * (25.4 / 300) ** 2
        assert made.measure.area_mm2[name] == pytest.approx(area, rel=0.001)


def test_a_preview_measures_what_the_full_size_does():
    rgba = disc(700, 1500, (40, 120, 200))
    spec = PlateSpec(artwork="a", crop_px=(0, 0, 1500, 1500), width_um=127_000, dpi=300, mirrored=True,
                     colour=ColourSpec(profile="p"), white=WhiteSpec(choke_um=250))  # fmt: skip
    full = make_plates(rgba, spec, profile_bytes()).measure
    small = make_plates(resample(rgba, 500, 500), spec, profile_bytes(), scale=500 / 1500).measure
    assert (full.quality, small.quality) == ("device", "preview")
    for name, share in full.coverage_pct.items():
        assert small.coverage_pct[name] == pytest.approx(share, abs=0.3)


def test_inks_worked_out_at_another_size_give_the_same_plates():
    """Every kind of white, another width, choke and guard: dot by dot and sum by sum what is made without them."""
    chance = np.random.default_rng(7)
    rgba = cv2.GaussianBlur(chance.integers(0, 256, (90, 120, 4)).astype(np.uint8), (0, 0), 3)
    rgba[..., 3] = np.clip(rgba[..., 3].astype(int) * 4 - 360, 0, 255)
    mask = rgba[..., 0].copy()
    spec = PlateSpec(artwork="a", crop_px=(0, 0, 120, 90), width_um=60_000, dpi=300, mirrored=True,
                     colour=ColourSpec(profile="p", ink_limit_pct=180, light=("LC",)), white=WhiteSpec())  # fmt: skip
    colours = ink_colours(profile_bytes())
    ink, keys = colours.to_ink(rgba, spec.colour), []
    for how in ({}, {"lights_from": 40.0}, {"mask": "m", "lights_from": 40.0}, {"level_pct": 100}, {"knock_out_delta_e": 9.0, "cloth": "#708090"}, {"faint_floor": 0.2}):  # fmt: skip
        first = spec.model_copy(update={"white": WhiteSpec(**how)})
        keys.append(first.inked_key)
        known = ink_picture(rgba, first, colours, ink)
        for later in ({"choke_um": 900, "guard_um": 700}, {"choke_um": -400}, {"choke_um": 0}):
            now = first.model_copy(update={"width_um": 31_000, "white": WhiteSpec(**how, **later)})
            assert now.inked_key == first.inked_key
            scale = {"scale": 120 / now.width_px, "mask": mask if "mask" in how else None}
            plain, quick = (
                make_plates(rgba, now, colours, **scale),
                make_plates(rgba, now, colours, inked=known, **scale),
            )
            assert np.array_equal(quick.planes, plain.planes)
            assert quick.measure == plain.measure
    # A mask's white is that of the level, whatever its lights would have been.
    assert len({*keys}) == len(keys) - 1
    assert keys[0] == keys[2]


@pytest.mark.parametrize(
    ("wide", "high", "apart"), [(731, 975, 0.001), (1200, 1600, 0.001), (299, 399, 0.005), (77, 103, 0.005)]
)
def test_a_picture_is_resized_as_by_opencv_whichever_rows_are_asked_for(wide, high, apart):
    chance = np.random.default_rng(3)
    rgba = cv2.GaussianBlur(chance.integers(0, 256, (400, 300, 4)).astype(np.uint8), (0, 0), 1.2)
    rgba[100:200, 50:90, 3], rgba[210:300, :, 3] = 0, 255
    lit = np.concatenate([rgba[..., :3] * (rgba[..., 3:] / 255), rgba[..., 3:]], axis=2).astype(np.float32)
    way = cv2.INTER_AREA if wide < 300 else cv2.INTER_CUBIC
    theirs = cv2.resize(lit, (wide, high), interpolation=way)
    with np.errstate(divide="ignore", invalid="ignore"):
        theirs[..., :3] *= 255 / theirs[..., 3:]
    theirs = np.rint(np.clip(np.nan_to_num(theirs), 0, 255)).astype(int)
    sized = Sized(rgba, wide, high)
    ours = np.concatenate([sized.rows(top, min(high, top + 37)) for top in range(0, high, 37)])
    assert (ours == resample(rgba, wide, high)).all()
    off = np.abs(ours.astype(int) - theirs)[theirs[..., 3] > 8]
    assert off.max() <= 1
    assert (off > 0).mean() < apart


def test_a_large_print_is_made_in_a_file_and_is_the_same(tmp_path, monkeypatch):
    """A picture enlarged, and a drawing of more dots than are drawn at once."""
    art, profile = tmp_path / "a.png", tmp_path / "p.icc"
    Image.fromarray(disc(50, 120, (200, 60, 90))).save(art)
    profile.write_bytes(profile_bytes())
    spec = PlateSpec(artwork="f", crop_px=(10, 0, 120, 120), width_um=60_000, dpi=300, mirrored=True, colour=ColourSpec(profile="p"),
                     white=WhiteSpec(cloth="#17181B", choke_um=250, guard_um=500))  # fmt: skip

    def made(name: str, spec: PlateSpec, original: Path, **more: str) -> dict[str, bytes]:
        wanted = {"spec": spec.model_dump_json(), "profile": str(profile), "original": str(original), "name": "a", "out": str(tmp_path / name), **more}  # fmt: skip
        full_plates({"wanted": json.dumps([wanted])}, lambda *_, **__: None)
        return {p.name: p.read_bytes() for p in (tmp_path / name).iterdir() if p.suffix != ".pdf"}

    driver = tmp_path / "d.icc"
    driver.write_bytes(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    held = made("held", spec, art), made("driven", spec, art, driver=str(driver))
    monkeypatch.setattr(runner, "LARGE_BYTES", 1000)
    assert (made("filed", spec, art), made("driven-filed", spec, art, driver=str(driver))) == held
    assert set(held[0]) == {"print.tif", "edge.png", "measure.json"}
    # Drawn as large as can be held and enlarged from there: the disc has its size.
    drawing = tmp_path / "a.svg"
    drawing.write_text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100" width="100mm" height="100mm"><circle cx="50" cy="50" r="40"/></svg>')  # fmt: skip
    monkeypatch.setattr(limits, "MAX_PIXELS", 3_300 * 3_300)
    large = PlateSpec(artwork="f", crop_px=(0, 0, 3000, 3000), width_um=400_000, dpi=300, mirrored=False, colour=ColourSpec(profile="p"), white=None)  # fmt: skip
    measured = json.loads(made("drawn", large, drawing)["measure.json"])
    assert measured["area_mm2"]["K"] == pytest.approx(np.pi * 160**2, rel=2e-3)


def test_large_plates_of_a_run_are_read_in_a_file_one_after_the_other(tmp_path):
    chance = np.random.default_rng(7)
    planes = [chance.integers(0, 256, (rows, 120, 5)).astype(np.uint8) for rows in (300, 700)]
    for at, one in enumerate(planes):
        write_tiff(tmp_path / f"{at}.tif", one, 300, ("C", "M", "Y", "K", "W"))
    room = tmp_path / "room.raw"
    read = read_plates([str(tmp_path / f"{at}.tif") for at in (0, 1)], room, planes[0].nbytes)
    (small, channels), (large, _) = next(read), next(read)
    assert channels == ("C", "M", "Y", "K", "W")
    assert not isinstance(small, np.memmap)
    assert isinstance(large, np.memmap)
    assert room.exists()
    let_go(np.rot90(large, 3))
    assert (small == planes[0]).all()
    assert (large == planes[1]).all()
    assert next(read, None) is None
    assert not room.exists()


@pytest.mark.parametrize("reach", [0.5, 1.0, 2.37, 5.9, 11.4, NEAR_DOTS, NEAR_DOTS + 3.3])
def test_what_is_near_is_what_a_whole_distance_transform_says(reach):
    """The reference is OpenCV's transform by the 5x5 mask, on parts of all sizes, some at the edge."""
    chance = np.random.default_rng(11)
    inside = np.zeros((160, 210), np.uint8)
    for _ in range(40):
        cv2.circle(inside, tuple(int(v) for v in chance.integers(0, (210, 160))), int(chance.integers(0, 9)), 1, -1)
    wanted = cv2.distanceTransform(1 - inside, cv2.DIST_L2, cv2.DIST_MASK_5) <= reach
    assert 0 < wanted.sum() < wanted.size
    assert (near(inside, reach) == wanted).all()
