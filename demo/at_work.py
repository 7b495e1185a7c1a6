"""The demo's machines on its network: how they are reached, what lies in their trays, what was read and done there before."""

import uuid
from datetime import datetime, timedelta
from typing import Protocol

from standins.kinds import KINDS

from offsetter.core import facts
from offsetter.core.facts import tasks_of
from offsetter.core.machine_acts import Cared, Filled, Levels, Loaded, MachineAct, Room, Took
from offsetter.desk.base import Base
from offsetter.store.machines import MachineStore
from offsetter.web.services import Services

LOADED = {
    "petrel": (("main-roll", "film-460-matte", "F-2209"),), "shearwater": (("main-roll", "dye-paper-roll-1118", "D-118"),), "tern": (("main-roll", "printable-film-457", "V-07"),),
    "puffin": (("by-pass-tray", "coated-film-and-adhesive", "T-31"),), "razorbill": (("tray-1", "plain-office-paper", ""),), "plover": (("tray-1", "light-transfer-paper", "L-4"),),
}  # fmt: skip
LAYS = {"C": 1.05, "M": 0.97, "Y": 1.02, "K": 1.08, "W": 1.09}
"""What the film printer really lays for each part: nobody in the shop knows it before it is read off the levels."""
CLEANING_ML = 0.4
NOW_PCT = {"C": 62.0, "M": 58.0, "Y": 71.0, "K": 66.0, "W": 2.0}
FULL, EMPTY = 97.0, 9.0
DONE_AGO = {"wipe-cap": 5, "waste-box": 20, "roll-path": 3, "toner-path": 12, "toner-wear": 60, "platen-probe": 40, "platen-wipe": 9, "press-cord": 30, "oven-filter": 6}  # fmt: skip
"""Days; a task of each day was done today, but on the film printer, which stood over the weekend."""
STOOD, STOOD_DAYS = "petrel", 3


class Clock(Protocol):
    shift: timedelta


def link(desk: Services, port: int) -> None:
    """Every printer and probe on the network, where it is not reached yet, or answers elsewhere than it did."""
    for machine in desk.jobs.shop()[0].printers.values():
        if machine.id not in KINDS:
            continue
        kind = facts.kinds().machines["printers"].get(machine.began_as)
        # Set up by a version that did not ask what it holds and what wears.
        asked = ("tanks_ml", "yields", "cleaning_ml", "part_pages")
        own = {k: v for k, v in kind.body.items() if k in asked and not getattr(machine, k)} if kind else {}
        if own:
            desk.machines.change("printers", machine.id, own, "Ada")
        uri = f"ipp://127.0.0.1:{port}/ipp/{machine.id}"
        if desk.links.of(machine.id).address != uri:
            desk.links.connect(machine.id, uri, "Ada")
    for probe in desk.jobs.shop()[0].probes.values():
        at = f"http://127.0.0.1:{port}/probe/{probe.measures}"
        if probe.address != at:
            desk.machines.change("probes", probe.id, {"address": at}, "Ada", is_owner=True)


def lived(desk: Services, base: Base, clock: Clock) -> None:
    """What was loaded, read and cared for until today."""
    now = base.now()
    for machine, trays in LOADED.items():
        for tray, media, lot in trays:
            clock.shift = -timedelta(days=4)
            desk.at_work.record(machine, uuid.uuid4().hex, Loaded(tray=tray, media=media, lot=lot), "Noor")
    shop = desk.jobs.shop()[0]
    for one in shop.in_use:
        for task in tasks_of(facts.care(), one, shop.methods):
            days = DONE_AGO.get(task.id, STOOD_DAYS if one.id == STOOD else 0)
            clock.shift = -timedelta(days=days, minutes=20)
            desk.at_work.record(one.id, uuid.uuid4().hex, Cared(task=task.id), "Noor")
    clock.shift = timedelta(0)
    desk.at_work.record(STOOD, uuid.uuid4().hex, Room(celsius=23.4, humidity_pct=47), "Noor")
    _read_levels(base, now)


def _read_levels(base: Base, now: datetime) -> None:
    """The film printer's levels as somebody wrote them down after each printing; reckoned back from what it holds now."""
    with base.session() as session, session.begin():
        store = MachineStore(session)
        took = [a for a in store.newest(STOOD, ("took",), 400) if isinstance(a.body, Took)]
        for channel, pct in NOW_PCT.items():
            level, acts = pct, []
            for act in reversed(took):
                assert isinstance(act.body, Took)
                acts.append((act.at + timedelta(minutes=2), round(level)))
                level += act.body.expected.get(channel, 0.0) * act.body.sign * LAYS[channel] / 2.5 + CLEANING_ML / 2.5
                if level > FULL:
                    full = Filled(channel=channel, lot=f"{channel}-{act.at:%m%d}")
                    store.add(MachineAct(id=uuid.uuid4().hex, machine=STOOD, at=act.at - timedelta(minutes=8), actor="Noor", body=full))  # fmt: skip
                    _put(store, channel, act.at - timedelta(minutes=7), round(level))
                    level = EMPTY
            for at, read in reversed(acts):
                _put(store, channel, at, read)


def _put(store: MachineStore, channel: str, at: datetime, pct: float) -> None:
    body = Levels(pct={channel: min(100.0, float(pct))}, by_hand=True)
    store.add(MachineAct(id=uuid.uuid4().hex, machine=STOOD, at=at, actor="Noor", body=body))
