"""How machines are reached: by an address on the network, by the folder that they take files from, or by hand."""

import os
import secrets
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from offsetter.core import facts as shipped
from offsetter.core.facts import Printer
from offsetter.core.printer_told import Told
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.devices import printer as device
from offsetter.devices.address import checked_address
from offsetter.formats.face_test import write_face_test
from offsetter.store.machines import Link, MachineStore

NOTHING = say("Nothing was saved.")
ROLL_FROM_MM = 1500
CLOSED = tuple(Path(p) for p in ("/bin", "/boot", "/dev", "/etc", "/lib", "/proc", "/root", "/run", "/sbin", "/sys", "/usr", "/var/lib/mysql"))  # fmt: skip
"""Where no machine's program watches a folder, and where a file of ours could do harm."""


class Introduced(Frozen):
    """A printer that answered: what it says of itself, and what that makes of it."""

    address: str
    told: Told
    kind: str
    """The nearest general kind of printer; empty: none is near."""
    name: str


class Links:
    def __init__(self, base: Base, jobs: Jobs, *, loopback_ports: frozenset[int] = frozenset(), kept_out: tuple[Path, ...] = ()) -> None:  # fmt: skip
        """loopback_ports: of this machine that may be spoken to. kept_out: folders that no machine is given."""
        self._base, self._jobs, self._ports, self._kept_out = base, jobs, loopback_ports, kept_out

    def ask(self, address: str) -> Introduced:
        """What a printer at an address says of itself. Raises Refusal where none answers."""
        at = checked_address(address, self._ports)
        told = asked(device.Printer(at).ask, at.host)
        return Introduced(address=at.uri, told=told, kind=nearest_kind(told), name=told.name)

    def connect(self, printer_id: str, address: str, author: str) -> Link:
        """Reach a printer at an address; an empty one: by hand again. It must answer, so that a slip is seen at once."""
        printer = self._printer(printer_id)
        uri = self.ask(address).address if address.strip() else ""
        with self._base.session() as session, session.begin():
            store = MachineStore(session)
            other = next((m for m, k in store.links().items() if uri and k.address == uri and m != printer.id), None)
            if other is not None:
                raise Refusal("address-taken", say("{named} is at this address already.", named=self._named(other)), NOTHING, say("Give each printer its own."))  # fmt: skip
            link = store.link(printer.id).model_copy(update={"address": uri, "folder": ""})
            store.begin(printer.id, self._base.now())
            store.put_link(link, self._base.now())
            store.forget(printer.id)
        return link

    def watch_folder(self, printer_id: str, folder: str) -> Link:
        """A folder that the printer's own program takes files from; empty: none."""
        printer = self._printer(printer_id)
        path = self._checked_folder(folder) if folder.strip() else None
        with self._base.session() as session, session.begin():
            store = MachineStore(session)
            link = store.link(printer.id).model_copy(update={"address": "", "folder": str(path or "")})
            store.begin(printer.id, self._base.now())
            store.put_link(link, self._base.now())
            store.forget(printer.id)
        return link

    def name_channels(self, printer_id: str, channels: dict[str, str]) -> Link:
        """Which ink a container holds, where its name does not tell."""
        printer = self._printer(printer_id)
        with self._base.session() as session, session.begin():
            store = MachineStore(session)
            link = store.link(printer.id)
            link = link.model_copy(update={"channels": {**link.channels, **channels}})
            store.put_link(link, self._base.now())
        return link

    def print_face_test(self, printer_id: str, tray: str, by: str) -> None:
        """A page that says which side of it was printed, and which edge went first: laid in with a mark, it settles the tray's face."""
        link = self.of(self._printer(printer_id).id)
        if not link.address:
            raise Refusal("by-hand", say("This printer is not reached over the network."), say("Nothing was sent."), say("Print a line on a marked sheet from its own program."))  # fmt: skip
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "face.pdf"
            write_face_test(path, tray.replace("-", " ") or say("its tray"))
            send_page(self.at(link), path, say("Face test {token_hex}", token_hex=secrets.token_hex(3)), by, tray)

    def of(self, machine: str) -> Link:
        with self._base.session() as session:
            return MachineStore(session).link(machine)

    def at(self, link: Link) -> device.Printer:
        """The printer behind a link: its name is looked up anew, and what it stands for is judged anew."""
        return device.Printer(checked_address(link.address, self._ports))

    def _checked_folder(self, typed: str) -> Path:
        path = Path(typed.strip())
        if not path.is_absolute() or "\0" in typed or not path.is_dir():
            raise Refusal("no-such-folder", say("There is no folder “{typed}” on the shop's computer.", typed=typed[:120]), NOTHING,
                          say("Give the whole path of a folder that is there, such as /srv/film-in."))  # fmt: skip
        real = path.resolve()
        if real == Path("/") or any(real.is_relative_to(p) for p in (*CLOSED, *self._kept_out)):
            raise Refusal("folder-kept-out", say("“{real}” belongs to the computer or to Offsetter itself.", real=real), NOTHING, say("Give the folder that the printer's program watches."))  # fmt: skip
        if not os.access(real, os.W_OK | os.X_OK):
            raise Refusal("folder-closed", say("Offsetter may not write into “{real}”.", real=real), NOTHING, say("Let the user that runs it write there."))  # fmt: skip
        return real

    def _printer(self, printer_id: str) -> Printer:
        found = self._jobs.shop()[0].printers.get(printer_id)
        if found is None:
            raise Refusal(
                "no-such-printer", say("The shop has no such printer."), NOTHING, say("Choose one of its machines.")
            )
        return found

    def _named(self, machine: str) -> str:
        shop = self._jobs.shop()[0]
        return getattr(shop.printers.get(machine), "name", machine)


