"""More than four inks: colours against another colour engine, plates by Ghostscript's separations, light inks by their sum.

Engines: littleCMS works here, icclu (icclib, of ArgyllCMS) is the one outside. Files: Ghostscript, libtiff's tiffinfo.
"""

import subprocess

import numpy as np
import pytest
from standins.many_inks import on_white, profile

from offsetter.core.compute.chart import condition_patches, lay_chart
from offsetter.core.compute.cielab import delta_e_2000
from offsetter.core.compute.colour import ink_colours, out_of_gamut_share, print_difference
from offsetter.core.compute.correction import correction_of, expected
from offsetter.core.compute.looks import asked_ink
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
from offsetter.core.compute.plates import make_plates
from offsetter.core.compute.reach import nearest_reachable
from offsetter.core.facts import Profile, profile_bytes
from offsetter.core.facts.inks import LIGHT_STRENGTH
from offsetter.core.values import Refusal
from offsetter.formats.cgats import read_measurements, write_chart
from offsetter.formats.chart_pdf import write_chart_pdf
from offsetter.formats.plates_pdf import write_pdf
from offsetter.formats.plates_tiff import write_tiff
from offsetter.intake.icc import read_profile
from tests.outside.test_charts_and_cgats import ABOUT, FEED
from tests.outside.test_plates_read_back import separations

SIX = ("C", "M", "Y", "K", "O", "G")


@pytest.fixture(scope="module")
def six() -> bytes:
    return profile(SIX)


def icclu(icc, way: str, rows: np.ndarray) -> np.ndarray:
    """Values of each row by icclib, relative colorimetric. way: f device to Lab, b Lab to device."""
    fed = "\n".join(" ".join(f"{v:.6f}" for v in row) for row in rows)
    told = subprocess.run(["icclu", "-v0", f"-f{way}", "-ir", "-pl", str(icc)], input=fed, capture_output=True, text=True, check=True)  # fmt: skip
    return np.array([[float(v) for v in line.split()] for line in told.stdout.splitlines() if line.strip()])


def test_six_inks_come_out_as_another_engine_says(six, tmp_path):
    icc = tmp_path / "six.icc"
    icc.write_bytes(six)
    colours, rng = ink_colours(six), np.random.default_rng(3)
    shares = rng.random((60, 6)) * (rng.random((60, 6)) < 0.5)
    apart = delta_e_2000(colours.lab_of(shares[None])[0], icclu(icc, "f", shares))
    # The two interpolate in six dimensions each in its own way.
    assert np.median(apart) < 0.5
    assert apart.max() < 3
    labs = np.array([[60, 50, 70], [58, -60, 30], [50, 0, 0], [70, 10, 10], [40, 30, -20], [85, -5, 70]], float)
    ours = colours.of_lab(labs[None], ColourSpec(profile="", black_point=False))[0]
    assert np.abs(ours - icclu(icc, "b", labs)).max() < 0.02
    # And through the ink model itself, which the profile holds as a table of five steps an ink.
    assert delta_e_2000(on_white(ours, SIX), labs).max() < 3
    round_trip = delta_e_2000(colours.lab_of(ours[None])[0], labs)
    assert round_trip.max() < 1.5


def test_orange_and_green_reach_what_four_inks_miss(six):
    four, many = ink_colours(profile(("C", "M", "Y", "K"), named=False)), ink_colours(six)
    vivid = np.array([[[255, 120, 0], [0, 160, 70], [240, 140, 20], [20, 170, 60]]], np.uint8)
    spec = ColourSpec(profile="")
    by_four, by_six = print_difference(four, vivid, spec)[0], print_difference(many, vivid, spec)[0]
    assert (by_six < by_four - 0.5).all(), (by_four, by_six)
    white = many.to_ink(np.full((1, 1, 4), 255, np.uint8), spec)
    assert not white.any(), "nothing is laid where the picture is white"
    nearest = nearest_reachable(many, (62.0, 50.0, 70.0), ColourSpec(profile="", ink_limit_pct=200))
    assert len(nearest.device_pct) == 6
    assert sum(nearest.device_pct) <= 200.5
    assert nearest.delta_e < 1
    assert out_of_gamut_share(many, (), spec) == 0


