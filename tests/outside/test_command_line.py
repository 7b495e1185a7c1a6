"""The command line as others call it: one JSON object, exit codes, no server and no database."""

import json
import subprocess
import sys

import cv2
import numpy as np
import pytest
import tifffile

from offsetter.core.compute.cielab import delta_e_2000
from offsetter.core.facts import profile_bytes
from tests.conftest import ROOT
from tests.core.shapes import bar, disc

PX_MM = 25.4 / 300


def offsetter(*words: str) -> subprocess.CompletedProcess:
    return subprocess.run(
        [sys.executable, "-m", "offsetter.cli", *map(str, words)],
        capture_output=True,
        text=True,
        stdin=subprocess.DEVNULL,
        check=False,
    )


def answer(*words: str) -> dict:
    done = offsetter(*words, "--json")
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout)


@pytest.fixture
def art(tmp_path):
    def saved(rgba, name="art.png"):
        cv2.imwrite(str(tmp_path / name), cv2.cvtColor(rgba, cv2.COLOR_RGBA2BGRA))
        return tmp_path / name

    return saved


def test_methods_are_fifteen_with_mirror_white_and_plate_order():
    rows = answer("methods")["methods"]
    assert len(rows) == 15
    film = next(m for m in rows if m["id"] == "film")
    assert (film["mirror"], film["white"], film["plate_order"]) == (True, "plate", ["colour", "white"])


def test_preflight_measures_a_known_bar(art):
    told = answer("preflight", art(bar(4, 0)), "--method", "film", "--width-mm", 600 * PX_MM, "--cloth", "#17181B")
    assert told["pixels"] == [600, 600]
    assert told["effective_ppi"] == pytest.approx(300, abs=0.1)
    assert told["reachable_mm"]["300"] == pytest.approx(600 * PX_MM, abs=0.1)
    assert told["thinnest_stroke_mm"] == pytest.approx(4 * PX_MM, abs=0.04)
    assert len(told["thin_strokes"]) == 1
    assert told["transparency"] == "hard"
    assert {"thin-strokes"} <= {f["code"] for f in told["findings"]}
    assert set(told["findings"][0]) == {"code", "severity", "message", "why", "fix"}
    wider = answer("preflight", art(bar(4, 0)), "--method", "film", "--width-mm", 600 * PX_MM, "--min-stroke-mm", 1)
    assert wider["thinnest_stroke_mm"] == told["thinnest_stroke_mm"]


def test_preflight_of_something_far_too_coarse_blocks(art):
    done = offsetter("preflight", art(disc(20, 60)), "--method", "film", "--width-mm", 200, "--json")
    assert done.returncode == 1
    assert any(f["severity"] == "blocker" for f in json.loads(done.stdout)["findings"])


def test_plates_are_mirrored_unless_told_otherwise_and_measure_what_they_hold(art, tmp_path):
    rgba = disc(100, 400, (200, 60, 40))
    rgba[:, 300:] = (40, 60, 200, 255)
    file, out = art(rgba), tmp_path / "plates.tif"
    told = answer(
        "plates",
        file,
        "--method",
        "film",
        "--width-mm",
        400 * PX_MM,
        "--cloth",
        "#17181B",
        "--white-level",
        100,
        "--out",
        out,
    )
    assert (told["size_px"], told["mirrored"], told["channels"]) == ([400, 400], True, ["C", "M", "Y", "K", "W"])
    planes = tifffile.imread(out)
    assert planes[200, 50, 4] == 255, "the bar on the right lies on the left"
    for i, name in enumerate("CMYKW"):
        assert told["coverage_pct"][name] == pytest.approx(planes[..., i].mean() / 2.55, abs=0.01)
    area_m2 = (400 * PX_MM / 1000) ** 2
    assert told["ink_ml"]["W"] == pytest.approx(planes[..., 4].mean() / 255 * area_m2 * 20, rel=0.01)
    plain = tmp_path / "plain.tif"
    unmirrored = answer(
        "plates",
        file,
        "--method",
        "film",
        "--width-mm",
        400 * PX_MM,
        "--cloth",
        "#17181B",
        "--white-level",
        100,
        "--no-mirror",
        "--out",
        plain,
    )
    assert np.array_equal(tifffile.imread(plain), planes[:, ::-1])
    assert [f["code"] for f in unmirrored["findings"]] == ["not-mirrored"]


def test_colour_and_difference_agree_with_each_other(tmp_path):
    profile = tmp_path / "film.icc"
    profile.write_bytes(profile_bytes())
    told = answer("colour", "--profile", profile, "--lab", "60,10,20")
    apart = answer("delta-e", "60,10,20", ",".join(map(str, told["lab"])))
    assert told["delta_e_2000"] == pytest.approx(apart["delta_e_2000"], abs=0.02)
    assert len(told["cmyk_pct"]) == 4


def test_a_colour_by_a_drivers_profile_is_its_rgb_and_the_colour_that_prints():
    dye = str(ROOT / "demo" / "profile" / "dye.icc")
    told = answer("colour", "--profile", dye, "--lab", "55,20,10", "--no-bpc")
    assert (told["cmyk_pct"], told["in_gamut"]) == (None, True)
    shares = " ".join(f"{v / 255:.6f}" for v in told["device_rgb"])
    said = subprocess.run(
        ["xicclu", "-ff", "-ir", "-pl", dye], input=shares + "\n", capture_output=True, text=True, check=True
    ).stdout
    theirs = [float(v) for v in said.split("->")[-1].split("[")[0].split()]
    assert float(delta_e_2000(theirs, told["lab"])) < 1.0, "another engine prints the same by these values"
    assert told["delta_e_2000"] == pytest.approx(float(delta_e_2000((55, 20, 10), told["lab"])), abs=0.01)


def test_press_gives_the_stages_of_the_schools_chosen():
    told = answer("press", "film", "--school", "film-cure=hover", "--school", "finish=no", "--pieces", 12)
    names = [s["name"] for s in told["stages"]]
    assert names == ["Powder", "Cure under the press", "Pre-press", "Transfer", "Cool", "Peel"]
    assert told["stages"][1]["hover"]
    assert {"what", "printed_face"} <= set(told["stages"][3]["stack"][0])
    assert told["minutes"] > answer("press", "film", "--pieces", 12)["minutes"]


@pytest.mark.parametrize(
    "words",
    [
        ("preflight", "none.png", "--method", "film", "--width-mm", "100"),
        ("preflight", __file__, "--method", "film", "--width-mm", "100"),
        ("plates", __file__, "--method", "film", "--width-mm", "0", "--out", "x.tif"),
        ("plates", __file__, "--method", "dream", "--width-mm", "100", "--out", "x.tif"),
        ("press", "film", "--school", "film-cure=sunshine"),
        ("press", "dream"),
        ("colour", "--profile", __file__, "--rgb", "1,2,3"),
        ("colour", "--profile", "none.icc", "--rgb", "1,2,3"),
        ("colour", "--profile", str(ROOT / "demo" / "profile" / "dye.icc"), "--cmyk", "1,2,3,4"),
        ("delta-e", "1,2", "3,4,5"),
        ("nonsense",),
    ],
)
def test_bad_input_is_one_sentence_on_standard_error(words):
    done = offsetter(*words)
    assert done.returncode == 2
    assert done.stdout == ""
    assert len(done.stderr.strip().splitlines()) == 1, done.stderr
    assert "Traceback" not in done.stderr
