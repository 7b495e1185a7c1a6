"""The store's items: moved by acts at the shelf and by jobs, in the transaction that changes them."""

import uuid
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from typing import cast

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from offsetter.core.stock import Moves, StockAct, StockKind
from offsetter.store.tables import TURNS, CounterRow, JobStockRow, StockActRow, StockDayRow, StockRow


@dataclass(frozen=True, slots=True)
class Shelf:
    """One item as it stands."""

    item: str
    is_counted: bool
    counted: float
    taken: float
    wanted: float

    @property
    def on_hand(self) -> float:
        return round(self.counted - self.taken, 3)

    @property
    def free(self) -> float:
        return round(self.on_hand - self.wanted, 3)


@dataclass(frozen=True, slots=True)
class Told:
    """An act at the shelf, as it was recorded."""

    act: StockAct
    change: float
    actor: str
    at: datetime


class StockStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def on_hand(self) -> dict[str, float]:
        """Item to what is there, of all that somebody has counted."""
        asked = select(StockRow.item, StockRow.counted - StockRow.taken).where(StockRow.is_counted.is_(True))
        return {item: round(amount, 3) for item, amount in self._session.execute(asked)}

    def shelves(self, items: Iterable[str] | None = None, *, for_update: bool = False) -> dict[str, Shelf]:
        asked = select(StockRow.item, StockRow.is_counted, StockRow.counted, StockRow.taken, StockRow.wanted).order_by(
            StockRow.item
        )
        if items is not None:
            asked = asked.where(StockRow.item.in_(sorted(items)))
        if for_update:
            asked = asked.with_for_update()
        return {row.item: Shelf(*row) for row in self._session.execute(asked)}

    def find(self, act_id: str) -> StockAct | None:
        row = self._session.scalar(select(StockActRow).where(StockActRow.id == act_id))
        return _told(row).act if row else None

    def record(self, act: StockAct, actor: str, at: datetime) -> float:
        """Append an act; gives what is on hand afterwards. The caller has looked whether it is known already."""
        found = self.shelves([act.item], for_update=True).get(act.item)
        before = found.on_hand if found else 0.0
        # Who counts or receives a first time says what there is now, whatever jobs took before.
        known = before if found and found.is_counted else 0.0
        change = round(known + act.change(known) - before, 3)
        self._session.add(StockActRow(
            id=act.id, item=act.item, kind=act.kind, amount=act.amount, change=change, reason=act.reason, lot=act.lot, expires=act.expires,
            actor=actor, at=at,
        ))  # fmt: skip
        row = insert(StockRow).values(item=act.item, is_counted=True, counted=change, taken=0.0, wanted=0.0)
        self._session.execute(
            row.on_duplicate_key_update(
                is_counted=True, counted=StockRow.counted + change, changes=StockRow.changes + 1
            )
        )
        self._tell()
        return round(before + change, 3)

    def move(self, job_id: str, moves: Moves, day: date, *, is_old: bool = False) -> bool:
        """Bring what one job takes and wants up to date; says whether anything moved. is_old: it took this before the store was counted, so nothing goes now."""
        rows = select(JobStockRow.item, JobStockRow.taken, JobStockRow.wanted).where(JobStockRow.job_id == job_id)
        was = {item: (taken, wanted) for item, taken, wanted in self._session.execute(rows)}
        now = {i: (moves.taken.get(i, 0.0), moves.wanted.get(i, 0.0)) for i in moves.taken.keys() | moves.wanted.keys()}
        # In one order for everybody: two jobs that move the same items wait for each other and never for each other's other.
        changed = [i for i in sorted(was.keys() | now.keys()) if was.get(i, (0.0, 0.0)) != now.get(i, (0.0, 0.0))]
        for item in changed:
            (old_taken, old_wanted), (taken, wanted) = was.get(item, (0.0, 0.0)), now.get(item, (0.0, 0.0))
            more, wants = round(taken - old_taken, 3), round(wanted - old_wanted, 3)
            before = more if is_old else 0.0
            if before:
                self._session.add(StockActRow(
                    id=uuid.uuid4().hex, item=item, kind="counted", amount=more, change=more, reason="taken before the store was counted",
                    lot="", expires=None, actor="", at=datetime.combine(day, time(), UTC),
                ))  # fmt: skip
            row = insert(StockRow).values(item=item, is_counted=False, counted=before, taken=more, wanted=wants)
            self._session.execute(row.on_duplicate_key_update(
                counted=StockRow.counted + before, taken=StockRow.taken + more, wanted=StockRow.wanted + wants, changes=StockRow.changes + 1
            ))  # fmt: skip
            if more and not is_old:
                used = insert(StockDayRow).values(day=day, item=item, taken=more)
                self._session.execute(used.on_duplicate_key_update(taken=StockDayRow.taken + more))
            if item not in now:
                self._session.execute(delete(JobStockRow).where(JobStockRow.job_id == job_id, JobStockRow.item == item))
            else:
                mine = insert(JobStockRow).values(job_id=job_id, item=item, taken=taken, wanted=wanted)
                self._session.execute(mine.on_duplicate_key_update(taken=taken, wanted=wanted))
            if not is_old:
                shelf = self.shelves([item])[item]
                # It has run out, or is there again: what open jobs say of it changes.
                if shelf.is_counted and (shelf.on_hand + more <= 0) != (shelf.on_hand <= 0):
                    self._tell()
        return bool(changed)

    def _tell(self) -> None:
        """Open jobs are looked at anew at the next look at Jobs."""
        row = insert(CounterRow).values(name=TURNS, value=1)
        self._session.execute(row.on_duplicate_key_update(value=CounterRow.value + 1))

    def taken_since(self, day: date) -> dict[str, float]:
        asked = (
            select(StockDayRow.item, func.sum(StockDayRow.taken))
            .where(StockDayRow.day >= day)
            .group_by(StockDayRow.item)
        )
        return {item: float(amount) for item, amount in self._session.execute(asked)}

    def first_day(self) -> date | None:
        return self._session.scalar(select(func.min(StockDayRow.day)))

    def acts_of(self, item: str, most: int) -> list[Told]:
        """What was done with an item, the newest first."""
        asked = select(StockActRow).where(StockActRow.item == item).order_by(StockActRow.seq.desc()).limit(most)
        return [_told(row) for row in self._session.scalars(asked)]

    def summed(self) -> tuple[dict[str, float], dict[str, tuple[float, float]]]:
        """Every item folded anew: what its acts make of it, and what all jobs took and want."""
        acts = select(StockActRow.item, func.sum(StockActRow.change)).group_by(StockActRow.item)
        jobs = select(JobStockRow.item, func.sum(JobStockRow.taken), func.sum(JobStockRow.wanted)).group_by(
            JobStockRow.item
        )
        return (
            {item: float(n) for item, n in self._session.execute(acts)},
            {item: (float(t), float(w)) for item, t, w in self._session.execute(jobs)},
        )


def _told(row: StockActRow) -> Told:
    act = StockAct.model_construct(
        id=row.id,
        item=row.item,
        kind=cast(StockKind, row.kind),
        amount=row.amount,
        reason=row.reason,
        lot=row.lot,
        expires=row.expires,
    )
    return Told(act=act, change=row.change, actor=row.actor, at=row.at)
