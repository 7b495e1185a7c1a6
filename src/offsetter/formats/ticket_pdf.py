"""The job ticket as PDF: what lies beside the work when no screen does. A page a print: the piece to scale, what prints it and how it is
loaded, its values with their stacks, boxes for a pen, and a code that opens the job."""

import io

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.facts import Stage
from offsetter.core.quantities import a_size
from offsetter.core.sentences import say
from offsetter.core.values import Frozen
from offsetter.formats.page import INK, SOFT, wrapped, write, write_right
from offsetter.formats.proof_pdf import ProofPrint, draw_piece
from offsetter.formats.qr import draw_qr
from offsetter.formats.reader import for_reader
from offsetter.formats.recipe_pdf import draw_stage, needs_mm

HAIR = HexColor("#C9C1B1")
LEFT, RIGHT = 18 * mm, 192 * mm
PIECE_MM = (78.0, 74.0)
BOXES = (say("printed"), say("prepared"), say("pressed"), say("good"), say("spoiled"))
ROWS = 14
"""Of sizes and names on one page; more are counted on the screen."""


class TicketPrint(Frozen):
    proof: ProofPrint
    heading: str
    """Which of the piece's prints, and how the piece is turned for it."""
    said: tuple[tuple[str, str], ...]
    """What a hand sets or looks for: name and value."""
    load: tuple[str, ...]
    """What goes in which tray, in order."""
    counts: tuple[tuple[str, int], ...]
    """What takes it and how many."""
    stages: tuple[Stage, ...]


class Ticket(Frozen):
    title: str
    customer: str
    due: str
    pieces: str
    code: str
    shop: str
    note: str
    """Why it may not be worked on now; empty: it may."""
    prints: tuple[TicketPrint, ...]


def write_ticket(ticket: Ticket) -> bytes:
    """A4; a stage that does not fit goes to a page of its own."""
    out = io.BytesIO()
    page = Canvas(out, pagesize=A4, invariant=1)
    page.setTitle(for_reader(say("Ticket: {title}", title=ticket.title)))
    for one in ticket.prints:
        _stages(page, ticket, one, _top(page, ticket, one))
        page.showPage()
    page.save()
    return out.getvalue()


def _head(page: Canvas, ticket: Ticket) -> float:
    high = A4[1]
    page.setFillColor(INK)
    draw_qr(page, ticket.code, RIGHT - 24 * mm, high - 37 * mm, 24 * mm)
    write(page, LEFT, high - 20 * mm, ticket.title, 20)
    write(page, LEFT, high - 27 * mm, f"{ticket.customer} · {ticket.pieces}", 11)
    write(page, LEFT, high - 35 * mm, say("Due {due}", due=ticket.due), 14)
    write_right(page, RIGHT - 26 * mm, high - 35 * mm, ticket.code, 8, SOFT)
    if ticket.note:
        write(page, LEFT, high - 41 * mm, ticket.note, 11, HexColor("#A8400F"))
    write(
        page,
        LEFT,
        10 * mm,
        say("{shop} · the screen knows what changed since this was printed", shop=ticket.shop),
        8,
        SOFT,
    )
    return float(high - 46 * mm)


def _top(page: Canvas, ticket: Ticket, one: TicketPrint) -> float:
    top = _head(page, ticket)
    page.setStrokeColor(HAIR)
    page.line(LEFT, top + 4 * mm, RIGHT, top + 4 * mm)
    write(page, LEFT, top - 2 * mm, one.heading, 12)
    drawn = draw_piece(page, one.proof, (LEFT, top - 6 * mm), PIECE_MM)
    for line in wrapped(
        f"{a_size(one.proof.box_mm[2], one.proof.box_mm[3])}, {one.proof.placing}", PIECE_MM[0] * mm, 9
    ):
        drawn -= 4.4 * mm
        write(page, LEFT, drawn, line, 9)
    x, y = LEFT + (PIECE_MM[0] + 8) * mm, top - 8 * mm
    for name, value in one.said:
        write(page, x, y, name, 9, SOFT)
        for line in wrapped(value, RIGHT - x - 26 * mm, 9.5):
            write(page, x + 26 * mm, y, line, 9.5)
            y -= 4.6 * mm
        y -= 0.8 * mm
    for number, step in enumerate(one.load, 1):
        for i, line in enumerate(wrapped(step, RIGHT - x - 6 * mm, 9.5)):
            if not i:
                write(page, x, y, f"{number}", 9.5, SOFT)
            write(page, x + 6 * mm, y, line, 9.5)
            y -= 4.6 * mm
    return _counts(page, one, min(drawn - 7 * mm, y - 2 * mm))


def _counts(page: Canvas, one: TicketPrint, at: float) -> float:
    """What was ordered, and boxes that a pen fills."""
    column = (RIGHT - LEFT - 78 * mm) / len(BOXES)
    first = LEFT + 78 * mm
    write_right(page, first - 3 * mm, at, say("ordered"), 8.5, SOFT)
    for i, name in enumerate(BOXES):
        write(page, first + i * column + 1 * mm, at, name, 8.5, SOFT)
    page.setStrokeColor(HAIR)
    page.setLineWidth(0.6)
    for what, count in one.counts[:ROWS]:
        at -= 6.4 * mm
        write(page, LEFT, at, what, 10)
        write_right(page, first - 3 * mm, at, str(count), 11)
        for i in range(len(BOXES)):
            page.rect(first + i * column, at - 1.6 * mm, column - 2 * mm, 5.6 * mm, stroke=1, fill=0)
    if len(one.counts) > ROWS:
        at -= 6 * mm
        write(page, LEFT, at, say("and {more} more: count them on the screen", more=len(one.counts) - ROWS), 9, SOFT)
    return float(at - 9 * mm)


def _stages(page: Canvas, ticket: Ticket, one: TicketPrint, at: float) -> None:
    for number, stage in enumerate(one.stages, 1):
        if at - needs_mm(stage) * mm < 16 * mm:
            page.showPage()
            at = _head(page, ticket)
        draw_stage(page, stage, number, at)
        at -= needs_mm(stage) * mm
