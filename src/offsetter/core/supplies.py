"""What a machine holds, how long that lasts, and how much it really lays: from what it says, what was filled in and what was printed."""

import math
from collections import defaultdict
from collections.abc import Callable, Iterable
from datetime import date, datetime, timedelta
from typing import Literal

from offsetter.core.compute.cost import pages_at_5
from offsetter.core.compute.cutting import expected_cut_m
from offsetter.core.compute.ink_fit import InkFit, fit_ink
from offsetter.core.facts import Printer, WornPart
from offsetter.core.facts.inks import name_of
from offsetter.core.machine_acts import Filled, Levels, MachineAct, Took
from offsetter.core.printer_told import Supply
from offsetter.core.runs import Run
from offsetter.core.sentences import a_day, say
from offsetter.core.values import Frozen

PACE_DAYS = 28
RISES_PCT = 3.0
"""More than a reading wavers: somebody filled it (from memory)."""


class Point(Frozen):
    """Used up to here since the count began: expected and read, in the container's own unit."""

    expected: float
    read: float


class Stands(Frozen):
    """One container of a machine. unit: mL, or pages at 5 %."""

    channel: str
    name: str
    unit: str
    holds: float | None
    pct: float | None
    read_at: datetime | None
    by_hand: bool = False
    left: float | None = None
    wanted: float = 0.0
    """Of runs that are released and not printed."""
    pace: float = 0.0
    """A day."""
    lasts: tuple[int, int] | None = None
    """Days at this pace, at most and at least as the weeks differ; None: not used, or not known."""
    ends: date | None = None
    fit: InkFit | None = None
    points: tuple[Point, ...] = ()
    lot: str = ""
    expires: date | None = None
    filled_at: datetime | None = None
    said: str = ""
    """What does not go together, in words."""
    store_ml: float | None = None
    """All that the store counts of it, in the machine and on the shelf."""


class Part(Supply):
    """What wears or fills up, as its printer says, and what that means here. pages: A4 until it ends; None: nobody said what it is good for."""

    pages: int | None = None
    lasts: tuple[int, int] | None = None
    """Days at this pace."""


PART_WORDS: dict[WornPart, tuple[str, ...]] = {
    "drum": ("drum", "opc", "photoconductor"),
    "belt": ("belt", "transfer"),
    "fuser": ("fuser", "fusing"),
    "waste": ("waste",),
}


def channels_of(printer: Printer) -> tuple[str, ...]:
    """What it holds, where somebody said how much."""
    return tuple(dict.fromkeys((*printer.tanks_ml, *printer.yields)))


def took_of(run: Run, printer: Printer, done: int, count: int, sign: Literal[1, -1] = 1) -> Took:
    """What the next count prints of a run take, after the first done ones, by its plates."""
    expected: defaultdict[str, float] = defaultdict(float)
    m2 = 0.0
    for signature, copies in run.per(done, count).items():
        item = next(i for i in run.plan.items if i.signature == signature)
        wide, high = item.spec.width_um / 1000, item.spec.height_um / 1000
        m2 += wide * high / 1e6 * copies
        each = pages_at_5(item.measure.coverage_pct, wide, high) if printer.yields else item.ink_ml
        for channel, amount in each.items():
            expected[channel] += amount * copies
    return Took(job=run.job, run=run.id, count=count, sheets=run.plan.layout.lengths_of(done, count), m2=round(m2, 4), sign=sign,
                expected={c: round(v, 3) for c, v in expected.items() if v > 0})  # fmt: skip


def cut_m_of(run: Run, done: int, count: int) -> float:
    """About how far a blade travels round the next count prints of a run."""
    return sum(
        expected_cut_m(i.spec.width_um / 1000, i.spec.height_um / 1000, copies)
        for signature, copies in run.per(done, count).items()
        for i in run.plan.items
        if i.signature == signature
    )


def standing_of(
    printer: Printer, history: tuple[MachineAct, ...], wanted: dict[str, float], store_ml: dict[str, float], today: date, channels: Iterable[str] = (),
) -> tuple[Stands, ...]:  # fmt: skip
    """history: this machine's acts, the oldest first. channels: that it says it has, besides."""
    return tuple(
        _one(printer, c, history, wanted.get(c, 0.0), store_ml.get(c), today)
        for c in dict.fromkeys((*channels_of(printer), *channels))
    )


