"""Runs that carry prints of several jobs: what can be laid together, and the sheet that somebody makes of it."""

from typing import Annotated

from pydantic import Field

from offsetter.core import derive
from offsetter.core.compute.gang import GangPiece, Laid, Room, Turns
from offsetter.core.compute.sheet import Points
from offsetter.core.context import Context
from offsetter.core.line import Line
from offsetter.core.values import Frozen, digest

MOST_LOTS = 200
"""Of names each is a lot of its own."""
SETTLED = ("order", "method", "artwork", "colour", "white")
"""Stations at which nothing may wait for a person before a print is laid with others'."""


class ToLay(Frozen):
    """Prints of a job that are alike and still to be printed, spares with them."""

    print: str
    slot: str
    """The first of those that take it."""
    name: str
    width_um: int
    height_um: int
    copies: int
    bed: str
    """What prints and cures it: only what has the same may lie on one run."""
    method: str
    printer: str
    mode: str
    media: str
    waits: str = ""
    """What it waits for; empty: it can be laid."""
    unseen: str = ""
    """The first station that has found nothing, and that nobody has looked at yet; empty: all were."""
    is_laid: bool = False
    """It lies on a released run that is not printed."""


class GangLot(Frozen):
    job: str = Field(pattern=r"^[A-Za-z0-9]{4,40}$")
    print: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    slot: str = Field(min_length=1, max_length=80)
    copies: int = Field(ge=1, le=500)
    width_um: int = Field(0, ge=0, le=5_000_000)
    """As it was laid; 0: not yet."""
    height_um: int = Field(0, ge=0, le=5_000_000)
    turns: Turns = "90"
    outline: Annotated[Points, Field(max_length=400)] = ()
    """Round what is inked of it, as it is printed; empty: its box."""

    @property
    def key(self) -> tuple[str, str, str]:
        return self.job, self.print, self.slot


class GangSheet(Frozen):
    """A sheet that several jobs share, until it is released or given up."""

    id: str
    bed: str
    lots: Annotated[tuple[GangLot, ...], Field(min_length=1, max_length=MOST_LOTS)]
    room: Room
    laid: tuple[Laid, ...] = ()
    by_hand: bool = False
    """Somebody moved a print since it was laid: the search lets it be."""
    revision: int = 0
    made_by: str = ""

    @property
    def pieces(self) -> tuple[GangPiece, ...]:
        return tuple(p for lot in self.lots for p in pieces_of(lot))

    @property
    def pinned(self) -> tuple[Laid, ...]:
        return tuple(p for p in self.laid if p.pinned)

    def lot_of(self, piece: str) -> int:
        """Which of its lots a print belongs to."""
        whose = piece.rsplit("~", 1)[0]
        return next(i for i, lot in enumerate(self.lots) if "/".join(lot.key) == whose)


def piece_id(lot: GangLot, number: int) -> str:
    """Of one print on the sheet. number: from 1."""
    return f"{'/'.join(lot.key)}~{number}"


def pieces_of(lot: GangLot) -> tuple[GangPiece, ...]:
    return tuple(
        GangPiece(
            id=piece_id(lot, n), width_um=lot.width_um, height_um=lot.height_um, turns=lot.turns, outline=lot.outline
        )
        for n in range(1, lot.copies + 1)
    )


def bed_of(ctx: Context) -> str:
    """The hash of what all prints on one run must share: printer, mode, medium, cure, profile, and whether there is white and a cut.

    How strong the white is, and how far it is pulled in, lies in each print's own plates and may differ.
    """
    way = ctx.gone
    hovers = way.press if ctx.cures_in == "press" else ""
    stages = tuple((s.id, s.temperature_c, s.time_s) for s in ctx.after_print)
    return digest(
        "bed", way.method, way.printer, way.mode, ctx.feed.media, way.oven, hovers, stages, way.profile, way.calibration, ctx.spec.mirrored,
        ctx.spec.white is not None, ctx.spec.white_first, ctx.variant is not None and ctx.variant.cut is not None,
    )  # fmt: skip


def lots_of(ctx: Context, line: Line) -> tuple[ToLay, ...]:
    """Of one print of a job: what of it the next run would carry. What is printed on the garment itself lies beside nothing."""
    if ctx.way is None or not ctx.has_picture or ctx.layout is None or ctx.feed.kind == "garment":
        return ()
    if ctx.stands[0] != "open" or not ctx.ledger.to_print:
        return ()
    before = [s for s in line.stations if s.station in SETTLED]
    waits = next((s.name for s in before if s.state not in ("done", "not needed", "ready")), "")
    unseen = next((s.name for s in before if s.state == "ready"), "")
    blocked = next((s.name for s in line.stations if s.state == "blocked"), "")
    printed = {r.id: r.printed_in(ctx.given.acts) for r in ctx.given.runs if r.state == "released"}
    waiting = {s for r in ctx.given.runs if r.id in printed and printed[r.id] < r.copies for s in r.laid()}
    bed, way = bed_of(ctx), ctx.gone
    return tuple(
        ToLay(print=v.print, slot=v.slots[0], name=ctx.books.name_of(v), width_um=v.spec.printed_um[0], height_um=v.spec.printed_um[1], copies=n, bed=bed,
              method=way.method, printer=way.printer, mode=way.mode, media=derive.feed_of(ctx.shop, way).media, waits=waits or blocked, unseen=unseen, is_laid=v.signature in waiting)
        for v, n in ctx.next_copies if v.print == ctx.here.id
    )  # fmt: skip
