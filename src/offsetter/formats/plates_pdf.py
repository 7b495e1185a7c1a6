"""Plates as PDF with a spot colour named White that overprints; one print, or a whole run a cut length a page."""

from dataclasses import dataclass
from pathlib import Path

import imagecodecs
import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Array, Dictionary, Name, Stream

from offsetter.core.compute.sheet import RunLayout

POINTS_PER_MM = 72 / 25.4
WHITE_ON_SCREEN = [0.25, 0.0, 0.0, 0.0]
LABEL_SIZE_PT = 8
HELVETICA_MEAN_EM = 0.52  # mean advance of mixed text: enough to keep a label inside its print's width


@dataclass(frozen=True, slots=True)
class RunLabels:
    title: str
    run: str


def write_pdf(path: Path, planes: NDArray[np.uint8], width_mm: float, height_mm: float) -> None:
    """One page, exactly as large as the print."""
    pdf = pikepdf.new()
    print_form = _form(pdf, planes, width_mm, height_mm)
    page = pdf.add_blank_page(page_size=(width_mm * POINTS_PER_MM, height_mm * POINTS_PER_MM))
    page.Resources = Dictionary(XObject=Dictionary(Print=print_form))
    page.Contents = Stream(pdf, b"/Print Do")
    pdf.save(path, compress_streams=False)


def write_run_pdf(path: Path, planes: NDArray[np.uint8], layout: RunLayout, labels: RunLabels) -> None:
    """A page a cut length, as wide as the roll; every place draws the same print, its label under it."""
    pdf = pikepdf.new()
    turned = layout.places[0].turned
    width_mm, height_mm = layout.width_um / 1000, layout.height_um / 1000
    if turned:
        planes = np.ascontiguousarray(np.rot90(planes))
    print_form = _form(pdf, planes, width_mm, height_mm)
    font = Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica, Encoding=Name.WinAnsiEncoding)
    cuts, copies = len(layout.cut_lengths_um), len(layout.places)
    for cut, length_um in enumerate(layout.cut_lengths_um, 1):
        page = pdf.add_blank_page(page_size=(layout.media_um / 1000 * POINTS_PER_MM, length_um / 1000 * POINTS_PER_MM))
        page.Resources = Dictionary(XObject=Dictionary(Print=print_form), Font=Dictionary(F=font))
        drawn = []
        for place in (p for p in layout.places if p.cut == cut):
            x, y = place.x_um / 1000 * POINTS_PER_MM, place.y_um / 1000 * POINTS_PER_MM
            said = (
                f"{labels.title} · {labels.run} · {place.number} of {copies} · length {cut} of {cuts} · hem this side"
            )
            size = min(LABEL_SIZE_PT, width_mm * POINTS_PER_MM / (len(said) * HELVETICA_MEAN_EM))
            drawn.append(f"q 1 0 0 1 {x:.4f} {y:.4f} cm /Print Do Q")
            # Black only, beside the picture: cut away, so it needs neither mirror nor white.
            drawn.append(f"BT /F {size:.2f} Tf 0 0 0 1 k {x:.4f} {y - 14:.4f} Td ({_escaped(said)}) Tj ET")
        page.Contents = Stream(pdf, "\n".join(drawn).encode("cp1252", "replace"))
    pdf.save(path, compress_streams=False)


def _form(pdf: pikepdf.Pdf, planes: NDArray[np.uint8], width_mm: float, height_mm: float) -> pikepdf.Object:
    wide, high = width_mm * POINTS_PER_MM, height_mm * POINTS_PER_MM
    images = Dictionary(Colour=_image(pdf, planes[..., :4], Name.DeviceCMYK))
    content = [f"q {wide:.5f} 0 0 {high:.5f} 0 0 cm /Colour Do Q"]
    if planes.shape[2] == 5:
        tint = Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=WHITE_ON_SCREEN, N=1)
        space = Array([Name.Separation, Name.White, Name.DeviceCMYK, tint])
        images.White = _image(pdf, planes[..., 4], space)
        content.append(f"q /Over gs {wide:.5f} 0 0 {high:.5f} 0 0 cm /White Do Q")
    over = Dictionary(Type=Name.ExtGState, OP=True, op=True, OPM=1)
    form = Stream(
        pdf, "\n".join(content).encode(), Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, wide, high],
        Resources=Dictionary(XObject=images, ExtGState=Dictionary(Over=over)),
    )  # fmt: skip
    return pdf.make_indirect(form)


def _image(pdf: pikepdf.Pdf, samples: NDArray[np.uint8], space: pikepdf.Object) -> pikepdf.Object:
    rows, columns = samples.shape[:2]
    packed = bytes(imagecodecs.zlib_encode(np.ascontiguousarray(samples).tobytes(), level=1))
    return pdf.make_indirect(Stream(
        pdf, packed, Type=Name.XObject, Subtype=Name.Image, Width=columns, Height=rows, BitsPerComponent=8,
        ColorSpace=space, Filter=Name.FlateDecode,
    ))  # fmt: skip


def _escaped(text: str) -> str:
    return text.replace("\\", r"\\").replace("(", r"\(").replace(")", r"\)")
