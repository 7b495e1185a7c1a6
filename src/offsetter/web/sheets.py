"""Sheets that several jobs share: made, laid, moved, released; and their runs, printed and cured."""

from typing import Annotated

from fastapi import APIRouter, Depends
from pydantic import Field

from offsetter.core.compute.gang import Laid, Turns
from offsetter.core.gang import MOST_LOTS, GangLot
from offsetter.core.values import Frozen
from offsetter.desk.gang_view import Beds, SheetView, Tried
from offsetter.desk.sending import AtPrinter
from offsetter.desk.shared_runs import SharedRunView
from offsetter.web.guard import Person, signed_in
from offsetter.web.limits import FactId
from offsetter.web.schemas import WorkOut
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Um = Annotated[int, Field(ge=-10_000_000, le=100_000_000)]
Piece = Annotated[str, Field(min_length=3, max_length=200)]
Mark = Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,40}$")]
Cuts = Annotated[int, Field(ge=1, le=1000)]
Revision = Annotated[int, Field(ge=0, le=1_000_000)]


class LotIn(Frozen):
    job: Annotated[str, Field(pattern=r"^[A-Za-z0-9]{4,40}$")]
    print: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")]
    slot: Annotated[str, Field(min_length=1, max_length=80)]
    copies: Annotated[int, Field(ge=1, le=500)]
    turns: Turns = "90"


class LotsIn(Frozen):
    lots: tuple[LotIn, ...] = Field(min_length=1, max_length=MOST_LOTS)
    gap_um: Annotated[int, Field(ge=0, le=60_000)] | None = None
    by_outline: bool | None = None
    base: Revision = 0


class MoveIn(Frozen):
    piece: Piece
    cut: Cuts
    x_um: Um
    y_um: Um
    turned: bool = False
    half: bool = False
    slant: Annotated[int, Field(ge=0, lt=90)] = 0
    base: Revision = 0

    @property
    def laid(self) -> Laid:
        return Laid(
            id=self.piece,
            cut=self.cut,
            x_um=self.x_um,
            y_um=self.y_um,
            turned=self.turned,
            half=self.half,
            slant=self.slant,
        )


class PinIn(Frozen):
    piece: Piece
    out: bool = False
    base: Revision


class AgainIn(Frozen):
    unpinned: bool = False
    base: Revision


class ReleaseIn(Frozen):
    base: Revision


class SharedRunOut(Frozen):
    id: str
    number: int


class PrintedIn(Frozen):
    """The first so many lengths or sheets."""

    id: Mark
    cuts: Cuts
    lot: Annotated[str, Field(max_length=60)] = ""


class PreparedIn(Frozen):
    id: Mark
    stage: Annotated[str, Field(min_length=1, max_length=40)]
    cuts: Cuts


def _lots(given: LotsIn) -> tuple[GangLot, ...]:
    return tuple(GangLot(job=x.job, print=x.print, slot=x.slot, copies=x.copies, turns=x.turns) for x in given.lots)


@router.get("/sheets")
def sheets(desk: Desk) -> Beds:
    """What is ready to be laid with other jobs' prints, and the sheets that are open."""
    return desk.gangs.beds()


@router.post("/sheets", status_code=201)
def make_sheet(given: LotsIn, desk: Desk, person: Person) -> SheetView:
    """Lay prints of several jobs on one sheet."""
    return desk.gangs.make(_lots(given), person)


@router.get("/sheets/{sheet_id}")
def sheet(sheet_id: FactId, desk: Desk) -> SheetView:
    """A sheet with the best layout found so far."""
    return desk.gangs.look(sheet_id)


@router.put("/sheets/{sheet_id}")
def change_sheet(sheet_id: FactId, given: LotsIn, desk: Desk, person: Person) -> SheetView:
    """Other lots, counts or another gap."""
    return desk.gangs.change(sheet_id, _lots(given), given.gap_um, given.base, by_outline=given.by_outline)


@router.delete("/sheets/{sheet_id}", status_code=204)
def give_up_sheet(sheet_id: FactId, desk: Desk, person: Person) -> None:
    """Take a sheet apart."""
    desk.gangs.give_up(sheet_id)


@router.post("/sheets/{sheet_id}/try")
def try_move(sheet_id: FactId, given: MoveIn, desk: Desk) -> Tried:
    """Where a print would lie that is let go there, and why it may not."""
    return desk.gangs.try_move(sheet_id, given.laid)


@router.post("/sheets/{sheet_id}/move")
def move_piece(sheet_id: FactId, given: MoveIn, desk: Desk, person: Person) -> SheetView:
    """Lay one print elsewhere; it stays there."""
    return desk.gangs.move(sheet_id, given.laid, given.base)


@router.post("/sheets/{sheet_id}/pins")
def pin_piece(sheet_id: FactId, given: PinIn, desk: Desk, person: Person) -> SheetView:
    """Keep one print where it is, or let it go."""
    return desk.gangs.pin(sheet_id, given.piece, given.base, out=given.out)


@router.post("/sheets/{sheet_id}/again")
def lay_again(sheet_id: FactId, given: AgainIn, desk: Desk, person: Person) -> SheetView:
    """Lay the rest anew around what is pinned."""
    return desk.gangs.again(sheet_id, given.base, unpinned=given.unpinned)


@router.post("/sheets/{sheet_id}/plates", status_code=202)
def sheet_plates(sheet_id: FactId, desk: Desk, person: Person) -> WorkOut:
    """Make the plates of everything on the sheet at full size, off the request."""
    key = desk.gangs.make_plates(sheet_id)
    return WorkOut(key=key, progress=desk.runs.progress(key))


@router.post("/sheets/{sheet_id}/run", status_code=201)
def release_sheet(sheet_id: FactId, given: ReleaseIn, desk: Desk, person: Person) -> SharedRunOut:
    """Freeze the sheet as one run of all its jobs."""
    run = desk.gangs.release(sheet_id, person, given.base)
    return SharedRunOut(id=run.id, number=run.number)


@router.get("/shared-runs")
def shared_runs(desk: Desk) -> tuple[SharedRunView, ...]:
    """Released runs that carry several jobs, the newest first."""
    return desk.shared_runs.all()


@router.get("/shared-runs/{run_id}/printer")
def shared_run_printer(run_id: FactId, desk: Desk) -> AtPrinter:
    """Whether its printer is ready, from which tray, what is asked for first, what was sent."""
    return desk.sending.look_run(run_id)


@router.post("/shared-runs/{run_id}/printed")
def shared_run_printed(run_id: FactId, given: PrintedIn, desk: Desk, person: Person) -> SharedRunView:
    """Its first lengths are printed: recorded at each of its jobs."""
    return desk.shared_runs.printed(run_id, given.cuts, given.id, given.lot, person)


@router.post("/shared-runs/{run_id}/prepared")
def shared_run_prepared(run_id: FactId, given: PreparedIn, desk: Desk, person: Person) -> SharedRunView:
    """Its first lengths went through a stage: recorded at each of its jobs."""
    return desk.shared_runs.prepared(run_id, given.stage, given.cuts, given.id, person)


@router.delete("/shared-runs/{run_id}", status_code=204)
def take_apart(run_id: FactId, desk: Desk, person: Person) -> None:
    """Give up a run before anything of it is printed: its jobs are as they were."""
    desk.runs.take_apart(run_id)
