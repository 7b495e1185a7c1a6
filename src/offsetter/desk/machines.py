"""The shop's machines: set up from a general kind, changed by hand, retired; a machine is never taken away."""

from typing import Any, TypeVar

from pydantic import ValidationError

from offsetter.core import facts as shipped
from offsetter.core.facts import MACHINES, Kinds, Machine, MachineSort, Printer, Probe, Shop
from offsetter.core.facts.kinds import machine_body, still_unchecked
from offsetter.core.sentences import listed, say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.naming import free_id
from offsetter.store.shop import ShopStore

Fact = TypeVar("Fact", bound=Frozen)
NOTHING = say("Nothing was saved.")
CALLED = {"printers": "printer", "presses": "press", "ovens": "oven", "cutters": "cutter", "probes": "probe"}
MEASURED = {"readings", "room_c"}
"""A press's own, changed by measuring it."""


class Machines:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    @staticmethod
    def kinds() -> Kinds:
        return shipped.kinds()

    def add(
        self, sort: MachineSort, kind_id: str, name: str, author: str, own: dict[str, Any] | None = None
    ) -> Machine:
        """A machine of a general kind under the name it is called by. own: values the shop knows better already."""
        kind = shipped.kinds().machines[sort].get(kind_id)
        if kind is None:
            raise Refusal("no-such-kind", say("There is no general kind of {called} called “{kind_id}”.", called=CALLED[sort], kind_id=kind_id), NOTHING, say("Choose one of the list."))  # fmt: skip
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.lock()
            shop = self._jobs.shop_in(session)[0]
            _refuse_taken(shop.machines, name, "")
            machine_id = free_id(name, shop.machines, CALLED[sort])
            body = machine_body(kind, name.strip(), own or {})
            made = read_fact(MACHINES[sort], {**body, "id": machine_id}, CALLED[sort])
            store.replace(sort, machine_id, made.model_dump(mode="json", exclude={"id"}))
        return made

    def change(self, sort: MachineSort, machine_id: str, body: dict[str, Any], author: str, *, is_owner: bool = False, may_price: bool = False) -> Machine:  # fmt: skip
        """A machine with other values. Modes and feeds that were offered stay readable for the jobs decided on them; what a feed
        costs, and where on the network a probe is, is the owner's to say."""
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.lock()
            shop = self._jobs.shop_in(session)[0]
            known = self._one(shop, sort, machine_id)
            was = known.model_dump(mode="json", exclude={"id"})
            given = {k: v for k, v in body.items() if k not in ("id", "sources", "began_as", *MEASURED)}
            now = read_fact(MACHINES[sort], {**was, **given, "id": machine_id}, CALLED[sort])
            _refuse_taken(shop.machines, now.name, machine_id)
            if isinstance(now, Printer) and isinstance(known, Printer):
                _refuse_lost(known, now)
                _refuse_unprinted(shop, now)
                if not may_price and {f.method: f.price for f in now.feeds} != {f.method: f.price for f in known.feeds}:
                    raise owner_prices()
                unknown = next((f.method for f in now.feeds if f.method not in shop.methods), "")
                if unknown:
                    raise Refusal(
                        "not-owned",
                        say("There is no method “{unknown}”.", unknown=unknown),
                        NOTHING,
                        say("Choose one of the list."),
                    )
            if isinstance(now, Probe) and isinstance(known, Probe) and now.address != known.address and not is_owner:
                raise Refusal("owner-address", say("What Offsetter speaks to on the network is the owner's to say."), NOTHING, say("Ask the owner to give its address."))  # fmt: skip
            after = now.model_dump(mode="json", exclude={"id"})
            after["sources"] = still_unchecked(was["sources"], was, after)
            store.replace(sort, machine_id, after)
        return self._one(self._jobs.shop()[0], sort, machine_id)

    def checked(self, sort: MachineSort, machine_id: str, author: str) -> Machine:
        """Somebody has looked at every value of it: none is from memory any more."""
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.lock()
            self._one(self._jobs.shop_in(session)[0], sort, machine_id)
            store.change(sort, machine_id, sources={})
        return self._one(self._jobs.shop()[0], sort, machine_id)

    @staticmethod
    def _one(shop: Any, sort: MachineSort, machine_id: str) -> Machine:
        found: Machine | None = getattr(shop, sort).get(machine_id)
        if found is None:
            raise Refusal(
                "not-owned",
                say("The shop has no such {called}.", called=CALLED[sort]),
                NOTHING,
                say("Choose one of its own."),
            )
        return found


def read_fact(model: type[Fact], body: dict[str, Any], what: str) -> Fact:
    """A fact as somebody entered it. Raises Refusal that names the field which is wrong."""
    try:
        return model.model_validate(body)
    except ValidationError as wrong:
        # Of something that may have several forms, the form that was meant is the one whose fields are there.
        told = wrong.errors()
        first = next((e for e in told if e["type"] not in ("missing", "extra_forbidden")), told[0])
        where = ".".join(p for p in map(str, first["loc"]) if not p[:1].isupper() and "[" not in p)
        said = first["msg"].removeprefix("Value error, ")
        raise Refusal(f"bad-{what}", say("This {what} cannot be: {which}{said}.", what=what, which=f'{where}: ' if where else '', said=said), NOTHING,
                      say("Put it right and save again.")) from wrong  # fmt: skip


def owner_prices() -> Refusal:
    return Refusal(
        "owner-prices",
        say("What things cost is the owner's to say."),
        NOTHING,
        say("Leave the price as it was, or ask the owner."),
    )


def _refuse_taken(known: dict[str, Any], name: str, own_id: str) -> None:
    taken = next((m for m in known.values() if m.name.casefold() == name.strip().casefold() and m.id != own_id), None)
    if taken is not None:
        raise Refusal("name-taken", say("There is a machine called {name} already.", name=taken.name), NOTHING, say("Give this one another name: it is said aloud in the shop."))  # fmt: skip


def _refuse_unprinted(shop: Shop, now: Printer) -> None:
    """A profile that is assigned to it separates into inks that it would not hold any more."""
    given = (shop.profiles.get(c.profile) for c in shop.conditions.values() if c.printer == now.id)
    lost = (
        next((p for p in given if p and p.space != "RGB" and p.inks_on(now) is None), None)
        if now.takes == "inks"
        else None
    )
    if lost is not None:
        raise Refusal("profile-needs-inks", say("It prints with the profile “{name}”, which is for other inks.", name=lost.name), NOTHING,
                      say("Give it a profile of the four inks at Colour first."))  # fmt: skip


def _refuse_lost(was: Printer, now: Printer) -> None:
    """Jobs may have been decided in a mode or on a feed: it is switched off, never taken away."""
    modes = {m.id for m in was.modes} - {m.id for m in now.modes}
    feeds = {f.method for f in was.feeds} - {f.method for f in now.feeds}
    twice = len({f.method for f in now.feeds}) < len(now.feeds) or len({m.id for m in now.modes}) < len(now.modes)
    if modes or feeds:
        raise Refusal("in-use", say("Jobs may have been decided with {modes}.", modes=listed(sorted(modes | feeds))), NOTHING,
                      say("Say that it is not offered any more instead of taking it away."))  # fmt: skip
    if twice:
        raise Refusal("twice", say("A way or a mode stands there twice."), NOTHING, say("Keep one of them."))
