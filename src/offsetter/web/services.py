from datetime import datetime
from pathlib import Path
from typing import Annotated

from fastapi import Depends, Request

from offsetter.core.values import Refusal
from offsetter.desk.acts import Acts
from offsetter.desk.artworks import Artworks
from offsetter.desk.at_work import MachinesAtWork
from offsetter.desk.base import Base
from offsetter.desk.brands import Brands
from offsetter.desk.codes import Codes
from offsetter.desk.conditions import Conditions
from offsetter.desk.customers import Customers
from offsetter.desk.cuts import Cuts
from offsetter.desk.elsewhere import Elsewhere
from offsetter.desk.finder import Finder
from offsetter.desk.gangs import Gangs
from offsetter.desk.inventory import Inventory
from offsetter.desk.job_files import JobFiles
from offsetter.desk.jobs import Jobs
from offsetter.desk.leftovers import Leftovers
from offsetter.desk.links import Links
from offsetter.desk.lists import Lists
from offsetter.desk.logbook import Logbook
from offsetter.desk.machines import Machines
from offsetter.desk.measuring import Measuring
from offsetter.desk.media import Media
from offsetter.desk.mending import Mending
from offsetter.desk.nozzles import Nozzles
from offsetter.desk.off_colours import OffColours
from offsetter.desk.orders import Orders
from offsetter.desk.people import People
from offsetter.desk.photos import Photos
from offsetter.desk.pictures import Pictures
from offsetter.desk.press import Presses
from offsetter.desk.prices import ShopPrices
from offsetter.desk.probes import Probes
from offsetter.desk.proofs import Proofs
from offsetter.desk.quotations import Quotations
from offsetter.desk.recipes import Recipes
from offsetter.desk.runs import Runs
from offsetter.desk.sending import Sending
from offsetter.desk.shared_runs import SharedRuns
from offsetter.desk.standings import Standings
from offsetter.desk.stock import Stock
from offsetter.desk.tickets import Tickets
from offsetter.desk.today import Today
from offsetter.desk.watch import Watch
from offsetter.desk.ways import Ways
from offsetter.desk.white_costs import WhiteCosts

CHECKOUT = Path(__file__).resolve().parents[3]


def local(at: datetime) -> datetime:
    """In the shop's own time: the computer's."""
    return at.astimezone()


class Services:
    """The desk's use cases, made once a server."""

    def __init__(
        self, base: Base, *, is_demo: bool = False, loopback_ports: frozenset[int] = frozenset()
    ) -> None:  # fmt: skip
        """loopback_ports: of this machine, that printers and probes may answer at."""
        self.base, self.is_demo = base, is_demo
        self.people = People(base)
        self.pictures = Pictures(base.files)
        self.jobs = Jobs(base, self.pictures)
        self.white_costs = WhiteCosts(self.jobs, self.pictures)
        self.cuts = Cuts(self.jobs, self.pictures)
        self.orders = Orders(base, self.jobs)
        self.artworks = Artworks(base, self.pictures, self.jobs)
        self.elsewhere = Elsewhere(base, self.jobs, self.orders, self.artworks)
        self.logbook = Logbook(base, self.jobs)
        self.job_files = JobFiles(base, self.jobs, self.artworks, self.logbook)
        self.standings = Standings(base, self.jobs, self.logbook)
        self.at_work = MachinesAtWork(base, self.jobs, local)
        self.ways = Ways(base, self.jobs)
        self.today = Today(base, self.jobs, self.standings, self.at_work, self.ways, local)
        self.mending = Mending(base, self.jobs, self.standings)
        self.runs = Runs(base, self.jobs, self.standings.made)
        self.acts = Acts(base, self.jobs, self.logbook)
        kept_out = (CHECKOUT, base.files.folder)
        self.links = Links(base, self.jobs, loopback_ports=loopback_ports, kept_out=kept_out)
        self.nozzles = Nozzles(base, self.jobs, self.links)
        self.shared_runs = SharedRuns(base, self.jobs, self.runs, self.acts)
        self.gangs = Gangs(base, self.jobs, self.runs, self.standings, self.today, self.pictures)
        self.sending = Sending(base, self.jobs, self.runs, self.acts, self.shared_runs, self.links, self.at_work)
        self.watch = Watch(base, self.jobs, self.links, self.sending)
        self.leftovers = Leftovers(base, self.jobs)
        self.presses = Presses(base, self.jobs)
        self.recipes = Recipes(base, self.jobs)
        self.machines = Machines(base, self.jobs)
        self.prices = ShopPrices(base, self.jobs)
        self.stock = Stock(base, self.jobs)
        self.inventory = Inventory(base, self.jobs)
        self.lists = Lists(base, self.jobs, self.stock, self.leftovers, self.inventory, self.at_work, self.elsewhere)
        self.conditions = Conditions(base, self.jobs)
        self.probes = Probes(self.jobs, loopback_ports)
        self.measuring = Measuring(base, self.jobs, self.conditions, self.probes)
        self.off_colours = OffColours(self.jobs, self.pictures, self.measuring)
        self.brands = Brands(base)
        self.customers = Customers(base, self.jobs, self.standings, self.brands)
        self.proofs = Proofs(self.jobs)
        self.tickets = Tickets(self.jobs, self.proofs, local)
        self.quotations = Quotations(base, self.jobs, self.ways, self.proofs, self.today)
        self.photos = Photos(base, self.jobs, self.acts)
        self.media = Media(base, self.jobs, self.photos)
        self.codes = Codes(base, self.jobs)
        self.finder = Finder(base, self.jobs, self.codes)

    def refuse_unless_demo(self) -> None:
        if not self.is_demo:
            raise Refusal(
                "no-demo", "This is not the demo shop.", "Nobody was signed in.", "Sign in with your name and password."
            )


async def _services(request: Request) -> Services:  # of no thread's time
    found: Services = request.app.state.services
    return found


Desk = Annotated[Services, Depends(_services)]
