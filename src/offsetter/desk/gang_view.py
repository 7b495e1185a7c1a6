"""A shared sheet as it is looked at: what lies on it, what it takes and saves."""

from datetime import datetime
from decimal import Decimal

from offsetter.core.compute import gang
from offsetter.core.compute.cost import media_money
from offsetter.core.compute.gang import GangPiece, Laid, Room, Turns
from offsetter.core.compute.sheet import Points, RunLayout, turned_box
from offsetter.core.facts import Shop
from offsetter.core.gang import GangLot, GangSheet, ToLay
from offsetter.core.remaining import WorkLeft
from offsetter.core.sentences import say
from offsetter.core.standing import JobStanding
from offsetter.core.values import Frozen


class LotView(Frozen):
    """Prints of a job that are alike, on a sheet or ready for one."""

    job: str
    print: str
    slot: str
    title: str
    customer: str
    due: datetime
    name: str
    copies: int
    width_um: int
    height_um: int
    waits: str = ""
    """What it waits for; empty: it can be laid."""
    unseen: str = ""
    """The first station that nobody has looked at yet."""


class OnSheet(LotView):
    turns: Turns
    """The angles that the search may lay it at."""
    wanted: int
    """How many are still to print."""
    picture: str | None
    """As it comes out of the printer."""
    late: str = ""
    """What waiting for the whole sheet makes of its due time, in words."""


class BedView(Frozen):
    """What may lie on one run: one printer, mode, medium, cure and profile."""

    id: str
    method: str
    printer: str
    mode: str
    medium: str
    lots: tuple[LotView, ...]


class SheetBrief(Frozen):
    id: str
    printer: str
    method: str
    titles: tuple[str, ...]
    prints: int
    length_um: int
    sheet_um: int


class Beds(Frozen):
    ready: tuple[BedView, ...]
    open: tuple[SheetBrief, ...]


class PieceView(Frozen):
    id: str
    lot: int
    number: int
    cut: int
    x_um: int
    y_um: int
    width_um: int
    """As it lies."""
    height_um: int
    turned: bool
    pinned: bool
    half: bool
    """By half a turn besides."""
    slant: int
    """By so many degrees besides, against the clock."""
    outline: Points
    """With its label, as it lies, from the print's lower left corner; empty: its box, the label's strip below it."""


class SheetView(Frozen):
    id: str
    revision: int
    method: str
    printer: str
    medium: str
    mirrored: bool
    room: Room
    lots: tuple[OnSheet, ...]
    more: tuple[LotView, ...]
    """Ready, and could lie here too."""
    pieces: tuple[PieceView, ...]
    cut_lengths_um: tuple[int, ...]
    length_um: int
    bound_um: int
    """No layout is shorter."""
    alone_um: int
    """What the jobs take each by itself, in rows."""
    waste_share: float
    saved: Decimal
    """Of the medium's price, against each by itself."""
    currency: str
    minutes: int
    """At the printer."""
    is_searching: bool
    by_hand: bool
    problems: tuple[str, ...]
    """What keeps it from being released."""
    plates_key: str
    plates_ready: bool


class Tried(Frozen):
    """Where a moved print would lie, and why not."""

    x_um: int
    y_um: int
    refused: str


def named_of(shop: Shop, lot: ToLay) -> dict[str, str]:
    printer, method = shop.printers[lot.printer], shop.methods[lot.method]
    mode = next((m for m in printer.modes if m.id == lot.mode), printer.modes[0])
    return {"method": method.name, "printer": printer.name, "mode": mode.name, "medium": method.medium}


def lot_view(told: JobStanding, lot: ToLay) -> LotView:
    return LotView(
        job=told.id, print=lot.print, slot=lot.slot, title=told.title, customer=told.customer, due=told.due, name=lot.name, copies=lot.copies,
        width_um=lot.width_um, height_um=lot.height_um, waits=lot.waits, unseen=lot.unseen,
    )  # fmt: skip


def on_sheet(lot: GangLot, told: JobStanding | None, now: ToLay | None, picture: str | None, late: str) -> OnSheet:
    return OnSheet(
        job=lot.job, print=lot.print, slot=lot.slot, title=told.title if told else say("a job that ended"), customer=told.customer if told else "",
        due=told.due if told else datetime.max, name=now.name if now else "", copies=lot.copies, width_um=lot.width_um, height_um=lot.height_um,
        waits=now.waits if now else "", unseen=now.unseen if now else "", wanted=now.copies if now else 0,
        picture=f"/api/pictures/{picture}/carrier.png" if picture else None, late=late, turns=lot.turns,
    )  # fmt: skip


def brief_of(shop: Shop, sheet: GangSheet, rows: list[tuple[JobStanding, WorkLeft]], titles: dict[str, str]) -> SheetBrief:  # fmt: skip
    one = next((t for _, w in rows for t in w.to_lay if t.bed == sheet.bed), None)
    named = named_of(shop, one) if one else {"printer": "", "method": ""}
    lengths = gang.lengths_um(sheet.laid, {p.id: p for p in sheet.pieces}, sheet.room)
    return SheetBrief(
        id=sheet.id, printer=named["printer"], method=named["method"], titles=tuple(dict.fromkeys(titles.get(lot.job, say("a job that ended")) for lot in sheet.lots)),
        prints=sum(lot.copies for lot in sheet.lots), length_um=sum(lengths), sheet_um=sheet.room.sheet_um,
    )  # fmt: skip


def piece_view(sheet: GangSheet, piece: GangPiece, laid: Laid) -> PieceView:
    wide, high = turned_box(piece.width_um, piece.height_um, laid.angle)
    return PieceView(
        id=laid.id, lot=sheet.lot_of(laid.id), number=int(laid.id.rsplit("~", 1)[1]), cut=laid.cut, x_um=laid.x_um, y_um=laid.y_um, width_um=wide, height_um=high,
        turned=laid.turned, pinned=laid.pinned, half=laid.half, slant=laid.slant, outline=gang.shape_um(piece, sheet.room, laid.angle),
    )  # fmt: skip


def minutes_of(length_um: int, room: Room, m2_per_h: float) -> int:
    return -(-round(length_um / 1e6 * room.printable_um / 1e6 / m2_per_h * 6000) // 100)


def medium_price(shop: Shop, printer: str, method: str, length_um: int, room: Room) -> Decimal:
    feed = shop.printers[printer].feed(method)
    if feed is None:
        return Decimal(0)
    lengths = (room.sheet_um,) * round(length_um / room.sheet_um) if room.sheet_um else (length_um,)
    as_laid = RunLayout(
        media_um=room.media_um, printable_um=room.printable_um, sorts=(), across=1, rows_per_cut=1, cut_lengths_um=lengths, places=(), label_um=room.label_um,
        length_um=length_um, waste_share=0, grid_length_um=0, sheet_um=room.sheet_um,
    )  # fmt: skip
    return media_money(as_laid, feed, shop.prices)
