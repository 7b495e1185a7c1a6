"""The logbook's entry: what a job was planned to take, and what it took, with the prices of the day it was closed."""

from collections import Counter
from datetime import datetime
from decimal import Decimal

from offsetter.core import derive
from offsetter.core.acts import Act, Prepared, Pressed, Printed, Spoiled, standing
from offsetter.core.compute.cost import (
    HEAT_UP_MIN,
    PieceCost,
    cents,
    cover_money,
    hour_money,
    ink_money,
    media_money,
    powder_money,
    used_of,
)
from offsetter.core.context import Context
from offsetter.core.costing import Costed, costed
from offsetter.core.facts import PrintMode
from offsetter.core.runs import Run
from offsetter.core.sentences import say
from offsetter.core.stock import blanks_used
from offsetter.core.values import Frozen


class Figure(Frozen):
    """One row of planned against actual."""

    label: str
    unit: str
    decimals: int
    planned: float
    actual: float
    why: str = ""


class SpoiledLine(Frozen):
    what: str
    count: int
    stage: str
    cause: str
    cost: Decimal


class Entry(Frozen):
    job: str
    title: str
    customer: str
    blank: str
    method: str
    closed_at: datetime
    due: datetime
    ordered: int
    good: int
    figures: tuple[Figure, ...]
    money: tuple[Figure, ...]
    """Part by part, for the whole order."""
    spoiled: tuple[SpoiledLine, ...]
    cost_a_piece: Decimal
    without_blank: Decimal
    """Of a good piece."""
    quoted: Decimal | None
    currency: str
    people: tuple[str, ...]
    picture_key: str | None


def entry_of(lines: tuple[Context, ...], *, job: str, closed_at: datetime, picture_key: str | None) -> Entry:
    """lines: of each of the job's prints, the first one's first. Planned values are theirs; actual ones come from the acts."""
    first = lines[0]
    order, ledger, shop = first.order, first.ledger, first.shop
    done = standing(first.given.acts)
    planned = [c for ctx in lines if (c := costed(ctx)) is not None]
    taken = [_Taken(ctx, done) for ctx in lines if ctx.has_picture]
    blanks = {kind: blanks_used(ledger, kind) for kind in ledger.ordered}
    used, good = sum(blanks.values()), sum(ledger.still_good.values())
    blank_money = sum((first.blanks[k.split("/")[0]].price * n for k, n in blanks.items()), Decimal(0))
    spent = _whole([t.parts for t in taken], blank_money)
    plan = _whole(
        [_of_order(c) for c in planned], sum((first.blanks[ln.id].price * ln.pieces for ln in order.lines), Decimal(0))
    )
    a_piece = planned[0].parts if planned else None
    transfer = (a_piece.media + a_piece.ink + a_piece.powder) if a_piece else Decimal(0)
    currency = shop.prices.currency
    return Entry(
        job=job, title=order.title, customer=order.customer,
        blank=", ".join(f"{b.colour_name} {b.name.lower()}" for b in first.blanks.values()),
        method=first.method.name.lower() if first.way else "", closed_at=closed_at, due=order.due, ordered=order.pieces, good=good,
        figures=(
            Figure(label=say("Blanks used"), unit="", decimals=0, planned=order.pieces, actual=used),
            *_figures(lines, planned, taken, ledger.printed),
        ),
        money=tuple(
            Figure(label=label, unit=currency, decimals=2, planned=float(cents(p)), actual=float(cents(a)))
            for label, p, a in _rows(plan, spent)
        ),
        spoiled=tuple(
            SpoiledLine(what=a.body.what, count=a.body.count, stage=a.body.stage, cause=a.body.cause,
                        cost=cents(((a_piece.whole if a_piece else Decimal(0)) if a.body.what == "piece" else transfer) * a.body.count))
            for a in done if isinstance(a.body, Spoiled)
        ),
        cost_a_piece=cents(spent.whole / good) if good else Decimal(0), without_blank=cents(spent.without_blank / good) if good else Decimal(0),
        quoted=None if order.quoted is None else Decimal(str(order.quoted)), currency=currency,
        people=tuple(sorted({a.actor for a in done})), picture_key=picture_key,
    )  # fmt: skip


