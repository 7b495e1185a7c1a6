"""The proof, and photographs kept with a job."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, File, Form, Query, Response, UploadFile
from fastapi.responses import FileResponse

from offsetter.core.values import Frozen
from offsetter.desk.photos import MOST_PHOTO_BYTES
from offsetter.desk.proofs import Proof
from offsetter.web.guard import Owner, Person, signed_in
from offsetter.web.jobs import job_out
from offsetter.web.limits import FORM_BYTES
from offsetter.web.press import ID
from offsetter.web.schemas import JobOut, SignIn
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


class WantProof(Frozen):
    wanted: bool


@router.get("/jobs/{job_id}/proof")
def read_proof(job_id: str, desk: Desk) -> Proof:
    """The pieces as the customer will see them, and whether that was agreed to."""
    return desk.proofs.read(job_id)


@router.get("/jobs/{job_id}/proof.pdf", response_class=Response)
def proof_pdf(job_id: str, desk: Desk) -> Response:
    return Response(desk.proofs.pdf(job_id), media_type="application/pdf",
                    headers={"content-disposition": 'inline; filename="proof.pdf"'})  # fmt: skip


@router.get("/jobs/{job_id}/ticket.pdf", response_class=Response)
def ticket_pdf(job_id: str, desk: Desk) -> Response:
    """What lies beside the work: the piece, its values and stacks, boxes for a pen, a code that opens the job."""
    return Response(desk.tickets.pdf(job_id), media_type="application/pdf",
                    headers={"content-disposition": 'inline; filename="ticket.pdf"'})  # fmt: skip


@router.get("/jobs/{job_id}/quotation.pdf", response_class=Response)
def quotation_pdf(job_id: str, desk: Desk, days: Annotated[int, Query(ge=1, le=365)] = 30) -> Response:
    """What the customer gets, at which quantities, for how much; valid for so many days."""
    return Response(desk.quotations.pdf(job_id, days), media_type="application/pdf",
                    headers={"content-disposition": 'inline; filename="quotation.pdf"'})  # fmt: skip


@router.post("/jobs/{job_id}/proof/sign")
def sign_proof(job_id: str, given: SignIn, desk: Desk, person: Person) -> JobOut:
    """The customer's word, pinned to the prints as they are now."""
    desk.acts.sign_proof(job_id, given.by, given.how, given.id, person)
    return job_out(desk, job_id, person)


@router.put("/shop/proof")
def want_proof(wanted: WantProof, desk: Desk, who: Owner) -> WantProof:
    """Whether printing waits for the customer's signature."""
    desk.jobs.want_proof(wanted.wanted)
    return wanted


@router.post("/jobs/{job_id}/photos", max_body_size=MOST_PHOTO_BYTES + FORM_BYTES)
def attach_photo(
    job_id: str, file: Annotated[UploadFile, File()], act_id: Annotated[str, Form(min_length=8, max_length=40, pattern=ID)], desk: Desk,
    person: Person, of: Annotated[str, Form(max_length=40)] = "", note: Annotated[str, Form(max_length=200)] = "",
) -> JobOut:  # fmt: skip
    """A photograph, its location removed, attached to an act or the job."""
    data = file.file.read(MOST_PHOTO_BYTES + 1)
    desk.photos.attach(job_id, file.filename or "photo", data, of, note, act_id, datetime.now(UTC), person)
    return job_out(desk, job_id, person)


@router.get("/photos/{file}.jpg", response_class=FileResponse)
def photo(file: str, desk: Desk) -> FileResponse:
    return FileResponse(
        desk.photos.path(file),
        media_type="image/jpeg",
        headers={"cache-control": "private, max-age=31536000, immutable"},
    )
