"""The shop filled from nothing: machines and blanks of general kinds, and what things cost."""

from decimal import Decimal
from typing import Annotated, Any

from fastapi import APIRouter, Depends
from pydantic import Field

from offsetter.core import facts as shipped
from offsetter.core.facts import Blank, Cutter, Feed, MachineSort, Oven, Press, Printer, Probe
from offsetter.core.values import Frozen
from offsetter.desk.prices import PriceOfOne, PricesView
from offsetter.desk.probes import HeatLog
from offsetter.web.guard import Owner, Person, Pricer, Who, signed_in
from offsetter.web.limits import FactId
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Short = Annotated[str, Field(min_length=1, max_length=40)]


class MachineKindOut(Frozen):
    sort: MachineSort
    id: str
    name: str
    said: str
    methods: tuple[str, ...]
    """What a printer of this kind can do."""
    is_mug: bool


class BlankKindOut(Frozen):
    id: str
    name: str
    said: str
    colours: tuple[tuple[str, str], ...]
    price: Decimal


class WayToPrint(Frozen):
    """One of the fifteen, as it is chosen on the first day."""

    id: str
    name: str
    carrier: str
    blanks: str
    lies: str
    white: str
    is_hard_only: bool
    cures_in_oven: bool
    """An oven is one of the ways to finish it before it is pressed."""


class KindsOut(Frozen):
    ways: tuple[WayToPrint, ...]
    machines: tuple[MachineKindOut, ...]
    blanks: tuple[BlankKindOut, ...]
    feeds: dict[str, Feed]
    """Method to what the first general kind that does it takes: where a printer of the shop's own begins with another way."""


class NewMachine(Frozen):
    kind: Short
    name: Short


class Starter(Frozen):
    kind: Short
    colours: tuple[Short, ...] = Field(min_length=1, max_length=20)


class ShopNamed(Frozen):
    name: Annotated[str, Field(min_length=2, max_length=60)]


@router.get("/kinds")
def read_kinds(desk: Desk) -> KindsOut:
    """General kinds of machines and blanks that a shop can begin with."""
    known = desk.machines.kinds()
    feeds: dict[str, Feed] = {}
    for printer in known.machines["printers"].values():
        for body in printer.body["feeds"]:
            feeds.setdefault(body["method"], Feed.model_validate(body))
    recipes = shipped.recipes().values()
    cured = {r.method for r in recipes for q in r.schools for c in q.choices if c.oven}
    return KindsOut(
        ways=tuple(
            WayToPrint(id=m.id, name=m.name, carrier=m.carrier, blanks=m.blanks, lies=m.lies, white=m.white, is_hard_only=m.kinds == ("hard",), cures_in_oven=m.id in cured)
            for m in shipped.methods().values()
        ),
        machines=tuple(
            MachineKindOut(sort=sort, id=k.id, name=k.name, said=k.said, methods=k.methods, is_mug=k.body.get("kind") == "mug")
            for sort, kinds in known.machines.items() for k in kinds.values()
        ),
        feeds=feeds,
        blanks=tuple(BlankKindOut(id=b.id, name=b.body["name"], said=b.said, colours=b.colours, price=Decimal(b.body["price"])) for b in known.blanks.values()),
    )  # fmt: skip


@router.post("/machines/{sort}", status_code=201)
def add_machine(
    sort: MachineSort, new: NewMachine, desk: Desk, person: Person
) -> Printer | Press | Oven | Cutter | Probe:
    """A machine of a general kind, under the name it is called by."""
    return desk.machines.add(sort, new.kind, new.name, person)


@router.put("/machines/{sort}/{machine}")
def change_machine(sort: MachineSort, machine: FactId, body: dict[str, Any], desk: Desk, person: Person, who: Who) -> Printer | Press | Oven | Cutter | Probe:  # fmt: skip
    """Other values of a machine; what is left out stays."""
    return desk.machines.change(
        sort, machine, body, person, is_owner=who.user.role == "owner", may_price=who.user.may("prices")
    )


@router.post("/machines/{sort}/{machine}/checked")
def machine_checked(
    sort: MachineSort, machine: FactId, desk: Desk, person: Person
) -> Printer | Press | Oven | Cutter | Probe:
    """Somebody has looked at all its values."""
    return desk.machines.checked(sort, machine, person)


@router.get("/probes/{probe}/log")
def read_heat_log(probe: FactId, desk: Desk) -> HeatLog:
    """What a probe for heat has logged, parted into a heating and a cooling run where it holds both."""
    return desk.probes.heat(probe)


@router.post("/blanks/starter", status_code=201)
def add_starter_blanks(wanted: Starter, desk: Desk, person: Person) -> tuple[Blank, ...]:
    """Blanks of a general kind, in some of its colours."""
    return desk.inventory.starter(wanted.kind, wanted.colours, person)


@router.put("/shop/name")
def name_shop(given: ShopNamed, desk: Desk, who: Owner) -> ShopNamed:
    """What the shop is called."""
    desk.prices.found(given.name, who.user.name)
    return given


@router.get("/prices")
def read_prices(desk: Desk) -> PricesView:
    """What hands, machines and materials cost this shop, and what a plain piece makes of it."""
    return desk.prices.look()


@router.put("/prices")
def change_prices(body: dict[str, Any], desk: Desk, who: Pricer) -> PricesView:
    """Other prices from now on; what is left out stays."""
    return desk.prices.change(body, who.user.name)


@router.post("/prices/try")
def try_prices(body: dict[str, Any], desk: Desk) -> PriceOfOne:
    """A plain piece at these rates, before they are saved."""
    return desk.prices.weigh(body)


@router.post("/prices/checked")
def prices_checked(desk: Desk, who: Pricer) -> PricesView:
    """Whoever may price has looked at all of them."""
    return desk.prices.checked(who.user.name)