def art(rows: int = 60, columns: int = 80) -> np.ndarray:
    """Every kind of tone, with a clear edge and one that fades."""
    y, x = np.mgrid[0:rows, 0:columns]
    rgba = np.stack([x * 255 // columns, y * 255 // rows, 255 - x * 255 // columns, np.full_like(x, 255)], axis=2)
    rgba[:, :5, 3], rgba[:8, 5:, 3] = 0, 128
    return rgba.astype(np.uint8)


def spec_of(light: tuple[str, ...] = (), **colour: object) -> PlateSpec:
    told = ColourSpec.model_validate({"profile": "p", "inks": SIX, "light": light, "ink_limit_pct": 220, **colour})
    return PlateSpec(artwork="a", crop_px=(0, 0, 80, 60), width_um=6773, dpi=300, mirrored=False, colour=told, white=WhiteSpec(choke_um=0))  # fmt: skip


def test_light_inks_take_over_light_tones_and_the_tone_stays(six):
    plain, split = (make_plates(art(), spec_of(light), six) for light in ((), ("LC", "LM")))
    assert list(split.measure.coverage_pct) == [*SIX, "LC", "LM", "W"]
    whole = split.planes[..., :8].sum(axis=2, dtype=int)
    assert whole.max() <= 220 * 2.55 + 1, "the light inks keep the ink limit too"
    # What one full dot and the light ones weigh together is what the full ink alone weighed.
    for full, light in ((0, 6), (1, 7)):
        tone = split.planes[..., full] + LIGHT_STRENGTH * split.planes[..., light]
        assert np.abs(tone - plain.planes[..., full]).max() <= 0.51
        pale = (plain.planes[..., full] > 0) & (plain.planes[..., full] < 40)
        assert (split.planes[..., full][pale] <= 1).all(), "pale tones carry no dark dots"
        assert pale.any()
    assert np.abs(asked_ink(split.planes, spec_of(("LC", "LM")).colour).astype(int) - plain.planes[..., :6]).max() <= 1
    for i, channel in enumerate(spec_of(("LC", "LM")).channels):
        assert split.measure.coverage_pct[channel] == pytest.approx(split.planes[..., i].mean() / 2.55, abs=0.002)
        assert split.measure.area_mm2[channel] == pytest.approx((split.planes[..., i] > 0).sum() * (6.773 / 80) ** 2, rel=0.002, abs=0.02)  # fmt: skip
    assert spec_of().key != spec_of(("LC",)).key


def test_plates_of_eight_inks_and_white_are_read_back_each_under_its_name(six, tmp_path):
    made = make_plates(art(), spec_of(("LC", "LM")), six)
    channels = spec_of(("LC", "LM")).channels
    write_pdf(tmp_path / "p.pdf", made.planes, 80 / 300 * 25.4, 60 / 300 * 25.4, channels)
    plates = separations(tmp_path / "p.pdf", tmp_path)
    names = ("Cyan", "Magenta", "Yellow", "Black", "Orange", "Green", "Light Cyan", "Light Magenta", "White")
    for i, name in enumerate(names):
        assert np.abs(plates[name].astype(int) - made.planes[..., i]).max() <= 1, name
    subprocess.run(["qpdf", "--check", str(tmp_path / "p.pdf")], check=True, capture_output=True)
    write_tiff(tmp_path / "p.tif", made.planes, 300, channels, six)
    told = subprocess.run(["tiffinfo", str(tmp_path / "p.tif")], capture_output=True, text=True, check=False).stdout
    assert "Samples/Pixel: 9" in told
    assert all(name in told for name in names)


def test_a_profile_names_its_inks_or_is_refused_with_words(six):
    told = Profile.model_validate({"id": "p", **read_profile(six, "six.icc")})
    assert (told.space, told.inks) == ("6CLR", SIX)
    strange = six.replace(b"Orange\0", b"Puce\0\0\0")
    with pytest.raises(Refusal, match="ink called “Puce”"):
        read_profile(strange, "six.icc")
    at = six.index(b"clrt", 400)
    with pytest.raises(Refusal, match="names 9"):
        read_profile(six[: at + 8] + (9).to_bytes(4, "big") + six[at + 12 :], "six.icc")
    table = six.index(b"mft2")
    with pytest.raises(Refusal, match="a table in it cannot be used"):
        read_profile(six[:table] + b"mftX" + six[table + 4 :], "six.icc")
    assert Profile.model_validate({"id": "p", **read_profile(profile_bytes(), "film.icc")}).inks == ()


def test_a_chart_of_six_inks_brings_a_wandered_ink_back(six, tmp_path):
    """Orange lays a quarter more than its profile says: the curve that is found takes it off again."""
    colours = ink_colours(six)
    patches = [(group, asked, None) for group, asked in condition_patches("6CLR", SIX)]
    chart = lay_chart(patches, FEED, (), space="6CLR", inks=SIX, mirrored=False, white=True, **ABOUT)
    assert {p.group for p in chart.patches} >= {f"ramp-{i}" for i in SIX}
    drifted = np.array([p.asked for p in chart.patches]) / 100
    drifted[:, 4] = drifted[:, 4] + 0.25 * drifted[:, 4] * (1 - drifted[:, 4])
    measured = {
        p.label: tuple(v) for p, v in zip(chart.patches, colours.lab_of(drifted[None], "absolute")[0], strict=True)
    }
    assert read_measurements(write_chart(chart, measured).encode(), "chart").keys() == expected(chart, colours).keys()
    curves, _ = correction_of(chart, colours, measured)
    asked, sent = zip(*curves[4], strict=True)
    undone = np.array(sent) / 100
    assert np.abs(undone + 0.25 * undone * (1 - undone) - np.array(asked) / 100).max() < 0.02
    assert max(abs(y - x) for x, y in curves[0]) < 1
    (tmp_path / "chart.pdf").write_bytes(write_chart_pdf(chart))
    plates = separations(tmp_path / "chart.pdf", tmp_path)
    assert {"Orange", "Green", "White"} <= plates.keys()
    assert not any("Light" in name for name in plates)
    at = next(i for i, p in enumerate(chart.patches) if p.group == "ramp-O" and p.asked[4] == 50)
    x, y = ((v + chart.patch_mm / 2) / 25.4 * 300 for v in chart.at_mm(at))
    assert plates["Orange"][round(y), round(x)] == pytest.approx(127, abs=2)
    assert plates["Black"][round(y), round(x)] == 0
