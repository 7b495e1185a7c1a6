"""The cards of rolls and sheets."""

from typing import Annotated

from fastapi import APIRouter, Depends, File, Query, UploadFile

from offsetter.core.facts.media import Medium
from offsetter.desk.media import Face
from offsetter.desk.photos import MOST_PHOTO_BYTES
from offsetter.web.guard import Person, signed_in
from offsetter.web.limits import FORM_BYTES
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Named = Annotated[str, Query(min_length=1, max_length=60)]


@router.get("/media")
def read_medium(media: Named, desk: Desk) -> Medium:
    """A medium's card, empty where nobody wrote on it."""
    return desk.media.card(media)


@router.put("/media")
def save_medium(card: Medium, desk: Desk, person: Person) -> Medium:
    """Write a medium's card; its photographs stay."""
    return desk.media.save(card, person)


@router.post("/media/photos/{face}", max_body_size=MOST_PHOTO_BYTES + FORM_BYTES)
def photograph_medium(
    face: Face, media: Named, file: Annotated[UploadFile, File()], desk: Desk, person: Person
) -> Medium:
    """A photograph of one of a medium's faces."""
    return desk.media.photograph(media, face, file.filename or "photo", file.file.read(MOST_PHOTO_BYTES + 1), person)
