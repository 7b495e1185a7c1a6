"""Machines at work: links, what they last said, and what was done with them."""

from collections import defaultdict
from datetime import datetime, timedelta
from typing import Any

from pydantic import ValidationError
from sqlalchemy import Select, delete, func, or_, select, union_all, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from offsetter.core.facts import OwnCare
from offsetter.core.machine_acts import MachineAct
from offsetter.core.printer_told import Told
from offsetter.core.values import Frozen
from offsetter.store.tables import LinkRow, MachineActRow, MachineStateRow


class Link(Frozen):
    """How a machine is reached; both empty: by hand."""

    machine: str
    address: str = ""
    folder: str = ""
    channels: dict[str, str] = {}
    """A container as the printer calls it to the ink that somebody said it holds."""
    care: dict[str, OwnCare] = {}
    """Tasks that this shop does otherwise there."""
    media: dict[str, str] = {}
    """A tray to what somebody laid into it."""


class Heard(Frozen):
    """A machine as it was last heard."""

    machine: str
    told: Told | None = None
    told_at: datetime | None = None
    problem: str = ""
    totals: dict[str, float] = {}
    last_used: datetime | None = None
    begun: datetime


class MachineStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def links(self) -> dict[str, Link]:
        return {row.machine: _link(row) for row in self._session.scalars(select(LinkRow))}

    def link(self, machine: str) -> Link:
        row = self._session.get(LinkRow, machine)
        return _link(row) if row else Link(machine=machine)

    def put_link(self, link: Link, at: datetime) -> None:
        if not (link.address or link.folder or link.media or link.care):
            self._session.execute(delete(LinkRow).where(LinkRow.machine == link.machine))
            return
        care = {t: c.model_dump(mode="json") for t, c in link.care.items()}
        body = {"channels": link.channels, "media": link.media, "care": care}
        self._session.merge(LinkRow(machine=link.machine, address=link.address, folder=link.folder, body=body, changed_at=at))  # fmt: skip

    def heard(self) -> dict[str, Heard]:
        return {row.machine: _heard(row) for row in self._session.scalars(select(MachineStateRow))}

    def heard_of(self, machine: str) -> Heard | None:
        row = self._session.get(MachineStateRow, machine)
        return _heard(row) if row else None

    def begin(self, machine: str, at: datetime) -> None:
        """Known from here on; a second time changes nothing."""
        row = insert(MachineStateRow).values(machine=machine, problem="", totals={}, begun=at)
        self._session.execute(row.on_duplicate_key_update(machine=machine))

    def claim(self, machine: str, at: datetime, apart: timedelta) -> bool:
        """Whether this server is the one to ask it now."""
        self.begin(machine, at)
        due = or_(MachineStateRow.asked_at.is_(None), MachineStateRow.asked_at <= at - apart)
        asked = self._session.execute(update(MachineStateRow).where(MachineStateRow.machine == machine, due).values(asked_at=at))  # fmt: skip
        return bool(getattr(asked, "rowcount", 0))

    def say(self, machine: str, told: Told | None, problem: str, at: datetime) -> None:
        """What it said, or why it did not: then what it said before stays, with its time."""
        values: dict[str, Any] = {"problem": problem[:300]}
        if told is not None:
            values |= {"told": told.model_dump(mode="json"), "told_at": at}
        self._session.execute(update(MachineStateRow).where(MachineStateRow.machine == machine).values(**values))

    def forget(self, machine: str) -> None:
        """It is reached no more."""
        values = {"problem": "", "told": None, "told_at": None}
        self._session.execute(update(MachineStateRow).where(MachineStateRow.machine == machine).values(**values))

    def used(self, machine: str, more: dict[str, float], at: datetime) -> None:
        """It did so much more."""
        self.begin(machine, at)
        row = self._session.scalar(select(MachineStateRow).where(MachineStateRow.machine == machine).with_for_update())
        if row is None:
            return
        totals = {k: float(v) for k, v in row.totals.items()}
        row.totals = totals | {k: round(max(0.0, totals.get(k, 0.0) + n), 4) for k, n in more.items()}
        row.last_used = max(at, row.last_used or at)
        row.begun = min(at, row.begun)
        self._session.flush()

    def hold(self, machine: str, held: dict[str, float]) -> None:
        self._session.execute(
            update(MachineStateRow).where(MachineStateRow.machine == machine).values(held=held or None)
        )

    def held(self) -> dict[str, dict[str, float]]:
        """Machine to channel to what is in it."""
        asked = select(MachineStateRow.machine, MachineStateRow.held).where(MachineStateRow.held.is_not(None))
        return {machine: {c: float(n) for c, n in held.items()} for machine, held in self._session.execute(asked)}

    def add(self, act: MachineAct) -> bool:
        """Append an act; False where it is there already."""
        if self._session.scalar(select(MachineActRow.seq).where(MachineActRow.id == act.id)) is not None:
            return False
        self._session.add(MachineActRow(id=act.id, machine=act.machine, kind=act.body.kind, at=act.at, actor=act.actor, body=act.body.model_dump(mode="json")))  # fmt: skip
        self._session.flush()
        return True

    def newest(self, machine: str, kinds: tuple[str, ...], most: int, since: datetime | None = None) -> tuple[MachineAct, ...]:  # fmt: skip
        """The oldest of them first; what another version wrote otherwise is left out."""
        found: list[MachineActRow] = []
        for kind in kinds:
            found += self._session.scalars(_newest(machine, kind, most, since))
        return _acts(found)

    def newest_of(self, machines: list[str], kind: str, most: int) -> dict[str, tuple[MachineAct, ...]]:
        """Machine to its newest of a kind, the oldest of them first."""
        found: defaultdict[str, list[MachineActRow]] = defaultdict(list)
        if machines:
            each = union_all(*(_newest(m, kind, most) for m in machines))
            for row in self._session.scalars(select(MachineActRow).from_statement(each)):
                found[row.machine].append(row)
        return {machine: _acts(rows) for machine, rows in found.items()}

    def took_of(self, machines: tuple[str, ...], since: datetime) -> dict[str, int]:
        """How many printings each had since then."""
        asked = (
            select(MachineActRow.machine, func.count())
            .where(MachineActRow.machine.in_(machines), MachineActRow.kind == "took", MachineActRow.at >= since)
            .group_by(MachineActRow.machine)
        )
        return {machine: int(n) for machine, n in self._session.execute(asked)}


