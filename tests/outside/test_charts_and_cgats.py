"""Charts and measurements against others: Ghostscript's plates, ArgyllCMS' reader of CGATS, its colour differences and its engine."""

import re
import subprocess

import numpy as np
import pytest
from PIL import Image
from standins.probe import read_patch

from offsetter.core.compute.chart import condition_patches, lay_chart
from offsetter.core.compute.cielab import SRGB_TO_XYZ_D50, delta_e_2000, lab_of_srgb, xyz_of_lab
from offsetter.core.compute.colour import Colours, DriverColours
from offsetter.core.compute.correction import expected, judged
from offsetter.core.compute.plate_spec import ColourSpec
from offsetter.core.facts import Feed, profile_bytes
from offsetter.core.values import Refusal
from offsetter.formats.cgats import read_measurements, write_chart
from offsetter.formats.chart_pdf import write_chart_pdf
from tests.conftest import ROOT

DPI = 150
FEED = Feed(
    method="film", media="m", kind="sheet", media_mm=210, length_mm=297, printable_mm=202, margin_mm=4, load_card=()
)
ABOUT = {"kind": "condition", "title": "A chart", "condition": "c", "condition_version": 1, "profile": "p"}


def chart(space="CMYK", *, mirrored=True, white=True, curves=()):
    patches = [(group, asked, None) for group, asked in condition_patches(space)]
    return lay_chart(patches, FEED, curves, space=space, mirrored=mirrored, white=white, **ABOUT)


def test_chart_plates_hold_the_values_on_their_labels_mirrored_over_white(tmp_path):
    made = chart()
    (tmp_path / "c.pdf").write_bytes(write_chart_pdf(made))
    subprocess.run(["gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", f"-r{DPI}", f"-sOutputFile={tmp_path}/s%d.tif", str(tmp_path / "c.pdf")],
                   check=True, stdin=subprocess.DEVNULL)  # fmt: skip
    plates = {
        re.search(r"\((.*)\)", p.name)[1]: 255 - np.asarray(Image.open(p).convert("L"))
        for p in tmp_path.glob("s*(*).tif")
    }
    assert set(plates) == {"Cyan", "Magenta", "Yellow", "Black", "White"}
    high, wide = plates["Cyan"].shape
    assert (wide, high) == (round(210 / 25.4 * DPI), round(297 / 25.4 * DPI)), "the sheet's own size"
    for i, patch in enumerate(made.patches):
        x, y = (v + made.patch_mm / 2 for v in made.at_mm(i))
        at = round(y / 25.4 * DPI), wide - 1 - round(x / 25.4 * DPI)
        got = [plates[n][at] / 2.55 for n in ("Cyan", "Magenta", "Yellow", "Black")]
        assert got == pytest.approx(patch.printed, abs=0.6), patch.label
        assert plates["White"][at] == 255, "white overprints: it takes nothing of the colour away"


@pytest.fixture(scope="module")
def profile(tmp_path_factory):
    path = tmp_path_factory.mktemp("p") / "film.icc"
    path.write_bytes(profile_bytes())
    return path


def test_another_programs_reader_finds_our_patches_and_the_same_differences(tmp_path):
    """colverify reads both tables with ArgyllCMS' own CGATS reader, and works out CIEDE2000 by its own code."""
    made, colours = chart(), Colours(profile_bytes())
    measured = {p.label: read_patch([v / 100 for v in p.printed], p.label, 3.0) for p in made.patches}
    report = judged(made, colours, measured)
    kept = {p.label for p in report.patches}
    meant = {label: lab for label, lab in expected(made, colours).items() if label in kept}
    (tmp_path / "a.txt").write_text(write_chart(made, meant))
    (tmp_path / "b.txt").write_text(write_chart(made, {k: v for k, v in measured.items() if k in kept}))
    run = subprocess.run(
        ["colverify", "-k", str(tmp_path / "a.txt"), str(tmp_path / "b.txt")],
        capture_output=True,
        text=True,
        check=True,
    )
    said = re.search(r"Total errors.*?peak = ([\d.]+).*?avg = ([\d.]+)", run.stdout)
    assert float(said[1]) == pytest.approx(report.worst, abs=0.01)
    assert float(said[2]) == pytest.approx(report.mean, abs=0.01)


