"""The day as paper: for each pair of hands what to do when, to be pinned up beside the press."""

import io
from datetime import datetime

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.sentences import a_day, say
from offsetter.core.values import Frozen
from offsetter.formats.page import INK, SOFT, write, write_right
from offsetter.formats.reader import for_reader

ROW_MM = 9.0
LAST_MM = 24.0


class SheetRow(Frozen):
    begins: datetime
    ends: datetime
    what: str
    whose: str
    """The job's title."""
    where: str
    runs_until: datetime | None = None
    """It goes on by itself until then."""


class HandsSheet(Frozen):
    name: str
    rows: tuple[SheetRow, ...]


def write_day(shop: str, verdict: str, made: datetime, sheets: tuple[HandsSheet, ...]) -> bytes:
    """A page for each pair of hands, more where they have much to do."""
    out = io.BytesIO()
    page = Canvas(out, pagesize=A4, invariant=1)
    page.setTitle(for_reader(say("The day: {verdict}", verdict=verdict)))
    for sheet in sheets:
        _hands(page, shop, verdict, made, sheet)
    page.save()
    return out.getvalue()


def _hands(page: Canvas, shop: str, verdict: str, made: datetime, sheet: HandsSheet) -> None:
    wide, high = A4
    left, right = 18 * mm, wide - 18 * mm

    def head() -> float:
        y = high - 20 * mm
        write(page, left, y, sheet.name, 18)
        write_right(
            page,
            right,
            y,
            say("{shop}, planned {day} {clock}", shop=shop, day=a_day(made, "full"), clock=f"{made:%H:%M}"),
            9,
            SOFT,
        )
        write(page, left, y - 7 * mm, verdict, 10, SOFT)
        return float(y - 18 * mm)

    y, day = head(), None
    for row in sheet.rows:
        if y < LAST_MM * mm:
            page.showPage()
            y = head()
        if row.begins.date() != day:
            day = row.begins.date()
            write(page, left, y, f"{a_day(row.begins, 'weekday')} {a_day(row.begins, 'long')}", 11, SOFT)
            y -= ROW_MM * mm
        page.setStrokeColor(INK)
        page.setLineWidth(0.3)
        page.line(left, y + 6.4 * mm, right, y + 6.4 * mm)
        page.rect(left, y - 0.4 * mm, 4 * mm, 4 * mm)
        write(page, left + 7 * mm, y, f"{row.begins:%H:%M}", 12)
        write(page, left + 22 * mm, y, row.what, 12)
        write(page, left + 22 * mm, y - 3.8 * mm, row.whose, 8, SOFT)
        told = (
            say("until {clock}", clock=f"{row.ends:%H:%M}")
            if row.runs_until is None
            else say("then by itself until {clock}", clock=f"{row.runs_until:%H:%M}")
        )
        write_right(page, right, y, row.where, 10)
        write_right(page, right, y - 3.8 * mm, told, 8, SOFT)
        y -= (ROW_MM + 2) * mm
    if not sheet.rows:
        write(page, left, y, say("Nothing is planned for these hands."), 12)
    page.showPage()
