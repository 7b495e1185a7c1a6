"""Transfers in the store, the way back from a code to the making, and anything found by typing."""

from typing import Annotated

from fastapi import APIRouter, Depends, Path, Query, Response

from offsetter.desk.codes import Making
from offsetter.desk.finder import Found
from offsetter.desk.leftovers import Leftover
from offsetter.formats.qr import qr_svg
from offsetter.web.guard import signed_in
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


@router.get("/leftovers")
def leftovers(desk: Desk) -> list[Leftover]:
    """Transfers in the store, oldest first."""
    return desk.leftovers.left()


@router.get("/find")
def find(desk: Desk, words: Annotated[str, Query(max_length=80)]) -> tuple[Found, ...]:
    """Anything of the shop that holds these words."""
    return desk.finder.find(words)


@router.get("/codes/{code}/qr.svg", response_class=Response)
def code_picture(code: Annotated[str, Path(pattern=r"^[Rr]?\d{1,9}(-\d{1,6})?$")]) -> Response:
    """A code as a camera reads it."""
    return Response(
        qr_svg(code.upper()), media_type="image/svg+xml", headers={"cache-control": "private, max-age=86400"}
    )


@router.get("/codes/{code}")
def trace(code: str, desk: Desk) -> Making:
    """From a label's code to the making."""
    return desk.codes.trace(code)
