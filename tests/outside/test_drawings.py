"""PDF and SVG: their size against an independent renderer and known shapes; what is hostile is refused."""

import base64
import io
import json
import subprocess

import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec
from offsetter.core.facts import profile_bytes
from offsetter.core.values import Refusal
from offsetter.intake.decode import decode
from offsetter.work.runner import full_plates

SVG = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {size} viewBox="0 0 100 60">{inside}</svg>'
BAR = '<rect x="20" y="10" width="{wide}" height="40" fill="#c03020"/>'


def svg(inside: str, size: str = 'width="100mm" height="60mm"') -> bytes:
    return SVG.format(size=size, inside=inside).encode()


def pdf(pages: int = 2, spot: bool = False) -> bytes:
    data = io.BytesIO()
    page = Canvas(data, pagesize=(120 * mm, 80 * mm))
    for n in range(pages):
        page.setFillColorRGB(0.8, 0.1 * (n % 9), 0.1)
        page.rect(30 * mm, 20 * mm, (20 + 10 * n % 60) * mm, 40 * mm, stroke=0, fill=1)
        page.showPage()
    page.save()
    if not spot:
        return data.getvalue()
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(data.getvalue())) as document:
        tint = document.make_indirect(
            pikepdf.Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[0, 0.2, 0.9, 0], N=1)
        )
        document.pages[0].Resources.ColorSpace = pikepdf.Dictionary(
            CS1=pikepdf.Array([pikepdf.Name.Separation, pikepdf.Name("/Harbour Gold"), pikepdf.Name.DeviceCMYK, tint])
        )
        document.save(out)
    return out.getvalue()


def read(tmp_path, data: bytes, name: str, **asked):
    file = tmp_path / name
    file.write_bytes(data)
    return decode(file, name, **asked)


def box(alpha: np.ndarray) -> tuple[int, int, int, int]:
    rows, columns = np.flatnonzero(alpha.max(axis=1) > 127), np.flatnonzero(alpha.max(axis=0) > 127)
    return int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1


@pytest.mark.parametrize(("size", "real"), [
    ('width="100mm" height="60mm"', (100, 60)), ('width="10cm" height="6cm"', (100, 60)), ('width="2in" height="1.2in"', (50.8, 30.48)),
    ('width="96" height="57.6"', (25.4, 15.24)), ('width="72pt" height="43.2pt"', (25.4, 15.24)), ("", (26.458, 15.875)),
])  # fmt: skip
def test_a_drawings_size_is_what_it_says_by_css(tmp_path, size, real):
    # CSS Values and Units 4: 1 in = 96 px = 72 pt = 2.54 cm; a view box alone counts px.
    picture = read(tmp_path, svg(BAR.format(wide=30), size), "a.svg")
    assert picture.real_mm == pytest.approx(real, abs=0.01)
    assert box(picture.rgba[..., 3]) == (600, 300, 1500, 1500), "30 x 40 of 100 x 60, 3000 px wide"


def test_a_pages_size_and_marks_are_where_an_independent_renderer_puts_them(tmp_path):
    picture = read(tmp_path, pdf(), "a.pdf", page=2)
    assert picture.real_mm == pytest.approx((120, 80), abs=0.01)
    assert picture.pages == 2
    dpi = 3000 / 120 * 25.4
    subprocess.run(["gs", "-q", "-dNOPAUSE", "-dBATCH", "-dSAFER", "-dFirstPage=2", "-dLastPage=2", "-sDEVICE=png16m", f"-r{dpi:.3f}",
                    "-o", tmp_path / "gs.png", tmp_path / "a.pdf"], check=True)  # fmt: skip
    other = np.asarray(Image.open(tmp_path / "gs.png"))
    assert box(picture.rgba[..., 3]) == pytest.approx(box(np.where(other.min(axis=2) < 128, 255, 0)), abs=2)


def test_spot_colours_are_named_and_pages_said(tmp_path):
    notes = {n.code: n.message for n in read(tmp_path, pdf(spot=True), "a.pdf").notes}
    assert "Harbour Gold" in notes["spot-colours"]
    assert "Page 1 of 2" in notes["pages"]


