"""White that a file itself brings, against Ghostscript's separations and against the shapes that were drawn."""

import shutil
import subprocess

import cv2
import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image
from reportlab.lib.colors import CMYKColor, CMYKColorSep
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen import canvas

from offsetter.core.facts import profile_bytes
from offsetter.formats.plates_pdf import write_pdf
from offsetter.intake.decode import decode
from offsetter.intake.names import FONT

PT = 72 / 25.4
WHITE = CMYKColorSep(0.4, 0, 0, 0, spotName="Laundry_White")
SPOT = CMYKColorSep(0, 1, 0, 0, spotName="Marker")
RED = CMYKColor(0, 1, 1, 0)


@pytest.fixture(scope="module")
def page(tmp_path_factory):
    """100 x 60 mm: white under a red square, white over a red bar, white words, a half tint in a form, a stroke, another spot colour."""
    path = tmp_path_factory.mktemp("pdf") / "badge.pdf"
    c = canvas.Canvas(str(path), pagesize=(100 * PT, 60 * PT))
    c.beginForm("tint")
    c.setFillColor(CMYKColorSep(0.4, 0, 0, 0, spotName="Laundry_White", density=0.5))
    c.rect(0, 0, 10 * PT, 10 * PT, stroke=0, fill=1)
    c.setFillColor(RED)
    c.rect(12 * PT, 0, 4 * PT, 10 * PT, stroke=0, fill=1)
    c.endForm()
    # Colours that overprint leave the white under them: so both readings of the page agree.
    c.setFillOverprint(True)
    c.setStrokeOverprint(True)
    c.setFillColor(WHITE)
    c.rect(5 * PT, 5 * PT, 30 * PT, 30 * PT, stroke=0, fill=1)
    c.setFillColor(RED)
    c.rect(10 * PT, 10 * PT, 20 * PT, 20 * PT, stroke=0, fill=1)
    c.rect(40 * PT, 5 * PT, 10 * PT, 30 * PT, stroke=0, fill=1)
    c.setFillColor(WHITE)
    c.rect(38 * PT, 15 * PT, 14 * PT, 10 * PT, stroke=0, fill=1)
    pdfmetrics.registerFont(TTFont("own", str(FONT)))
    c.setFont("own", 40)
    c.drawString(55 * PT, 40 * PT, "MOTH")
    c.saveState()
    c.setFillOverprint(False)
    c.setStrokeOverprint(False)
    c.setStrokeColor(WHITE)
    c.setFillColor(RED)
    c.setLineWidth(2 * PT)
    c.rect(60 * PT, 5 * PT, 12 * PT, 12 * PT, stroke=1, fill=1)
    c.restoreState()
    c.setFillColor(SPOT)
    c.rect(80 * PT, 5 * PT, 8 * PT, 8 * PT, stroke=0, fill=1)
    c.translate(80 * PT, 20 * PT)
    c.doForm("tint")
    c.save()
    return path


@pytest.mark.skipif(shutil.which("gs") is None, reason="no Ghostscript here")
def test_the_white_of_a_page_is_what_another_interpreter_separates(page, tmp_path):
    read = decode(page, "badge.pdf")
    assert read.white_name == "Laundry_White"
    assert [n.message for n in read.notes if n.code == "spot-colours"] == ["Spot colours are named in the file: Marker"]
    dpi = read.white.shape[1] / 100 * 25.4
    subprocess.run(["gs", "-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=tiffsep", f"-r{dpi:.4f}", "-dTextAlphaBits=4", "-dGraphicsAlphaBits=4",
                    f"-sOutputFile={tmp_path / 'p.tif'}", str(page)], check=True)  # fmt: skip
    (theirs,) = tmp_path.glob("*Laundry_White*.tif")
    plate = 255 - np.asarray(Image.open(theirs).convert("L"), np.float32)
    rows, columns = (min(a, b) for a, b in zip(plate.shape, read.white.shape, strict=True))
    ours = read.white[:rows, :columns].astype(np.float32)
    # What lies at the edge of a shape may differ by how an edge is drawn; a shape that is missing may not.
    apart = np.abs(ours - plate[:rows, :columns])
    assert ours.mean() == pytest.approx(plate.mean(), rel=0.01)
    assert not cv2.erode((apart > 64).astype(np.uint8), np.ones((9, 9), np.uint8)).any()


