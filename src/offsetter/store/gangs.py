"""Sheets that several jobs share, until they are released or given up."""

from datetime import datetime

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from offsetter.core.gang import GangSheet
from offsetter.store.tables import GangSheetRow


class GangStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def open(self, most: int) -> tuple[GangSheet, ...]:
        """The newest first; what another version wrote otherwise is left out."""
        asked = select(GangSheetRow).where(GangSheetRow.is_open).order_by(GangSheetRow.changed_at.desc(), GangSheetRow.id).limit(most)  # fmt: skip
        return tuple(s for row in self._session.scalars(asked) if (s := _sheet(row)) is not None)

    def find(self, sheet_id: str, *, locked: bool = False) -> GangSheet | None:
        """One that is still open. locked: until the transaction ends."""
        row = self._session.get(GangSheetRow, sheet_id, with_for_update=locked)
        return _sheet(row) if row is not None and row.is_open else None

    def save(self, sheet: GangSheet, at: datetime, *, is_open: bool = True) -> None:
        row = self._session.get(GangSheetRow, sheet.id)
        if row is None:
            row = GangSheetRow(id=sheet.id)
            self._session.add(row)
        row.is_open, row.revision, row.made_by, row.changed_at = is_open, sheet.revision, sheet.made_by, at
        row.body = sheet.model_dump(mode="json")
        self._session.flush()


def _sheet(row: GangSheetRow) -> GangSheet | None:
    try:
        return GangSheet.model_validate(row.body)
    except ValidationError:
        return None
