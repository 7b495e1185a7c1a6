"""Machines at work: how they are reached, how they stand, what is done there, and runs sent to them."""

from typing import Annotated

from fastapi import APIRouter, Depends, Response
from pydantic import Field

from offsetter.core.facts import OwnCare
from offsetter.core.machine_acts import ByHand
from offsetter.core.sending import Send
from offsetter.core.values import Frozen
from offsetter.desk.at_work import AtWork, Brief
from offsetter.desk.links import Introduced
from offsetter.desk.sending import AtPrinter, Passed
from offsetter.store.machines import Link
from offsetter.web.guard import Owner, Person, signed_in
from offsetter.web.limits import FactId
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Address = Annotated[str, Field(max_length=200)]


class AskIn(Frozen):
    address: Annotated[str, Field(min_length=1, max_length=200)]


class LinkIn(Frozen):
    """One of both; both empty: by hand."""

    address: Address = ""
    folder: Annotated[str, Field(max_length=400)] = ""


class ChannelsIn(Frozen):
    channels: dict[Annotated[str, Field(max_length=120)], Annotated[str, Field(pattern=r"^([A-Z][A-Za-z]{0,7})?$")]] = Field(max_length=20)  # fmt: skip


class DoneIn(Frozen):
    id: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{8,40}$")]
    body: ByHand


class PassedIn(Frozen):
    task: Annotated[str, Field(pattern=r"^[a-z0-9-]{2,40}$")]
    reason: Annotated[str, Field(min_length=1, max_length=200)]


class SendIn(Frozen):
    tray: Annotated[str, Field(max_length=120)] = ""
    passed: tuple[PassedIn, ...] = Field((), max_length=20)
    anyway: bool = False
    """Although the printer is held up."""


class SeenIn(Frozen):
    came_out: bool


@router.get("/at-work")
def machines_at_work(desk: Desk) -> tuple[Brief, ...]:
    """Every machine in a word."""
    return desk.at_work.briefs()


@router.get("/at-work/care.ics", response_class=Response)
def care_calendar(desk: Desk) -> Response:
    """What the machines want done in the next four weeks."""
    named = {"content-disposition": 'attachment; filename="care.ics"'}
    return Response(desk.at_work.calendar(), media_type="text/calendar", headers=named)


@router.get("/at-work/{machine}")
def machine_at_work(machine: FactId, desk: Desk) -> AtWork:
    """How it stands, what it holds and how long that lasts, what it wants done."""
    return desk.at_work.look(machine)


@router.post("/at-work/{machine}/acts")
def record_at_machine(machine: FactId, given: DoneIn, desk: Desk, person: Person) -> AtWork:
    """A level read, a tank filled, a tray loaded, a task done or skipped, the room noted."""
    return desk.at_work.record(machine, given.id, given.body, person)


@router.put("/at-work/{machine}/care/{task}")
def set_care(machine: FactId, task: FactId, own: OwnCare, desk: Desk, person: Person) -> AtWork:
    """How often a task is done at this machine, or that it is not wanted there."""
    return desk.at_work.set_care(machine, task, own)


@router.post("/links/ask")
def ask_printer(given: AskIn, desk: Desk, who: Owner) -> Introduced:
    """What a printer at an address says of itself."""
    return desk.links.ask(given.address)


@router.put("/links/{printer}")
def link_printer(printer: FactId, given: LinkIn, desk: Desk, who: Owner) -> Link:
    """How a printer is reached from now on."""
    if given.folder.strip():
        return desk.links.watch_folder(printer, given.folder)
    return desk.links.connect(printer, given.address, who.user.name)


@router.put("/links/{printer}/channels")
def name_channels(printer: FactId, given: ChannelsIn, desk: Desk, who: Owner) -> Link:
    """Which ink its containers hold, where their names do not tell."""
    return desk.links.name_channels(printer, given.channels)


@router.get("/jobs/{job_id}/printer")
def job_printer(job_id: str, desk: Desk, print: str = "") -> AtPrinter:
    """The printer of a job's next run: whether it is ready, from which tray, what is asked for first, what was sent."""
    return desk.sending.look(job_id, print)


@router.post("/runs/{run_id}/sends", status_code=202)
def send_run(run_id: str, given: SendIn, desk: Desk, person: Person) -> Send:
    """Hand a released run to its printer, once."""
    passed = tuple(Passed(task=p.task, reason=p.reason) for p in given.passed)
    return desk.sending.send(run_id, given.tray, passed, person, anyway=given.anyway)


@router.post("/sends/{send_id}/cancel")
def cancel_send(send_id: str, desk: Desk, person: Person) -> Send:
    """Stop it where it is."""
    return desk.sending.cancel(send_id, person)


@router.post("/sends/{send_id}/seen")
def settle_send(send_id: str, given: SeenIn, desk: Desk, person: Person) -> Send:
    """What a person saw, where the printer could not be asked."""
    return desk.sending.settle(send_id, came_out=given.came_out, by=person)
