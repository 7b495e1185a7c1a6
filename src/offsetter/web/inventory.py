"""The shop's own blanks and presses, and what a job makes of them: heat and money."""

from typing import Any, Literal

from fastapi import APIRouter, Depends
from pydantic import Field

from offsetter.core.facts import Blank, Feed, HeatReading, Printer
from offsetter.core.quote import PriceRow
from offsetter.core.values import Frozen
from offsetter.desk.inventory import BlankView
from offsetter.desk.press import BatchView
from offsetter.web.guard import Person, Who, signed_in
from offsetter.web.limits import FactId
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


class ReadingsIn(Frozen):
    room_c: float = Field(ge=-10, le=50)
    readings: tuple[HeatReading, ...] = Field(min_length=1, max_length=200)


class HeatModel(Frozen):
    q_c_per_min: float
    k_per_min: float
    room_c: float
    ceiling_c: float


class PressHeatOut(Frozen):
    """A press with the model fitted to its readings."""

    press: str
    name: str
    readings: tuple[HeatReading, ...]
    room_c: float | None
    settle_min: float
    lower_warm_min: float
    model: HeatModel | None
    minutes: dict[str, float]
    """Changes of heat that come up, as from-to, in minutes."""
    curves: dict[str, tuple[tuple[float, float], ...]]
    """The fitted heating and cooling run: minute and °C."""
    worst_k: float
    """The furthest reading from its curve."""


@router.get("/blanks/{blank_id}")
def look_at_blank(blank_id: str, desk: Desk, size: str = "") -> BlankView:
    """A blank to scale, and what each method says to it."""
    return desk.inventory.look(blank_id, size)


@router.post("/blanks", status_code=201)
def add_blank(body: dict[str, Any], desk: Desk, person: Person) -> Blank:
    """A new blank of the shop's own, or another colour of one."""
    return desk.inventory.add_blank(body, person)


@router.put("/blanks/{blank_id}")
def change_blank(blank_id: str, body: dict[str, Any], desk: Desk, person: Person, who: Who) -> Blank:
    """One of the shop's blanks, changed."""
    return desk.inventory.change_blank(blank_id, body, person, may_price=who.user.may("prices"))


@router.put("/printers/{printer}/feeds")
def put_feed(printer: str, feed: Feed, desk: Desk, person: Person, who: Who) -> Printer:
    """What a printer takes for one method."""
    return desk.inventory.put_feed(printer, feed, person, may_price=who.user.may("prices"))


class FaceIn(Frozen):
    prints: Literal["up", "down"]


@router.put("/printers/{printer}/feeds/{method}/face")
def settle_face(printer: FactId, method: FactId, given: FaceIn, desk: Desk, person: Person) -> Printer:
    """Which side of a sheet this printer prints, as a marked test sheet showed."""
    return desk.inventory.settle_face(printer, method, given.prints, person)


@router.get("/presses/{press}/heat")
def read_heat(press: str, desk: Desk) -> PressHeatOut:
    """How a press heats and cools, from its own readings."""
    return _heat_out(desk, press)


@router.put("/presses/{press}/readings")
def measure_press(press: str, given: ReadingsIn, desk: Desk, person: Person) -> PressHeatOut:
    """A probe's readings of one heating and one cooling run, and the room's temperature beside it."""
    desk.inventory.measure(press, given.readings, given.room_c, person)
    return _heat_out(desk, press)


@router.get("/jobs/{job_id}/heat")
def batch_heat(job_id: str, desk: Desk, print: str = "") -> BatchView:
    """This batch on its press: one heat or several, piece by piece, rolling with the rack, or by stage."""
    return desk.presses.batch(job_id, print, desk.inventory)


@router.get("/jobs/{job_id}/price")
def price(job_id: str, desk: Desk, print: str = "", kind: str = "") -> tuple[PriceRow, ...]:
    """Cost and price of a piece at this quantity and at round ones."""
    return desk.ways.price(job_id, print, kind)


def _heat_out(desk: Desk, press_id: str) -> PressHeatOut:
    press, heat = desk.inventory.heat_of(press_id)
    curves, worst = desk.inventory.curves(press, heat)
    pairs = ((20.0, 160.0), (120.0, 160.0), (160.0, 180.0), (160.0, 130.0), (180.0, 120.0), (160.0, 140.0))
    model = None if heat is None else HeatModel(**heat.model_dump(), ceiling_c=heat.ceiling_c)
    minutes = {} if heat is None else {f"{a:.0f}-{b:.0f}": m for a, b in pairs if (m := heat.minutes(a, b)) < 1e6}
    return PressHeatOut(press=press.id, name=press.name, readings=press.readings, room_c=press.room_c, settle_min=press.settle_min,
                        lower_warm_min=press.lower_warm_min, model=model, minutes=minutes, curves=curves, worst_k=worst)  # fmt: skip
