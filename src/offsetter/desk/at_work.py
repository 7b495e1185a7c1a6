"""Machines at work: how each stands, what it holds and how long that lasts, what it wants done; what hands did there is recorded."""

import uuid
from collections.abc import Callable
from datetime import datetime, timedelta
from typing import Literal

from sqlalchemy.orm import Session

from offsetter.core import facts as shipped
from offsetter.core.care import Due, Used, before_first, due_tasks, room_said
from offsetter.core.facts import MACHINES, Machine, MachineSort, OwnCare, Printer, Shop, tasks_of
from offsetter.core.facts.inks import WHITE
from offsetter.core.machine_acts import ByHand, Cared, Filled, Levels, Loaded, MachineAct, Room
from offsetter.core.printer_told import Supply, Told
from offsetter.core.sentences import say
from offsetter.core.stock import StockAct
from offsetter.core.supplies import PACE_DAYS, Part, Stands, parts_of, standing_of, verdict_of
from offsetter.core.values import Frozen, Refusal
from offsetter.core.wording import several
from offsetter.core.working_day import CareFirst
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.formats.calendar import Entry, write_calendar
from offsetter.store.acts import ActStore
from offsetter.store.machines import Heard, Link, MachineStore
from offsetter.store.nozzles import NozzleStore
from offsetter.store.stock import StockStore

NOTHING = say("Nothing was recorded.")
FRESH = timedelta(minutes=2)
"""What a printer said longer ago is shown with its age."""
READ, TOOK, DONE = 240, 240, 120
"""Acts of each kind that are looked back over, whatever the shop's age."""
LOOK_BACK = timedelta(days=120)
SPOILED_LOOKED_AT = 200
Reached = Literal["network", "folder", "hand"]


class TrayView(Frozen):
    id: str
    name: str
    width_mm: float
    length_mm: float
    level_pct: float | None
    media: str = ""
    """What somebody laid into it."""
    lot: str = ""
    amount: float | None = None
    loaded_at: datetime | None = None
    loaded_by: str = ""


class AtWork(Frozen):
    """One machine as it stands now."""

    machine: str
    sort: MachineSort
    reached: Reached
    address: str = ""
    folder: str = ""
    verdict: str
    said: str
    """How it stands, in words; empty: it says nothing."""
    is_hindered: bool = False
    told_at: datetime | None = None
    problem: str = ""
    message: str = ""
    supplies: tuple[Stands, ...] = ()
    others: tuple[Part, ...] = ()
    """Waste, drums: no colours."""
    unknown: tuple[str, ...] = ()
    """Containers whose ink nobody has named."""
    trays: tuple[TrayView, ...] = ()
    care: tuple[Due, ...] = ()
    care_off: tuple[tuple[str, str], ...] = ()
    """Tasks that are not wanted here: id and name."""
    room: str = ""
    room_is_right: bool = True
    totals: dict[str, float] = {}
    last_used: datetime | None = None


class Brief(Frozen):
    """One machine in a word, for the list of them."""

    machine: str
    said: str
    is_hindered: bool
    low: str = ""
    care_due: int = 0


