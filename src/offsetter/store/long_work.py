"""Where long work stands, as rows: every process of the shop follows and stops it, and takes over what a killed one left.

Times are the database's own: no two machines' clocks are compared.
"""

from typing import Any

from sqlalchemy import ColumnElement, Engine, delete, func, or_, select, text, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from offsetter.core.values import Left, Progress
from offsetter.store.tables import LongWorkRow

LEASE_S = 8
"""Work whose process has not said for so long that it lives is left: a process says it every second."""
KEPT_H = 24
"""Of work that is over, so that its end is still told to a browser that was away."""
AT_ONCE = 20
NOW = func.utc_timestamp(6)


class LongWorkBoard:
    """See work.interface.Board."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def take(self, key: str, task: str, arguments: dict[str, str], owner: str, first: Progress) -> bool:
        values: dict[str, Any] = {
            "task": task, "owner": owner, "is_open": True, "is_stopping": False, "tries": 1, "alive_at": NOW, "arguments": arguments,
            "events": _rows((first,)),
        }  # fmt: skip
        free = or_(LongWorkRow.is_open.is_(False), _is_left())
        with self._session() as session, session.begin():
            if session.scalar(select(LongWorkRow.work).where(LongWorkRow.work == key)) is not None:
                return _count(session, update(LongWorkRow).where(LongWorkRow.work == key, free).values(**values))
            session.execute(delete(LongWorkRow).where(
                LongWorkRow.is_open.is_(False), LongWorkRow.alive_at < _ago(KEPT_H * 3600)).with_dialect_options(mysql_limit=AT_ONCE))  # fmt: skip
            try:
                session.add(LongWorkRow(work=key, **values))
                session.flush()
            except IntegrityError:  # another took it in this moment
                session.rollback()
                return False
        return True

    def tell(self, key: str, owner: str, events: tuple[Progress, ...]) -> bool:
        values = {"events": _rows(events), "is_open": not events[-1].is_last, "alive_at": NOW}
        mine = (LongWorkRow.work == key, LongWorkRow.owner == owner, LongWorkRow.is_open.is_(True))
        with self._session() as session, session.begin():
            return _count(session, update(LongWorkRow).where(*mine).values(**values))

    def beat(self, owner: str) -> tuple[str, ...]:
        mine = (LongWorkRow.is_open.is_(True), LongWorkRow.owner == owner)
        with self._session() as session, session.begin():
            session.execute(update(LongWorkRow).where(*mine).values(alive_at=NOW))
            return tuple(session.scalars(select(LongWorkRow.work).where(*mine, LongWorkRow.is_stopping.is_(True))))

    def events(self, key: str) -> tuple[Progress, ...]:
        with self._session() as session:
            found = session.scalar(select(LongWorkRow.events).where(LongWorkRow.work == key))
        return _events(found or [])

    def stop(self, key: str) -> bool:
        return self._stop(LongWorkRow.work == key)

    def stop_others(self, task: str, but: str) -> None:
        self._stop(LongWorkRow.task == task, LongWorkRow.work != but)

    def leave(self, owner: str) -> None:
        mine = (LongWorkRow.is_open.is_(True), LongWorkRow.owner == owner)
        with self._session() as session, session.begin():
            session.execute(update(LongWorkRow).where(*mine).values(owner="", alive_at=_ago(LEASE_S)))

    def take_over(self, owner: str) -> tuple[Left, ...]:
        taken = []
        with self._session() as session, session.begin():
            left = select(LongWorkRow).where(LongWorkRow.is_open.is_(True), _is_left()).limit(AT_ONCE)
            for row in session.scalars(left.with_for_update(skip_locked=True)):
                taken.append(Left(key=row.work, task=row.task, arguments=row.arguments, events=_events(row.events), tries=row.tries, is_stopping=row.is_stopping))  # fmt: skip
                mine = update(LongWorkRow).where(LongWorkRow.work == row.work)
                session.execute(mine.values(owner=owner, alive_at=NOW, tries=row.tries + 1))
        return tuple(taken)

    def _stop(self, *which: ColumnElement[bool]) -> bool:
        with self._session() as session, session.begin():
            return _count(
                session, update(LongWorkRow).where(LongWorkRow.is_open.is_(True), *which).values(is_stopping=True)
            )

    def _session(self) -> Session:
        return Session(self._engine, expire_on_commit=False)


def _ago(seconds: int) -> ColumnElement[Any]:
    return func.timestampadd(text("SECOND"), -seconds, NOW)


def _is_left() -> ColumnElement[bool]:
    return LongWorkRow.alive_at <= _ago(LEASE_S)


def _count(session: Session, change: Any) -> bool:
    """Whether it changed anything."""
    return bool(session.execute(change).rowcount)  # type: ignore[attr-defined]


def _rows(events: tuple[Progress, ...]) -> list[dict[str, Any]]:
    """Few, however long the work: what was found meanwhile, and the newest."""
    return [e.model_dump(mode="json") for e in events if e.said or e is events[-1]]


def _events(rows: list[dict[str, Any]]) -> tuple[Progress, ...]:
    return tuple(Progress.model_validate(r) for r in rows)
