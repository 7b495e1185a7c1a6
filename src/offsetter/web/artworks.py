"""Artwork in, and the pictures of it."""

from typing import Annotated

from fastapi import APIRouter, Depends, File, Request, Response, UploadFile
from fastapi.responses import FileResponse

from offsetter.core.compute.art_ref import REF
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.decisions import ArtworkDoc
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk import letterings
from offsetter.desk.artworks import Begun
from offsetter.desk.pictures import Kind
from offsetter.intake.limits import MAX_BYTES
from offsetter.web.guard import Person, signed_in
from offsetter.web.limits import FORM_BYTES
from offsetter.web.schemas import WorkOut
from offsetter.web.services import Desk, Services
from offsetter.web.turns import looked_at

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
FOREVER = {"cache-control": "private, max-age=31536000, immutable"}


class ArtworkOut(Frozen):
    file: str
    name: str
    pixels: tuple[int, int]
    content_px: tuple[int, int, int, int]
    notes: int


@router.post("/artworks", status_code=201, max_body_size=MAX_BYTES + FORM_BYTES)
def receive_artwork(file: Annotated[UploadFile, File()], desk: Desk, person: Person) -> ArtworkOut:
    """Take a picture file in, or refuse it in three parts."""
    return _artwork(desk.artworks.receive(file.filename or "artwork", file.file.read(MAX_BYTES + 1)))


@router.post("/jobs/{job_id}/artworks", status_code=202, max_body_size=MAX_BYTES + FORM_BYTES)
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
    path = desk.pictures.bench.folder(file_hash if REF.match(file_hash) else "none") / "art.png"
    if not path.exists():
        raise Refusal(
            "no-such-picture",
            say("This picture is not known."),
            say("The job is as it was."),
            say("Open the job again."),
        )
    return FileResponse(path, media_type="image/png", headers=FOREVER)


@router.get("/pictures/{key}/{kind}.png", response_class=Response)
async def picture(key: str, kind: Kind, desk: Desk, request: Request) -> Response:
    """One look of a print."""
    known = key if key.isalnum() else "none"
    return Response(await looked_at(request, known, _drawn, known, kind), media_type="image/png", headers=FOREVER)


def _drawn(desk: Services, key: str, kind: Kind) -> bytes:
    return desk.pictures.png(key, kind)


@router.post("/jobs/{job_id}/lettering", status_code=202)
def read_lettering(job_id: str, desk: Desk, person: Person, print: str = "") -> WorkOut:
    """Read the picture's lettering back, off the request."""
    decisions = desk.jobs.kept.read(job_id, "", print).decisions
    key = letterings.start_reading(desk.base, desk.pictures, decisions)
    return WorkOut(key=key, progress=desk.base.work.latest(key))


def _artwork(facts: ArtworkFacts) -> ArtworkOut:
    return ArtworkOut(
        file=facts.file, name=facts.name, pixels=facts.pixels, content_px=facts.content_px, notes=len(facts.notes)
    )
