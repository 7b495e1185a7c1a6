"""Whole jobs as files, out and in."""

import shutil
from typing import Annotated

from fastapi import APIRouter, Depends, File, Path, Response, UploadFile
from fastapi.responses import FileResponse
from pydantic import Field
from starlette.background import BackgroundTask

from offsetter.core.values import Frozen
from offsetter.desk.job_files import Arrival
from offsetter.formats.job_zip import schema
from offsetter.intake.job_file import MOST_BYTES
from offsetter.web.guard import Owner, signed_in
from offsetter.web.limits import FORM_BYTES
from offsetter.web.schemas import Made
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


class TakenIn(Frozen):
    choices: dict[Annotated[str, Field(max_length=60)], Annotated[str, Field(max_length=40)]] = Field(
        {}, max_length=100
    )
    """sort/id to one of the shop's own, or “bring”."""


@router.get("/jobs/{job_id}/file.zip", response_class=FileResponse)
def job_file(job_id: str, desk: Desk) -> FileResponse:
    """The whole job as a zip: its document with a schema, its pictures, photographs and profiles."""
    path, called = desk.job_files.write(job_id)
    return FileResponse(
        path, media_type="application/zip", filename=called, background=BackgroundTask(shutil.rmtree, path.parent, True)
    )


@router.get("/job-files/schema.json", response_class=Response)
def job_schema(desk: Desk) -> Response:
    """The document's JSON Schema."""
    return Response(schema(), media_type="application/schema+json")


@router.post("/job-files", status_code=201, max_body_size=MOST_BYTES + FORM_BYTES)
def look_at_job_file(file: Annotated[UploadFile, File()], desk: Desk, who: Owner) -> Arrival:
    """Look at a job that comes as a file: what it holds, and what this shop does not have of it."""
    return desk.job_files.look(file.filename or "job.zip", file.file.read(MOST_BYTES + 1))


@router.post("/job-files/{key}", status_code=201)
def take_job_file(
    key: Annotated[str, Path(pattern=r"^[0-9a-f]{8,64}$")], given: TakenIn, desk: Desk, who: Owner
) -> Made:
    """Take it in as one of this shop's own jobs. It brings acts in other people's names, and prices: that is the owner's."""
    return Made(id=desk.job_files.take_in(key, given.choices, who.user.name))
