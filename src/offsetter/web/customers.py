"""Customers: found by their name, looked at with their orders, forgotten on request."""

from typing import Annotated

from fastapi import APIRouter, Depends, Query
from pydantic import Field

from offsetter.core.values import Frozen
from offsetter.desk.customers import CustomersPage, CustomerView, PictureView
from offsetter.web.guard import Owner, Person, signed_in
from offsetter.web.jobs import card_out
from offsetter.web.limits import FactId
from offsetter.web.schemas import JobCard
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])


class CustomerOut(CustomerView):
    orders: tuple[JobCard, ...]
    """The newest first."""


class CustomerIn(Frozen):
    contact: str = Field("", max_length=400)
    notes: str = Field("", max_length=2000)


class Forget(Frozen):
    from_books: bool


class Forgotten(Frozen):
    called: str


@router.get("/customers")
def list_customers(
    desk: Desk, words: Annotated[str, Query(max_length=80)] = "", after: Annotated[str, Query(max_length=80)] = ""
) -> CustomersPage:
    """Everybody whose name begins so, by name, in pages."""
    return desk.customers.page(words, after)


@router.get("/customers/{customer}")
def look_at_customer(customer: FactId, desk: Desk) -> CustomerOut:
    """One customer: how to reach them, their newest orders, what those paid and spoiled."""
    seen, orders = desk.customers.look(customer)
    return CustomerOut(**dict(seen), orders=tuple(card_out(c) for c in orders))


@router.get("/jobs/{job_id}/their-pictures")
def their_pictures(job_id: str, desk: Desk) -> tuple[PictureView, ...]:
    """Pictures that this job's customer has brought before."""
    return desk.customers.pictures(job_id)


@router.put("/customers/{customer}")
def change_customer(customer: FactId, given: CustomerIn, desk: Desk, person: Person) -> CustomerOut:
    """How to reach somebody, and what to know of them."""
    desk.customers.change(customer, given.contact, given.notes)
    return look_at_customer(customer, desk)


@router.post("/customers/{customer}/forget")
def forget_customer(customer: FactId, given: Forget, desk: Desk, who: Owner) -> Forgotten:
    """What is kept of a person goes; what the shop's books keep is the shop's own decision."""
    return Forgotten(called=desk.customers.forget(customer, who.user.name, from_books=given.from_books))