def test_a_larger_print_is_drawn_anew_and_its_edges_stay_sharp(tmp_path):
    (tmp_path / "a.svg").write_bytes(svg(BAR.format(wide=30)))
    (tmp_path / "profile").write_bytes(profile_bytes())
    spec = PlateSpec(
        artwork="f",
        crop_px=(500, 300, 1600, 1500),
        width_um=300_000,
        dpi=300,
        mirrored=False,
        colour=ColourSpec(profile="p", ink_limit_pct=400),
        white=None,
    )
    full_plates({"wanted": json.dumps([{"spec": spec.model_dump_json(), "profile": str(tmp_path / "profile"), "original": str(tmp_path / "a.svg"),
                                        "name": "a.svg", "out": str(tmp_path / "out")}])}, lambda *_: None)  # fmt: skip
    planes = tifffile.imread(tmp_path / "out" / "print.tif")
    assert planes.shape[:2] == (spec.height_px, spec.width_px)
    row = planes[planes.shape[0] // 2, :, 1].astype(int)
    ramp = np.flatnonzero((row > 10) & (row < row.max() - 10))
    # Enlarged from 3000 px both edges would fade over eight dots or more; drawn anew each has two at most.
    assert 0 < len(ramp) <= 4 or set(np.unique(row)) == {0, row.max()}


def test_a_thin_bar_of_a_drawing_is_measured_in_millimetres_of_the_print(tmp_path):
    (tmp_path / "a.svg").write_bytes(
        svg('<rect x="10" y="30" width="60" height="0.4" fill="#c03020"/>' + BAR.format(wide=30))
    )
    told = json.loads(subprocess.run(
        ["./offsetter", "preflight", tmp_path / "a.svg", "--method", "film", "--width-mm", "100", "--json"], capture_output=True, check=True, text=True
    ).stdout)  # fmt: skip
    assert told["thinnest_stroke_mm"] == pytest.approx(0.4, abs=0.05)
    assert not any(f["code"] in ("coarse", "below-target") for f in told["findings"]), (
        "a drawing has no resolution of its own"
    )


def test_unknown_fonts_are_named_and_their_text_is_drawn_all_the_same(tmp_path):
    picture = read(
        tmp_path, svg('<text x="5" y="40" font-size="20" style="font-family:Gull Script, serif">Tide</text>'), "a.svg"
    )
    assert "Gull Script" in next(n.message for n in picture.notes if n.code == "font-missing")
    assert picture.rgba[..., 3].any()


def test_nothing_outside_a_drawing_is_fetched(tmp_path):
    Image.new("RGB", (60, 60), (255, 0, 0)).save(tmp_path / "secret.png")
    inside = BAR.format(wide=30) + "".join(
        f'<image {how} x="60" y="10" width="30" height="30"/>' for how in (f'href="{tmp_path}/secret.png"', 'xlink:href="secret.png"', 'href="http://127.0.0.1:9/x.png"'))  # fmt: skip
    picture = read(
        tmp_path,
        svg(inside + '<style>@import url("http://127.0.0.1:9/x.css"); rect { fill: url(file:///etc/passwd) }</style>'),
        "a.svg",
    )
    assert box(picture.rgba[..., 3])[2] <= 1500, "only the bar is drawn"
    assert "outside-reference" in {n.code for n in picture.notes}


LAUGHS = (
    '<!DOCTYPE s [<!ENTITY a "ha">'
    + "".join(f'<!ENTITY {b} "{f"&{a};" * 10}">' for a, b in zip("abcdefgh", "bcdefghi", strict=True))
    + "]>"
)
ENTITY = '<!DOCTYPE s [<!ENTITY x SYSTEM "file:///etc/passwd">]>'


def locked() -> bytes:
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(pdf())) as document:
        document.save(out, encryption=pikepdf.Encryption(owner="o", user="u"))
    return out.getvalue()


