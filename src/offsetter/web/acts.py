"""What hands and machines did."""

from datetime import datetime, timedelta

from fastapi import APIRouter, Depends

from offsetter.core.acts import Act
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.web.guard import Person, refuse_others, signed_in
from offsetter.web.jobs import job_out
from offsetter.web.schemas import ActIn, JobOut, ResolveIn
from offsetter.web.services import Desk

CLOCKS_AGREE = timedelta(seconds=60)
"""Within it a screen's clock and ours are the same: an answer may be slow."""
router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


@router.post("/acts")
def record_act(act: ActIn, desk: Desk, person: Person) -> JobOut:
    """Record what hands or machines did; sending it twice is one act. What the browser may not record itself is refused."""
    refuse_others(act.by, person)
    if act.body.kind in ("resolved", "signed", "photographed"):
        raise Refusal(
            "own-door",
            say("This is recorded by its own question."),
            say("Nothing was recorded."),
            say("Use the screen that asks it."),
        )
    at = by_our_clock(act.at, act.sent_at, desk.base.now())
    desk.acts.record(Act(id=act.id, job=act.job, at=at, actor=person, signature="", body=act.body))
    return job_out(desk, act.job, person, act.print)


def by_our_clock(at: datetime, sent_at: datetime | None, now: datetime) -> datetime:
    """When an act was done, by the server's clock: a tablet's wrong one is set right, and nothing is done in the future."""
    off = now - sent_at if sent_at is not None else timedelta(0)
    return min(at + off if abs(off) > CLOCKS_AGREE else at, now)


@router.post("/jobs/{job_id}/resolve")
def resolve(job_id: str, choice: ResolveIn, desk: Desk, person: Person) -> JobOut:
    """Choose what becomes of work that no longer matches."""
    desk.acts.resolve(job_id, choice.old, choice.way, choice.reason, choice.id, person)
    return job_out(desk, job_id, person)
