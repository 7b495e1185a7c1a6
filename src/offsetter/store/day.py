"""What people said of the day (hours, who is away, what is pinned) and the plan that was last shown: a row each."""

from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from offsetter.store.tables import DayNoteRow


class DayStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def read(self, name: str, *, locked: bool = False) -> Any:
        """The note; None where nobody made one."""
        asked = select(DayNoteRow).where(DayNoteRow.name == name)
        row = self._session.scalar(asked.with_for_update() if locked else asked)
        return row.body if row else None

    def write(self, name: str, body: Any, at: datetime) -> None:
        self._session.merge(DayNoteRow(name=name, body=body, changed_at=at))
        self._session.flush()
