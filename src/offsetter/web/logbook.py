"""The logbook, in pages."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query

from offsetter.desk.logbook import LogbookPage
from offsetter.web.guard import signed_in
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


@router.get("/logbook")
def logbook(
    desk: Desk, words: Annotated[str, Query(max_length=120)] = "", after: Annotated[str, Query(max_length=90)] = ""
) -> LogbookPage:
    """What closed jobs took, planned against actual, newest first; words: of their title, customer or code."""
    return desk.logbook.page(words, after)
