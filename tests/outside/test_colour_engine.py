"""Our conversion against ArgyllCMS' xicclu, an engine of its own, on the same profile."""

import subprocess

import numpy as np
import pytest

from offsetter.core.compute.cielab import delta_e_2000
from offsetter.core.compute.plate_spec import ColourSpec
from offsetter.core.compute.printed_colour import answer_for
from offsetter.core.facts import profile_bytes

# Two engines interpolate the same table differently: up to 0.9 apart on this profile (measured with both command-line tools).
ENGINES_APART = 1.0
# From Lab to ink the profile's table is coarse, and they part further.
INVERSES_APART = 1.8
SPEC = ColourSpec(profile="", black_point=False)
RNG = np.random.default_rng(7)


@pytest.fixture(scope="module")
def profile(tmp_path_factory):
    path = tmp_path_factory.mktemp("profile") / "film.icc"
    path.write_bytes(profile_bytes())
    return path


def xicclu(profile, function: str, rows, *more: str) -> np.ndarray:
    """Values of the other engine, relative colorimetric."""
    text = "\n".join(" ".join(f"{v:.6f}" for v in row) for row in rows) + "\n"
    run = subprocess.run(
        ["xicclu", f"-f{function}", "-ir", "-pl", *more, str(profile)],
        input=text,
        capture_output=True,
        text=True,
        check=True,
    )
    lines = [line.split("->")[-1].split("[")[0].split() for line in run.stdout.splitlines() if "->" in line]
    return np.array([[float(v) for v in line] for line in lines])


def test_printed_lab_of_inks_agrees(profile):
    inks = RNG.uniform(0, 0.6, (24, 4))
    theirs = xicclu(profile, "f", inks)
    ours = [answer_for(profile_bytes(), SPEC, cmyk_pct=tuple(v * 100 for v in row)).lab for row in inks]
    assert delta_e_2000(theirs, ours).max() < ENGINES_APART


def test_inks_for_a_lab_colour_print_the_same_colour(profile):
    """Ink recipes may differ where black takes over from colour: what counts is the colour they print."""
    labs = np.array(
        [[60, 10, 20], [45, 30, -10], [70, -20, 30], [35, 5, -25], [80, 2, 8], [50, -25, -15], [30, 2, 3.0]]
    )
    theirs = xicclu(profile, "b", labs)
    ours = np.array([answer_for(profile_bytes(), SPEC, lab=tuple(lab)).cmyk_pct for lab in labs]) / 100
    assert delta_e_2000(xicclu(profile, "f", theirs), xicclu(profile, "f", ours)).max() < INVERSES_APART
    assert np.abs(theirs - ours).max() < 0.06


def test_a_colour_out_of_reach_is_said_to_be():
    green = answer_for(profile_bytes(), SPEC, rgb=(0, 255, 0))
    grey = answer_for(profile_bytes(), SPEC, rgb=(128, 128, 128))
    assert not green.in_gamut
    assert green.delta_e_2000 > 5
    assert grey.in_gamut
