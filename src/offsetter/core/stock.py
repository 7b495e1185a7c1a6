"""What lies in the store and what jobs make of it.

An item is named by what it is: blank/ID/SIZE in pieces, roll/MEDIUM in metres, sheet/MEDIUM in sheets, ink/PRINTER/CHANNEL in mL,
powder/adhesive in grams, cover/NAME (what is counted at the presses) in sheets.
What is counted only ever changes by an act; what a job took and still wants follows from its own acts and decisions.
"""

import math
from collections import defaultdict
from datetime import date, timedelta
from typing import Literal

from pydantic import Field

from offsetter.core.acts import Printed, Renewed, job_standing, standing
from offsetter.core.compute.cost import is_powdered, white_m2_of
from offsetter.core.context import Context
from offsetter.core.decisions import kind_of
from offsetter.core.facts import Levels, Printer, Shop
from offsetter.core.facts.inks import name_of
from offsetter.core.ledger import Ledger
from offsetter.core.runs import Run
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

POWDER = "powder/adhesive"
ITEM = r"^(powder/adhesive|cover/[^/]{1,40}|blank/[a-z0-9-]{2,40}/[^/]{1,20}|roll/[^/]{1,60}|sheet/[^/]{1,60}|ink/[a-z0-9-]{1,40}/[A-Z][A-Za-z]{0,7})$"
MOST = 1_000_000.0
FORESEEN_DAYS = 3650
PACE_DAYS = 28
"""Over which the pace is taken: four weeks even out a busy one."""
UNITS = {"blank": "", "roll": "m", "sheet": "", "ink": "mL", "powder": "g", "cover": ""}
DIGITS = {"blank": 0, "roll": 2, "sheet": 0, "ink": 0, "powder": 0, "cover": 0}

StockKind = Literal["received", "counted", "spoiled", "taken", "returned"]


class StockAct(Frozen):
    """Something that somebody did at the shelf. amount: of what was moved; of a count, what lies there now."""

    id: str = Field(pattern=r"^[A-Za-z0-9-]{8,40}$")
    item: str = Field(pattern=ITEM)
    kind: StockKind
    amount: float = Field(ge=0, le=MOST)
    reason: str = Field("", max_length=200)
    lot: str = Field("", max_length=60)
    expires: date | None = None

    def change(self, on_hand: float) -> float:
        """How it moves what is on hand."""
        if self.kind == "counted":
            return self.amount - on_hand
        return self.amount if self.kind in ("received", "returned") else -self.amount


class Supply(Frozen):
    """Where an item comes from."""

    supplier: str = Field("", max_length=60)
    lead_days: int = Field(3, ge=0, le=365)
    """Until it arrives: from memory unless the shop said it."""
    least: float = Field(0, ge=0, le=MOST)
    """Kept at least."""
    pack: float = Field(1, gt=0, le=MOST)
    """How much comes in one package."""


class Moves(Frozen):
    """What a job makes of the store: item to amount."""

    taken: dict[str, float] = {}
    wanted: dict[str, float] = {}
    """Of an accepted order, and of runs that were released: not taken yet."""


class Outlook(Frozen):
    """How long an item lasts. pace: a day's use; None: it is not used."""

    free: float
    pace: float
    lasts_days: int | None
    order_by: date | None
    """The last day on which an order still arrives in time; None: not foreseen."""
    order: float
    """How much, in whole packages; 0: nothing."""


def moves_of(lines: tuple[Context, ...]) -> Moves:
    """lines: of each of the job's prints, the first one's first."""
    first = lines[0]
    order, ledger = first.order, first.ledger
    is_open = job_standing(first.given.acts)[0] in ("open", "held")
    taken: defaultdict[str, float] = defaultdict(float)
    wanted: defaultdict[str, float] = defaultdict(float)
    for kind, ordered in ledger.ordered.items():
        line, size = kind.split("/", 1)
        item = f"blank/{first.blanks[line].id}/{size}"
        taken[item] += blanks_used(ledger, kind)
        if is_open and order.settled:
            wanted[item] += max(0, ordered - ledger.begun(kind))
    printed: defaultdict[str, int] = defaultdict(int)
    for act in standing(first.given.acts):
        if isinstance(act.body, Printed):
            printed[act.body.run] += act.body.count
        elif isinstance(act.body, Renewed):
            taken[f"cover/{act.body.cover}"] += 1
    coloured = {ctx.here.id: sheet.medium for ctx in lines if ctx.way and (sheet := ctx.coloured_sheet)}
    strewn = {ctx.here.id for ctx in lines if ctx.way and is_powdered(ctx.stages, ctx.method)}
    grams = float(first.shop.prices.powder_g_m2)
    for run in first.given.runs:
        done = min(printed[run.id], run.copies)
        powder = {i.signature: white_m2_of(i.spec, i.measure) * grams for i in run.plan.items if i.print in strewn}
        _add(taken, run, 0, done, coloured, powder)
        if is_open and run.state == "released":
            _add(wanted, run, done, run.copies - done, coloured, powder)
    return Moves(taken=_rounded(taken), wanted=_rounded(wanted))


