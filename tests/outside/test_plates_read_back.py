"""Plates read back by others: Ghostscript's separations, libtiff's tiffinfo, qpdf."""

import re
import subprocess

import numpy as np
import pytest
from PIL import Image

from offsetter.core.compute.sheet import LayoutAsk, Want, lay_out
from offsetter.formats import plates_pdf
from offsetter.formats.plates_pdf import RunLabels, SortLabel, write_pdf, write_run_pdf
from offsetter.formats.plates_tiff import write_tiff

PX, DPI = 360, 300
FILM = ("C", "M", "Y", "K", "W")
MM = PX / DPI * 25.4


@pytest.fixture(scope="module")
def planes():
    """Five planes whose values say where they are; no symmetry, so a flip would be seen."""
    y, x = np.mgrid[0:PX, 0:PX]
    made = np.stack(
        [x * 255 // PX, y * 255 // PX, (x + y) * 255 // (2 * PX), (x // 60 * 40) % 256, (y // 60 * 30 + 20) % 256],
        axis=2,
    )
    return made.astype(np.uint8)


def separations(pdf, folder, page=1) -> dict[str, np.ndarray]:
    """Ghostscript's plates of a page by name, 255 full ink."""
    subprocess.run(
        ["gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=tiffsep", f"-r{DPI}", f"-dFirstPage={page}", f"-dLastPage={page}",
         f"-sOutputFile={folder}/s%d.tif", str(pdf)], check=True, stdin=subprocess.DEVNULL,
    )  # fmt: skip
    return {
        re.search(r"\((.*)\)", p.name)[1]: 255 - np.asarray(Image.open(p).convert("L"))
        for p in folder.glob("s*(*).tif")
    }


def test_pdf_plates_come_back_dot_for_dot_with_white_as_a_spot(planes, tmp_path):
    write_pdf(tmp_path / "p.pdf", planes, MM, MM, FILM)
    plates = separations(tmp_path / "p.pdf", tmp_path)
    assert set(plates) == {"Cyan", "Magenta", "Yellow", "Black", "White"}
    for i, name in enumerate(("Cyan", "Magenta", "Yellow", "Black", "White")):
        assert plates[name].shape == (PX, PX)
        # White overprints: the colour under it is whole.
        assert np.abs(plates[name].astype(int) - planes[..., i]).max() <= 1, name


def test_a_large_prints_bands_come_back_as_one_picture(planes, tmp_path, monkeypatch):
    side = round(MM * 1000)
    ask = LayoutAsk(wants=(Want(width_um=side, height_um=side, copies=2),), gap_um=8_033, margin_um=10_041, media_um=100_000, printable_um=96_000,
                    longest_cut_um=90_000, widest_cut_um=96_000)  # fmt: skip
    layout, labels = (
        lay_out(ask),
        RunLabels(title="", run="R1", mirrored=False, sorts=(SortLabel(name="", placing=""),)),
    )
    turned = layout.model_copy(update={"places": tuple(p.model_copy(update={"half": True}) for p in layout.places)})
    seen = {}
    for bands in (False, True):
        if bands:
            monkeypatch.setattr(plates_pdf, "BAND_BYTES", 50_000)
            monkeypatch.setattr(plates_pdf, "MOST_HELD", 120_000)
        for name, laid in (("run", layout), ("turned", turned)):
            folder = tmp_path / f"{name}-{bands}"
            folder.mkdir()
            write_run_pdf(folder / "r.pdf", [(planes, FILM)], laid, labels)
            seen[name, bands] = separations(folder / "r.pdf", folder)
        (tmp_path / f"one-{bands}").mkdir()
        write_pdf(tmp_path / f"one-{bands}" / "p.pdf", planes, MM, MM, FILM)
        seen["one", bands] = separations(tmp_path / f"one-{bands}" / "p.pdf", tmp_path / f"one-{bands}")
    for i, name in enumerate(("Cyan", "Magenta", "Yellow", "Black", "White")):
        assert np.abs(seen["one", True][name].astype(int) - planes[..., i]).max() <= 1, name
        # Off the printer's own grid too no seam is seen.
        for run in ("run", "turned"):
            assert np.abs(seen[run, True][name].astype(int) - seen[run, False][name]).max() <= 1, (run, name)
    assert (seen["run", True]["Cyan"] != seen["turned", True]["Cyan"]).any()


def test_pdf_is_sound(planes, tmp_path):
    write_pdf(tmp_path / "p.pdf", planes, MM, MM, FILM)
    checked = subprocess.run(["qpdf", "--check", str(tmp_path / "p.pdf")], capture_output=True, text=True, check=False)
    assert "No syntax or stream encoding errors" in checked.stdout


def test_run_pdf_has_a_page_a_cut_and_every_print_in_its_place_with_its_marks(planes, tmp_path):
    side = round(MM * 1000)
    small = round(side * 0.5)
    ask = LayoutAsk(
        wants=(Want(width_um=side, height_um=side, copies=4), Want(width_um=small, height_um=small, copies=2)), gap_um=8000,
        margin_um=10_000, media_um=120_000, printable_um=110_000, longest_cut_um=110_000, widest_cut_um=120_000,
    )  # fmt: skip
    layout = lay_out(ask)
    assert layout is not None
    half = np.ascontiguousarray(planes[::2, ::2])
    sorts = (
        SortLabel(name="Front: M", placing="85 mm below collar"),
        SortLabel(name="Sleeve: M", placing="60 mm below shoulder seam"),
    )
    labels = RunLabels(title="Test tees", run="R7", mirrored=False, sorts=sorts)
    write_run_pdf(tmp_path / "run.pdf", [(planes, FILM), (half, FILM)], layout, labels)
    pages = subprocess.run(
        ["qpdf", "--show-npages", str(tmp_path / "run.pdf")], capture_output=True, text=True, check=True
    )
    assert int(pages.stdout) == len(layout.cut_lengths_um)
    found = separations(tmp_path / "run.pdf", tmp_path)
    for place in (p for p in layout.places if p.cut == 1):
        shown, dots = (planes, PX) if place.sort == 0 else (half, PX // 2)
        left = round(place.x_um / 25400 * DPI)
        bottom = round((layout.cut_lengths_um[0] - place.y_um) / 25400 * DPI)
        part = found["White"][bottom - dots : bottom, left : left + dots]
        # A place lies on whole micrometres, not on whole dots: the outermost row may be shared.
        assert np.abs(part[4:-4, 4:-4].astype(int) - shown[4:-4, 4:-4, 4]).mean() < 1.0
        # The fold's tick stands under the middle and over it, outside the picture.
        middle, black = left + dots // 2, found["Black"]
        assert black[bottom + 6 : bottom + 20, middle - 3 : middle + 4].max() > 200
        assert black[bottom - dots - 20 : bottom - dots - 6, middle - 3 : middle + 4].max() > 200
    said = subprocess.run(
        ["gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-sDEVICE=txtwrite", "-sOutputFile=-", str(tmp_path / "run.pdf")],
        capture_output=True, text=True, check=True, stdin=subprocess.DEVNULL,
    ).stdout  # fmt: skip
    text = " ".join(said.split())
    for place in layout.places:
        assert f"R7-{place.number}" in text
    assert "85 mm below collar" in text
    assert "60 mm below shoulder seam" in text


def test_tiff_names_its_inks_and_keeps_every_value(planes, tmp_path):
    write_tiff(tmp_path / "p.tif", planes, DPI, FILM)
    said = subprocess.run(["tiffinfo", str(tmp_path / "p.tif")], capture_output=True, text=True, check=True).stdout
    assert "Ink Names: Cyan, Magenta, Yellow, Black, White" in said
    assert "Resolution: 300, 300 pixels/inch" in said
    assert "Photometric Interpretation: separated" in said
    raw = tmp_path / "raw.tif"
    subprocess.run(["tiffcp", "-c", "none", "-p", "separate", str(tmp_path / "p.tif"), str(raw)], check=True)
    import tifffile

    assert np.array_equal(np.moveaxis(tifffile.imread(raw), 0, -1), planes)
