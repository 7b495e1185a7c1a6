"""Acts: what hands and machines did, appended and never changed."""

from collections.abc import Iterable
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy import Select, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from offsetter.core.acts import Act, Fetched, Pressed, Renewed, SetUp, Voided
from offsetter.store.tables import ActRow

BY_KIND, BY_ABOUT = "FORCE INDEX (ix_acts_kind)", "FORCE INDEX (ix_acts_about)"
LOOKED_UP = 50
"""Ids in one question: of 200 and more the database guesses how many rows they are, and then reads the whole index."""


class ActStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def of_job(self, job_id: str) -> tuple[Act, ...]:
        return self._read(select(ActRow).where(ActRow.job_id == job_id).order_by(ActRow.seq))

    def add(self, act: Act, at: datetime) -> None:
        """Write the act once; the same id again changes nothing."""
        row = ActRow(id=act.id, job_id=act.job, at=act.at, recorded_at=at, actor=act.actor, signature=act.signature,
                     kind=act.body.kind, about=_about(act), body=act.body.model_dump(mode="json"))  # fmt: skip
        try:
            with self._session.begin_nested():
                self._session.add(row)
        except IntegrityError:
            if self.find(act.id) is None:
                raise

    def find(self, act_id: str) -> Act | None:
        row = self._session.scalar(select(ActRow).where(ActRow.id == act_id))
        return _act(row) if row else None

    def newest(self, kind: str, most: int, about: str | None = None) -> tuple[Act, ...]:
        """The newest standing acts of a kind (and about one thing) that can be read, oldest first: it costs the same however many there are."""
        rows = select(ActRow).where(ActRow.kind == kind)
        # Left to itself, the database intersects both indexes and sorts what a million acts leave of them.
        if about is None:
            rows = rows.with_hint(ActRow, BY_KIND)
        else:
            rows = rows.where(ActRow.about == about).with_hint(ActRow, BY_ABOUT)
        found = list(self._session.scalars(rows.order_by(ActRow.seq.desc()).limit(most)))
        voided = self._voided(r.id for r in found)
        return tuple(a for r in reversed(found) if r.id not in voided and (a := _readable(r)) is not None)

    def after(self, kind: str, about: str, at: datetime | None) -> tuple[Act, ...]:
        """Standing acts of a kind about one thing, done later than at (None: all of them)."""
        rows = select(ActRow).where(ActRow.kind == kind, ActRow.about == about).with_hint(ActRow, BY_ABOUT)
        if at is not None:
            rows = rows.where(ActRow.at > at)
        found = list(self._session.scalars(rows.order_by(ActRow.seq)))
        voided = self._voided(r.id for r in found)
        return tuple(_act(r) for r in found if r.id not in voided)

    def every(self, kinds: tuple[str, ...]) -> tuple[Act, ...]:
        """All standing acts of these kinds, oldest first: for folding anew alone, since it reads the shop's whole life."""
        found = list(self._session.scalars(select(ActRow).where(ActRow.kind.in_(kinds)).order_by(ActRow.seq)))
        voided = set(self._session.scalars(select(ActRow.about).where(ActRow.kind == "voided")))
        return tuple(_act(r) for r in found if r.id not in voided)

    def _voided(self, ids: Iterable[str]) -> set[str | None]:
        wanted, found = list(ids), set[str | None]()
        for at in range(0, len(wanted), LOOKED_UP):
            asked = select(ActRow.about).where(ActRow.kind == "voided", ActRow.about.in_(wanted[at : at + LOOKED_UP]))
            found |= set(self._session.scalars(asked.with_hint(ActRow, BY_ABOUT)))
        return found

    def _read(self, rows: Select[ActRow]) -> tuple[Act, ...]:
        return tuple(_act(r) for r in self._session.scalars(rows))


def _about(act: Act) -> str | None:
    """The one thing beside its job that an act is looked for by: a press, a lot in the store, the act it takes back."""
    match act.body:
        case SetUp() | Renewed() | Pressed():
            return act.body.press or None
        case Fetched():
            return act.body.stored
        case Voided():
            return act.body.voids
        case _:
            return None


def _readable(row: ActRow) -> Act | None:
    """None: another version, or a hand, wrote it otherwise; its own job says so."""
    try:
        return _act(row)
    except ValidationError:
        return None


def _act(row: ActRow) -> Act:
    return Act.model_validate({"id": row.id, "job": row.job_id, "at": row.at, "actor": row.actor,
                               "signature": row.signature, "body": row.body})  # fmt: skip
