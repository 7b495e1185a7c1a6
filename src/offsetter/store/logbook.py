"""The logbook's entries, each as it was on the day of its closing."""

from contextlib import suppress
from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import delete, or_, select
from sqlalchemy.orm import Session

from offsetter.core.logbook import Entry
from offsetter.store.standings import Unreadable, holding
from offsetter.store.tables import LogbookRow


class LogbookStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def save(self, entry: Entry, scene: dict[str, Any] | None) -> None:
        body = entry.model_dump(mode="json")
        self._session.merge(LogbookRow(job_id=entry.job, closed_at=entry.closed_at, body=body, scene=scene))
        self._session.flush()

    def drop(self, job_id: str) -> None:
        """A closing that was taken back leaves no entry."""
        self._session.execute(delete(LogbookRow).where(LogbookRow.job_id == job_id))

    def has(self, job_id: str) -> bool:
        return self._session.scalar(select(LogbookRow.job_id).where(LogbookRow.job_id == job_id)) is not None

    def of(self, job_ids: list[str]) -> list[Entry]:
        """Of these jobs, those that are closed; a row that another version wrote is left out."""
        found = []
        for row in self._session.scalars(select(LogbookRow).where(LogbookRow.job_id.in_(job_ids))):
            with suppress(Unreadable):
                found.append(_entry(row))
        return found

    def readable(self, most: int, after: tuple[datetime, str] | None) -> list[tuple[datetime, str, Entry | None]]:
        """The newest first, when it was closed and its job beside it; None for a row that another version wrote otherwise."""
        asked = select(LogbookRow)
        if after is not None:
            asked = asked.where(or_(LogbookRow.closed_at < after[0], (LogbookRow.closed_at == after[0]) & (LogbookRow.job_id < after[1])))  # fmt: skip
        found: list[tuple[datetime, str, Entry | None]] = []
        for row in self._session.scalars(asked.order_by(LogbookRow.closed_at.desc(), LogbookRow.job_id.desc()).limit(most)):  # fmt: skip
            entry = None
            with suppress(Unreadable):
                entry = _entry(row)
            found.append((row.closed_at, row.job_id, entry))
        return found

    def page(
        self, words: str, most: int, after: tuple[datetime, str] | None = None
    ) -> list[tuple[Entry, dict[str, Any] | None]]:
        """Entries of jobs that hold every word, newest first, with what their pictures show."""
        asked = select(LogbookRow).where(*holding(self._session, words, LogbookRow.job_id))
        if after is not None:
            at, job_id = after
            same = (LogbookRow.closed_at == at) & (LogbookRow.job_id < job_id)
            asked = asked.where(or_(LogbookRow.closed_at < at, same))
        rows = self._session.scalars(asked.order_by(LogbookRow.closed_at.desc(), LogbookRow.job_id.desc()).limit(most))
        return [(_entry(r), r.scene) for r in rows]


def _entry(row: LogbookRow) -> Entry:
    try:
        return Entry.model_validate(row.body)
    except ValidationError as other:
        raise Unreadable(row.job_id) from other
