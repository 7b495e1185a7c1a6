"""Transfers in the store, and the way back from a code to the making."""

from fastapi import APIRouter, Depends

from offsetter.desk.codes import Making
from offsetter.desk.leftovers import Leftover
from offsetter.web.guard import signed_in
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


@router.get("/leftovers")
def leftovers(desk: Desk) -> list[Leftover]:
    """Transfers in the store, oldest first."""
    return desk.leftovers.left()


@router.get("/codes/{code}")
def trace(code: str, desk: Desk) -> Making:
    """From a label's code to the making."""
    return desk.codes.trace(code)
