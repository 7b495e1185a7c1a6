"""What every page of ours writes with."""

from reportlab.lib.colors import HexColor
from reportlab.pdfgen.canvas import Canvas

from offsetter.formats.reader import for_reader
from offsetter.formats.typeface import settable, use_font, wide_pt

INK, SOFT = HexColor("#1B2124"), HexColor("#5B666B")


def write(page: Canvas, x: float, y: float, text: str, size: float, colour: HexColor = INK) -> None:
    """Text from x onwards; letters that the typeface lacks are brought to ones that it has."""
    page.setFillColor(colour)
    page.setFont(use_font(), size)
    page.drawString(x, y, settable(text))


def write_right(page: Canvas, x: float, y: float, text: str, size: float, colour: HexColor = INK) -> None:
    """Text that ends at x."""
    page.setFillColor(colour)
    page.setFont(use_font(), size)
    page.drawRightString(x, y, settable(text))


def wrapped(text: str, wide_pts: float, size: float) -> list[str]:
    """The text in lines that fit."""
    lines, line = [], ""
    for word in for_reader(text).split():
        tried = f"{line} {word}".strip()
        if wide_pt(tried, size) > wide_pts and line:
            lines.append(line)
            tried = word
        line = tried
    return [*lines, line] if line else lines
