"""What leaves the desk for the floor: artwork in, plates, runs, acts, the logbook, pictures."""

from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import APIRouter, Depends, File, Header, Response, UploadFile
from fastapi.responses import FileResponse, StreamingResponse

from offsetter.core.acts import Act
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.fixes import REF
from offsetter.core.decisions import ArtworkDoc
from offsetter.core.logbook import Entry
from offsetter.core.values import Frozen, Refusal
from offsetter.desk import letterings
from offsetter.desk.artwork import Begun
from offsetter.desk.pictures import Kind
from offsetter.intake.limits import MAX_BYTES
from offsetter.web.guard import Person, refuse_others, signed_in
from offsetter.web.jobs import job_out
from offsetter.web.schemas import ActIn, JobOut, ResolveIn, WorkOut
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
FOREVER = {"cache-control": "public, max-age=31536000, immutable"}


class ArtworkOut(Frozen):
    file: str
    name: str
    pixels: tuple[int, int]
    content_px: tuple[int, int, int, int]
    notes: int


@router.post("/artworks", status_code=201)
def receive_artwork(file: Annotated[UploadFile, File()], desk: Desk, person: Person) -> ArtworkOut:
    """Take a picture file in, or refuse it in three parts."""
    return _artwork(desk.artworks.receive(file.filename or "artwork", file.file.read(MAX_BYTES + 1)))


@router.post("/jobs/{job_id}/artworks", status_code=202)
def begin_artwork(
    job_id: str, file: Annotated[UploadFile, File()], desk: Desk, person: Person, print: str = ""
) -> Begun:
    """Take a picture file in: its header at once, the rest as long work that says what it finds."""
    return desk.artworks.begin(job_id, print, file.filename or "artwork", file.file.read(MAX_BYTES + 1))


@router.post("/jobs/{job_id}/artworks/fixed", status_code=202)
def begin_fixed(job_id: str, artwork: ArtworkDoc, desk: Desk, person: Person, print: str = "") -> WorkOut:
    """The picture with what shall be put right, looked at as long work before it is decided; no key: nothing to wait for."""
    key = desk.artworks.begin_fixed(job_id, print, artwork)
    return WorkOut(key=key or "", progress=None)


@router.get("/artworks/{file_hash}/art.png", response_class=FileResponse)
def artwork_picture(file_hash: str, desk: Desk) -> FileResponse:
    """The picture itself at bench size."""
    path = desk.pictures.folder(file_hash if REF.match(file_hash) else "none") / "art.png"
    if not path.exists():
        raise Refusal("no-such-picture", "This picture is not known.", "The job is as it was.", "Open the job again.")
    return FileResponse(path, media_type="image/png", headers=FOREVER)


@router.get("/pictures/{key}/{kind}.png", response_class=Response)
def picture(key: str, kind: Kind, desk: Desk) -> Response:
    """One look of a print."""
    return Response(desk.pictures.png(key if key.isalnum() else "none", kind), media_type="image/png", headers=FOREVER)


@router.post("/jobs/{job_id}/plates", status_code=202)
def make_plates(job_id: str, desk: Desk, person: Person, print: str = "") -> WorkOut:
    """Make the plates of everything on the next run at full size, off the request."""
    key = desk.work_done.make_plates(job_id, print)
    return WorkOut(key=key, progress=desk.work_done.progress(key))


@router.post("/jobs/{job_id}/lettering", status_code=202)
def read_lettering(job_id: str, desk: Desk, person: Person, print: str = "") -> WorkOut:
    """Read the picture's lettering back, off the request."""
    decisions = desk.jobs.read(job_id, "", print).decisions
    key = letterings.start_reading(desk.base, desk.pictures, decisions)
    return WorkOut(key=key, progress=desk.base.work.latest(key))


@router.get("/long-work/{key}/events", response_class=StreamingResponse)
async def follow_work(key: str, desk: Desk, last_event_id: Annotated[int, Header()] = 0) -> StreamingResponse:
    """Progress in real units, as server-sent events, until the last one."""

    async def events() -> AsyncIterator[str]:
        yield "retry: 1000\n\n"
        standing = desk.work_done.progress(key)
        if standing is not None and standing.is_last:
            yield f"id: {standing.number}\ndata: {standing.model_dump_json()}\n\n"
            return
        async for event in desk.base.work.follow(key, last_event_id):
            yield f"id: {event.number}\ndata: {event.model_dump_json()}\n\n"

    return StreamingResponse(
        events(), media_type="text/event-stream", headers={"cache-control": "no-store", "x-accel-buffering": "no"}
    )


@router.delete("/long-work/{key}")
def cancel_work(key: str, desk: Desk, person: Person) -> WorkOut:
    """Stop it for good."""
    desk.base.work.cancel(key)
    return WorkOut(key=key, progress=desk.work_done.progress(key))


@router.post("/jobs/{job_id}/runs", status_code=201)
def release_run(job_id: str, desk: Desk, person: Person, print: str = "") -> JobOut:
    """Freeze a run; only device-size values open this gate."""
    desk.work_done.release(job_id, person, print)
    return job_out(desk, job_id, person, print)


@router.get("/runs/{run_id}/{name}", response_class=FileResponse)
def run_file(run_id: str, name: str, desk: Desk, sort: int = 0) -> FileResponse:
    """A released run's file: run.pdf, or print.tif and print.pdf of one of its sorts."""
    run = desk.work_done.run(run_id)
    if name not in ("print.tif", "print.pdf", "run.pdf"):
        raise Refusal(
            "no-such-file-made",
            f"A run has no file “{name}”.",
            "The run is as it was.",
            "Choose one of the run's files.",
        )
    path = desk.work_done.file_of(run, name, sort)
    return FileResponse(path, filename=f"run-{run.number}-{name}")


@router.post("/acts")
def record_act(act: ActIn, desk: Desk, person: Person) -> JobOut:
    """Record what hands or machines did; sending it twice is one act. What the browser may not record itself is refused."""
    refuse_others(act.by, person)
    if act.body.kind in ("resolved", "signed", "photographed"):
        raise Refusal(
            "own-door", "This is recorded by its own question.", "Nothing was recorded.", "Use the screen that asks it."
        )
    desk.work_done.record(Act(id=act.id, job=act.job, at=act.at, actor=person, signature="", body=act.body))
    return job_out(desk, act.job, person, act.print)


@router.post("/jobs/{job_id}/resolve")
def resolve(job_id: str, choice: ResolveIn, desk: Desk, person: Person) -> JobOut:
    """Choose what becomes of work that no longer matches."""
    desk.work_done.resolve(job_id, choice.old, choice.way, choice.reason, choice.id, person)
    return job_out(desk, job_id, person)


@router.get("/logbook")
def logbook(desk: Desk) -> list[Entry]:
    """What every closed job took, planned against actual."""
    return desk.work_done.logbook()


def _artwork(facts: ArtworkFacts) -> ArtworkOut:
    return ArtworkOut(
        file=facts.file, name=facts.name, pixels=facts.pixels, content_px=facts.content_px, notes=len(facts.notes)
    )
