"""Tones corrected, ink limits found, colours moved and reached: against what can be worked out by hand."""

import numpy as np
import pytest

from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb, lab_of_xyz, rgb_of_hex, srgb_of_lab, xyz_of_lab
from offsetter.core.compute.colour import Colours, missed_by, print_difference
from offsetter.core.compute.correction import off_colour
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, Shift
from offsetter.core.compute.plates import make_plates
from offsetter.core.compute.reach import nearest_reachable
from offsetter.core.compute.shifts import shifted
from offsetter.core.compute.tone import correcting_curve, curve_table, ink_limit_of, report_of, tone_values, uncorrected
from offsetter.core.facts import profile_bytes
from offsetter.core.sentences import shown
from offsetter.core.values import Refusal
from tests.core.shapes import disc

STEPS = np.arange(0, 101, 10.0)
SPEC = ColourSpec(profile="", ink_limit_pct=400)


def gained(tone, at_half: float):
    """Tone printed for a device tone, with so much dot gain at a half."""
    return tone + 4 * at_half * tone * (1 - tone / 100)


@pytest.fixture(scope="module")
def colours() -> Colours:
    return Colours(profile_bytes())


@pytest.mark.parametrize("gain", [0.05, 0.15, 0.24])
def test_a_corrected_printer_prints_the_tones_that_were_wanted(gain):
    curve = correcting_curve(STEPS, STEPS, gained(STEPS, gain), gained(STEPS, 0.15))
    asked = np.array([p[0] for p in curve])
    device = np.array([p[1] for p in curve])
    assert gained(device, gain) == pytest.approx(gained(asked, 0.15), abs=0.3)


def test_a_second_correction_starts_from_what_was_really_sent():
    """The chart went through the first curve; the second is no curve upon a curve."""
    first = correcting_curve(STEPS, STEPS, gained(STEPS, 0.22), gained(STEPS, 0.15))
    sent = np.interp(STEPS, *np.array(first).T)
    second = correcting_curve(STEPS, sent, gained(sent, 0.26), gained(STEPS, 0.15))
    device = np.interp(STEPS, *np.array(second).T)
    assert gained(device, 0.26) == pytest.approx(gained(STEPS, 0.15), abs=0.6)


def test_readings_that_fall_are_no_ramp():
    with pytest.raises(Refusal, match="darker"):
        correcting_curve(STEPS, STEPS, gained(STEPS, 0.15)[::-1], STEPS)


def test_tone_follows_murray_and_davies():
    """Half the ground's light taken away is half a tone: worked out by hand from Y."""
    bare, solid = [100.0, 0, 0], [0.0, 0, 0]
    half = lab_of_xyz(xyz_of_lab(bare) * 0.5)
    assert tone_values("K", [half], bare, solid)[0] == pytest.approx(50, abs=1e-6)


def test_corrected_plates_carry_the_curve_and_the_looks_do_not(colours):
    curve = correcting_curve(STEPS, STEPS, gained(STEPS, 0.24), gained(STEPS, 0.15))
    art = disc(100, 240, (40, 90, 160))
    spec = PlateSpec(
        artwork="a", crop_px=(0, 0, 240, 240), width_um=20_000, dpi=300, mirrored=False, white=None, colour=SPEC
    )
    plain = make_plates(art, spec, colours).planes
    bent = spec.model_copy(update={"colour": SPEC.model_copy(update={"curves": (curve,) * 4})})
    made = make_plates(art, bent, colours).planes
    middle = plain[118, 118]
    assert made[118, 118] == pytest.approx(np.interp(middle / 2.55, *np.array(curve).T) * 2.55, abs=1.5)
    back = np.take_along_axis(uncorrected((curve,) * 4), made[118, 118][None].astype(int), axis=0)[0]
    assert back == pytest.approx(middle, abs=2)
    assert bent.key != spec.key
    assert curve_table((curve,) * 4)[0].tolist() == [0] * 4
    assert curve_table((curve,) * 4)[255].tolist() == [255] * 4


