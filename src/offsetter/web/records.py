"""The proof, photographs, leftovers in the store, codes, and the press's session."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, File, Form, Response, UploadFile
from fastapi.responses import FileResponse
from pydantic import Field

from offsetter.core.press_session import PressState
from offsetter.core.values import Frozen
from offsetter.desk.press import PressCard, PressSession
from offsetter.desk.records import MOST_PHOTO_BYTES, Making, Proof
from offsetter.desk.work_done import Leftover
from offsetter.web.guard import Owner, Person, signed_in
from offsetter.web.jobs import job_out
from offsetter.web.schemas import JobOut, SignIn
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
ID = r"^[A-Za-z0-9-]+$"


class WantProof(Frozen):
    wanted: bool


class LeadIn(Frozen):
    job: str
    print: str
    holder: str = Field(min_length=8, max_length=40, pattern=ID)
    seq: int = Field(ge=0)
    state: PressState
    take_over: bool = False


class PressSessionOut(Frozen):
    job: str
    title: str
    print: str
    holder: str
    person: str
    seq: int
    state: PressState
    seen_at: datetime


@router.get("/jobs/{job_id}/proof")
def read_proof(job_id: str, desk: Desk) -> Proof:
    """The pieces as the customer will see them, and whether that was agreed to."""
    return desk.records.proof(job_id)


@router.get("/jobs/{job_id}/proof.pdf", response_class=Response)
def proof_pdf(job_id: str, desk: Desk) -> Response:
    return Response(desk.records.proof_pdf(job_id), media_type="application/pdf",
                    headers={"content-disposition": 'inline; filename="proof.pdf"'})  # fmt: skip


@router.post("/jobs/{job_id}/proof/sign")
def sign_proof(job_id: str, given: SignIn, desk: Desk, person: Person) -> JobOut:
    """The customer's word, pinned to the prints as they are now."""
    desk.work_done.sign_proof(job_id, given.by, given.how, given.id, person)
    return job_out(desk, job_id, person)


@router.put("/shop/proof")
def want_proof(wanted: WantProof, desk: Desk, who: Owner) -> WantProof:
    """Whether printing waits for the customer's signature."""
    desk.jobs.want_proof(wanted.wanted)
    return wanted


@router.post("/jobs/{job_id}/photos")
def attach_photo(
    job_id: str, file: Annotated[UploadFile, File()], act_id: Annotated[str, Form(min_length=8, max_length=40, pattern=ID)], desk: Desk,
    person: Person, of: Annotated[str, Form(max_length=40)] = "", note: Annotated[str, Form(max_length=200)] = "",
) -> JobOut:  # fmt: skip
    """A photograph, its location removed, attached to an act or the job."""
    data = file.file.read(MOST_PHOTO_BYTES + 1)
    desk.records.attach_photo(job_id, file.filename or "photo", data, of, note, act_id, datetime.now(UTC), person)
    return job_out(desk, job_id, person)


@router.get("/photos/{file}.jpg", response_class=FileResponse)
def photo(file: str, desk: Desk) -> FileResponse:
    return FileResponse(
        desk.records.photo(file),
        media_type="image/jpeg",
        headers={"cache-control": "private, max-age=31536000, immutable"},
    )


@router.get("/leftovers")
def leftovers(desk: Desk) -> list[Leftover]:
    """Transfers in the store, oldest first."""
    return desk.work_done.leftovers()


@router.get("/codes/{code}")
def trace(code: str, desk: Desk) -> Making:
    """From a label's code to the making."""
    return desk.records.trace(code)


@router.get("/jobs/{job_id}/press-card")
def press_card(job_id: str, desk: Desk, print: str = "") -> PressCard:
    """What to change on the press before piece one, and all that press mode needs without the server."""
    return desk.presses.card(job_id, print)


@router.get("/presses/{press}/session")
def read_session(press: str, desk: Desk) -> PressSessionOut | None:
    """Who leads this press, and where they are."""
    found = desk.presses.session(press)
    return _session(found, desk.jobs.title(found.job)) if found else None


@router.put("/presses/{press}/session")
def lead_session(press: str, lead: LeadIn, desk: Desk, person: Person) -> PressSessionOut:
    """Say where this screen is; refused when another one leads, unless it takes over."""
    wanted = PressSession(press, lead.job, lead.print, lead.holder, person, lead.seq, lead.state, desk.base.now())
    kept = desk.presses.lead(wanted, take_over=lead.take_over)
    return _session(kept, desk.jobs.title(kept.job))


@router.delete("/presses/{press}/session/{holder}", status_code=204)
def leave_session(press: str, holder: str, desk: Desk, person: Person) -> None:
    desk.presses.leave(press, holder)


def _session(found: PressSession, title: str) -> PressSessionOut:
    return PressSessionOut(job=found.job, title=title, print=found.print, holder=found.holder, person=found.person, seq=found.seq, state=found.state,
                      seen_at=found.seen_at)  # fmt: skip
