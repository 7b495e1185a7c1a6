"""What every page of ours writes with."""

from reportlab.lib.colors import HexColor
from reportlab.pdfgen.canvas import Canvas

from offsetter.formats.typeface import settable, use_font

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
