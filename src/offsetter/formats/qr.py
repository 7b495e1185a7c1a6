"""A code as QR (ISO/IEC 18004): drawn on labels, or as SVG for a screen."""

import io

import segno
from reportlab.pdfgen.canvas import Canvas

QUIET = 2
"""Modules left free around it on a label, which is bare itself."""


def draw_qr(page: Canvas, text: str, x: float, y: float, side: float) -> None:
    """In the page's fill colour, its lower left corner at x, y, side with its quiet zone, in points."""
    rows = tuple(segno.make(text, error="m", micro=False, boost_error=False).matrix)
    module = side / (len(rows) + 2 * QUIET)
    path = page.beginPath()
    for down, row in enumerate(rows):
        for across, dark in enumerate(row):
            if dark:
                path.rect(x + (across + QUIET) * module, y + side - (down + QUIET + 1) * module, module, module)
    page.drawPath(path, stroke=0, fill=1)


def qr_svg(text: str) -> bytes:
    out = io.BytesIO()
    segno.make(text, error="m", micro=False).save(out, kind="svg", border=4, xmldecl=False, light="#fff")
    return out.getvalue()
