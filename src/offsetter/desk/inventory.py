"""What the shop owns and buys: blanks of its own, readings of its presses, which printer takes what."""

import math
from datetime import datetime
from typing import Any, Literal

from offsetter.core import derive
from offsetter.core import facts as shipped
from offsetter.core.compute.cielab import lab_of_srgb, rgb_of_hex
from offsetter.core.compute.fit import AdviceArt, AdviceJob, Verdict, all_reasons, verdict_of
from offsetter.core.compute.heat import PressHeat
from offsetter.core.compute.press_model import fitted
from offsetter.core.decisions import PlaceDoc
from offsetter.core.facts import Blank, Feed, FlatSize, HeatReading, Press, Printer
from offsetter.core.facts.kinds import blank_body, still_unchecked
from offsetter.core.garments import draw_garment, fibres_of
from offsetter.core.results import GarmentDrawing
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.machines import owner_prices, read_fact
from offsetter.desk.naming import free_id
from offsetter.store.shop import ShopStore

Curves = dict[str, tuple[tuple[float, float], ...]]
"""Run to its points: minute and °C."""


class Fit(Frozen):
    method: str
    name: str
    verdict: Verdict
    why: str


class BlankView(Frozen):
    blank: Blank
    changed_by: str = ""
    """Who made this version of it; empty: shipped, or not kept."""
    changed_at: datetime | None = None
    drawing: GarmentDrawing
    lab: tuple[float, float, float]
    """D50."""
    fits: tuple[Fit, ...]
    """What each method says to a plain graphic on it, price left aside."""