def blanks_used(ledger: Ledger, kind: str) -> int:
    """Blanks of a line and size that went: a piece takes several prints and one blank, so the print that was pressed most counts."""
    pressed = max(
        (sum(n for s, n in slots.items() if kind_of(s) == kind) for slots in ledger.pressed.values()), default=0
    )
    return math.ceil(pressed / ledger.demand.items_of(kind)) + ledger.spoiled_blanks.get(kind, 0)


def _add(
    into: defaultdict[str, float], run: Run, done: int, count: int, coloured: dict[str, str], powder: dict[str, float]
) -> None:
    """The medium, ink and powder of so many prints of a run, after the first done ones. powder: grams of one print, by signature."""
    if count <= 0:
        return
    layout, share = run.plan.layout, count / run.copies
    if layout.sheet_um:
        sheets = layout.sheets * share
        into[f"sheet/{run.plan.media}"] += sheets
        for medium in {coloured[i.print] for i in run.plan.items if i.print in coloured}:
            into[f"sheet/{medium}"] += sheets
    elif run.plan.media != "garment":
        into[f"roll/{run.plan.media}"] += layout.length_um / 1e6 * share
    for signature, copies in run.per(done, count).items():
        for channel, ml in run.ink_of(signature).items():
            into[f"ink/{run.plan.way.printer}/{channel}"] += ml * copies
        if signature in powder:
            into[POWDER] += powder[signature] * copies


def _rounded(amounts: dict[str, float]) -> dict[str, float]:
    return {item: kept for item, n in sorted(amounts.items()) if (kept := round(n, 3))}


def levels_of(on_hand: dict[str, float], shop: Shop) -> Levels:
    """What stations are told of the store: what somebody has counted, and nothing of the rest."""
    blanks: dict[str, dict[str, int]] = {}
    sheets: dict[str, int] = {}
    rolls: dict[str, float] = {}
    ink: dict[str, dict[str, float]] = {}
    for item, amount in on_hand.items():
        sort, *rest = item.split("/")
        if sort == "blank":
            blanks.setdefault(rest[0], {})[rest[1]] = max(0, math.floor(amount + 1e-6))
        elif sort == "sheet":
            sheets[rest[0]] = max(0, math.floor(amount + 1e-6))
        elif sort == "roll":
            rolls[rest[0]] = max(0.0, amount)
        elif sort == "ink":
            ink.setdefault(rest[0], {})[rest[1]] = max(0.0, amount)
    hung = {
        p.id: next((f.media for f in p.offers if f.kind == "roll" and f.media in rolls), "")
        for p in shop.printers.values()
    }
    return Levels(blanks=blanks, sheets=sheets, ink_ml=ink, media_m={p: rolls[m] for p, m in hung.items() if m})


def items_of(shop: Shop) -> dict[str, str]:
    """Everything that this shop could have in store, to what a person calls it."""
    found: dict[str, str] = {}
    made = {m for p in shop.printers.values() for m in p.methods}
    for blank in sorted(shop.blanks.values(), key=lambda b: (b.name, b.colour_name, b.id)):
        for size in blank.sizes:
            said = "" if size == "one" else f", {size}"
            found[f"blank/{blank.id}/{size}"] = f"{blank.name}, {blank.colour_name}{said}"
    for printer in shop.printers.values():
        for feed in printer.feeds:
            if feed.kind != "garment":
                found[f"{feed.kind}/{feed.media}"] = feed.media.replace("-", " ")
        for channel in channels_of(shop, printer):
            found[f"ink/{printer.id}/{channel}"] = say(
                "{channel} ink, {name}", channel=name_of(channel), name=printer.name
            )
    if any(is_powdered(r.stages, shop.methods[r.method]) for r in shop.recipes.values() if r.method in made):
        found[POWDER] = say("adhesive powder")
    for cover in sorted(shop.prices.cover_uses):
        found[f"cover/{cover}"] = cover
    for method in shop.methods.values():
        for sheet in method.sheets:
            found[f"sheet/{sheet.medium}"] = sheet.medium.replace("-", " ")
    return found


def channels_of(shop: Shop, printer: Printer) -> tuple[str, ...]:
    """What a printer takes by volume: its inks, where a laydown of one of its methods is known."""
    known = dict.fromkeys(str(c) for m in printer.methods for c in shop.methods[m].laydown_ml_m2)
    return tuple(dict.fromkeys((*printer.inks, *known))) if known else ()


def outlook(
    on_hand: float, wanted: float, taken_lately: float, supply: Supply, today: date, *, days_known: int
) -> Outlook:
    """taken_lately: within the last PACE_DAYS days, or as many as are known."""
    free, pace = on_hand - wanted, taken_lately / max(1, min(PACE_DAYS, days_known))
    left = max(0.0, free - supply.least)
    # Beyond ten years nothing is foreseen.
    lasts = math.floor(left / pace) if pace * FORESEEN_DAYS > left else None
    if free < supply.least:
        lasts = 0
    order_by = None if lasts is None else today + timedelta(days=max(0, lasts - supply.lead_days))
    # As much as brings it back over what is kept at least, for as long again as the delivery takes.
    short = supply.least - free + pace * supply.lead_days
    is_due = order_by is not None and order_by <= today
    return Outlook(
        free=round(free, 3), pace=round(pace, 4), lasts_days=lasts, order_by=order_by,
        order=math.ceil(max(short, supply.pack) / supply.pack) * supply.pack if is_due else 0,
    )  # fmt: skip