class MachinesAtWork:
    def __init__(self, base: Base, jobs: Jobs, local: Callable[[datetime], datetime]) -> None:
        self._base, self._jobs, self._local = base, jobs, local

    def look(self, machine_id: str) -> AtWork:
        shop, _ = self._jobs.shop()
        sort, machine = _machine(shop, machine_id)
        now = self._base.now()
        with self._base.session() as session:
            store = MachineStore(session)
            heard = store.heard_of(machine_id) or Heard(machine=machine_id, begun=now)
            link = store.link(machine_id)
            history = store.newest(machine_id, ("levels", "took"), READ, now - LOOK_BACK)
            history += store.newest(machine_id, ("filled", "loaded", "cared", "room"), DONE)
            history = tuple(sorted(history, key=lambda a: a.at))
            shelves = StockStore(session).shelves(
                [f"ink/{machine_id}/{c}" for c in (*machine.inks, WHITE)] if isinstance(machine, Printer) else []
            )
            care = self._care(shop, machine, link, heard, history, now)
            care = tuple(self._priced(d, ActStore(session), NozzleStore(session), machine_id) for d in care)
        supplies: tuple[Stands, ...] = ()
        parts: tuple[Part, ...] = ()
        if isinstance(machine, Printer):
            wanted = {i.rsplit("/", 1)[1]: s.wanted for i, s in shelves.items()}
            counted = {i.rsplit("/", 1)[1]: s.on_hand for i, s in shelves.items() if s.is_counted}
            named = channels_told(heard.told, link)
            supplies = standing_of(machine, history, wanted, counted, now.date(), named)
            besides = [s for s in heard.told.supplies if not _channel(s, link)] if heard.told else []
            parts = parts_of(machine, besides, history, now.date())
        room, right = room_said(history, shipped.care().room)
        told = heard.told
        said = _said(heard, link, now)
        return AtWork(
            verdict=verdict_of(machine.name, said, supplies, tuple(d.task.name for d in care if d.state == "due" and not d.skipped_today)),
            machine=machine_id, sort=sort, reached="network" if link.address else "folder" if link.folder else "hand", address=link.address, folder=link.folder,
            said=said, is_hindered=bool(told and link.address and (told.is_hindered or heard.problem)), told_at=heard.told_at, problem=heard.problem,
            message=told.message if told else "", supplies=supplies, others=parts,
            unknown=tuple(s.name for s in told.supplies if not _channel(s, link) and not s.fills_up) if told else (),
            trays=_trays(told, link, history), care=care, care_off=_off(shop, machine, link), room=room, room_is_right=right, totals=heard.totals, last_used=heard.last_used,
        )  # fmt: skip

    def briefs(self) -> tuple[Brief, ...]:
        """Every machine in use, in one read."""
        shop, _ = self._jobs.shop()
        now = self._base.now()
        found = []
        with self._base.session() as session:
            store = MachineStore(session)
            for machine, link, known, cared in _in_use(store, shop, now):
                due = self._care(shop, machine, link, known, cared, now)
                low = [s for s in known.told.supplies if s.channel and s.level_pct is not None and s.level_pct <= (s.low_pct or 10)] if known.told else []  # fmt: skip
                found.append(Brief(
                    machine=machine.id, said=_said(known, link, now), is_hindered=bool(link.address and (known.problem or (known.told and known.told.is_hindered))),
                    low=", ".join(f"{s.name} {s.level_pct:.0f} %" for s in low), care_due=sum(d.state == "due" and not d.skipped_today for d in due),
                ))  # fmt: skip
        return tuple(found)

    def record(self, machine_id: str, act_id: str, body: ByHand, person: str) -> AtWork:
        """What somebody did there. The same act again changes nothing."""
        shop, _ = self._jobs.shop()
        _, machine = _machine(shop, machine_id)
        now = self._base.now()
        with self._base.session() as session, session.begin():
            store = MachineStore(session)
            store.begin(machine_id, now)
            if isinstance(body, Cared):
                body = self._checked_care(shop, machine, body, store.heard_of(machine_id))
            elif isinstance(body, Filled | Levels) and not isinstance(machine, Printer):
                raise Refusal("no-ink-here", say("This machine holds no ink."), NOTHING, say("Choose a printer."))
            elif isinstance(body, Levels):
                body = body.model_copy(update={"by_hand": True})
            elif isinstance(body, Loaded):
                link = store.link(machine_id)
                store.put_link(link.model_copy(update={"media": {**link.media, body.tray: body.media}}), now)
            if not store.add(MachineAct(id=act_id, machine=machine_id, at=now, actor=person, body=body)):
                return self.look(machine_id)
            if isinstance(body, Filled) and isinstance(machine, Printer):
                self._filled(session, store, machine, body, person, now)
            elif isinstance(body, Levels) and isinstance(machine, Printer):
                hold(store, machine, now)
        return self.look(machine_id)

    def _filled(self, session: Session, store: MachineStore, machine: Printer, body: Filled, person: str, now: datetime) -> None:  # fmt: skip
        """A new count begins; what was left in a cartridge that was changed is gone from the store."""
        history = store.newest(machine.id, ("levels", "took", "filled"), READ, now - LOOK_BACK)
        before = next((a.body.pct[body.channel] for a in reversed(history) if isinstance(a.body, Levels) and body.channel in a.body.pct), None)  # fmt: skip
        holds = machine.tanks_ml.get(body.channel)
        if holds is None and body.channel not in machine.yields:
            raise Refusal("no-such-ink", say("{name} holds no such ink.", name=machine.name), NOTHING, say("Say first what it holds, on its page."))  # fmt: skip
        after = 100.0
        if holds and body.way == "poured" and body.amount_ml is not None:
            after = min(100.0, (before or 0.0) + body.amount_ml / holds * 100)
        full = Levels(pct={body.channel: round(after, 2)}, by_hand=True)
        store.add(MachineAct(id=f"full-{uuid.uuid4().hex}", machine=machine.id, at=now, actor=person, body=full))
        item = f"ink/{machine.id}/{body.channel}"
        stock = StockStore(session)
        shelf = stock.shelves([item], for_update=True).get(item)
        if holds and body.way == "changed" and before and shelf and shelf.is_counted:
            thrown = StockAct(id=uuid.uuid4().hex, item=item, kind="spoiled", amount=round(before / 100 * holds, 2), reason=say("left in the cartridge that was changed"), lot=body.lot)  # fmt: skip
            stock.record(thrown, person, now)
        hold(store, machine, now)

    def _checked_care(self, shop: Shop, machine: Machine, body: Cared, heard: Heard | None) -> Cared:
        if body.task not in {t.id for t in tasks_of(shipped.care(), machine, shop.methods)}:
            raise Refusal(
                "no-such-task", say("This machine has no such task."), NOTHING, say("Choose one of the list.")
            )
        if body.outcome == "skipped" and not body.reason.strip():
            raise Refusal("reason-needed", say("A task is skipped with a reason."), NOTHING, say("Say in a word why."))
        return body.model_copy(update={"totals": heard.totals if heard else {}})

    def set_care(self, machine_id: str, task: str, own: OwnCare) -> AtWork:
        """How often a task is done at this machine, or that it is not wanted there."""
        shop, _ = self._jobs.shop()
        _, machine = _machine(shop, machine_id)
        if task not in {t.id for t in tasks_of(shipped.care(), machine, shop.methods)}:
            raise Refusal(
                "no-such-task", say("This machine has no such task."), NOTHING, say("Choose one of the list.")
            )
        with self._base.session() as session, session.begin():
            store = MachineStore(session)
            link = store.link(machine_id)
            others = {t: c for t, c in link.care.items() if t != task}
            care = others if own == OwnCare() else {**others, task: own}
            store.put_link(link.model_copy(update={"care": care}), self._base.now())
        return self.look(machine_id)

    def due_before(self, machine_id: str) -> tuple[Due, ...]:
        """What is asked for before this machine's first job of the day."""
        shop, _ = self._jobs.shop()
        _, machine = _machine(shop, machine_id)
        now = self._base.now()
        with self._base.session() as session:
            store = MachineStore(session)
            heard = store.heard_of(machine_id) or Heard(machine=machine_id, begun=now)
            cared = store.newest(machine_id, ("cared",), DONE)
            return before_first(self._care(shop, machine, store.link(machine_id), heard, cared, now))

    def first_of_day(self, session: Session, shop: Shop) -> tuple[CareFirst, ...]:
        """Of every machine in use, as one stretch each."""
        now, found = self._base.now(), []
        for machine, link, known, cared in _in_use(MachineStore(session), shop, now):
            due = before_first(self._care(shop, machine, link, known, cared, now))
            if due:
                name = ", ".join(d.task.name if n == 0 else d.task.name.lower() for n, d in enumerate(due))
                found.append(CareFirst(machine=machine.id, name=name, minutes=sum(d.task.minutes for d in due)))
        return tuple(found)

    def calendar(self) -> bytes:
        """Every task that falls due within the next four weeks, as iCalendar."""
        shop, _ = self._jobs.shop()
        now = self._base.now()
        entries = []
        with self._base.session() as session:
            for machine, link, known, cared in _in_use(MachineStore(session), shop, now):
                for due in self._care(shop, machine, link, known, cared, now):
                    at = max(now, due.at) if due.at else None
                    if at is None or at - now > timedelta(days=PACE_DAYS):
                        continue
                    entries.append(Entry(
                        uid=f"care-{machine.id}-{due.task.id}@offsetter", begins=at, ends=at + timedelta(minutes=due.task.minutes),
                        title=f"{machine.name}: {due.task.name}", where=machine.name, text=" ".join((*due.task.steps, due.task.caution)).strip(),
                    ))  # fmt: skip
        return write_calendar(say("{name}: care", name=shop.name), tuple(entries), now)

    def _care(
        self, shop: Shop, machine: Machine, link: Link, heard: Heard, history: tuple[MachineAct, ...], now: datetime
    ) -> tuple[Due, ...]:
        days = max(1.0, (now - heard.begun) / timedelta(days=1))
        pace = {k: n / days for k, n in heard.totals.items()}
        used = Used(totals=heard.totals, last_used=heard.last_used, a_day=pace)
        tasks = tasks_of(shipped.care(), machine, shop.methods, link.care)
        cared = tuple(a for a in history if isinstance(a.body, Cared))
        return due_tasks(tasks, cared, used, self._local(now), heard.begun)

    @staticmethod
    def _priced(due: Due, acts: ActStore, nozzles: NozzleStore, machine: str) -> Due:
        """With what skipping it has cost since: pieces spoiled with causes like its own, and ink of cleanings."""
        if due.skipped_at is None:
            return due
        words = due.task.skipped
        lost = [
            a for a in acts.newest("spoiled", SPOILED_LOOKED_AT)
            if a.at >= due.skipped_at and any(w in getattr(a.body, "cause", "").casefold() for w in words)
        ]  # fmt: skip
        pieces = sum(getattr(a.body, "count", 0) for a in lost)
        cleanings = [c for c in nozzles.newest(machine, 60) if c.kind == "cleaning" and c.at >= due.skipped_at] if due.task.wants in ("ink", "white ink") else []  # fmt: skip
        told = [say("{pieces} spoiled with a cause like this", pieces=pieces)] if pieces else []
        told += [several(len(cleanings), "cleaning")] if cleanings else []
        return due.model_copy(update={"cost": say("Since then: {told}.", told=', '.join(told)) if told else say("Since then: nothing that is known.")})  # fmt: skip


