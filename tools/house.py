"""A shop's folder: its database, its files, and one opener at a time."""

import ctypes
import fcntl
import os
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from database import Database

ROOT = Path(__file__).resolve().parents[1]
READY_WITHIN_S = 60
LAST_BACKUP = "last-backup.json"
DIES_WITH_PARENT = 1
"""prctl's number for the signal that a child gets when its parent is gone."""


def fail(happened: str, to_do: str) -> "SystemExit":
    """To be raised: what happened, what to do, and nothing was started."""
    return SystemExit(f"offsetter: {happened} Nothing was started. {to_do}")


class House:
    def __init__(self, data: Path) -> None:
        self.data = data.expanduser().resolve()
        self.files = self.data / "files"
        self.database = Database(self.data / "database")
        self._server: subprocess.Popen[bytes] | None = None

    def take(self) -> None:
        """One at a time: a second opener, a backup's restore and a demo must not share a folder."""
        try:
            self.data.mkdir(parents=True, exist_ok=True)
            self._lock = (self.data / "lock").open("a+")
        except OSError as wrong:
            raise fail(
                f"{self.data} cannot be written ({wrong.strerror}).", "Give another folder with --data."
            ) from wrong
        try:
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            self._lock.seek(0)
            where = self._lock.read().strip()
            raise fail(f"The shop in {self.data} is open already{f' at {where}' if where else ''}.", "Use that one, or close it first.") from None  # fmt: skip

    def is_open(self) -> bool:
        """Somebody has it open now."""
        try:
            with (self.data / "lock").open("a+") as lock:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
        return False

    def say_where(self, address: str) -> None:
        """For whoever tries to open it a second time."""
        self._lock.truncate(0)
        self._lock.write(address)
        self._lock.flush()

    def start_database(self) -> None:
        self.database.stop_left_over()
        self.database.start()

    def bring_up_to_date(self, name: str = "offsetter") -> bool:
        """Makes the tables or changes them to this version's; True when there was something to do."""
        self.database.create(name)
        found, newest = self.database.migration(name), newest_migration()
        if found is not None and found > newest:
            raise fail(f"The shop in {self.data} was last opened by a newer Offsetter (tables {found}, this one knows {newest}).",
                       "Bring this Offsetter up to date, then open it again.")  # fmt: skip
        # The tools beside an open shop find its rows here, readable by whoever started it alone.
        (self.data / "url").touch(mode=0o600)
        (self.data / "url").write_text(self.database.url(name))
        # A warm start asks the database alone: loading what migrates takes longer than opening the shop.
        if found == newest:
            return False
        from offsetter.store.engine import grant, migrate

        migrate(self.database.url(name, "owner"))
        grant(self.database.url(name, "owner"), "app")
        return True

    def has_owner(self, url: str = "") -> bool:
        """Somebody has signed up: the door is not open to whoever comes first."""
        from sqlalchemy import func, select
        from sqlalchemy.orm import Session

        from offsetter.store.engine import engine_for
        from offsetter.store.tables import UserRow

        engine = engine_for(url or self.database.url())
        try:
            with Session(engine) as session:
                return bool(session.scalar(select(func.count()).select_from(UserRow)))
        finally:
            engine.dispose()

    def serve(
        self, port: int, *, url: str = "", address: str = "127.0.0.1", scheme: str = "http", **settings: str
    ) -> str:
        """The web server over this folder; gives where it answers. settings: more OFFSETTER_*, by their last part."""
        self._server = subprocess.Popen(
            [sys.executable, "-m", "offsetter.web"], stdin=subprocess.DEVNULL, start_new_session=True, preexec_fn=with_parent,
            env={**os.environ, "OFFSETTER_DATABASE_URL": url or self.database.url(), "OFFSETTER_DATA_FOLDER": str(self.files),
                 "OFFSETTER_PORT": str(port), "OFFSETTER_ADDRESS": address,
                 **{f"OFFSETTER_{k.upper()}": v for k, v in settings.items()}},
        )  # fmt: skip
        where = f"{scheme}://{'127.0.0.1' if address == '0.0.0.0' else address}:{port}"  # noqa: S104
        self._wait(where)
        return where

    def wait(self) -> int:
        """Until the server ends."""
        return self._server.wait() if self._server else 0

    def close(self) -> None:
        if self._server is not None and self._server.poll() is None:
            self._server.terminate()
            try:
                self._server.wait(10)
            except subprocess.TimeoutExpired:
                self._server.kill()
        self.database.stop()

    def _wait(self, where: str) -> None:
        import ssl

        # Its own certificate, on this machine: only whether it answers is asked.
        unknown = ssl._create_unverified_context() if where.startswith("https") else None  # noqa: S323
        end = time.monotonic() + READY_WITHIN_S
        while time.monotonic() < end:
            if self._server is None or self._server.poll() is not None:
                raise fail("The server stopped; is the port taken?", "Try --port with another number.")
            try:
                with urllib.request.urlopen(f"{where}/api/welcome", timeout=2, context=unknown):
                    return
            except OSError:
                time.sleep(0.1)
        raise fail("The server does not answer.", "Look at what it said above.")


def own_folder() -> Path:
    """Under the user's home. The database's own user must be able to walk there, and root's home is closed to it."""
    if os.geteuid() == 0:
        return Path("/var/lib/offsetter")
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "offsetter"


def until_stopped() -> None:
    """Ctrl-C and a service's stop end it the same way, also where a shell that starts it in the background ignores them."""
    signal.signal(signal.SIGINT, signal.default_int_handler)
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt()))


def newest_migration() -> str:
    """The number of the newest migration, from its file's name."""
    folder = ROOT / "src" / "offsetter" / "store" / "migrations" / "versions"
    return max(p.name for p in folder.glob("0*.py"))[:4]


def with_parent() -> None:
    """A server whose opener was killed does not keep the port."""
    ctypes.CDLL(None).prctl(DIES_WITH_PARENT, signal.SIGTERM)