def asked(question: Callable[[], Any], host: str) -> Any:
    """A question to a printer; what goes wrong with it in words. Raises Refusal."""
    try:
        return question()
    except (device.Unreached, device.Doubtful) as gone:
        raise Refusal("printer-silent", say("The printer at {host} does not answer.", host=host), say("Nothing was sent."),
                      say("Look whether it is switched on and on the shop's network, and whether the address is right.")) from gone  # fmt: skip
    except device.Refused as no:
        raise Refusal("printer-refuses", say("What is at {host} says: {said}.", host=host, said=no.said), say("Nothing was sent."), say("Look whether this is the printer's address.")) from no  # fmt: skip


def send_page(at: device.Printer, page: Path, name: str, by: str, tray: str) -> None:
    """A page of no run, such as a test: sent once, and nothing is kept of it. Raises Refusal."""
    host = at.at.host
    heeds = asked(at.ask, host).heeds
    asked(lambda: at.print(page, device.Wanted(name=name, by=by, tray=tray), heeds), host)


def nearest_kind(told: Told) -> str:
    """The general kind that shares most with what a printer says: its inks, whether it works with toner, roll or sheets and how wide."""
    channels = {s.channel for s in told.supplies if s.channel}
    is_toner = any("toner" in s.name.casefold() for s in told.supplies)
    widths = {round(t.width_mm) for t in told.trays if t.width_mm}
    has_roll = any(t.length_mm > ROLL_FROM_MM for t in told.trays)
    best, most = "", 0.0
    for kind in shipped.kinds().machines["printers"].values():
        own = set(kind.body.get("tanks_ml", {})) | set(kind.body.get("yields", {}))
        if is_toner != bool(kind.body.get("yields")) or not channels:
            continue
        feeds = kind.body["feeds"]
        fits = len(channels & own) / len(channels | own)
        fits += 0.5 * (has_roll == any(f.get("kind", "roll") == "roll" for f in feeds))
        fits += 0.5 * any(abs(w - f["media_mm"]) <= 4 for w in widths for f in feeds)
        if fits > most:
            best, most = kind.id, fits
    return best if most >= 1 else ""
