"""Lists as tables, out and in."""

from typing import Annotated

from fastapi import APIRouter, Depends, File, UploadFile
from fastapi.responses import StreamingResponse

from offsetter.desk.lists import MOST_BYTES, Brought, Listed, TableSeen
from offsetter.web.guard import Person, Who, signed_in
from offsetter.web.limits import FORM_BYTES
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Sheet = Annotated[UploadFile, File()]


@router.get("/lists/{list_name}.csv", response_class=StreamingResponse)
def read_list(list_name: Listed, desk: Desk) -> StreamingResponse:
    """A whole list, row by row."""
    named = {"content-disposition": f'attachment; filename="{list_name}.csv"', "cache-control": "no-store"}
    return StreamingResponse(desk.lists.csv(list_name), media_type="text/csv; charset=utf-8", headers=named)


@router.post("/lists/{table}/preview", max_body_size=MOST_BYTES + FORM_BYTES)
def preview_table(table: Brought, file: Sheet, desk: Desk, person: Person) -> TableSeen:
    """What every row of a table would do; nothing is written."""
    return desk.lists.preview(table, file.file.read(MOST_BYTES + 1))


@router.post("/lists/{table}", max_body_size=MOST_BYTES + FORM_BYTES)
def bring_table(table: Brought, file: Sheet, desk: Desk, person: Person, who: Who) -> TableSeen:
    """Write the rows of a table that are right."""
    return desk.lists.bring_in(table, file.file.read(MOST_BYTES + 1), person, may_price=who.user.may("prices"))