@pytest.mark.parametrize(
    ("lightness", "limit"),
    [((50, 40, 30, 22, 18, 17.8, 18.1, 18.9), 240.0), ((50, 40, 30, 22, 18, 15, 13, 11), None), ((50, 40, 41, 22, 18, 15, 15.1, 15), 280.0)],
)  # fmt: skip
def test_the_ink_limit_is_where_more_ink_wins_nothing(lightness, limit):
    assert ink_limit_of((120, 160, 200, 220, 240, 280, 340, 400), lightness) == limit


def test_a_report_is_the_spread_of_its_patches():
    asked = {f"A{i}": (50.0, 0.0, 0.0) for i in range(1, 21)}
    got = {label: (50.0 + (5 if label == "A7" else 1), 0.0, 0.0) for label in asked}
    report = report_of(asked, got)
    one, five = (float(delta_e_2000((50, 0, 0), (50 + d, 0, 0))) for d in (1, 5))
    assert report.worst == pytest.approx(five, abs=1e-3)
    assert report.mean == pytest.approx((19 * one + five) / 20, abs=1e-3)
    assert max(report.patches, key=lambda p: p.delta_e).label == "A7"
    with pytest.raises(Refusal):
        report_of(asked, {"Z1": (50.0, 0.0, 0.0)})


def test_a_moved_colour_takes_its_shades_along_and_leaves_the_rest():
    shift = Shift(colour="#2E7BBE", lab=(60, -10, -35))
    from_lab = lab_of_srgb(rgb_of_hex(shift.colour))
    near = srgb_of_lab(from_lab + np.array([1.0, 0.5, 0.5]))
    rgb = np.array([[rgb_of_hex(shift.colour), near, (200, 60, 30), (250, 250, 250)]]).round().astype(np.uint8)
    out = shifted(np.dstack([rgb, np.full((1, 4), 255, np.uint8)]), (shift,))
    moved = lab_of_srgb(out[0, :, :3])
    assert delta_e_2000(moved[0], shift.lab) < 1.2  # eight-bit colours and a table of 33 steps
    assert np.linalg.norm(moved[1] - moved[0]) < 3, "a shade goes along"
    assert np.abs(out[0, 2:, :3].astype(int) - rgb[0, 2:]).max() <= 1, "another colour stays"


@pytest.mark.parametrize("lab", [(88, -80, 80), (30, 30, -70), (55, 10, 30), (50, 85, 60)])
def test_no_colour_of_a_dense_grid_of_inks_comes_nearer(colours, lab):
    """Brute force is the judge: every fourteenth of ink in all four channels."""
    grid = np.stack(np.meshgrid(*[np.linspace(0, 1, 15)] * 4, indexing="ij"), axis=-1).reshape(1, -1, 4)
    best = float(delta_e_2000(colours.lab_of(grid)[0], lab).min())
    found = nearest_reachable(colours, lab, SPEC)
    assert found.delta_e <= best + 0.05
    assert float(delta_e_2000(found.lab, lab)) == pytest.approx(found.delta_e, abs=0.05)
    tight = nearest_reachable(colours, lab, SPEC.model_copy(update={"ink_limit_pct": 120.0}))
    assert sum(tight.device_pct) <= 120.5


def test_a_colour_that_came_out_off_is_asked_for_the_other_way(colours):
    """A printer that adds the same error everywhere is right at the second try."""
    wanted, error = (50.0, 10.0, -20.0), np.array([3.0, -6.0, 4.0])
    told = off_colour(colours, SPEC, "#8A7AB0", wanted, tuple(np.array(wanted) + error))
    assert shown(told.words) == "too green by 6, too yellow by 4, too light by 3"
    assert np.array(told.shift.lab) + error == pytest.approx(wanted, abs=0.01)
    again = off_colour(colours, SPEC.model_copy(update={"shifts": (told.shift,)}), "#8A7AB0", wanted, wanted)
    assert again.shift.lab == told.shift.lab, "nothing is off any more: it stays"
    assert shown(off_colour(colours, SPEC, "#8A7AB0", wanted, wanted).words).startswith("as wanted")


def test_the_map_of_missed_colours_agrees_with_the_sum_dot_by_dot(colours):
    rgb = np.random.default_rng(3).integers(0, 256, (24, 24, 3), dtype=np.uint8)
    exact = print_difference(colours, rgb, SPEC)
    assert np.percentile(np.abs(np.minimum(exact, 25.5) - missed_by(colours, rgb, SPEC)), 95) < 1.0
