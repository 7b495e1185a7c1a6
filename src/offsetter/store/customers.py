"""Whom the shop works for: known by an id, found by their name, their orders by an index."""

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import case, func, select, union_all, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from offsetter.core.decisions import OrderDoc
from offsetter.store.tables import CustomerRow, DecisionRow, LogbookRow, StandingRow

LONGEST = 80
MOST_COUNTED = 200


@dataclass(frozen=True, slots=True)
class Customer:
    id: str
    name: str
    contact: str
    notes: str


@dataclass(frozen=True, slots=True)
class Ordered:
    """How many orders of one customer."""

    open: int
    ended: int
    latest: datetime | None
    more: bool = False
    """There are older ones than were counted."""


def key_of(name: str) -> str:
    """What two spellings of one name share."""
    return " ".join(name.split()).casefold()[:LONGEST]


class CustomerStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def ensure(self, name: str, at: datetime) -> None:
        """Somebody who orders is a customer."""
        if self._session.scalar(select(CustomerRow.id).where(CustomerRow.key == key_of(name))):
            return
        said = " ".join(name.split())[:LONGEST]
        row = insert(CustomerRow).values(
            id=secrets.token_hex(6), key=key_of(name), name=said, contact="", notes="", made_at=at
        )
        self._session.execute(row.on_duplicate_key_update(key=CustomerRow.key))

    def page(self, begins: str, after: str, most: int) -> list[tuple[Customer, Ordered]]:
        """By name; begins: of any word would cost a scan, so of the name itself. after: the key of the last one before."""
        asked = select(CustomerRow).where(
            CustomerRow.key.startswith(key_of(begins), autoescape=True), CustomerRow.key > after
        )
        rows = list(self._session.scalars(asked.order_by(CustomerRow.key).limit(most)))
        counted = self._counted([r.key for r in rows])
        return [(_told(r), counted.get(r.key, Ordered(0, 0, None))) for r in rows]

    def named(self, name: str) -> Customer | None:
        row = self._session.scalar(select(CustomerRow).where(CustomerRow.key == key_of(name)))
        return _told(row) if row else None

    def find(self, customer_id: str) -> tuple[Customer, str, Ordered] | None:
        """The customer, the key of their orders, and how many there are."""
        row = self._session.get(CustomerRow, customer_id)
        if row is None:
            return None
        return _told(row), row.key, self._counted([row.key]).get(row.key, Ordered(0, 0, None))

    def _counted(self, keys: list[str]) -> dict[str, Ordered]:
        """Of each customer the newest orders, so many at most: it costs the same however long somebody has been one."""
        if not keys:
            return {}
        newest = [
            select(StandingRow.customer, StandingRow.due, StandingRow.ended_at).where(StandingRow.customer == key)
            .order_by(StandingRow.due.desc()).limit(MOST_COUNTED).subquery()
            for key in keys
        ]  # fmt: skip
        rows = union_all(*(select(n) for n in newest)).subquery()
        ended = func.count(case((rows.c.ended_at.is_not(None), 1)))
        asked = select(rows.c.customer, func.count(), ended, func.max(rows.c.due)).group_by(rows.c.customer)
        return {
            key: Ordered(whole - done, done, latest, more=whole == MOST_COUNTED)
            for key, whole, done, latest in self._session.execute(asked)
        }

    def orders_of(self, key: str, most: int) -> list[str]:
        """Their newest orders, by when they were due."""
        asked = (
            select(StandingRow.job_id)
            .where(StandingRow.customer == key)
            .order_by(StandingRow.due.desc(), StandingRow.job_id.desc())
        )
        return list(self._session.scalars(asked.limit(most)))

    def change(self, customer_id: str, contact: str, notes: str) -> None:
        self._session.execute(
            update(CustomerRow).where(CustomerRow.id == customer_id).values(contact=contact, notes=notes)
        )

    def forget(self, customer_id: str, key: str, called: str, *, from_books: bool) -> list[str]:
        """Takes away what is kept of them; from_books: their name from every order too. Gives the orders whose rows say it anew."""
        values = {"contact": "", "notes": ""} | ({"name": called, "key": key_of(called)} if from_books else {})
        self._session.execute(update(CustomerRow).where(CustomerRow.id == customer_id).values(**values))
        if not from_books:
            return []
        jobs = list(self._session.scalars(select(StandingRow.job_id).where(StandingRow.customer == key)))
        for row in self._session.scalars(
            select(DecisionRow).where(DecisionRow.job_id.in_(jobs), DecisionRow.station == "order")
        ):
            if row.body is not None and key_of(OrderDoc.model_validate(row.body).customer) == key:
                row.body = {**row.body, "customer": called}
        for entry in self._session.scalars(select(LogbookRow).where(LogbookRow.job_id.in_(jobs))):
            entry.body = {**entry.body, "customer": called}
        self._session.flush()
        return jobs


def _told(row: CustomerRow) -> Customer:
    return Customer(id=row.id, name=row.name, contact=row.contact, notes=row.notes)