def _in_use(
    store: MachineStore, shop: Shop, now: datetime
) -> list[tuple[Machine, Link, Heard, tuple[MachineAct, ...]]]:
    """Every machine in use with how it is reached, as it was last heard, and its care; asked for all of them at once."""
    machines = shop.in_use
    heard, links, cared = store.heard(), store.links(), store.newest_of([m.id for m in machines], "cared", DONE)
    return [
        (
            m,
            links.get(m.id) or Link(machine=m.id),
            heard.get(m.id) or Heard(machine=m.id, begun=now),
            cared.get(m.id, ()),
        )
        for m in machines
    ]


def _off(shop: Shop, machine: Machine, link: Link) -> tuple[tuple[str, str], ...]:
    every = tasks_of(shipped.care(), machine, shop.methods)
    return tuple((t.id, t.name) for t in every if link.care.get(t.id, OwnCare()).is_off)


def channels_told(told: Told | None, link: Link) -> tuple[str, ...]:
    return tuple(dict.fromkeys(c for s in told.supplies if (c := _channel(s, link)))) if told else ()


def levels_told(told: Told, link: Link) -> dict[str, float]:
    """Channel to its level, of those that say one."""
    return {c: s.level_pct for s in told.supplies if (c := _channel(s, link)) and s.level_pct is not None}


