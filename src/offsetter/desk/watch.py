"""Printers on the network, asked again and again: how they stand, what they hold, and what became of what they were sent."""

import logging
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

from offsetter.core.facts import Printer
from offsetter.core.machine_acts import Levels, MachineAct
from offsetter.core.printer_told import Told
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.at_work import hold, levels_told
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.links import Links
from offsetter.desk.sending import Sending
from offsetter.devices import printer as device
from offsetter.store.machines import Link, MachineStore
from offsetter.store.sends import SendStore

log = logging.getLogger(__name__)
EVERY, WHILE_SENDING = timedelta(seconds=30), timedelta(seconds=2)
LOOK_S = 2.0
AT_ONCE = 4
"""One that does not answer holds up no other."""


class Watch:
    def __init__(self, base: Base, jobs: Jobs, links: Links, sending: Sending) -> None:
        self._base, self._jobs, self._links, self._sending = base, jobs, links, sending
        self._over = threading.Event()
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        self._thread = threading.Thread(target=self._run, name="watch", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        self._over.set()
        if self._thread is not None:
            self._thread.join(device.ANSWERS_WITHIN_S * 3)

    def once(self, every: timedelta = timedelta(0)) -> None:
        """Ask every printer whose time has come."""
        self._sending.goes_on()
        with self._base.session() as session:
            links = [k for k in MachineStore(session).links().values() if k.address or k.folder]
            going: dict[str, list[object]] = {}
            for send in SendStore(session).open():
                going.setdefault(send.machine, []).append(send)
        if not links:
            return
        with ThreadPoolExecutor(AT_ONCE, "asking") as hands:
            list(hands.map(lambda k: self._one(k, WHILE_SENDING if going.get(k.machine) else every), links))

    def _run(self) -> None:
        while not self._over.wait(LOOK_S):
            try:
                self.once(EVERY)
            except Exception:  # the database may be away for a moment; a later look finds it again
                log.exception("the printers could not be asked")
                self._over.wait(EVERY.total_seconds())

    def _one(self, link: Link, every: timedelta) -> None:
        try:
            self._ask(link, min(every, EVERY))
        except Exception:  # one machine's trouble is no other's
            log.exception("asking %s", link.machine)

    def _ask(self, link: Link, every: timedelta) -> None:
        with self._base.session() as session, session.begin():
            if not MachineStore(session).claim(link.machine, self._base.now(), every):
                return
            sends = SendStore(session).open(link.machine)
        for send in sends:
            self._sending.follow(send)
        if not link.address:
            return
        told, problem = None, ""
        try:
            told = self._links.at(link).ask()
        except (device.Unreached, device.Doubtful):
            problem = say("it is off, or away from the network")
        except device.Refused as no:
            problem = f"says: {no.said}"
        except Refusal as no:
            problem = no.happened
        self._keep(link, told, problem)

    def _keep(self, link: Link, told: Told | None, problem: str) -> None:
        now = self._base.now()
        printer = self._jobs.shop()[0].printers.get(link.machine)
        with self._base.session() as session, session.begin():
            store = MachineStore(session)
            store.say(link.machine, told, problem, now)
            if told is None or printer is None:
                return
            levels = levels_told(told, link)
            if not levels:
                return
            is_new = levels != self._last(store, printer)
            if is_new:
                mark = f"read-{link.machine}-{now:%Y%m%d%H%M%S%f}"[:60]
                store.add(MachineAct(id=mark, machine=link.machine, at=now, body=Levels(pct=levels)))
            if is_new or link.machine not in store.held():
                hold(store, printer, now)

    @staticmethod
    def _last(store: MachineStore, printer: Printer) -> dict[str, float]:
        """The newest level of each channel that is known."""
        known: dict[str, float] = {}
        for act in store.newest(printer.id, ("levels",), 20):
            if isinstance(act.body, Levels):
                known |= act.body.pct
        return known