def test_a_plate_that_is_a_picture_of_the_white_ink_is_read_back(tmp_path):
    """As plates come from a program that separates: each ink a picture of its own."""
    rng = np.random.default_rng(4)
    planes = np.zeros((300, 400, 5), np.uint8)
    planes[40:260, 60:340, 4] = cv2.resize(rng.integers(0, 256, (11, 14), np.uint8), (280, 220), interpolation=cv2.INTER_CUBIC)  # fmt: skip
    planes[100:200, 100:300, 1] = 255
    write_pdf(tmp_path / "plates.pdf", planes, 40, 30, ("C", "M", "Y", "K", "W"), profile_bytes())
    read = decode(tmp_path / "plates.pdf", "plates.pdf")
    assert read.white_name == "White"
    back = cv2.resize(read.white, (400, 300), interpolation=cv2.INTER_AREA).astype(int)
    assert np.abs(back - planes[..., 4]).mean() < 2
    r, g, b, a = (int(v) for v in read.rgba[read.rgba.shape[0] // 2, read.rgba.shape[1] // 2])
    assert (r > 150, g < 90, a) == (True, True, 255), b


def test_white_lies_under_colour_that_would_knock_it_out(tmp_path):
    """By the letter of the standard a colour that does not overprint takes the white from under it: no transfer is meant so."""
    c = canvas.Canvas(str(tmp_path / "a.pdf"), pagesize=(50 * PT, 50 * PT))
    c.setFillColor(WHITE)
    c.rect(5 * PT, 5 * PT, 40 * PT, 40 * PT, stroke=0, fill=1)
    c.setFillColor(RED)
    c.circle(25 * PT, 25 * PT, 10 * PT, stroke=0, fill=1)
    c.save()
    read = decode(tmp_path / "a.pdf", "a.pdf")
    assert (read.white == 255).mean() == pytest.approx(0.64, abs=0.002)


def test_the_colour_of_a_page_is_whole_and_stands_on_its_white(page):
    read = decode(page, "badge.pdf")
    per_mm = read.white.shape[1] / 100

    def at(x_mm: float, y_mm: float) -> tuple[list[int], int]:
        row, column = round((60 - y_mm) * per_mm), round(x_mm * per_mm)
        return read.rgba[row, column].tolist(), int(read.white[row, column])

    (r, g, _, a), w = at(20, 20)  # red over white
    assert (r > 180, g < 90, a, w) == (True, True, 255, 255)
    assert at(7, 20) == ([255, 255, 255, 255], 255)  # white alone
    (r, g, _, a), w = at(45, 20)  # white drawn over red, as an underbase that overprints is
    assert (r > 180, g < 90, a, w) == (True, True, 255, 255)
    assert at(45, 10)[1] == 0  # red without white
    (_, _, _, a), w = at(85, 25)  # half a tint of white
    assert a == pytest.approx(128, abs=3)
    assert w == pytest.approx(128, abs=3)
    assert at(94, 25)[1] == 0  # the form's red
    assert at(94, 25)[0][0] > 180
    assert at(60, 11)[1] == 255  # a stroke of white round red
    assert at(66, 11)[1] == 0
    assert at(84, 9)[1] == 0  # another spot colour
    assert at(84, 9)[0][3] == 255
    assert at(98, 58) == ([0, 0, 0, 0], 0)
    # Drawn larger it is drawn anew: half the size of its edge, not a picture blown up.
    assert decode(page, "badge.pdf", scale=2).white.shape[1] == pytest.approx(2 * read.white.shape[1], abs=1)


@pytest.mark.parametrize(("names", "bits", "found"), [
    (("Cyan", "Magenta", "Yellow", "Black", "White"), 8, "White"),
    (("Cyan", "Magenta", "Yellow", "Black", "Varnish", "Weiss 1"), 8, "Weiss 1"),
    (("Cyan", "Magenta", "Yellow", "Black", "White"), 16, "White"),
    ((), 8, "the fifth ink"),
    (("Cyan", "Magenta", "Yellow", "Black", "Varnish"), 8, ""),
])  # fmt: skip
def test_a_further_ink_of_a_tiff_is_its_white_by_its_name(tmp_path, names, bits, found):
    inks = len(names) or 5
    planes = np.zeros((120, 160, inks), np.uint8)
    planes[20:100, 20:80, 1:3] = 255
    at = next((i for i, n in enumerate(names) if n == found), 4)
    planes[10:110, 10:150, at] = 200
    told = "".join(f"{n}\0" for n in names)
    tags = [(332, 3, 1, 1, True), (334, 3, 1, inks, True)] + ([(333, 2, len(told), told, True)] if names else [])
    given = planes.astype(np.uint16) * 257 if bits == 16 else planes
    tifffile.imwrite(tmp_path / "a.tif", given, photometric="separated", planarconfig="contig", extrasamples=[0] * (inks - 4), extratags=tags, metadata=None)  # fmt: skip
    read = decode(tmp_path / "a.tif", "a.tif")
    assert read.white_name == found
    if not found:
        assert read.white is None
        return
    assert set(np.unique(read.white)) == {0, 200}
    assert read.rgba[50, 50, 3] == 255
    assert read.rgba[50, 50, 0] > 180
    assert read.rgba[50, 120].tolist()[:3] == [255, 255, 255]
    assert read.rgba[50, 120, 3] == 200
    assert read.rgba[2, 2, 3] == 0


def mixed_page(path, tint_of, *, white: float = 1.0, own: bool = True):
    """A square of a mixture of cyan, white and magenta, its half, and a picture in a table of the same mixture."""
    pdf = pikepdf.new()
    pdf.add_blank_page(page_size=(100 * PT, 60 * PT))
    names = [pikepdf.Name.Cyan, pikepdf.Name("/Laundry_White" if own else "/Marker"), pikepdf.Name.Magenta]
    space = pdf.make_indirect(
        pikepdf.Array([pikepdf.Name.DeviceN, pikepdf.Array(names), pikepdf.Name.DeviceCMYK, tint_of(pdf)])
    )
    lookup = bytes([0, 0, 0, 200, round(255 * white), 40, 30, round(128 * white), 250])
    picture = pdf.make_stream(bytes([0, 1, 2, 1]), Type=pikepdf.Name.XObject, Subtype=pikepdf.Name.Image, Width=2, Height=2, BitsPerComponent=8,
                              ColorSpace=pikepdf.Array([pikepdf.Name.Indexed, space, 2, pikepdf.String(lookup)]))  # fmt: skip
    page = pdf.pages[0]
    page.Resources = pikepdf.Dictionary(
        ColorSpace=pikepdf.Dictionary(Mix=space), XObject=pikepdf.Dictionary(Tile=picture)
    )
    drawn = [
        f"/Mix cs 0.8 {white} 0.1 scn {5 * PT} {5 * PT} {20 * PT} {20 * PT} re f",
        f"0.2 {white / 2} 0.9 scn {30 * PT} {5 * PT} {20 * PT} {20 * PT} re f",
        f"q {30 * PT} 0 0 {30 * PT} {60 * PT} {5 * PT} cm /Tile Do Q",
    ]
    page.Contents = pdf.make_stream("\n".join(drawn).encode())
    pdf.save(path)
    return path


def by_code(pdf):
    code = b"{ 2 index 1 index 0.3 mul 3 index 0.2 mul add 0 3 index 0.1 mul 6 3 roll pop pop pop }"
    return pdf.make_stream(code, FunctionType=4, Domain=[0, 1] * 3, Range=[0, 1] * 4)


def by_samples(pdf):
    """Two samples along each ink: the first one's index moves quickest."""
    table = bytearray()
    for magenta in (0, 1):
        for white in (0, 1):
            for cyan in (0, 1):
                table += bytes(round(255 * v) for v in (cyan * 0.8, magenta * 0.7 + white * 0.2, white * 0.1, 0))
    return pdf.make_stream(
        bytes(table), FunctionType=0, Domain=[0, 1] * 3, Range=[0, 1] * 4, Size=[2, 2, 2], BitsPerSample=8
    )


@pytest.mark.skipif(shutil.which("gs") is None, reason="no Ghostscript here")
@pytest.mark.parametrize("tint_of", [by_code, by_samples])
def test_white_in_a_mixture_of_inks_is_what_another_interpreter_separates(tmp_path, tint_of):
    read = decode(mixed_page(tmp_path / "mix.pdf", tint_of), "mix.pdf")
    assert read.white_name == "Laundry_White"
    dpi = read.white.shape[1] / 100 * 25.4
    subprocess.run(["gs", "-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=tiffsep", f"-r{dpi:.4f}", f"-sOutputFile={tmp_path / 'p.tif'}", str(tmp_path / "mix.pdf")],
                   check=True)  # fmt: skip
    (theirs,) = tmp_path.glob("*Laundry_White*.tif")
    plate = 255 - np.asarray(Image.open(theirs).convert("L"), np.float32)
    rows, columns = (min(a, b) for a, b in zip(plate.shape, read.white.shape, strict=True))
    apart = np.abs(read.white[:rows, :columns].astype(np.float32) - plate[:rows, :columns])
    assert (apart > 3).mean() < 0.002
    assert {round(float(read.white[r, c]) / 255, 1) for r, c in ((-450, 450), (-450, 1200), (-900, 2000))} == {
        1.0,
        0.5,
        0.0,
    }
    # Its colours are those of the same page with no white in it.
    bare = decode(mixed_page(tmp_path / "bare.pdf", tint_of, white=0.0, own=False), "bare.pdf").rgba
    inked = bare[..., 3] > 0
    assert np.abs(read.rgba[..., :3].astype(int) - bare[..., :3])[inked].max() <= 1
