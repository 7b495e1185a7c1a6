"""The shop itself: its name, and what hands, machines and materials cost it."""

from decimal import Decimal
from typing import Any

from offsetter.core import facts as shipped
from offsetter.core.compute.cost import hour_money
from offsetter.core.facts import Prices
from offsetter.core.facts.inks import INKS, alike
from offsetter.core.facts.kinds import still_unchecked, unchecked
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.machines import read_fact
from offsetter.store.shop import ShopStore

HANDS_MIN, MACHINE_MIN = 3.0, 2.0
BLANK, MATERIALS = Decimal("2.00"), Decimal("0.80")
"""A plain piece, to see what the rates make of it: minutes, and money; from memory."""


class PriceOfOne(Frozen):
    """What a plain piece would cost and be sold for at these rates."""

    hands_min: float
    machine_min: float
    hands: Decimal
    machines: Decimal
    blank: Decimal
    materials: Decimal
    spoilage: Decimal
    cost: Decimal
    price: Decimal


class PricesView(Frozen):
    prices: Prices
    example: PriceOfOne


class ShopPrices:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def found(self, name: str, author: str) -> None:
        """The first fact of a new shop: what it is called. Its prices begin as general ones that ask to be checked."""
        said = name.strip()
        if not 2 <= len(said) <= 60:
            raise Refusal(
                "shop-name",
                say("“{said}” is no name for a shop.", said=said),
                say("Nothing was saved."),
                say("Give two to sixty letters."),
            )
        first = shipped.kinds().prices.model_dump(mode="json", exclude={"sources"})
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.change("shop", "shop", name=said)
            if store.body("prices", "prices") is None:
                store.replace("prices", "prices", {**first, "sources": unchecked(first, {})})

    def look(self) -> PricesView:
        shop = self._jobs.shop()[0]
        prices, held = shop.prices, {i for p in shop.printers.values() if not p.retired for i in p.inks}
        # An ink that nobody gave a price counts with that of the ink it is most like.
        inks = {
            c: prices.ink_ml[like]
            for c in INKS
            if (c in held or c in prices.ink_ml) and (like := alike(c, prices.ink_ml)) in prices.ink_ml
        }
        return PricesView(prices=prices.model_copy(update={"ink_ml": inks or prices.ink_ml}), example=_example(prices))

    def weigh(self, body: dict[str, Any]) -> PriceOfOne:
        """What these rates would make of a plain piece, before they are saved."""
        return _example(self._changed(body)[1])

    def change(self, body: dict[str, Any], author: str) -> PricesView:
        """Other prices from now on: what was closed or quoted keeps those of its day."""
        was, now = self._changed(body)
        after = now.model_dump(mode="json")
        after["sources"] = still_unchecked(was.sources, was.model_dump(mode="json"), after)
        with self._base.session() as session, session.begin():
            ShopStore(session, author, self._base.now()).replace("prices", "prices", after)
        return self.look()

    def checked(self, author: str) -> PricesView:
        with self._base.session() as session, session.begin():
            ShopStore(session, author, self._base.now()).change("prices", "prices", sources={})
        return self.look()

    def _changed(self, body: dict[str, Any]) -> tuple[Prices, Prices]:
        was = self._jobs.shop()[0].prices
        given = {k: v for k, v in body.items() if k != "sources"}
        return was, read_fact(Prices, {**was.model_dump(mode="json"), **given}, "prices")


def _example(prices: Prices) -> PriceOfOne:
    hands, machines = hour_money(HANDS_MIN, prices.hands_hour), hour_money(MACHINE_MIN, prices.machine_hour)
    plain = hands + machines + BLANK + MATERIALS
    spoilage = plain * prices.spoil_share
    cost, cents = plain + spoilage, Decimal("0.01")
    return PriceOfOne(
        hands_min=HANDS_MIN, machine_min=MACHINE_MIN, hands=hands.quantize(cents), machines=machines.quantize(cents), blank=BLANK,
        materials=MATERIALS, spoilage=spoilage.quantize(cents), cost=cost.quantize(cents),
        price=(cost / (1 - prices.margin_share)).quantize(cents),
    )  # fmt: skip
