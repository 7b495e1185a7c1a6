"""The press: its card, and the session that leads it."""

from datetime import datetime

from fastapi import APIRouter, Depends
from pydantic import Field

from offsetter.core.press_session import PressState
from offsetter.core.values import Frozen
from offsetter.desk.press import Part, PressCard, PressSession
from offsetter.web.guard import Person, Who, signed_in
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
ID = r"^[A-Za-z0-9-]+$"


class LeadIn(Frozen):
    job: str = Field(max_length=40)
    print: str = Field(max_length=40)
    holder: str = Field(min_length=8, max_length=40, pattern=ID)
    seq: int = Field(ge=0, le=2_000_000_000)
    state: PressState
    take_over: bool = False


class PressSessionOut(Frozen):
    job: str
    title: str
    print: str
    holder: str
    person: str
    screen: str
    """What kind of screen leads it."""
    seq: int
    state: PressState
    seen_at: datetime


@router.get("/jobs/{job_id}/press-card")
def press_card(job_id: str, desk: Desk, who: Who, print: str = "", part: Part = "press") -> PressCard:
    """What to change on the press or oven before piece one, and all that press mode needs without the server."""
    return desk.presses.card(job_id, print, part, who.user.name)


@router.get("/presses/{press}/session")
def read_session(press: str, desk: Desk) -> PressSessionOut | None:
    """Who leads this press, and where they are."""
    found = desk.presses.session(press)
    return _session(found, desk.jobs.title(found.job)) if found else None


@router.put("/presses/{press}/session")
def lead_session(press: str, lead: LeadIn, desk: Desk, person: Person, who: Who) -> PressSessionOut:
    """Say where this screen is; refused when another one leads, unless it takes over."""
    wanted = PressSession(
        press, lead.job, lead.print, lead.holder, person, who.device, lead.seq, lead.state, desk.base.now()
    )
    kept = desk.presses.lead(wanted, take_over=lead.take_over)
    return _session(kept, desk.jobs.title(kept.job))


@router.delete("/presses/{press}/session/{holder}", status_code=204)
def leave_session(press: str, holder: str, desk: Desk, person: Person) -> None:
    desk.presses.leave(press, holder)


def _session(found: PressSession, title: str) -> PressSessionOut:
    return PressSessionOut(job=found.job, title=title, print=found.print, holder=found.holder, person=found.person, screen=found.screen, seq=found.seq, state=found.state,
                      seen_at=found.seen_at)  # fmt: skip
