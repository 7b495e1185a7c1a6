"""When a machine's care is due: by the calendar, by what it did, and by how long it stood still."""

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Literal

from offsetter.core.facts.care import UNITS, CareTask, RoomRange
from offsetter.core.machine_acts import Cared, MachineAct, Room
from offsetter.core.quantities import a_heat
from offsetter.core.sentences import listed, say
from offsetter.core.values import Frozen

SOON_SHARE = 0.85
DueState = Literal["fine", "soon", "due"]


class Due(Frozen):
    """One task as it stands."""

    task: CareTask
    state: DueState
    said: str
    """Why it is due, or when it will be."""
    share: float
    """Of its interval that is over."""
    at: datetime | None
    """When it falls due; None: not foreseen."""
    done_at: datetime | None = None
    done_by: str = ""
    skipped_at: datetime | None = None
    skipped_why: str = ""
    skipped_today: bool = False
    cost: str = ""
    """What skipping it has cost so far, in words."""


class Used(Frozen):
    """What a machine has done since anybody counts, and when it worked last."""

    totals: dict[str, float] = {}
    last_used: datetime | None = None
    a_day: dict[str, float] = {}
    """The pace."""


def due_tasks(
    tasks: tuple[CareTask, ...], cared: Iterable[MachineAct], used: Used, now: datetime, begun: datetime
) -> tuple[Due, ...]:
    """now: in the shop's own time. What presses most stands first. cared: the machine's acts of care, the oldest first; begun: since when it is known here."""
    acts = [a for a in cared if isinstance(a.body, Cared)]
    found = [_due(t, [a for a in acts if isinstance(a.body, Cared) and a.body.task == t.id], used, now, begun) for t in tasks]  # fmt: skip
    return tuple(sorted(found, key=lambda d: ({"due": 0, "soon": 1, "fine": 2}[d.state], -d.share)))


def _due(task: CareTask, acts: list[MachineAct], used: Used, now: datetime, begun: datetime) -> Due:
    done = next((a for a in reversed(acts) if isinstance(a.body, Cared) and a.body.outcome == "done"), None)
    skipped = next((a for a in reversed(acts) if isinstance(a.body, Cared) and a.body.outcome == "skipped"), None)
    if skipped and done and skipped.at < done.at:
        skipped = None
    since = done.at if done else begun
    totals = done.body.totals if done and isinstance(done.body, Cared) else {}
    ways = [
        *_by_day(task, since, now, was_done=done is not None),
        *_by_use(task, totals, used, now),
        *_by_idle(task, since, used, now),
    ]
    # What is due most; while nothing is, what comes first, though less of it may be used up.
    never = datetime.max.replace(tzinfo=UTC)
    over = [w for w in ways if w[0] >= 1]
    share, said, at = (
        max(over, key=lambda w: w[0]) if over
        else min(ways, default=(0.0, say("When it is needed"), None), key=lambda w: (w[2] or never, -w[0]))
    )  # fmt: skip
    state: DueState = "due" if share >= 1 else "soon" if share >= SOON_SHARE else "fine"
    return Due(
        task=task, state=state, said=said, share=round(min(share, 9.99), 3), at=at, done_at=done.at if done else None, done_by=done.actor if done else "",
        skipped_at=skipped.at if skipped else None, skipped_why=skipped.body.reason if skipped and isinstance(skipped.body, Cared) else "",
        skipped_today=bool(skipped and skipped.at.astimezone(now.tzinfo).date() == now.date()),
    )  # fmt: skip


Way = tuple[float, str, datetime | None]


def _by_day(task: CareTask, since: datetime, now: datetime, *, was_done: bool) -> list[Way]:
    if task.days is None:
        return []
    if task.days == 1 and not was_done:
        return [(1.0, say("nobody has noted it yet"), now)]
    # Daily means each working day, not each twenty-four hours.
    apart = now.date() - since.astimezone(now.tzinfo).date()
    over = float(apart.days) if task.days == 1 else (now - since) / timedelta(days=1)
    left = task.days - over
    said = _late(-left) if left <= 0 else say("in {days}", days=_days(left))
    return [(over / task.days, said, since + timedelta(days=task.days))]


def _by_use(task: CareTask, totals: dict[str, float], used: Used, now: datetime) -> list[Way]:
    if task.by_use is None:
        return []
    what, every = task.by_use
    over = used.totals.get(what, 0.0) - totals.get(what, 0.0)
    left, pace = every - over, used.a_day.get(what, 0.0)
    at = now + timedelta(days=max(0.0, left) / pace) if pace * 3650 > max(0.0, left) else None
    unit = UNITS[what]
    said = say("{over} {unit} since the last time; it is done every {every}", over=f'{over:,.0f}', unit=unit, every=f'{every:,.0f}') if left <= 0 else say("in {left} {unit}", left=f'{left:,.0f}', unit=unit)  # fmt: skip
    return [(over / every, said, at)]


def _by_idle(task: CareTask, since: datetime, used: Used, now: datetime) -> list[Way]:
    """Due once it has stood still for so long since it last worked or was cared for."""
    if task.idle_h is None:
        return []
    rested = max(since, used.last_used or since)
    hours = (now - rested) / timedelta(hours=1)
    if hours < task.idle_h:
        return []
    return [(1 + hours / task.idle_h / 10, say("it stood still for {which}", which=_days(hours / 24) if hours > 72 else say('{hours} hours', hours=f'{hours:.0f}')), now)]  # fmt: skip


def before_first(due: Iterable[Due]) -> tuple[Due, ...]:
    """What must be done, or skipped with a reason, before the first job of the day."""
    return tuple(d for d in due if d.state == "due" and d.task.before_first and not d.skipped_today)


def _days(days: float) -> str:
    whole = round(days)
    return (
        say("a day")
        if whole <= 1
        else say("{whole} days", whole=whole)
        if whole < 60
        else say("{days} months", days=round(days / 30.4))
    )


def _late(days: float) -> str:
    return "today" if days < 1 else say("{days} late", days=_days(days))


def room_said(rooms: tuple[MachineAct, ...], fit: RoomRange) -> tuple[str, bool]:
    """The newest note of the room against what is good, and whether it is inside; empty where nobody noted one."""
    last = next((a for a in reversed(rooms) if isinstance(a.body, Room)), None)
    if last is None or not isinstance(last.body, Room):
        return "", True
    body, wrong = last.body, []
    if body.celsius is not None and not fit.celsius[0] <= body.celsius <= fit.celsius[1]:
        wrong.append(say("too cool") if body.celsius < fit.celsius[0] else say("too warm"))
    if body.humidity_pct is not None and not fit.humidity_pct[0] <= body.humidity_pct <= fit.humidity_pct[1]:
        wrong.append(say("too dry: heads dry and film charges") if body.humidity_pct < fit.humidity_pct[0] else say("too damp: sheets curl, powder clumps"))  # fmt: skip
    told = [a_heat(body.celsius, 1)] if body.celsius is not None else []
    told += [say("{humidity} % humidity", humidity=f"{body.humidity_pct:.0f}")] if body.humidity_pct is not None else []
    rest = f": {listed(wrong)}" if wrong else ""
    return f"{', '.join(told)}{rest}", not wrong
