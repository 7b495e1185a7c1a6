"""Long work followed and stopped."""

from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Depends, Header
from sse_starlette import EventSourceResponse, ServerSentEvent

from offsetter.web.guard import Person, signed_in
from offsetter.web.schemas import WorkOut
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


@router.get("/long-work/{key}/events", response_class=EventSourceResponse)
async def follow_work(key: str, desk: Desk, last_event_id: Annotated[int, Header()] = 0) -> EventSourceResponse:
    """Progress in real units, as server-sent events, until the last one."""

    async def events() -> AsyncIterator[ServerSentEvent]:
        standing = desk.runs.progress(key)
        if standing is not None and standing.is_last:
            yield ServerSentEvent(standing.model_dump_json(), id=str(standing.number), retry=1000)
            return
        async for event in desk.base.work.follow(key, last_event_id):
            yield ServerSentEvent(event.model_dump_json(), id=str(event.number), retry=1000)

    return EventSourceResponse(events(), headers={"cache-control": "no-store"})


@router.delete("/long-work/{key}")
def cancel_work(key: str, desk: Desk, person: Person) -> WorkOut:
    """Stop it for good."""
    desk.base.work.cancel(key)
    return WorkOut(key=key, progress=desk.runs.progress(key))