class _Taken:
    """What one print of the job really took."""

    def __init__(self, ctx: Context, done: tuple[Act, ...]) -> None:
        self.ctx = ctx
        prices, method, shop = ctx.shop.prices, ctx.method, ctx.shop
        printed = Counter[str]()
        for a in done:
            if isinstance(a.body, Printed):
                printed[a.body.run] += a.body.count
        # A run carries several prints: each bears its own share of it.
        self.shares = [(r, r.per(0, printed[r.id])) for r in ctx.given.runs if printed[r.id]]
        self.metres = self.sheets = self.ink_ml = self.printing_min = 0.0
        media = ink = powder = Decimal(0)
        self.copies = 0
        for run, per in self.shares:
            feed, mode = derive.feed_of(shop, run.plan.way), self._mode(run)
            mine = [i for i in run.plan.items if i.print == ctx.here.id]
            share = sum(per[s] for s in {i.signature for i in mine}) / run.copies
            layout = run.plan.layout
            self.metres += 0.0 if layout.sheet_um else layout.length_um / 1e6 * share
            self.sheets += layout.sheets * share if layout.sheet_um else 0.0
            self.printing_min += layout.length_um / 1e6 * layout.printable_um / 1e6 / mode.m2_per_h * 60 * share
            media += media_money(layout, feed, prices) * Decimal(str(round(share, 6)))
            for item in {i.signature: i for i in mine}.values():
                count, used = per[item.signature], used_of(item.spec, item.measure, method)
                self.copies += count
                self.ink_ml += sum(used.ink_ml.values()) * count
                ink += ink_money(used, prices, method) * count
                powder += powder_money(used, ctx.stages, prices, method) * count
        pressed = [a.body for a in done if isinstance(a.body, Pressed) and a.body.print == ctx.here.id]
        hot = [r for p in pressed for r in p.stages if r.temperature_c is not None]
        self.press_min = (
            sum(r.ran_s * p.count / p.together for p in pressed for r in p.stages if r.temperature_c is not None) / 60
        )
        known = costed(ctx)
        done_things = sum(p.count for p in pressed)
        self.hands_min = known.minutes.hands * done_things / ctx.laying.things(ctx.order.pieces) if known else 0.0
        cured = sum(a.body.count for a in done if isinstance(a.body, Prepared))
        curing = known.minutes.curing * min(1.0, cured / max(1, self.copies)) if known and self.copies else 0.0
        machines = self.printing_min + curing + self.press_min + (HEAT_UP_MIN if hot else 0.0)
        covers = [c for r in hot for c in r.covers]
        # What was pressed before sheets were counted takes them as planned.
        sheets = (
            cover_money(covers, prices) if covers or not known else known.parts.covers * done_things / ctx.laying.items
        )
        self.parts = PieceCost(
            blank=Decimal(0), media=media, ink=ink, powder=powder, covers=sheets, hands=hour_money(self.hands_min, prices.hands_hour),
            machines=hour_money(machines, prices.machine_hour), spoilage=Decimal(0),
        )  # fmt: skip

    def _mode(self, run: Run) -> PrintMode:
        return next(m for m in self.ctx.shop.printers[run.plan.way.printer].modes if m.id == run.plan.way.mode)


def _figures(lines: tuple[Context, ...], planned: list[Costed], taken: list[_Taken], printed: int) -> list[Figure]:
    layouts = [ctx.planned for ctx in lines if ctx.has_picture and ctx.planned is not None]
    copies = sum(len(x.places) for x in layouts)
    pieces = lines[0].order.pieces
    found = [Figure(label=say("Transfers printed") if lines[0].way and lines[0].feed.kind != "garment" else say("Garments printed"),
                    unit="", decimals=0, planned=copies, actual=printed)]  # fmt: skip
    metres = sum(x.length_um / 1e6 for x in layouts if not x.sheet_um)
    if metres or any(t.metres for t in taken):
        medium = next(ctx.method.medium for ctx in lines if ctx.way and ctx.feed.kind == "roll")
        found.append(
            Figure(
                label=medium.capitalize(),
                unit="m",
                decimals=2,
                planned=round(metres, 3),
                actual=round(sum(t.metres for t in taken), 3),
            )
        )
    if any(ctx.way and ctx.feed.kind == "sheet" for ctx in lines):
        of_sheets = [
            ctx.planned for ctx in lines if ctx.has_picture and ctx.planned is not None and ctx.feed.kind == "sheet"
        ]
        found.append(Figure(label=say("Sheets"), unit="", decimals=0, planned=sum(len(x.cut_lengths_um) for x in of_sheets),
                            actual=round(sum(t.sheets for t in taken), 1)))  # fmt: skip
    if any(t.ink_ml for t in taken):
        each = [(ctx, x) for ctx in lines if ctx.has_picture and (x := ctx.planned) is not None]
        ink = sum(sum(used_of(ctx.spec, ctx.measured, ctx.method).ink_ml.values()) * len(x.places) for ctx, x in each)
        found.append(
            Figure(
                label=say("Ink"),
                unit="mL",
                decimals=1,
                planned=round(ink, 2),
                actual=round(sum(t.ink_ml for t in taken), 2),
            )
        )
    hot = sum(
        s.time_s * ctx.laying.loads(pieces)
        for ctx in lines
        if ctx.way
        for s in ctx.stages
        if s.part == "press" and s.temperature_c is not None and not s.first_only
    )
    found += [
        Figure(label=say("Stages under heat"), unit="min", decimals=1, planned=round(hot / 60, 1),
               actual=round(sum(t.press_min for t in taken), 1), why=say("clocked in press mode")),
        Figure(label=say("Hands"), unit="min", decimals=0, planned=round(sum(c.minutes.hands for c in planned), 1),
               actual=round(sum(t.hands_min for t in taken), 1), why=say("as planned for each piece pressed: hands are not clocked")),
    ]  # fmt: skip
    return found


def _of_order(found: Costed) -> PieceCost:
    return PieceCost(**{n: getattr(found.parts, n) * found.quantity for n in PieceCost.model_fields})


def _whole(prints: list[PieceCost], blanks: Decimal) -> PieceCost:
    """All the prints of an order together, on the blanks that they share."""
    names = [n for n in PieceCost.model_fields if n != "blank"]
    return PieceCost(blank=blanks, **{n: sum((getattr(p, n) for p in prints), Decimal(0)) for n in names})


def _rows(plan: PieceCost, spent: PieceCost) -> list[tuple[str, Decimal, Decimal]]:
    labels = {"blank": "Blanks", "media": "Media", "ink": say("Ink or toner"), "powder": "Powder", "covers": say("Counted sheets"), "hands": "Hands",
              "machines": "Machines", "spoilage": say("Allowed for spoiling")}  # fmt: skip
    rows = [(label, getattr(plan, n), getattr(spent, n)) for n, label in labels.items()]
    return [*(r for r in rows if r[1] or r[2]), (say("All together"), plan.whole, spent.whole)]