def test_a_table_that_another_program_measured_is_read(profile, tmp_path):
    """fakeread prints a chart of targen's by the profile and writes what an instrument would: its Lab is xicclu's."""
    run = lambda *a: subprocess.run(a, cwd=tmp_path, capture_output=True, text=True, check=True)  # noqa: E731
    run("targen", "-d4", "-f40", "t")
    run("fakeread", "-l", str(profile), "t")
    text = (tmp_path / "t.ti3").read_text()
    ours = read_measurements(text.encode(), "t.ti3")
    fields = text.split("BEGIN_DATA_FORMAT")[1].split("END_DATA_FORMAT")[0].split()
    rows = [r.split() for r in text.split("BEGIN_DATA\n")[1].split("END_DATA")[0].strip().splitlines()]
    assert len(ours) == len(rows) >= 40
    inks = [[float(r[fields.index(f"CMYK_{n}")]) / 100 for n in "CMYK"] for r in rows]
    told = run_xicclu(profile, inks, "-ia")
    assert delta_e_2000(told, list(ours.values())).max() < 0.2
    again = read_measurements(write_back(ours), "again")
    assert delta_e_2000(list(again.values()), list(ours.values())).max() < 0.01


def write_back(labs) -> bytes:
    made = chart()
    return write_chart(made, dict(zip([p.label for p in made.patches], labs.values(), strict=False))).encode()


def run_xicclu(profile, rows, intent):
    text = "\n".join(" ".join(f"{v:.6f}" for v in row) for row in rows) + "\n"
    run = subprocess.run(
        ["xicclu", "-ff", intent, "-pl", str(profile)], input=text, capture_output=True, text=True, check=True
    )
    return np.array(
        [
            [float(v) for v in line.split("->")[-1].split("[")[0].split()]
            for line in run.stdout.splitlines()
            if "->" in line
        ]
    )


def test_a_drivers_profile_is_followed_as_another_engine_does():
    path = ROOT / "demo" / "profile" / "dye.icc"
    driver = DriverColours(path.read_bytes())
    rgb = np.random.default_rng(5).uniform(0, 1, (60, 3))
    theirs = run_xicclu(path, rgb, "-ir")
    assert delta_e_2000(theirs, driver.lab_of(rgb[None])[0]).max() < 1.0
    # The proof: what the screen is sent says the same colour again, where the screen can show it.
    seen = lab_of_srgb(driver.to_screen(np.rint(rgb * 255).astype(np.uint8)[None])[0])
    light = xyz_of_lab(theirs) @ np.linalg.inv(SRGB_TO_XYZ_D50).T
    inside = ((light > 0.002) & (light < 0.998)).all(axis=1)
    assert inside.sum() > 30
    assert delta_e_2000(theirs, seen)[inside].max() < 1.5


def test_the_preview_agrees_with_the_full_transform(capsys):
    """Quick eight-bit tables against littleCMS in doubles, on colours all over the space: said is the colour that is printed."""
    colours, spec = Colours(profile_bytes()), ColourSpec(profile="")
    rgb = np.random.default_rng(11).integers(0, 256, (100, 100, 3), dtype=np.uint8)
    quick = colours.lab_of(colours.to_ink(np.dstack([rgb, np.full((100, 100), 255, np.uint8)]), spec) / 255.0)
    full = colours.lab_of(colours.of_lab(lab_of_srgb(rgb), spec))
    apart = delta_e_2000(quick, full)
    with capsys.disabled():
        print(
            f"\npreview against full transform: 99 % within {np.percentile(apart, 99):.2f}, at most {apart.max():.2f}"
        )
    assert np.percentile(apart, 99) < 1.0


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "no-measurements"), (b"CGATS.17\nNUMBER_OF_FIELDS 4\n", "no-measurements"),
        (b"CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\nEND_DATA\n", "no-measurements"),
        (b"CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\nA1 50 0\n", "no-measurements"),
        (b"CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID LAB_L LAB_A LAB_B\nEND_DATA_FORMAT\nBEGIN_DATA\nA1 50 zero 0\nEND_DATA\n", "bad-row"),
        (b"CGATS.17\nBEGIN_DATA_FORMAT\nSAMPLE_ID D_RED\nEND_DATA_FORMAT\nBEGIN_DATA\nA1 1.4\nEND_DATA\n", "no-colours"),
        (b"label,L,a,b\nA1,50,nan,0\n", "bad-row"), (b"label,L,a,b\nA1,50,0,0\nA1,51,0,0\n", "label-twice"), (b"label,L,a,b\nA1,500,0,0\n", "bad-row"), (b"a,b\n1,2\n", "no-colours"),
        (b"\xff\xfe\x00\x01", "not-text"), (b"x" * 2_000_001, "measurements-too-large"),
    ],
)  # fmt: skip
def test_what_holds_no_measurements_is_refused_in_three_parts(data, code):
    with pytest.raises(Refusal) as told:
        read_measurements(data, "m.txt")
    assert told.value.code == code
    assert all((told.value.happened, told.value.kept, told.value.to_do))


def test_csv_is_read_with_either_comma():
    assert read_measurements(b"label,L,a,b\nA1,50.5,-1,2\n", "m.csv") == {"A1": (50.5, -1.0, 2.0)}
    assert read_measurements("\ufeffLabel;L;a;b\nA1;50,5;-1;2\n".encode(), "m.csv") == {"A1": (50.5, -1.0, 2.0)}
