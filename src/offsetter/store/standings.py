"""Kept standings: a row a job, read in pages, found by words."""

from collections.abc import Collection
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Literal

from pydantic import ValidationError
from sqlalchemy import ColumnElement, Select, case, delete, func, or_, select, tuple_
from sqlalchemy.orm import Session, undefer

from offsetter.core.context import Measured
from offsetter.core.remaining import WorkLeft
from offsetter.core.runs_ahead import SpoilRate
from offsetter.core.standing import JobStanding, words_of
from offsetter.core.stock import Moves
from offsetter.store.customers import key_of
from offsetter.store.tables import JobRow, JobWordRow, StandingRow, StockActRow

CARRIED_OVER = "carried-over-0"
"""The act by which the migration carried over what was counted before."""
Which = Literal["open", "needs me", "late", "held", "closed", "all"]
OPEN = ("open", "held")
ENDED = ("closed", "cancelled")


@dataclass(frozen=True, slots=True)
class KeptStanding:
    """edition: of the shop's facts that it was worked out with. scene: what its picture shows."""

    standing: JobStanding
    edition: int
    spoil: SpoilRate
    scene: dict[str, Any] | None
    measured: dict[str, Measured] = field(default_factory=dict)
    """On the pixels of each print; read by basis alone."""
    moves: Moves = field(default_factory=Moves)
    """What it makes of the store; kept there."""
    work: WorkLeft | None = None
    """What is left to do of it; read for a plan alone."""


@dataclass(frozen=True, slots=True)
class Counts:
    open: int
    needs_person: int
    late: int
    held: int


class Unreadable(Exception):
    """A kept row that this version does not read: it is worked out anew from the job."""

    def __init__(self, job_id: str) -> None:
        super().__init__(job_id)
        self.job_id = job_id


