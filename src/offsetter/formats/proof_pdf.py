"""The proof as PDF: every print on the piece as its wearer shows it, to scale, with what the customer agrees to."""

import io
import re

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.quantities import a_length, a_size
from offsetter.core.sentences import say
from offsetter.core.values import Frozen
from offsetter.formats.page import INK, SOFT, wrapped, write
from offsetter.formats.reader import for_reader

DRAWN_MM = (150.0, 150.0)


class ProofPrint(Frozen):
    name: str
    outline: str
    collar: str
    bounds_mm: tuple[float, float, float, float]
    cloth: str
    cloth_name: str
    box_mm: tuple[float, float, float, float]
    """Left, top, width, height on the piece."""
    sizes: str
    placing: str
    picture: bytes
    """PNG of the print on this cloth."""


class ProofSheet(Frozen):
    title: str
    customer: str
    shop: str
    pieces: str
    signed: str
    prints: tuple[ProofPrint, ...]


def write_proof(sheet: ProofSheet) -> bytes:
    """One A4 page a print."""
    out = io.BytesIO()
    page = Canvas(out, pagesize=A4, invariant=1)
    page.setTitle(for_reader(_title(sheet)))
    for one in sheet.prints:
        _page(page, sheet, one)
        page.showPage()
    page.save()
    return out.getvalue()


def _page(page: Canvas, sheet: ProofSheet, one: ProofPrint) -> None:
    wide, high = A4
    write(page, 20 * mm, high - 22 * mm, _title(sheet), 16)
    write(page, 20 * mm, high - 29 * mm, f"{sheet.customer} · {sheet.pieces}", 10, SOFT)
    write(
        page,
        20 * mm,
        high - 35 * mm,
        say("{name}, on {cloth_name}", name=one.name, cloth_name=one.cloth_name) + f" · {one.sizes}",
        10,
        SOFT,
    )
    left, _, right, _ = one.bounds_mm
    scale = piece_scale(one, DRAWN_MM)
    draw_piece(page, one, (wide / 2 - (right - left) / 2 * scale * mm, high - 45 * mm), DRAWN_MM)
    w, h = one.box_mm[2:]
    at = high - 45 * mm - DRAWN_MM[1] * mm - 12 * mm
    bar = 50 * scale * mm
    page.setStrokeColor(INK)
    page.line(20 * mm, at, 20 * mm + bar, at)
    write(
        page,
        20 * mm + bar + 2 * mm,
        at - 1 * mm,
        say("{bar} on the piece (drawn 1 : {scale})", bar=a_length(50), scale=f"{1 / scale:.1f}"),
        9,
        SOFT,
    )
    said = (
        say("The print is {size}, {placing}.", size=a_size(w, h), placing=one.placing),
        say(
            "Colours are shown as they are reckoned to look on this cloth; a screen or paper print differs from the piece."
        ),
        say("Please read every word and number, and say yes only if all of it is right."),
        sheet.signed or say("Agreed by (name, date, signature):  ______________________________________________"),
    )
    at -= 10 * mm
    for i, text in enumerate(said):
        at -= 6 * mm if i == len(said) - 1 else 0
        for line in wrapped(text, wide - 40 * mm, 10):
            write(page, 20 * mm, at, line, 10)
            at -= 5 * mm
        at -= 2 * mm
    write(page, 20 * mm, 14 * mm, sheet.shop, 9, SOFT)


def _title(sheet: ProofSheet) -> str:
    return say("Proof: {title}", title=sheet.title)


def piece_scale(one: ProofPrint, room_mm: tuple[float, float]) -> float:
    """How much smaller than it is the piece is drawn in such a room."""
    left, top, right, bottom = one.bounds_mm
    return min(room_mm[0] / (right - left), room_mm[1] / (bottom - top))


def draw_piece(page: Canvas, one: ProofPrint, at: tuple[float, float], room_mm: tuple[float, float]) -> float:
    """The piece with its print to scale, its left upper corner at a point of the page; gives where it ends below."""
    left, top, _, bottom = one.bounds_mm
    scale = piece_scale(one, room_mm)
    page.saveState()
    page.translate(at[0] - left * scale * mm, at[1] + top * scale * mm)
    page.scale(scale * mm, -scale * mm)  # millimetres of the piece, downwards
    page.setLineWidth(0.6 / scale)
    page.setStrokeColor(HexColor("#8A9499"))
    page.setFillColor(HexColor(one.cloth))
    _path(page, one.outline, fill=1)
    _path(page, one.collar, fill=0)
    x, y, w, h = one.box_mm
    page.translate(x, y + h)
    page.scale(1, -1)
    page.drawImage(ImageReader(io.BytesIO(one.picture)), 0, 0, w, h, mask="auto")
    page.restoreState()
    return float(at[1] - (bottom - top) * scale * mm)


def _path(page: Canvas, said: str, *, fill: int) -> None:
    """An SVG path of M, L, C and Z, as our garments are drawn."""
    path = page.beginPath()
    for command, numbers in re.findall(r"([MLCZ])([^MLCZ]*)", said):
        v = [float(n) for n in numbers.split()]
        if command == "M":
            path.moveTo(*v)
        elif command == "L":
            path.lineTo(*v)
        elif command == "C":
            path.curveTo(*v)
        else:
            path.close()
    page.drawPath(path, stroke=1, fill=fill)
