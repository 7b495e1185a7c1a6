from typing import Annotated

from fastapi import Depends, Request

from offsetter.core.values import Refusal
from offsetter.desk.artwork import Artworks
from offsetter.desk.base import Base
from offsetter.desk.brands import Brands
from offsetter.desk.conditions import Conditions
from offsetter.desk.goods import Goods
from offsetter.desk.jobs import Jobs
from offsetter.desk.measuring import Measuring
from offsetter.desk.off_colours import OffColours
from offsetter.desk.orders import Orders
from offsetter.desk.people import People
from offsetter.desk.pictures import Pictures
from offsetter.desk.press import Presses
from offsetter.desk.recipes import Recipes
from offsetter.desk.records import Records
from offsetter.desk.weighing import Weighing
from offsetter.desk.work_done import WorkDone


class Services:
    """The desk's use cases, made once a server."""

    def __init__(self, base: Base, *, is_demo: bool = False, probes: dict[str, str] | None = None) -> None:
        """probes: name to host:port of what measures colour on the shop's network."""
        self.base, self.is_demo = base, is_demo
        self.people = People(base)
        self.pictures = Pictures(base.files)
        self.jobs = Jobs(base, self.pictures)
        self.orders = Orders(base, self.jobs)
        self.artworks = Artworks(base, self.pictures, self.jobs)
        self.work_done = WorkDone(base, self.jobs)
        self.presses = Presses(base, self.jobs)
        self.weighing = Weighing(base, self.jobs)
        self.recipes = Recipes(base, self.jobs)
        self.goods = Goods(base, self.jobs)
        self.conditions = Conditions(base, self.jobs)
        self.measuring = Measuring(base, self.jobs, self.conditions, probes or {})
        self.off_colours = OffColours(self.jobs, self.pictures, self.measuring)
        self.brands = Brands(base)
        self.records = Records(base, self.jobs, self.work_done)

    def refuse_unless_demo(self) -> None:
        if not self.is_demo:
            raise Refusal(
                "no-demo", "This is not the demo shop.", "Nobody was signed in.", "Sign in with your name and password."
            )


def _services(request: Request) -> Services:
    found: Services = request.app.state.services
    return found


Desk = Annotated[Services, Depends(_services)]
