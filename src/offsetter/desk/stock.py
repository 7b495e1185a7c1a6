"""The shelves: what lies there, what open jobs still want of it, how long it lasts, what to order; every change is an act."""

import csv
import io
from datetime import date, datetime, timedelta
from typing import Literal

from pydantic import Field

from offsetter.core import stock as core
from offsetter.core.facts import Shop
from offsetter.core.sentences import say
from offsetter.core.stock import PACE_DAYS, Outlook, StockAct, Supply
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.store.shop import ShopStore
from offsetter.store.stock import Shelf, StockStore

NOTHING = say("Nothing was recorded.")
SUPPLIES = "supplies"
SHOWN_ACTS = 50
SOON = timedelta(days=30)
"""Before a lot expires, it is said."""


class ShelfView(Frozen):
    item: str
    sort: Literal["blank", "roll", "sheet", "ink", "powder", "cover"]
    name: str
    colour: str = ""
    """Of a blank, sRGB."""
    unit: str
    digits: int
    is_counted: bool
    on_hand: float
    wanted: float
    outlook: Outlook
    supply: Supply


class Stocked(Frozen):
    shelves: tuple[ShelfView, ...]
    days_known: int
    """Over which the pace is taken."""


class Shelved(Frozen):
    """One act at the shelf, as it is read back."""

    kind: core.StockKind
    amount: float
    change: float
    reason: str
    lot: str
    expires: date | None
    is_expiring: bool
    actor: str
    at: datetime


class SupplyIn(Frozen):
    item: str = Field(pattern=core.ITEM)
    supply: Supply


class Stock:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def look(self) -> Stocked:
        """Every item that somebody counted, that a job took, or that the shop could count; what has to be ordered stands first."""
        today = self._base.now().date()
        with self._base.session() as session:
            shop = self._jobs.shop_in(session)[0]
            store = StockStore(session)
            shelves, lately = store.shelves(), store.taken_since(today - timedelta(days=PACE_DAYS))
            first = store.first_day()
            supplies = {s["item"]: Supply.model_validate(s["supply"]) for s in ShopStore(session).all_of(SUPPLIES)}
        known = (today - first).days + 1 if first else 0
        names = core.items_of(shop)
        found = []
        for item in names.keys() | shelves.keys():
            shelf = shelves.get(item) or Shelf(item, False, 0.0, 0.0, 0.0)
            if item not in names and not shelf.is_counted:
                continue
            supply = supplies.get(item, Supply())
            told = core.outlook(shelf.on_hand, shelf.wanted, lately.get(item, 0.0), supply, today, days_known=known)
            found.append(_view(shop, shelf, names.get(item, item), told, supply))
        # Sizes of one blank stay together, as the shop lists them.
        place = {item: n for n, item in enumerate(names)}
        found.sort(key=lambda v: (not v.is_counted, not v.outlook.order, place.get(v.item, len(place))))
        return Stocked(shelves=tuple(found), days_known=min(known, PACE_DAYS))

    def record(self, act: StockAct, actor: str) -> float:
        """What somebody did at the shelf; gives what lies there afterwards. The same act again changes nothing."""
        with self._base.session() as session, session.begin():
            ShopStore(session).lock()
            store = StockStore(session)
            known = store.find(act.id)
            if known is not None:
                if (known.item, known.kind, known.amount) != (act.item, act.kind, act.amount):
                    raise Refusal(
                        "id-used",
                        say("Something else was recorded under this mark already."),
                        NOTHING,
                        say("Record it anew."),
                    )
                return store.shelves([act.item])[act.item].on_hand
            if act.item not in core.items_of(self._jobs.shop_in(session)[0]):
                raise Refusal(
                    "no-such-item", say("The shop has no such thing to count."), NOTHING, say("Choose one of the list.")
                )
            shelf = store.shelves([act.item], for_update=True).get(act.item)
            there = shelf.on_hand if shelf and shelf.is_counted else 0.0
            if there + act.change(there) < 0 and not act.reason.strip():
                raise Refusal("below-nothing", say("{there} are on hand: this would leave less than nothing.", there=f'{there:g}'), NOTHING,
                              say("Count what is there, or say why."))  # fmt: skip
            return store.record(act, actor, self._base.now())

    def history(self, item: str) -> tuple[Shelved, ...]:
        soon = self._base.now().date() + SOON
        with self._base.session() as session:
            told = StockStore(session).acts_of(item, SHOWN_ACTS)
        return tuple(
            Shelved(kind=t.act.kind, amount=t.act.amount, change=t.change, reason=t.act.reason, lot=t.act.lot, expires=t.act.expires,
                    is_expiring=t.act.expires is not None and t.act.expires <= soon, actor=t.actor, at=t.at)
            for t in told
        )  # fmt: skip

    def supply(self, given: SupplyIn, author: str) -> None:
        """Where an item comes from, how long that takes, how much is kept at least."""
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.lock()
            if given.item not in core.items_of(self._jobs.shop_in(session)[0]):
                raise Refusal(
                    "no-such-item", say("The shop has no such thing to count."), NOTHING, say("Choose one of the list.")
                )
            # A row's id is shorter than an item's name may be.
            rows = {s["item"]: s["id"] for s in store.all_of(SUPPLIES)}
            row = rows.get(given.item) or f"supply-{len(rows) + 1}"
            store.replace(
                SUPPLIES, row, {"id": row, "item": given.item, "supply": given.supply.model_dump(mode="json")}
            )

    def orders_csv(self) -> str:
        """What to order now, by supplier."""
        due = [s for s in self.look().shelves if s.is_counted and s.outlook.order]
        out = io.StringIO()
        write = csv.writer(out, lineterminator="\r\n")
        write.writerow(("supplier", "item", "order", "unit", "on hand", "wanted by jobs", "lasts days", "order by"))
        for s in sorted(due, key=lambda s: (s.supply.supplier, s.name)):
            write.writerow((
                plain_cell(s.supply.supplier), plain_cell(s.name), f"{s.outlook.order:g}", s.unit or "pieces", f"{s.on_hand:g}", f"{s.wanted:g}",
                s.outlook.lasts_days if s.outlook.lasts_days is not None else "", s.outlook.order_by or "",
            ))  # fmt: skip
        return out.getvalue()


def plain_cell(text: str) -> str:
    """A cell that no table program takes for a formula."""
    return f"'{text}" if text and text[0] in "=+-@\t\r" else text


def _view(shop: Shop, shelf: Shelf, name: str, told: Outlook, supply: Supply) -> ShelfView:
    sort, key = shelf.item.split("/")[:2]
    blank = shop.blanks.get(key) if sort == "blank" else None
    return ShelfView(
        item=shelf.item, sort=sort, name=name, colour=blank.colour if blank else "", unit=core.UNITS[sort], digits=core.DIGITS[sort],
        is_counted=shelf.is_counted, on_hand=shelf.on_hand, wanted=round(shelf.wanted, 3), outlook=told, supply=supply,
    )  # fmt: skip
