"""Today: the plan of all open work, and what people say of the day."""

from typing import Annotated

from fastapi import APIRouter, Depends, Path, Query, Request, Response
from pydantic import Field
from starlette.concurrency import run_in_threadpool

from offsetter.core.values import Frozen, Refusal
from offsetter.core.working_day import MOST_DAYS_OFF, Away, Days, PersonHours, Pin
from offsetter.desk.day_view import PinTried, PromiseView, TodayView
from offsetter.web.guard import Person, signed_in
from offsetter.web.services import Desk
from offsetter.web.turns import in_turn

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


class HonestDate(Frozen):
    promise: PromiseView | None = None
    why: str = ""
    """Why there is none yet."""


class PinIn(Frozen):
    pin: Pin
    out: bool = False
    """Take it out."""


class PaceIn(Frozen):
    press: Annotated[str, Field(max_length=40)]
    refused: bool = True


class AwayIn(Frozen):
    away: Away
    back: bool = False


class ClosedIn(Frozen):
    closed: tuple[Days, ...] = Field(max_length=MOST_DAYS_OFF)


@router.get("/today")
def read_today(desk: Desk) -> TodayView:
    """What lies ahead, planned from now on; looked at again while a better plan is searched for."""
    return desk.today.look()


@router.post("/today/pins")
def pin_stage(given: PinIn, desk: Desk, person: Person) -> TodayView:
    """Pin a stage to a time, or let it go; refused where the day cannot be planned so."""
    return desk.today.pin(given.pin, out=given.out, person=person)


@router.post("/today/pins/try")
async def try_pin(given: PinIn, desk: Desk, person: Person, request: Request) -> PinTried:
    """What a pin would do, asked while it is moved; nothing is kept."""
    async with in_turn(request):  # against the plan that is shown, which this server keeps
        return await run_in_threadpool(desk.today.try_pin, given.pin)


@router.post("/today/away")
def say_away(given: AwayIn, desk: Desk, person: Person) -> TodayView:
    """A machine fails or a person leaves; or is back."""
    return desk.today.away(given.away, back=given.back)


@router.post("/today/pace")
def refuse_pace(given: PaceIn, desk: Desk, person: Person) -> TodayView:
    """Plan a press by its recipes' minutes, or by what it really took."""
    return desk.today.refuse_pace(given.press, refused=given.refused)


@router.put("/today/hours/{user_id}")
def set_hours(
    user_id: Annotated[str, Path(max_length=40)], hours: PersonHours, desk: Desk, person: Person
) -> TodayView:
    """When somebody is here."""
    return desk.today.set_hours(user_id, hours)


@router.put("/today/closed")
def set_closed(given: ClosedIn, desk: Desk, person: Person) -> TodayView:
    """Days that the whole shop is closed."""
    return desk.today.set_closed(given.closed)


@router.get("/today/promise")
def promise_another(
    desk: Desk, job: Annotated[str, Query(max_length=40)], pieces: Annotated[int, Query(ge=1, le=10_000)]
) -> PromiseView:
    """When so many more of what a job makes could be done, tried against the plan."""
    return desk.today.promise(job, pieces)


@router.get("/jobs/{job_id}/promise")
def promise_job(job_id: str, desk: Desk) -> HonestDate:
    """When an order on the line could be done, tried against all else that is planned."""
    try:
        return HonestDate(promise=desk.today.promise_of(job_id))
    except Refusal as no:
        if no.code != "not-known-yet":
            raise
        return HonestDate(why=no.happened)


@router.get("/today/sheet.pdf", response_class=Response)
def read_sheet(desk: Desk) -> Response:
    """The day as paper, a page for each pair of hands."""
    named = {"content-disposition": 'inline; filename="day.pdf"', "cache-control": "no-store"}
    return Response(desk.today.sheet(), media_type="application/pdf", headers=named)


@router.get("/today/plan.ics")
def read_calendar(desk: Desk) -> Response:
    """The plan as a calendar of whose hands are where."""
    return Response(
        desk.today.calendar(),
        media_type="text/calendar; charset=utf-8",
        headers={"content-disposition": 'attachment; filename="plan.ics"'},
    )
