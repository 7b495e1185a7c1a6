"""What an order and a way may name: things that the shop has."""

from collections.abc import Collection, Iterable, Mapping

from pydantic import ValidationError

from offsetter.core import derive
from offsetter.core.compute.placement import places_on
from offsetter.core.decisions import Decisions, OrderDoc, Way
from offsetter.core.facts import Shop
from offsetter.core.facts.blanks import TAKEN_NAMES
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.intake.names import letters_not_drawn


def unreadable(wrong: ValidationError) -> Refusal:
    """A row of a job that cannot be read."""
    first = wrong.errors()[0]
    where = ".".join(str(p) for p in first["loc"])
    return Refusal("job-unreadable", say("{title} of this job cannot be read ({where}: {first}).", title=wrong.title, where=where, first=first['msg'].lower()),
                   say("All that was ever decided is kept."), say("The owner can go back to the last version that can be read."))  # fmt: skip


def check_facts(shop: Shop, order: OrderDoc, ways: Iterable[Way | None]) -> None:
    """Raises Refusal where the job names something that the shop cannot read any more."""
    named: list[tuple[str, str, Mapping[str, object]]] = [("blank", ln.blank, shop.blanks) for ln in order.lines]
    for way in ways:
        if way is not None:
            named += [("printer", way.printer, shop.printers), ("press", way.press, shop.presses), ("method", way.method, shop.methods),
                      ("recipe", way.recipe, shop.recipes)]  # fmt: skip
    for what, fact_id, known in named:
        if fact_id not in known:
            raise Refusal("fact-missing", say("This job names the {what} “{fact_id}”, which cannot be read.", what=what, fact_id=fact_id), say("The job is kept as it is."),
                          say("Put the {what} right, and it opens again.", what=what))  # fmt: skip


def check_order(shop: Shop, order: OrderDoc) -> None:
    for name in order.names:
        unknown = letters_not_drawn(name.text)
        if unknown:
            raise Refusal("names-letters", say("“{text}” holds “{unknown}”, which the shipped type does not have.", text=name.text, unknown=unknown[0]),
                          say("The order was not saved."), say("Write it in Latin letters, or give that piece a picture of its own."))  # fmt: skip
    for line in order.lines:
        blank = shop.blanks.get(line.blank)
        missing = [] if blank is None else [s for s in line.counts if s not in blank.sizes]
        if blank is None or missing:
            what = (
                say("There is no blank “{blank}”", blank=line.blank)
                if blank is None
                else say("{name} does not come in {missing}", name=blank.name, missing=", ".join(missing))
            )
            raise Refusal(
                "no-such-blank",
                f"{what}.",
                say("The order was not saved."),
                say("Choose a blank and its sizes from the list."),
            )


def check_place(shop: Shop, order: OrderDoc, place: str) -> None:
    """Raises Refusal for a place that none of the order's blanks has."""
    blanks = [shop.blanks[ln.blank] for ln in order.lines]
    if not any(place in places_on(b, s) for b in blanks for s in b.sizes.values()) and place not in TAKEN_NAMES:
        raise Refusal("no-such-place", say("None of this order's blanks has a “{place}”.", place=place), say("The print is as it was."),
                      say("Choose one of the blank's places, or add it to the blank first."))  # fmt: skip


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
                say("The shop has no {field} “{getattr}”.", field=field, getattr=getattr(way, field)),
                say("The way is as it was."),
                say("Choose one of the shop's own."),
            )
    if way.mode not in {m.id for m in shop.printers[way.printer].modes}:
        raise Refusal(
            "no-such-mode",
            say("{name} has no mode “{mode}”.", name=shop.printers[way.printer].name, mode=way.mode),
            say("The way is as it was."),
            say("Choose one of its modes."),
        )
    derive.feed_of(shop, way)
    recipe = derive.recipe_of(shop, way)
    if recipe.method != way.method:
        raise Refusal("wrong-recipe", say("“{name}” is not a recipe for {name2}.", name=recipe.name, name2=shop.methods[way.method].name.lower()),
                      say("The way is as it was."), say("Choose one of the method's own."))  # fmt: skip
    recipe.stages_for(way.schools)
