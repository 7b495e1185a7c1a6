"""A page that settles which side of a sheet a printer prints, and which edge goes in first."""

from pathlib import Path

from reportlab.pdfgen.canvas import Canvas

from offsetter.core.sentences import say
from offsetter.formats.typeface import settable, use_font

POINTS_PER_MM = 72 / 25.4
WIDTH_MM, HEIGHT_MM = 100.0, 100.0


def write_face_test(path: Path, tray: str) -> None:
    """tray: as a person calls it."""
    page = Canvas(str(path), pagesize=(WIDTH_MM * POINTS_PER_MM, HEIGHT_MM * POINTS_PER_MM), invariant=1)
    middle = WIDTH_MM / 2 * POINTS_PER_MM
    page.setFillColorCMYK(0, 0, 0, 1)
    page.setFont(use_font(), 17)
    page.drawCentredString(middle, 62 * POINTS_PER_MM, settable(say("THIS SIDE WAS PRINTED")))
    page.setFont(use_font(), 10)
    page.drawCentredString(middle, 52 * POINTS_PER_MM, settable(say("from {tray}", tray=tray)))
    page.drawCentredString(middle, 42 * POINTS_PER_MM, settable(say("Is your mark on this side, or on the back?")))
    arrow = page.beginPath()
    for at, (x, y) in enumerate(((50, 92), (42, 78), (58, 78))):
        (arrow.lineTo if at else arrow.moveTo)(x * POINTS_PER_MM, y * POINTS_PER_MM)
    arrow.close()
    page.drawPath(arrow, stroke=0, fill=1)
    page.drawCentredString(middle, 71 * POINTS_PER_MM, settable(say("top of the page")))
    page.showPage()
    page.save()