def hold(store: MachineStore, machine: Printer, now: datetime) -> None:
    """Keep how much a printer can still print by its plates: its levels, by what it really lays."""
    history = store.newest(machine.id, ("levels", "took"), READ, now - LOOK_BACK)
    stands = standing_of(machine, history, {}, {}, now.date())
    store.hold(machine.id, {
        s.channel: round(s.left / (s.fit.factor if s.fit and s.fit.verdict == "corrected" else 1.0), 2) for s in stands if s.left is not None
    })  # fmt: skip


def _channel(supply: Supply, link: Link) -> str:
    return link.channels.get(supply.name, supply.channel)


def _machine(shop: Shop, machine_id: str) -> tuple[MachineSort, Machine]:
    for sort in MACHINES:
        found: Machine | None = getattr(shop, sort).get(machine_id)
        if found is not None:
            return sort, found
    raise Refusal("no-such-machine", say("The shop has no such machine."), NOTHING, say("Choose one of its own."))


def _said(heard: Heard, link: Link, now: datetime) -> str:
    if not link.address:
        return ""
    if heard.problem:
        return (
            say("does not answer: {problem}", problem=heard.problem)
            if not heard.problem.startswith("says")
            else heard.problem
        )
    if heard.told is None or heard.told_at is None:
        return say("not heard yet")
    old = (
        ""
        if now - heard.told_at < FRESH
        else say(", {total_seconds} min ago", total_seconds=round((now - heard.told_at).total_seconds() / 60))
    )
    return f"{heard.told.said}{old}"


def _trays(told: Told | None, link: Link, history: tuple[MachineAct, ...]) -> tuple[TrayView, ...]:
    """What the printer says of its trays, and what somebody laid into them; trays that it does not speak of too."""
    laid = {a.body.tray: a for a in history if isinstance(a.body, Loaded)}
    found = []
    for tray in told.trays if told else ():
        act = laid.pop(tray.id, None)
        found.append(_tray(tray.id, tray.name, act, tray.width_mm, tray.length_mm, tray.level_pct))
    found += [_tray(t, t.replace("-", " "), a) for t, a in laid.items()]
    return tuple(found)


def _tray(id: str, name: str, act: MachineAct | None, width_mm: float = 0, length_mm: float = 0, level: float | None = None) -> TrayView:  # fmt: skip
    body = act.body if act and isinstance(act.body, Loaded) else None
    return TrayView(
        id=id, name=name, width_mm=width_mm, length_mm=length_mm, level_pct=level, media=body.media if body else "", lot=body.lot if body else "",
        amount=body.amount if body else None, loaded_at=act.at if act else None, loaded_by=act.actor if act else "",
    )  # fmt: skip


__all__ = ["AtWork", "Brief", "MachinesAtWork", "Room", "channels_told", "hold", "levels_told"]
