"""The store: what lies there, and what is done at its shelves."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response

from offsetter.core.stock import StockAct
from offsetter.core.values import Frozen
from offsetter.desk.stock import Shelved, Stocked, SupplyIn
from offsetter.web.guard import Person, signed_in
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


class OnHand(Frozen):
    on_hand: float


@router.get("/stock")
def read_stock(desk: Desk) -> Stocked:
    """Every item with what is on hand, wanted and free, how long it lasts, and until when to order it."""
    return desk.stock.look()


@router.post("/stock/acts")
def record_stock(act: StockAct, desk: Desk, person: Person) -> OnHand:
    """Something received, counted, spoiled, taken or put back; the same act again changes nothing."""
    return OnHand(on_hand=desk.stock.record(act, person))


@router.get("/stock/acts")
def read_stock_acts(desk: Desk, item: Annotated[str, Query(max_length=80)]) -> tuple[Shelved, ...]:
    """What was done with one item, the newest first."""
    return desk.stock.history(item)


@router.put("/stock/supply")
def put_supply(given: SupplyIn, desk: Desk, person: Person) -> SupplyIn:
    """Where an item comes from, and how much of it is kept at least."""
    desk.stock.supply(given, person)
    return given


@router.get("/stock/orders.csv")
def read_orders(desk: Desk) -> Response:
    """What to order now, by supplier."""
    return Response(
        desk.stock.orders_csv(),
        media_type="text/csv; charset=utf-8",
        headers={"content-disposition": 'attachment; filename="to-order.csv"'},
    )
