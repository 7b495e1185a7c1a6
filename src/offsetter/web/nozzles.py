"""Nozzle checks of the shop's printers."""

from typing import Annotated

from fastapi import APIRouter, Depends, File, Response, UploadFile
from pydantic import Field

from offsetter.core.nozzle_care import Cleaning
from offsetter.core.values import Frozen
from offsetter.desk.nozzles import NozzlesView
from offsetter.intake.limits import MAX_BYTES
from offsetter.web.guard import Person, signed_in
from offsetter.web.limits import FORM_BYTES, FactId
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


class PageIn(Frozen):
    tray: Annotated[str, Field(max_length=120)] = ""


class Taken(Frozen):
    """The printer has it."""

    taken: bool = True


class CleanedIn(Frozen):
    cleaning: Cleaning


@router.get("/nozzles/{printer}")
def read_nozzles(printer: FactId, desk: Desk) -> NozzlesView:
    """What a printer's checks showed, and what is to be done next."""
    return desk.nozzles.look(printer)


@router.get("/nozzles/{printer}/sheet.png", response_class=Response)
def nozzle_picture(printer: FactId, desk: Desk) -> Response:
    """The sheet at its exact size."""
    return Response(desk.nozzles.picture(printer), media_type="image/png")


@router.get("/nozzles/{printer}/sheet.tif", response_class=Response)
def nozzle_plates(printer: FactId, desk: Desk) -> Response:
    """The sheet ink by ink."""
    named = {"content-disposition": f'attachment; filename="nozzles-{printer}.tif"'}
    return Response(desk.nozzles.plates(printer), media_type="image/tiff", headers=named)


@router.post("/nozzles/{printer}/prints", status_code=202)
def print_nozzle_sheet(printer: FactId, given: PageIn, desk: Desk, person: Person) -> Taken:
    """Send the sheet to its printer."""
    desk.nozzles.print_sheet(printer, given.tray, person)
    return Taken()


@router.post("/links/{printer}/face-tests", status_code=202)
def print_face_test(printer: FactId, given: PageIn, desk: Desk, person: Person) -> Taken:
    """Send a page that shows which side of a sheet it prints."""
    desk.links.print_face_test(printer, given.tray, person)
    return Taken()


@router.post("/nozzles/{printer}/scans", max_body_size=MAX_BYTES + FORM_BYTES)
def read_scan(printer: FactId, file: Annotated[UploadFile, File()], desk: Desk, person: Person) -> NozzlesView:
    """A scan of the sheet, read back."""
    return desk.nozzles.read(printer, file.filename or "scan", file.file.read(MAX_BYTES + 1), person)


@router.post("/nozzles/{printer}/cleanings")
def record_cleaning(printer: FactId, given: CleanedIn, desk: Desk, person: Person) -> NozzlesView:
    """A cleaning that was done."""
    return desk.nozzles.cleaned(printer, given.cleaning, person)
