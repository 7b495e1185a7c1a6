"""The logbook's entry: what a job was planned to take, and what it took."""

from datetime import datetime
from decimal import Decimal

from offsetter.core.acts import Act, Pressed, Printed, Spoiled, standing
from offsetter.core.compute.cost import cents
from offsetter.core.decisions import OrderDoc, kind_of
from offsetter.core.facts import Blank, Prices, Stage
from offsetter.core.line import Line
from offsetter.core.runs import Run
from offsetter.core.stations.result import StagesDrawing
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
    spoiled: tuple[SpoiledLine, ...]
    cost_a_piece: Decimal
    quoted: Decimal | None
    currency: str
    people: tuple[str, ...]
    picture_key: str | None


def entry_of(
    *, job: str, order: OrderDoc, blanks: tuple[Blank, ...], prices: Prices, line: Line, runs: tuple[Run, ...], acts: tuple[Act, ...],
    closed_at: datetime, picture_key: str | None,
) -> Entry:  # fmt: skip
    """Planned values are the line's; actual ones come from acts and the runs that were really printed."""
    done = standing(acts)
    printed = {
        r.id: sum(a.body.count for a in done if isinstance(a.body, Printed) and a.body.run == r.id) for r in runs
    }
    film_m = sum(r.plan.layout.length_um / 1e6 * n / r.copies for r in runs if (n := printed[r.id]))
    used = [(c, ml * n) for r in runs for signature, n in r.per(0, printed[r.id]).items() for c, ml in r.ink_of(signature).items()]  # fmt: skip
    ink = sum(ml for _, ml in used)
    ink_money = sum((Decimal(str(ml)) * prices.ink_ml.get(c, Decimal(0)) for c, ml in used), Decimal(0))
    pressed = [a.body for a in done if isinstance(a.body, Pressed)]
    press_min = sum(s.ran_s for p in pressed for s in p.stages) / 60
    ledger = line.ledger
    good = sum(ledger.still_good.values())
    # A piece takes several prints and one blank: the print that was pressed most counts the blanks.
    blanks_used = sum(
        max((sum(n for s, n in slots.items() if kind_of(s) == kind) for slots in ledger.pressed.values()), default=0)
        + ledger.spoiled_blanks.get(kind, 0)
        for kind in ledger.ordered
    )
    planned = {r.key: r.value for r in line.readings}
    pieces = order.pieces
    copies = len(line.layout.places) if line.layout else pieces
    cost = line.cost
    # Hands that nobody clocks are taken as planned for each piece pressed.
    hands_min = planned.get("hands", 0.0) * blanks_used / pieces
    actual_money = (
        sum((b.price for b in blanks), Decimal(0)) / len(blanks) * blanks_used + Decimal(str(round(film_m, 4))) * prices.media_m + ink_money
        + Decimal(str(round(hands_min, 2))) / 60 * prices.hands_hour + Decimal(str(round(press_min, 2))) / 60 * prices.machine_hour
        + ((cost.powder + cost.covers) * blanks_used if cost else Decimal(0))
    )  # fmt: skip
    planned_money = cost.whole * pieces if cost else Decimal(0)
    unit_cost = cost.whole if cost else Decimal(0)
    transfer_cost = (cost.media + cost.ink + cost.powder) if cost else Decimal(0)
    planned_press = sum(s.time_s for s in _press_stages(line)) * pieces / 60
    return Entry(
        job=job, title=order.title, customer=order.customer, blank=", ".join(f"{b.colour_name} {b.name.lower()}" for b in blanks),
        method=line.way.method if line.way else "", closed_at=closed_at, due=order.due, ordered=pieces, good=good,
        figures=(
            Figure(label="Blanks used", unit="", decimals=0, planned=pieces, actual=blanks_used),
            Figure(label="Transfers printed", unit="", decimals=0, planned=copies, actual=ledger.printed),
            Figure(label="Film", unit="m", decimals=2, planned=_run_plan(runs, planned.get("film", 0.0)), actual=round(film_m, 3)),
            Figure(label="Ink", unit="mL", decimals=1, planned=planned.get("ink", 0.0) * _copies(runs, copies), actual=round(ink, 2)),
            Figure(label="Stages on the press", unit="min", decimals=1, planned=round(planned_press, 1), actual=round(press_min, 1),
                   why="clocked in press mode"),
            Figure(label="Hands", unit="min", decimals=0, planned=planned.get("hands", 0.0), actual=round(hands_min, 1),
                   why="as planned for each piece pressed: hands are not clocked"),
            Figure(label="Money", unit=line.currency, decimals=2, planned=float(cents(planned_money)), actual=float(cents(actual_money))),
        ),
        spoiled=tuple(
            SpoiledLine(what=a.body.what, count=a.body.count, stage=a.body.stage, cause=a.body.cause,
                        cost=cents((unit_cost if a.body.what == "piece" else transfer_cost) * a.body.count))
            for a in done if isinstance(a.body, Spoiled)
        ),
        cost_a_piece=cents(actual_money / good) if good else Decimal(0),
        quoted=None if order.quoted is None else Decimal(str(order.quoted)), currency=line.currency,
        people=tuple(sorted({a.actor for a in done})), picture_key=picture_key,
    )  # fmt: skip


def _press_stages(line: Line) -> list[Stage]:
    drawing = line.station("press").drawing
    return [s for s in drawing.stages if s.temperature_c is not None] if isinstance(drawing, StagesDrawing) else []


def _copies(runs: tuple[Run, ...], fallback: int) -> int:
    first = next(iter(runs), None)
    return first.copies if first else fallback


def _run_plan(runs: tuple[Run, ...], fallback: float) -> float:
    first = next(iter(runs), None)
    return round(first.plan.layout.length_um / 1e6, 3) if first else fallback