class Inventory:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def add_blank(self, body: dict[str, Any], author: str) -> Blank:
        """A new blank of the shop's own, or another colour of one, under the shop's own `code` where it has one: a name may be had
        twice, a blank only once."""
        code = str(body.get("code") or "")
        made = read_fact(Blank, {**{k: v for k, v in body.items() if k != "code"}, "id": code or "new"}, "blank")
        _refuse_crossed(made)
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.lock()
            known = self._jobs.shop_in(session)[0].blanks
            same = next((b for b in known.values() if _said(b) == _said(made)), None)
            if same is not None:
                raise Refusal("blank-known", say("There is a {name} in {colour_name} already.", name=same.name.lower(), colour_name=same.colour_name), say("Nothing was saved."),
                              say("Change that one, or give this another name or colour."))  # fmt: skip
            if code in known:
                raise Refusal("blank-known", say("“{code}” is the {name} in {colour_name}.", code=code, name=known[code].name.lower(), colour_name=known[code].colour_name), say("Nothing was saved."),
                              say("Give this one another code."))  # fmt: skip
            free = code or free_id(f"{made.name} {made.colour_name}", known, "blank")
            blank = made.model_copy(update={"id": free})
            store.change("blanks", free, **blank.model_dump(mode="json", exclude={"id"}))
        return blank

    def change_blank(self, blank_id: str, body: dict[str, Any], author: str, *, may_price: bool = False) -> Blank:
        """A blank of the shop's changed. Sizes that a job ordered stay; its price is the owner's to say."""
        blank = read_fact(Blank, {**body, "id": blank_id}, "blank")
        _refuse_crossed(blank)
        shop, _ = self._jobs.shop()
        known = shop.blanks.get(blank_id)
        if known is None:
            raise _no_such_blank()
        if blank.price != known.price and not may_price:
            raise owner_prices()
        gone = sorted(set(known.sizes) - set(blank.sizes))
        if gone:
            raise Refusal(
                "size-in-use",
                say("Size {gone} was offered before, and jobs may hold it.", gone=", ".join(gone)),
                say("Nothing was saved."),
                say("Keep the size."),
            )
        if any(_said(b) == _said(blank) for b in shop.blanks.values() if b.id != blank_id):
            raise Refusal("blank-known", say("There is another {name} in {colour_name}.", name=blank.name.lower(), colour_name=blank.colour_name), say("Nothing was saved."),
                          say("Give this one another name or colour."))  # fmt: skip
        after = blank.model_dump(mode="json", exclude={"id"})
        after["sources"] = still_unchecked(known.sources, known.model_dump(mode="json"), after)
        with self._base.session() as session, session.begin():
            ShopStore(session, author, self._base.now()).change("blanks", blank_id, **after)
        return self._jobs.shop()[0].blanks[blank_id]

    def starter(self, kind_id: str, colours: tuple[str, ...], author: str) -> tuple[Blank, ...]:
        """Blanks of a general kind in these of its colours; what the shop has of it already stays as it is."""
        kind = shipped.kinds().blanks.get(kind_id)
        if kind is None or set(colours) - {name for name, _ in kind.colours}:
            raise Refusal(
                "no-such-kind",
                say("There is no blank “{kind_id}” in these colours.", kind_id=kind_id),
                say("Nothing was saved."),
                say("Choose from the list."),
            )
        made = []
        for name, rgb in kind.colours:
            if name not in colours:
                continue
            body = blank_body(kind, name, rgb)
            known = self._jobs.shop()[0].blanks
            wanted = read_fact(Blank, {**body, "id": "new"}, "blank")
            same = next((b for b in known.values() if _said(b) == _said(wanted)), None)
            made.append(same or self.add_blank(body, author))
        return tuple(made)

    def look(self, blank_id: str, size: str = "") -> BlankView:
        """A blank of one size drawn to scale, its colour as Lab, and what each method says to it."""
        shop, _ = self._jobs.shop()
        blank = shop.blanks.get(blank_id)
        if blank is None:
            raise _no_such_blank()
        size = size if size in blank.sizes else next(iter(blank.sizes))
        asked = AdviceJob(
            blank=derive.advice_blank(blank),
            artwork=AdviceArt(kind="graphic", colours=1),
            width_mm=60,
            height_mm=60,
            quantity=10,
        )
        newest = {r.method: r for r in shop.recipes.values()}
        fits = tuple(
            Fit(method=m.id, name=m.name, verdict=verdict_of(asked, m, newest.get(m.id), shipped.advice_facts()),
                why=". ".join(r.said for r in all_reasons(asked, m, newest.get(m.id), shipped.advice_facts())))
            for m in shop.methods.values()
        )  # fmt: skip
        lab = lab_of_srgb(rgb_of_hex(blank.colour)).reshape(-1)
        with self._base.session() as session:
            made = ShopStore(session).made("blanks", blank_id)
        return BlankView(blank=blank, changed_by=made[0] if made else "", changed_at=made[1] if made else None, drawing=draw_garment(blank, size, PlaceDoc(), None), fits=fits,
                         lab=(round(float(lab[0]), 1), round(float(lab[1]), 1), round(float(lab[2]), 1)))  # fmt: skip

    def put_feed(self, printer_id: str, feed: Feed, author: str, *, may_price: bool = False) -> Printer:
        """What a printer takes for one method, new or changed; its price is the owner's to say."""
        shop, _ = self._jobs.shop()
        printer = shop.printers.get(printer_id)
        if printer is None or feed.method not in shop.methods:
            what = "printer" if printer is None else say("method “{method}”", method=feed.method)
            raise Refusal(
                "not-owned",
                say("The shop has no such {what}.", what=what),
                say("Nothing was saved."),
                say("Choose one of its own."),
            )
        known = printer.feed(feed.method)
        if feed.price != (known.price if known else None) and not may_price:
            raise owner_prices()
        feeds = [f for f in printer.feeds if f.method != feed.method] + [feed]
        left = {k: v for k, v in printer.sources.items() if k != f"feeds.{feed.method}"}
        with self._base.session() as session, session.begin():
            ShopStore(session, author, self._base.now()).change(
                "printers", printer_id, feeds=[f.model_dump(mode="json") for f in feeds], sources=left
            )
        return self._jobs.shop()[0].printers[printer_id]

    def settle_face(self, printer_id: str, method: str, prints: Literal["up", "down"], author: str) -> Printer:
        """What a marked test sheet showed: which side of a sheet this printer prints."""
        printer = self._jobs.shop()[0].printers.get(printer_id)
        feed = printer.feed(method) if printer else None
        if feed is None:
            raise Refusal(
                "not-owned",
                say("No such printer takes this medium."),
                say("Nothing was saved."),
                say("Choose one of the shop's own."),
            )
        return self.put_feed(printer_id, feed.model_copy(update={"prints": prints}), author)

    def heat_of(self, press_id: str) -> tuple[Press, PressHeat | None]:
        """A press and the model fitted to its readings; None while there are none."""
        shop, _ = self._jobs.shop()
        press = shop.presses.get(press_id)
        if press is None:
            raise Refusal(
                "no-such-press",
                say("The shop has no such press."),
                say("Nothing was changed."),
                say("Choose one of its presses."),
            )
        return press, fitted(press)

    @staticmethod
    def curves(press: Press, heat: PressHeat | None) -> tuple[Curves, float]:
        """Both runs as the model draws them, and how far the furthest reading lies off, in K."""
        if heat is None:
            return {}, 0.0
        drawn: Curves = {}
        worst = 0.0
        for run in ("heating", "cooling"):
            seen = [(r.minute, r.celsius) for r in press.readings if r.run == run]
            ends = heat.ceiling_c if run == "heating" else heat.room_c
            begins, last = seen[0][0], seen[-1][0]
            # The first reading carries noise like all of them: the start is where the curve fits best.
            off = sum((c - ends) * math.exp(heat.k_per_min * (m - begins)) for m, c in seen) / len(seen)
            steps = [begins + (last - begins) * i / 60 for i in range(61)]
            drawn[run] = tuple(
                (round(m, 2), round(ends + off * math.exp(-heat.k_per_min * (m - begins)), 2)) for m in steps
            )
            worst = max(worst, *(abs(ends + off * math.exp(-heat.k_per_min * (m - begins)) - c) for m, c in seen))
        return drawn, round(worst, 2)

    def measure(self, press_id: str, readings: tuple[HeatReading, ...], room_c: float, author: str) -> PressHeat:
        """Readings of a probe replace the ones before, if a model can be fitted to them."""
        press, _ = self.heat_of(press_id)
        heat = fitted(press.model_copy(update={"readings": readings, "room_c": room_c}))
        if heat is None:
            raise Refusal("too-few-readings", say("There are too few readings."), say("The press keeps its earlier ones."),
                          say("Give at least four of a heating run and three of a cooling run."))  # fmt: skip
        with self._base.session() as session, session.begin():
            ShopStore(session, author, self._base.now()).change(
                "presses", press_id, readings=[r.model_dump(mode="json") for r in readings], room_c=room_c
            )
        return heat


def _no_such_blank() -> Refusal:
    return Refusal(
        "no-such-blank", say("The shop has no such blank."), say("Nothing was changed."), say("Choose one of the list.")
    )


def _said(blank: Blank) -> tuple[str, str, str]:
    """What a person tells blanks apart by."""
    return blank.name.strip().casefold(), blank.colour_name.strip().casefold(), fibres_of(blank)


def _refuse_crossed(blank: Blank) -> None:
    """An outline of its own is one line round one thing. Raises Refusal."""
    from shapely import Polygon  # only where there is such a thing: the server's start does not wait for it

    for size in blank.sizes.values():
        if isinstance(size, FlatSize) and size.outline and not Polygon(size.outline).is_valid:
            raise Refusal("outline-crossed", say("The outline crosses itself."), say("Nothing was saved."),
                          say("Draw it as one closed line that meets itself nowhere else."))  # fmt: skip