def parts_of(printer: Printer, told: Iterable[Supply], history: tuple[MachineAct, ...], today: date) -> tuple[Part, ...]:  # fmt: skip
    """Of what a printer says besides its inks, the pages and days that are left. history: its acts, the oldest first."""
    pace, weeks = _pace(lambda took: float(took.sheets), history, today)
    half = (max(weeks) - min(weeks)) / 2 if len(weeks) > 1 else 0.0
    found = []
    for supply in told:
        name = supply.name.casefold()
        part = next((p for p, words in PART_WORDS.items() if any(w in name for w in words)), None)
        good_for = printer.part_pages.get(part) if part else None
        pages = None
        if good_for and supply.level_pct is not None:
            pages = round(good_for * (100 - supply.level_pct if supply.fills_up else supply.level_pct) / 100)
        lasts = _lasts(pages, pace, half)
        found.append(Part(**supply.model_dump(), pages=pages, lasts=lasts))
    return tuple(found)


LOW_DAYS = 7
"""A container that lasts no longer is said first (from memory)."""


def verdict_of(name: str, said: str, supplies: tuple[Stands, ...], care_due: tuple[str, ...]) -> str:
    """One sentence: how a machine stands, what ends first, what it waits for."""
    first = min(
        (s for s in supplies if s.lasts and s.lasts[0] <= LOW_DAYS), key=lambda s: s.lasts or (0, 0), default=None
    )
    short = next((s for s in supplies if s.left is not None and s.wanted > s.left), None)
    told = [said] if said else []
    if short is not None:
        told.append(say("{name} ends before the runs that wait are printed", name=short.name.lower()))
    elif first is not None and first.ends is not None:
        told.append(say("{name} lasts until {ends}", name=first.name.lower(), ends=a_day(first.ends, "weekday")) if first.lasts and first.lasts[0] else say("{name} is nearly at its end", name=first.name.lower()))  # fmt: skip
    if care_due:
        told.append(
            say("{care_due} is due", care_due=care_due[0].lower())
            if len(care_due) == 1
            else say("{care_due} tasks are due", care_due=len(care_due))
        )
    return f"{name}: {'; '.join(told)}" if told else say("{name} is looked after: nothing waits", name=name)


def _one(
    printer: Printer, channel: str, history: tuple[MachineAct, ...], wanted: float, store_ml: float | None, today: date
) -> Stands:
    holds = printer.tanks_ml.get(channel) or printer.yields.get(channel)
    unit = "mL" if channel in printer.tanks_ml else "pages" if channel in printer.yields else ""
    read = next((a for a in reversed(history) if isinstance(a.body, Levels) and channel in a.body.pct), None)
    filled = next((a for a in reversed(history) if isinstance(a.body, Filled) and a.body.channel == channel), None)
    pct = read.body.pct[channel] if read and isinstance(read.body, Levels) else None
    fit, points = _learned(printer, channel, history, holds) if holds else (None, ())
    factor = fit.factor if fit and fit.verdict == "corrected" else 1.0
    left = pct / 100 * holds if pct is not None and holds else None
    pace, weeks = _pace(lambda took: took.expected.get(channel, 0.0), history, today)
    pace, weeks = pace * factor, [w * factor for w in weeks]
    spread = max(weeks) - min(weeks) if len(weeks) > 1 else 0.0
    lasts = _lasts(left, pace, spread / 2)
    body = filled.body if filled and isinstance(filled.body, Filled) else None
    return Stands(
        channel=channel, name=name_of(channel).capitalize(), unit=unit, holds=holds, pct=pct, read_at=read.at if read else None,
        by_hand=bool(read and isinstance(read.body, Levels) and read.body.by_hand), left=round(left, 2) if left is not None else None,
        wanted=round(wanted * factor, 2), pace=round(pace, 3), lasts=lasts,
        ends=today + timedelta(days=math.floor(left / pace)) if lasts and left is not None and pace else None,
        fit=fit, points=points, lot=body.lot if body else "", expires=body.expires if body else None, filled_at=filled.at if filled else None,
        said=_odd(channel, history, left, store_ml) or _expiry(body, today), store_ml=store_ml,
    )  # fmt: skip


FORESEEN_DAYS = 365


def _lasts(left: float | None, pace: float, half: float) -> tuple[int, int] | None:
    if left is None or pace * FORESEEN_DAYS < left or pace <= 0:
        return None
    slow = left / max(pace - half, pace / 3)
    return math.floor(left / (pace + half)), min(FORESEEN_DAYS, math.ceil(slow))