HOSTILE = {
    "an external entity": (lambda: ENTITY.encode() + svg("<text>&x;</text>"), "a.svg", "hostile-file"),
    "a billion laughs": (lambda: LAUGHS.encode() + svg("<text>&i;</text>"), "a.svg", "hostile-file"),
    "XML cut off": (lambda: svg(BAR.format(wide=30))[:-30], "a.svg", "broken-file"),
    "no size": (
        lambda: b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="3" height="3"/></svg>',
        "a.svg",
        "no-size",
    ),
    "four kilometres": (lambda: svg(BAR.format(wide=30), 'width="4000000mm" height="1mm"'), "a.svg", "no-size"),
    "an empty drawing": (lambda: svg(""), "a.svg", "nothing-visible"),
    "a password": (locked, "a.pdf", "locked"),
    "500 pages": (lambda: pdf(500), "a.pdf", "too-many-pages"),
    "a PDF cut off": (lambda: pdf()[:200], "a.pdf", "broken-file"),
    "a PDF of noise": (lambda: b"%PDF-1.7\n" + bytes(range(256)) * 40, "a.pdf", "broken-file"),
    "an empty page": (lambda: _blank(), "a.pdf", "nothing-visible"),
}


def _blank() -> bytes:
    data = io.BytesIO()
    page = Canvas(data, pagesize=(50 * mm, 50 * mm))
    page.showPage()
    page.save()
    return data.getvalue()


@pytest.mark.parametrize("what", HOSTILE)
def test_it_is_refused_in_three_parts(tmp_path, what):
    make, name, code = HOSTILE[what]
    with pytest.raises(Refusal) as refused:
        read(tmp_path, make(), name)
    assert refused.value.code == code
    assert refused.value.happened
    assert refused.value.to_do


def test_a_page_that_is_not_there(tmp_path):
    with pytest.raises(Refusal, match="has 2 pages and no page 3"):
        read(tmp_path, pdf(), "a.pdf", page=3)


def with_picture(pixels: int, placed_mm: float, *, in_form: bool = False, text: bool = True) -> bytes:
    """A page of 120 x 80 mm that holds a square picture, and some lettering beside it."""
    drawn = Image.fromarray(np.random.default_rng(4).integers(0, 256, (pixels, pixels, 3), np.uint8))
    data = io.BytesIO()
    page = Canvas(data, pagesize=(120 * mm, 80 * mm))
    if in_form:
        page.beginForm("inner")
        page.drawInlineImage(drawn, 0, 0, 10 * mm, 10 * mm)
        page.endForm()
        page.translate(20 * mm, 10 * mm)
        page.scale(placed_mm / 10, placed_mm / 10)
        page.doForm("inner")
    else:
        page.drawInlineImage(drawn, 20 * mm, 10 * mm, placed_mm * mm, placed_mm * mm)
        if text:
            page.drawString(5 * mm, 70 * mm, "Harbour")
    page.save()
    return data.getvalue()


@pytest.mark.parametrize("in_form", [False, True])
@pytest.mark.parametrize(("pixels", "placed_mm"), [(60, 60.0), (600, 50.8)])
def test_a_picture_placed_in_a_page_is_judged_by_its_own_pixels(tmp_path, pixels, placed_mm, in_form):
    """60 pixels over 60 mm are 25.4 an inch, 600 over two inches 300: arithmetic alone."""
    path = tmp_path / "art.pdf"
    path.write_bytes(with_picture(pixels, placed_mm, in_form=in_form))
    assert decode(path, "art.pdf").raster_ppi == pytest.approx(pixels / placed_mm * 25.4, rel=1e-3)


def test_a_drawing_through_and_through_holds_no_picture(tmp_path):
    for name, data in (("a.pdf", pdf()), ("a.svg", svg(BAR.format(wide=30)))):
        (tmp_path / name).write_bytes(data)
        assert decode(tmp_path / name, name).raster_ppi is None


def test_a_picture_embedded_in_an_svg_is_judged_as_it_is_placed_and_scaled(tmp_path):
    data = io.BytesIO()
    Image.new("RGB", (50, 50), (9, 80, 120)).save(data, "PNG")
    href = "data:image/png;base64," + base64.b64encode(data.getvalue()).decode()
    inside = f'<g transform="scale(2)"><image x="5" y="5" width="10" height="10" xlink:href="{href}"/></g>'
    (tmp_path / "a.svg").write_bytes(svg(inside))
    # Ten user units, twice as large, of a view box of 100 on 100 mm: 50 pixels over 20 mm.
    assert decode(tmp_path / "a.svg", "a.svg").raster_ppi == pytest.approx(50 / 20 * 25.4, rel=1e-3)
