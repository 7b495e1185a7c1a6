"""A run as pictures for printers that take no PDF, judged by Ghostscript's own PWG Raster and by a reader that shares no code with ours."""

import subprocess
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from PIL import Image
from standins.raster import Page, pages_of_raster

from offsetter.core.facts import profile_bytes
from offsetter.core.values import Refusal
from offsetter.formats.plates_pdf import write_pdf
from offsetter.formats.pwg_raster import write_jpeg, write_pwg
from tests.conftest import ROOT

DPI, WIDE, HIGH = 300, 613, 421
DYE = (ROOT / "demo" / "profile" / "dye.icc").read_bytes()
"""A driver's RGB: with it as tag a reader that manages colour would change the values."""


@pytest.fixture(scope="module")
def dots() -> np.ndarray:
    """A ramp, noise, and paper: runs of one dot, of many, and of none."""
    made = np.full((HIGH, WIDE, 3), 255, np.uint8)
    made[40:140, :, 0] = np.linspace(0, 255, WIDE)[None, :]
    made[160:260, 30:400] = np.random.default_rng(3).integers(0, 256, (100, 370, 3))
    made[300:301, 5:6] = (1, 2, 3)
    return made


@pytest.fixture(scope="module")
def pdf(dots: np.ndarray, tmp_path_factory) -> Path:
    """Two pages of one size, the second upside down."""
    folder = tmp_path_factory.mktemp("pdf")
    whole = pikepdf.new()
    for at, page in enumerate((dots, dots[::-1])):
        write_pdf(folder / f"{at}.pdf", np.ascontiguousarray(page), WIDE / DPI * 25.4, HIGH / DPI * 25.4, (), DYE)
        with pikepdf.open(folder / f"{at}.pdf") as one:
            whole.pages.extend(one.pages)
    whole.save(folder / "run.pdf")
    return folder / "run.pdf"


def read(path: Path) -> list[Page]:
    return list(pages_of_raster(path.read_bytes()))


def test_every_dot_goes_over_as_it_was_made_whatever_the_file_is_tagged_with(
    pdf: Path, dots: np.ndarray, tmp_path: Path
):
    write_pwg(pdf, tmp_path / "run.pwg", DPI, "rgb_8")
    pages = read(tmp_path / "run.pwg")
    assert [p.pages for p in pages] == [2, 2]
    for page, made in zip(pages, (dots, dots[::-1]), strict=True):
        assert np.array_equal(page.dots, made)
    write_pwg(pdf, tmp_path / "half.pwg", DPI // 2, "srgb_8")
    assert read(tmp_path / "half.pwg")[0].space == 19
    assert (tmp_path / "run.pwg").stat().st_size < dots.nbytes * 2


def test_ghostscript_makes_the_same_document(pdf: Path, dots: np.ndarray, tmp_path: Path):
    plain = tmp_path / "plain.pdf"
    with pikepdf.open(pdf) as tagged:
        for thing in tagged.objects:
            if isinstance(thing, pikepdf.Stream) and thing.get("/Subtype") == "/Image":
                thing.ColorSpace = pikepdf.Name.DeviceRGB
        tagged.save(plain)
    theirs, ours = tmp_path / "gs.pwg", tmp_path / "ours.pwg"
    subprocess.run(["gs", "-q", "-dBATCH", "-dNOPAUSE", "-dSAFER", "-sDEVICE=pwgraster", "-dcupsColorSpace=19", "-dcupsBitsPerColor=8", f"-r{DPI}", f"-sOutputFile={theirs}", str(plain)], check=True)  # fmt: skip
    write_pwg(pdf, ours, DPI, "srgb_8")
    for a, b in zip(read(theirs), read(ours), strict=True):
        assert (a.width, a.height, a.dpi, a.size_pt, a.space) == (b.width, b.height, b.dpi, b.size_pt, b.space)
        assert np.abs(a.dots.astype(int) - b.dots).max() <= 1


def test_one_page_goes_as_jpeg_and_plates_of_their_own_as_no_picture(pdf: Path, dots: np.ndarray, tmp_path: Path):
    write_jpeg(pdf, tmp_path / "run.jpg", DPI)
    with Image.open(tmp_path / "run.jpg") as seen:
        assert (seen.size, tuple(round(float(d)) for d in seen.info["dpi"])) == ((WIDE, HIGH), (DPI, DPI))
        assert np.abs(np.asarray(seen)[45:135, 20:-20].astype(int) - dots[45:135, 20:-20]).mean() < 1
    write_pdf(tmp_path / "film.pdf", np.zeros((20, 20, 5), np.uint8), 5, 5, ("C", "M", "Y", "K", "W"), profile_bytes())
    for write in (lambda out: write_pwg(tmp_path / "film.pdf", out, DPI, "rgb_8"), lambda out: write_jpeg(tmp_path / "film.pdf", out, DPI)):  # fmt: skip
        with pytest.raises(Refusal) as no:
            write(tmp_path / "out")
        assert no.value.code == "plates-in-no-picture"
