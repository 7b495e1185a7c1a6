"""What an order and a way may name: things that the shop has."""

from collections.abc import Collection

from offsetter.core import derive
from offsetter.core.decisions import Decisions, OrderDoc
from offsetter.core.facts import Shop
from offsetter.core.values import Refusal
from offsetter.intake.names import letters_not_drawn


def check_order(shop: Shop, order: OrderDoc) -> None:
    for name in order.names:
        unknown = letters_not_drawn(name.text)
        if unknown:
            raise Refusal("names-letters", f"“{name.text}” holds “{unknown[0]}”, which the shipped type does not have.",
                          "The order was not saved.", "Write it in Latin letters, or give that piece a picture of its own.")  # fmt: skip
    for line in order.lines:
        blank = shop.blanks.get(line.blank)
        missing = [] if blank is None else [s for s in line.counts if s not in blank.sizes]
        if blank is None or missing:
            what = (
                f"There is no blank “{line.blank}”"
                if blank is None
                else f"{blank.name} does not come in {', '.join(missing)}"
            )
            raise Refusal(
                "no-such-blank", f"{what}.", "The order was not saved.", "Choose a blank and its sizes from the list."
            )


def check_way(shop: Shop, decisions: Decisions) -> None:
    way = decisions.method
    if way is None:
        return
    owned: dict[str, Collection[str]] = {
        "printer": shop.printers, "press": shop.presses, "oven": shop.ovens, "recipe": shop.recipes, "method": shop.methods,
    }  # fmt: skip
    for field, ids in owned.items():
        if getattr(way, field) not in ids and (field, way.oven) != ("oven", ""):
            raise Refusal(
                "not-owned",
                f"The shop has no {field} “{getattr(way, field)}”.",
                "The way is as it was.",
                "Choose one of the shop's own.",
            )
    if way.mode not in {m.id for m in shop.printers[way.printer].modes}:
        raise Refusal(
            "no-such-mode",
            f"{shop.printers[way.printer].name} has no mode “{way.mode}”.",
            "The way is as it was.",
            "Choose one of its modes.",
        )
    derive.feed_of(shop, way)
    recipe = derive.recipe_of(shop, way)
    if recipe.method != way.method:
        raise Refusal("wrong-recipe", f"“{recipe.name}” is not a recipe for {shop.methods[way.method].name.lower()}.",
                      "The way is as it was.", "Choose one of the method's own.")  # fmt: skip
    recipe.stages_for(way.schools)
