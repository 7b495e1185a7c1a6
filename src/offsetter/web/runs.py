"""Plates, runs and their files."""

from fastapi import APIRouter, Depends
from fastapi.responses import FileResponse

from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.cuts import CutView
from offsetter.desk.runs import FILES
from offsetter.web.guard import Person, signed_in
from offsetter.web.jobs import job_out
from offsetter.web.schemas import JobOut, WorkOut
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


@router.post("/jobs/{job_id}/plates", status_code=202)
def make_plates(job_id: str, desk: Desk, person: Person, print: str = "") -> WorkOut:
    """Make the plates of everything on the next run at full size, off the request."""
    key = desk.runs.make_plates(job_id, print)
    return WorkOut(key=key, progress=desk.runs.progress(key))


@router.get("/jobs/{job_id}/cut")
def cut_line(job_id: str, desk: Desk, print: str = "") -> tuple[CutView, ...]:
    """The line that a cutter would follow round each sort of the next run."""
    return desk.cuts.look(job_id, print)


@router.post("/jobs/{job_id}/runs", status_code=201)
def release_run(job_id: str, desk: Desk, person: Person, print: str = "") -> JobOut:
    """Freeze a run; only device-size values open this gate."""
    desk.runs.release(job_id, person, print)
    return job_out(desk, job_id, person, print)


@router.get("/runs/{run_id}/{name}", response_class=FileResponse)
def run_file(run_id: str, name: str, desk: Desk, sort: int = 0) -> FileResponse:
    """A released run's file: run.pdf, print.tif and print.pdf of one of its sorts, or cut.svg and cut.dxf of one of its lengths."""
    run = desk.runs.find(run_id)
    if name not in FILES:
        raise Refusal(
            "no-such-file-made",
            say("A run has no file “{name}”.", name=name),
            say("The run is as it was."),
            say("Choose one of the run's files."),
        )
    path = desk.runs.file_of(run, name, sort)
    return FileResponse(path, filename=desk.runs.called(run, name, sort))
