"""Decisions with their revisions: in and out as documents, history never rewritten."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from sqlalchemy import Select, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from offsetter.store.tables import DecisionRow, JobRow

Step = Literal["decide", "undo", "redo"]
JOB_LEVEL = ""
FIRST_PRINT = "front"
PRINT_OF = {"order": JOB_LEVEL, "sheet": FIRST_PRINT}
"""Where documents of the whole job lie; all others belong to a print."""
Address = tuple[str, str]
"""A document's print and station."""


@dataclass(frozen=True, slots=True)
class Revision:
    print: str
    station: str
    revision: int
    author: str
    made_at: datetime
    body: dict[str, Any] | None


class SavedElsewhere(Exception):
    """Somebody saved this station since it was read."""

    def __init__(self, theirs: Revision) -> None:
        super().__init__(theirs.station)
        self.theirs = theirs


class DecisionStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add_job(self, job_id: str, at: datetime) -> None:
        self._session.add(JobRow(id=job_id, created_at=at))
        self._session.flush()

    def job_ids(self) -> list[str]:
        return list(self._session.scalars(select(JobRow.id).order_by(JobRow.created_at, JobRow.id)))

    def created_at(self, job_id: str) -> datetime | None:
        return self._session.scalar(select(JobRow.created_at).where(JobRow.id == job_id))

    def current(self, job_id: str) -> dict[Address, Revision]:
        """The newest revision of every document of the job."""
        newest = (
            select(DecisionRow.print_id, DecisionRow.station, func.max(DecisionRow.revision).label("revision"))
            .where(DecisionRow.job_id == job_id)
            .group_by(DecisionRow.print_id, DecisionRow.station)
            .subquery()
        )
        rows = self._session.scalars(
            select(DecisionRow).where(DecisionRow.job_id == job_id).join(
                newest,
                (newest.c.print_id == DecisionRow.print_id) & (newest.c.station == DecisionRow.station)
                & (newest.c.revision == DecisionRow.revision),
            )
        )  # fmt: skip
        return {(r.print_id, r.station): _revision(r) for r in rows}

    def save(
        self, job_id: str, print_id: str, station: str, body: dict[str, Any] | None, author: str, base: int, at: datetime,
        step: Step = "decide", target: int | None = None,
    ) -> Revision:  # fmt: skip
        """Append a revision on top of base. Raises SavedElsewhere when base is no longer the newest.

        Sending the same body twice is one revision: the second is answered with the first.
        """
        print_id = address(print_id, station)[0]
        latest = self._latest(job_id, print_id, station)
        if latest is not None and latest.revision != base:
            if step == "decide" and latest.body == body and latest.author == author:
                return _revision(latest)
            raise SavedElsewhere(_revision(latest))
        row = DecisionRow(
            job_id=job_id, print_id=print_id, station=station, revision=base + 1, step=step,
            target=target, author=author, made_at=at, body=body,
        )  # fmt: skip
        try:
            with self._session.begin_nested():
                self._session.add(row)
        except IntegrityError as taken:  # two saves in the same moment: the unique key lets one through
            winner = self._latest(job_id, print_id, station)
            if winner is None:
                raise
            raise SavedElsewhere(_revision(winner)) from taken
        return _revision(row)

    def body_at(self, job_id: str, print_id: str, station: str, revision: int) -> dict[str, Any] | None:
        row = self._session.scalar(self._of(job_id, print_id, station).where(DecisionRow.revision == revision))
        return row.body if row else None

    def stacks(self, job_id: str, author: str) -> tuple[list[tuple[Address, int]], list[tuple[Address, int]]]:
        """The author's documents and revisions that undo and redo would take next, last first to go."""
        undo: list[tuple[Address, int]] = []
        redo: list[tuple[Address, int]] = []
        rows = self._session.scalars(
            select(DecisionRow)
            .where(DecisionRow.job_id == job_id, DecisionRow.author == author)
            .order_by(DecisionRow.seq)
        )
        for row in rows:
            if row.step == "undo" and undo:
                redo.append(undo.pop())
            elif row.step == "redo" and redo:
                undo.append(redo.pop())
            else:
                undo.append(((row.print_id, row.station), row.revision))
                redo.clear()
        return undo, redo

    def _latest(self, job_id: str, print_id: str, station: str) -> DecisionRow | None:
        return self._session.scalar(self._of(job_id, print_id, station).order_by(DecisionRow.revision.desc()).limit(1))

    def _of(self, job_id: str, print_id: str, station: str) -> Select[DecisionRow]:
        return select(DecisionRow).where(
            DecisionRow.job_id == job_id, DecisionRow.print_id == print_id, DecisionRow.station == station
        )

    def placed(self, job_ids: list[str]) -> list[str]:
        """Files that were placed in these jobs, the newest first, each once."""
        asked = select(DecisionRow.body).where(DecisionRow.job_id.in_(job_ids), DecisionRow.station == "place")
        files = (body.get("file") for body in self._session.scalars(asked.order_by(DecisionRow.seq.desc())) if body)
        return [f for f in dict.fromkeys(files) if isinstance(f, str)]

    def lock(self, job_id: str) -> bool:
        """Hold the job until the transaction ends, so that what is checked stays true; False when there is no such job."""
        return self._session.scalar(select(JobRow.id).where(JobRow.id == job_id).with_for_update()) is not None


def address(print_id: str, station: str) -> Address:
    """Where the document of a station lies, seen from a print."""
    return PRINT_OF.get(station, print_id or FIRST_PRINT), station


def _revision(row: DecisionRow) -> Revision:
    return Revision(row.print_id, row.station, row.revision, row.author, row.made_at, row.body)
