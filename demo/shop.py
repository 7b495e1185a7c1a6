"""The demo's shop, filled through the same use cases as any other: machines of general kinds, blanks, prices."""

import tomllib
import uuid
from pathlib import Path
from typing import Any

from offsetter.core import facts
from offsetter.core.facts import HeatReading, Medium
from offsetter.core.facts.kinds import machine_body
from offsetter.core.facts.media import medium_id
from offsetter.core.stock import StockAct, StockKind
from offsetter.desk.base import Base
from offsetter.desk.naming import free_id
from offsetter.store.shop import ShopStore
from offsetter.web.services import Services

TOLD: dict[str, Any] = tomllib.loads((Path(__file__).parent / "shop.toml").read_text())
SORTS = ("printers", "presses", "ovens", "cutters", "probes")
OWNER = "Ada"
FIRST_ML = 300.0


def fill(desk: Services, base: Base) -> bool:
    """Machines, blanks and prices that the shop lacks; False when it was filled already."""
    known = desk.jobs.shop()[0]
    with base.session() as session:
        was_there = ShopStore(session).has_shop()
    if not was_there:
        desk.prices.found(TOLD["name"], OWNER)
        desk.prices.change(TOLD["prices"], OWNER)
        desk.prices.checked(OWNER)
    for sort in SORTS:
        for told in TOLD[sort]:
            if any(m.name == told["name"] for m in getattr(known, sort).values()):
                continue
            made = desk.machines.add(sort, told["kind"], told["name"], OWNER)
            desk.machines.checked(sort, made.id, OWNER)
            if "readings" in told:
                readings = tuple(HeatReading.model_validate(r) for r in told["readings"])
                desk.inventory.measure(made.id, readings, told["room_c"], OWNER)
    for told in TOLD["blanks"]:
        if told["code"] not in known.blanks:
            desk.inventory.add_blank(told, OWNER)
    for told in TOLD["media"]:
        if desk.media.card(told["media"]) == Medium(media=told["media"]):
            desk.media.save(Medium.model_validate(told), OWNER)
    counted = {x.item for x in desk.stock.look().shelves if x.is_counted}
    for item, amount in TOLD["stock"].items():
        if item not in counted:
            # Ink lasts over the weeks before; what is short now is counted on Monday.
            lay(
                desk,
                item,
                "received",
                max(amount, FIRST_ML) if item.startswith("ink/") else amount,
                "for the first weeks",
            )
    return was_there


def count_shelves(desk: Services) -> None:
    """The store as it stands when the week begins."""
    for item, amount in TOLD["stock"].items():
        lay(desk, item, "counted", amount, "counted on Monday morning")


def lay(desk: Services, item: str, kind: StockKind, amount: float, reason: str) -> None:
    desk.stock.record(StockAct(id=uuid.uuid4().hex, item=item, kind=kind, amount=amount, reason=reason), OWNER)


def rows() -> dict[str, dict[str, dict[str, Any]]]:
    """The same shop as rows by kind and id, worked out without a database: what a test begins with."""
    found: dict[str, dict[str, dict[str, Any]]] = {
        "shop": {"shop": {"name": TOLD["name"]}}, "prices": {"prices": TOLD["prices"]},
        "blanks": {b["code"]: {k: v for k, v in b.items() if k != "code"} for b in TOLD["blanks"]},
        "media": {medium_id(m["media"]): Medium.model_validate(m).model_dump(mode="json") for m in TOLD["media"]},
    }  # fmt: skip
    for sort in SORTS:
        for told in TOLD[sort]:
            own = {k: v for k, v in told.items() if k not in ("kind", "name")}
            body = machine_body(facts.kinds().machines[sort][told["kind"]], told["name"], own)
            found.setdefault(sort, {})[free_id(told["name"], (), "machine")] = {**body, "sources": {}}
    return found