def _pace(used_in: Callable[[Took], float], history: tuple[MachineAct, ...], today: date) -> tuple[float, list[float]]:
    """A day's use over four weeks, or as many whole days as are known; and each week's."""
    took = [a for a in history if isinstance(a.body, Took) and 0 <= (today - a.at.date()).days < PACE_DAYS]
    if not took:
        return 0.0, []
    days = min(PACE_DAYS, max(1, (today - min(a.at for a in history).date()).days + 1))
    weeks: dict[int, float] = dict.fromkeys(range(max(1, days // 7)), 0.0)
    whole = 0.0
    for act in took:
        assert isinstance(act.body, Took)
        used = used_in(act.body) * act.body.sign
        whole += used
        week = min(len(weeks) - 1, (today - act.at.date()).days // 7)
        weeks[week] += used / 7
    return max(0.0, whole / days), list(weeks.values())


def _learned(
    printer: Printer, channel: str, history: tuple[MachineAct, ...], holds: float
) -> tuple[InkFit | None, tuple[Point, ...]]:
    """What it really lays, from readings between its printings; a printing after which nobody read is added to the next."""
    rows: list[tuple[float, float]] = []
    for act in history:
        if isinstance(act.body, Took) and (used := act.body.expected.get(channel)) is not None:
            rows.append((used * act.body.sign, -1.0))
        elif isinstance(act.body, Levels) and (pct := act.body.pct.get(channel)) is not None:
            rows.append((rows.pop()[0] if rows and rows[-1][1] < 0 else 0.0, pct))
    if not any(v >= 0 for _, v in rows):
        return None, ()
    cleaning = printer.cleaning_ml if channel in printer.tanks_ml else 0.0
    fit = fit_ink(tuple(e for e, _ in rows), tuple(v for _, v in rows), holds, cleaning)
    return fit, _points(rows, holds, cleaning)


def _points(rows: list[tuple[float, float]], holds: float, cleaning_ml: float) -> tuple[Point, ...]:
    """Since the level last rose, without what cleanings took."""
    found: list[Point] = []
    begins, expected, last, jobs = math.nan, 0.0, math.nan, 0
    for used, pct in rows:
        expected, jobs = expected + used, jobs + (used > 0)
        if pct < 0:
            continue
        if math.isnan(begins) or pct > last + RISES_PCT:
            begins, expected, found, jobs = pct, 0.0, [], 0
        last = pct
        found.append(
            Point(
                expected=round(expected, 2), read=round(max(0.0, (begins - pct) / 100 * holds - jobs * cleaning_ml), 2)
            )
        )
    return tuple(found[-60:])


EXPIRES_SOON = timedelta(days=14)


def _expiry(filled: Filled | None, today: date) -> str:
    """Of the lot that was filled in last."""
    if filled is None or filled.expires is None or filled.expires - today > EXPIRES_SOON:
        return ""
    lot = say("Lot {lot}", lot=filled.lot) if filled.lot else say("What was filled in")
    return say(
        "{lot} {which} on {expires}: a test print before the next order.",
        lot=lot,
        which=say("expired") if filled.expires < today else say("expires"),
        expires=a_day(filled.expires, "long"),
    )


def _odd(channel: str, history: tuple[MachineAct, ...], left: float | None, store_ml: float | None) -> str:
    """A level that rose though nobody noted a filling; a tank that holds more than the store counts."""
    last, filled = math.nan, True
    said = ""
    for act in history:
        if isinstance(act.body, Filled) and act.body.channel == channel:
            filled, said = True, ""
        elif isinstance(act.body, Levels) and (pct := act.body.pct.get(channel)) is not None:
            if pct > last + RISES_PCT and not filled:
                said = say(
                    "It rose from {last} to {pct} % and nobody noted a filling: note it, with its lot.",
                    last=f"{last:.0f}",
                    pct=f"{pct:.0f}",
                )
            last, filled = pct, False
    if not said and left is not None and store_ml is not None and left > store_ml * 1.05 + 5:
        said = say(
            "The store counts {store} mL in all, its tank alone says {left}: something was filled in that was never received, or was counted wrong.",
            store=f"{store_ml:.0f}",
            left=f"{left:.0f}",
        )
    return said
