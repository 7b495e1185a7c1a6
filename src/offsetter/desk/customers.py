"""Whom the shop works for: how to reach them, what they like, their orders, their colours; and forgetting them on request."""

import secrets
from datetime import datetime
from decimal import Decimal

from offsetter.core.facts import BrandColour
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.brands import Brands
from offsetter.desk.jobs import Jobs
from offsetter.desk.scenes import brands_of
from offsetter.desk.standings import CardView, Standings
from offsetter.store.customers import Customer, CustomerStore, Ordered, key_of
from offsetter.store.decisions import DecisionStore
from offsetter.store.logbook import LogbookStore
from offsetter.store.shop import ArtworkStore

PAGE = 40
PICTURES = 8
NEWEST = 20
"""Orders that are looked at for what they paid and spoiled: it costs the same however long somebody has been a customer."""


class CustomerRow(Frozen):
    id: str
    name: str
    open: int
    ended: int
    latest: datetime | None
    """When their newest order is or was due."""
    more: bool = False
    """There are older orders than were counted."""


class CustomersPage(Frozen):
    customers: tuple[CustomerRow, ...]
    following: str | None


class CustomerView(CustomerRow):
    contact: str
    notes: str
    brands: tuple[BrandColour, ...]
    closed_seen: int
    """Of the newest orders, those that are closed: what follows is of them."""
    good: int
    spoiled: int
    paid: Decimal
    """Good pieces at the price quoted."""
    cost: Decimal


class PictureView(Frozen):
    """A picture that a customer has brought before."""

    file: str
    name: str
    picture: str


class Customers:
    def __init__(self, base: Base, jobs: Jobs, standings: Standings, brands: Brands) -> None:
        self._base, self._jobs, self._standings, self._brands = base, jobs, standings, brands

    def page(self, words: str = "", after: str = "") -> CustomersPage:
        """Everybody whose name begins so, by name."""
        with self._base.session() as session:
            found = CustomerStore(session).page(words, after, PAGE + 1)
        rows = tuple(
            CustomerRow(id=c.id, name=c.name, open=o.open, ended=o.ended, latest=o.latest, more=o.more)
            for c, o in found[:PAGE]
        )
        return CustomersPage(customers=rows, following=key_of(found[PAGE - 1][0].name) if len(found) > PAGE else None)

    def look(self, customer_id: str) -> tuple[CustomerView, tuple[CardView, ...]]:
        """The customer, and their newest orders."""
        with self._base.session() as session:
            store = CustomerStore(session)
            customer, key, ordered = self._one(store, customer_id)
            newest = store.orders_of(key, NEWEST)
            entries = LogbookStore(session).of(newest)
        good, spoiled = sum(e.good for e in entries), sum(s.count for e in entries for s in e.spoiled)
        view = CustomerView(
            id=customer.id, name=customer.name, contact=customer.contact, notes=customer.notes, open=ordered.open, ended=ordered.ended, latest=ordered.latest, more=ordered.more, brands=brands_of(self._jobs.shop()[0], customer.name), closed_seen=len(entries), good=good, spoiled=spoiled,
            paid=sum(((e.quoted or Decimal(0)) * e.good for e in entries), Decimal(0)), cost=sum((e.cost_a_piece * e.good for e in entries), Decimal(0)),
        )  # fmt: skip
        return view, self._standings.cards(newest)

    def pictures(self, job_id: str) -> tuple[PictureView, ...]:
        """What the customer of a job has brought with their newest orders, the newest first."""
        key = key_of(self._jobs.kept.read(job_id).order.customer)
        with self._base.session() as session:
            jobs = CustomerStore(session).orders_of(key, NEWEST)
            files = DecisionStore(session).placed(jobs)
            names = {f: ArtworkStore(session).name_of(f) or "" for f in files[:PICTURES]}
        # One whose file the store has lost is not offered.
        there = [f for f in names if self._jobs.kept.facts_for(f) is not None]
        return tuple(PictureView(file=f, name=names[f], picture=f"/api/artworks/{f}/art.png") for f in there)

    def change(self, customer_id: str, contact: str, notes: str) -> None:
        with self._base.session() as session, session.begin():
            store = CustomerStore(session)
            self._one(store, customer_id)
            store.change(customer_id, contact.strip(), notes.strip())

    def forget(self, customer_id: str, author: str, *, from_books: bool) -> str:
        """What is kept of a person goes; from_books: their name as well, in every order and in the logbook. Gives what they are called then.

        Pictures that they brought stay with the orders that were made of them.
        """
        with self._base.session() as session, session.begin():
            store = CustomerStore(session)
            customer, key, _ = self._one(store, customer_id)
            called = f"Former customer {secrets.token_hex(3)}" if from_books else customer.name
            jobs = store.forget(customer_id, key, called, from_books=from_books)
        for job in jobs:
            self._standings.again(job)
        for brand in brands_of(self._jobs.shop()[0], customer.name):
            self._brands.remove(brand.id, author)
        return called

    @staticmethod
    def _one(store: CustomerStore, customer_id: str) -> tuple[Customer, str, Ordered]:
        found = store.find(customer_id)
        if found is None:
            raise Refusal(
                "no-such-customer",
                say("There is no such customer."),
                say("Nothing was changed."),
                say("Choose one of the list."),
            )
        return found
