"""A quotation as PDF: what the customer gets, at which quantities, for how much, until when."""

import io
from datetime import date
from decimal import Decimal

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.sentences import a_day, say
from offsetter.core.values import Frozen
from offsetter.formats.page import INK, SOFT, wrapped, write, write_right
from offsetter.formats.reader import for_reader

PICTURES_MM = 70.0
ROW_MM = 7.0


class QuotedRow(Frozen):
    quantity: int
    is_ordered: bool
    each: Decimal
    whole: Decimal


class QuotedThing(Frozen):
    """One blank of the order with its prints, at several quantities."""

    what: str
    prints: tuple[str, ...]
    rows: tuple[QuotedRow, ...]


class Quotation(Frozen):
    shop: str
    title: str
    customer: str
    made: date
    until: date
    due: date
    currency: str
    things: tuple[QuotedThing, ...]
    pictures: tuple[tuple[bytes, float, float], ...]
    """PNG of each print on its cloth, with its width and height in mm."""


def write_quotation(told: Quotation) -> bytes:
    """One A4 page, more where the order has many blanks."""
    out = io.BytesIO()
    page = Canvas(out, pagesize=A4, invariant=1)
    page.setTitle(for_reader(say("Quotation: {title}", title=told.title)))
    wide, high = A4
    left, right, y = 20 * mm, wide - 20 * mm, high - 24 * mm
    write(page, left, y, say("Quotation"), 18)
    write_right(page, right, y, told.shop, 11)
    y -= 9 * mm
    write(page, left, y, say("{title}, for {customer}", title=told.title, customer=told.customer), 12)
    write_right(page, right, y, a_day(told.made, "full"), 10, SOFT)
    y = _pictures(page, told, left, right, y - 8 * mm)
    for thing in told.things:
        if y < (60 + ROW_MM * len(thing.rows)) * mm:
            page.showPage()
            y = high - 24 * mm
        y = _thing(page, thing, told.currency, left, right, y)
    for text in (
        say(
            "Valid until {until}. Ready by {due} if the order is given in time.",
            until=a_day(told.until, "full"),
            due=a_day(told.due, "full"),
        ),
        say("Printed pieces may differ a little from what a screen or paper shows of them."),
        say("Ordered (quantity, name, date, signature):  ________________________________________"),
    ):
        y -= 8 * mm
        for at, line in enumerate(wrapped(text, right - left, 10)):
            y -= 5 * mm if at else 0
            write(page, left, y, line, 10)
    page.save()
    return out.getvalue()


def _pictures(page: Canvas, told: Quotation, left: float, right: float, y: float) -> float:
    """Side by side, to one scale."""
    if not told.pictures:
        return y
    room = (right - left) / mm
    gap = 6.0
    scale = min(
        PICTURES_MM / max(h for _, _, h in told.pictures), (room - gap * (len(told.pictures) - 1)) / sum(w for _, w, _ in told.pictures)
    )  # fmt: skip
    x = left
    for data, w, h in told.pictures:
        page.drawImage(
            ImageReader(io.BytesIO(data)), x, y - h * scale * mm, w * scale * mm, h * scale * mm, mask="auto"
        )
        x += (w * scale + gap) * mm
    return float(y - max(h for _, _, h in told.pictures) * scale * mm - 12 * mm)


def _thing(page: Canvas, thing: QuotedThing, currency: str, left: float, right: float, y: float) -> float:
    write(page, left, y, thing.what, 12)
    y -= 5.5 * mm
    write(page, left, y, "; ".join(thing.prints), 9, SOFT)
    y -= 8 * mm
    columns = (left + 30 * mm, left + 90 * mm, right)
    for x, head in zip(
        columns,
        (say("pieces"), say("{currency} a piece", currency=currency), say("{currency} in all", currency=currency)),
        strict=True,
    ):
        write_right(page, x, y, head, 9, SOFT)
    page.setStrokeColor(INK)
    for row in thing.rows:
        y -= ROW_MM * mm
        page.setLineWidth(0.3)
        page.line(left, y + 5 * mm, right, y + 5 * mm)
        for x, cell in zip(columns, (str(row.quantity), f"{row.each:.2f}", f"{row.whole:.2f}"), strict=True):
            write_right(page, x, y, cell, 11 if row.is_ordered else 10)
        if row.is_ordered:
            write(page, columns[0] + 3 * mm, y, say("as asked for"), 9, SOFT)
    return float(y - 10 * mm)
