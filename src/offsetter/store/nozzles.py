"""What nozzle checks showed, and cleanings, by printer."""

from pydantic import ValidationError
from sqlalchemy import select
from sqlalchemy.orm import Session

from offsetter.core.nozzle_care import Checked
from offsetter.store.tables import NozzleRow


class NozzleStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(self, printer: str, checked: Checked) -> None:
        self._session.add(
            NozzleRow(id=checked.id, printer=printer, at=checked.at, body=checked.model_dump(mode="json"))
        )
        self._session.flush()

    def newest(self, printer: str, most: int) -> tuple[Checked, ...]:
        """The oldest of them first; what another version wrote otherwise is left out."""
        asked = (
            select(NozzleRow)
            .where(NozzleRow.printer == printer)
            .order_by(NozzleRow.at.desc(), NozzleRow.id)
            .limit(most)
        )
        found = []
        for row in self._session.scalars(asked):
            try:
                found.append(Checked.model_validate(row.body))
            except ValidationError:
                continue
        return tuple(reversed(found))