def _newest(machine: str, kind: str, most: int, since: datetime | None = None) -> Select[MachineActRow]:
    asked = select(MachineActRow).where(MachineActRow.machine == machine, MachineActRow.kind == kind)
    if since is not None:
        asked = asked.where(MachineActRow.at >= since)
    asked = asked.with_hint(MachineActRow, "FORCE INDEX (ix_machine_acts_machine_kind)")
    return asked.order_by(MachineActRow.at.desc(), MachineActRow.seq.desc()).limit(most)


def _acts(rows: list[MachineActRow]) -> tuple[MachineAct, ...]:
    rows.sort(key=lambda r: (r.at, r.seq))
    return tuple(act for row in rows if (act := _act(row)) is not None)


def _link(row: LinkRow) -> Link:
    """A note that another version wrote otherwise counts as none."""
    try:
        return Link(machine=row.machine, address=row.address, folder=row.folder, **row.body)
    except (ValidationError, TypeError):
        return Link(machine=row.machine, address=row.address, folder=row.folder)


def _heard(row: MachineStateRow) -> Heard:
    try:
        told = Told.model_validate(row.told) if row.told is not None else None
    except ValidationError:
        told = None
    return Heard(machine=row.machine, told=told, told_at=row.told_at if told else None, problem=row.problem,
                 totals={k: float(v) for k, v in row.totals.items()}, last_used=row.last_used, begun=row.begun)  # fmt: skip


def _act(row: MachineActRow) -> MachineAct | None:
    try:
        return MachineAct.model_validate({"id": row.id, "machine": row.machine, "at": row.at, "actor": row.actor, "body": row.body})  # fmt: skip
    except ValidationError:
        return None