class StandingStore:
    def __init__(self, session: Session, without: Collection[str] = ()) -> None:
        """without: jobs that cannot be read, left out of every page."""
        self._session, self._without = session, without

    def save(self, kept: KeptStanding) -> tuple[int, bool]:
        """Write the job's standing, counting the change: its number, and whether an earlier version had kept it that reckoned no stock."""
        told = kept.standing
        row = self._session.get(StandingRow, told.id)
        if row is None:
            row = StandingRow(job_id=told.id, changes=0, is_stocked=not self._is_before_stock(told.id))
            self._session.add(row)
        is_old, row.is_stocked = not row.is_stocked, True
        row.changes += 1
        row.customer = key_of(told.customer)
        row.work = kept.work.model_dump(mode="json") if kept.work else None
        row.measured = {p: m.model_dump(mode="json") for p, m in kept.measured.items()}
        row.edition, row.body, row.scene = kept.edition, told.model_dump(mode="json"), kept.scene
        row.stands, row.due, row.ended_at, row.needs_person = told.stands, told.due, told.ended_at, told.needs_person
        row.spoil_tried, row.spoil_spoiled = kept.spoil.tried, kept.spoil.spoiled
        self._session.flush()
        self._keep_words(told)
        return row.changes, is_old

    def _is_before_stock(self, job_id: str) -> bool:
        """A job of a version that kept no standings either: what it took was gone when the store was first counted."""
        began = select(func.min(StockActRow.at)).where(StockActRow.id == CARRIED_OVER).scalar_subquery()
        return bool(self._session.scalar(select(JobRow.id).where(JobRow.id == job_id, JobRow.created_at < began)))

    def changes(self, job_id: str) -> int | None:
        """Counts up with every decision, act and run of the job; None while it has no standing."""
        return self._session.scalar(select(StandingRow.changes).where(StandingRow.job_id == job_id))

    def find(self, job_id: str) -> KeptStanding | None:
        row = self._session.get(StandingRow, job_id)
        if row is None:
            return None
        try:
            return _kept(row)
        except Unreadable:
            return None

    def basis(self, job_id: str) -> tuple[SpoilRate | None, dict[str, Measured]]:
        """What a standing is worked out from and was last: the rate of spoiling (None: it has no row), and what was measured on pixels."""
        row = self._session.get(StandingRow, job_id, options=[undefer(StandingRow.measured)])
        if row is None:
            return None, {}
        found: dict[str, Measured] = {}
        for print_id, told in (row.measured or {}).items():
            with suppress(ValidationError):  # of another version: it is measured anew
                found[print_id] = Measured.model_validate(told)
        return SpoilRate(tried=row.spoil_tried, spoiled=row.spoil_spoiled), found

    def counts(self, now: datetime) -> Counts:
        def counted(claim: ColumnElement[bool]) -> ColumnElement[int]:
            return func.count(case((claim, 1)))

        late = (StandingRow.due < now) & (StandingRow.stands == "open")
        of = select(
            func.count(),
            counted(StandingRow.needs_person.is_(True)),
            counted(late),
            counted(StandingRow.stands == "held"),
        )
        found = self._session.execute(of.where(StandingRow.stands.in_(OPEN))).one()
        return Counts(*found)

    def page(
        self, which: Which, words: str, now: datetime, most: int, after: tuple[datetime, str] | None = None
    ) -> list[KeptStanding]:
        """Jobs of a kind that hold every word (or begin of one), the next due first, ended ones newest first.

        after: the time and id of the last one of the page before. all: what is open, then what has ended.
        """
        if which == "closed":
            return self._ended(words, most, after)
        if which != "all":
            return self._open(which, words, now, most, after)
        ended = after is not None and self._session.scalar(
            select(StandingRow.ended_at).where(StandingRow.job_id == after[1])
        )
        open_ones = [] if ended else self._open("open", words, now, most, after)
        rest = most - len(open_ones)
        return open_ones + (self._ended(words, rest, after if ended else None) if rest else [])

    def work(self, most: int) -> list[tuple[JobStanding, WorkLeft | None]]:
        """Open jobs, the next due first, with what is left to do of each; None where another version kept it, or none."""
        asked = select(StandingRow).where(StandingRow.stands.in_(OPEN)).options(undefer(StandingRow.work))
        rows = self._session.scalars(asked.order_by(StandingRow.due, StandingRow.job_id).limit(most))
        return [(_kept(r).standing, _work(r)) for r in rows if r.job_id not in self._without]

    def work_of(self, job_id: str) -> WorkLeft | None:
        row = self._session.get(StandingRow, job_id, options=[undefer(StandingRow.work)])
        return None if row is None else _work(row)

    def outdated(self, edition: int) -> list[str]:
        """Open jobs whose standing was worked out with other facts of the shop."""
        asked = select(StandingRow.job_id).where(StandingRow.stands.in_(OPEN), StandingRow.edition != edition)
        return list(self._session.scalars(asked))

    def seen_with(self, job_id: str, edition: int) -> None:
        """The job could not be worked out with these facts: it is not tried again before they change."""
        row = self._session.get(StandingRow, job_id)
        if row is not None:
            row.edition = edition

    def using(self, key: str) -> list[str]:
        """Open jobs that were worked out from plates or a picture of this key."""
        asked = select(StandingRow.job_id, StandingRow.body).where(StandingRow.stands.in_(OPEN))
        return [job for job, body in self._session.execute(asked) if key in body.get("uses", ())]

    def missing(self) -> list[str]:
        """Jobs without a standing: those of a version that kept none."""
        asked = select(JobRow.id).outerjoin(StandingRow, StandingRow.job_id == JobRow.id)
        return list(self._session.scalars(asked.where(StandingRow.job_id.is_(None)).order_by(JobRow.created_at)))

    def _open(
        self, which: Which, words: str, now: datetime, most: int, after: tuple[datetime, str] | None
    ) -> list[KeptStanding]:
        wanted: dict[str, list[ColumnElement[bool]]] = {
            "needs me": [StandingRow.needs_person.is_(True)], "late": [StandingRow.due < now, StandingRow.stands == "open"],
            "held": [StandingRow.stands == "held"],
        }  # fmt: skip
        asked = select(StandingRow).where(StandingRow.stands.in_(OPEN), *wanted.get(which, []))
        if after is not None:
            asked = asked.where(tuple_(StandingRow.due, StandingRow.job_id) > tuple_(*after))
        return self._told(
            asked.where(*holding(self._session, words, StandingRow.job_id))
            .order_by(StandingRow.due, StandingRow.job_id)
            .limit(most)
        )

    def _ended(self, words: str, most: int, after: tuple[datetime, str] | None) -> list[KeptStanding]:
        asked = select(StandingRow).where(StandingRow.ended_at.is_not(None))
        if after is not None:
            asked = asked.where(
                or_(
                    StandingRow.ended_at < after[0],
                    (StandingRow.ended_at == after[0]) & (StandingRow.job_id < after[1]),
                )
            )
        newest = (StandingRow.ended_at.desc(), StandingRow.job_id.desc())
        return self._told(asked.where(*holding(self._session, words, StandingRow.job_id)).order_by(*newest).limit(most))

    def _told(self, asked: Select[StandingRow]) -> list[KeptStanding]:
        """Raises Unreadable for the first row that another version wrote otherwise."""
        return [_kept(r) for r in self._session.scalars(asked) if r.job_id not in self._without]

    def _keep_words(self, told: JobStanding) -> None:
        known = set(self._session.scalars(select(JobWordRow.word).where(JobWordRow.job_id == told.id)))
        if known != told.words:
            self._session.execute(delete(JobWordRow).where(JobWordRow.job_id == told.id))
            self._session.add_all(JobWordRow(word=w, job_id=told.id) for w in sorted(told.words))
            self._session.flush()


FEW = 400
"""Jobs that hold a word, up to which they are named one by one; a commoner word is looked for in the order of the list."""


def holding(session: Session, words: str, job_id: Any) -> list[ColumnElement[bool]]:
    """For a query: job_id is of a job that holds every word, or a word that begins so."""
    found: list[ColumnElement[bool]] = []
    for word in sorted(words_of(words)):
        begins = JobWordRow.word.startswith(word, autoescape=True)
        few = list(session.scalars(select(JobWordRow.job_id).where(begins).distinct().limit(FEW + 1)))
        if len(few) <= FEW:
            found.append(job_id.in_(few))
            continue
        # With its limit the database asks row by row, instead of gathering and sorting all that match.
        held = (
            select(JobWordRow.job_id).where(JobWordRow.job_id == job_id, begins).limit(1).correlate_except(JobWordRow)
        )
        found.append(held.exists())
    return found


def _work(row: StandingRow) -> WorkLeft | None:
    try:
        return None if row.work is None else WorkLeft.model_validate(row.work)
    except ValidationError:
        return None


def _kept(row: StandingRow) -> KeptStanding:
    try:
        told = JobStanding.model_validate(row.body)
    except ValidationError as other:
        raise Unreadable(row.job_id) from other
    return KeptStanding(
        standing=told, edition=row.edition,
        spoil=SpoilRate(tried=row.spoil_tried, spoiled=row.spoil_spoiled), scene=row.scene,
    )  # fmt: skip
