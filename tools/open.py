"""./offsetter open: a shop of one's own in one folder outside the checkout; Ctrl-C closes it."""

import argparse
import os
import socket
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime
from pathlib import Path

from house import LAST_BACKUP, ROOT, House, fail, newest_migration, own_folder, until_stopped

BACKUPS = "shop-????-??-??-????.zip"
DAY_S, LOOK_S = 24 * 3600, 900


def main() -> int:
    parser = argparse.ArgumentParser(prog="./offsetter open", description=__doc__)
    parser.add_argument("--port", type=int, default=8040)
    parser.add_argument("--data", type=Path, default=own_folder(), help="the shop's folder (default %(default)s)")
    parser.add_argument(
        "--network", action="store_true", help="serve the shop's network too, with a certificate of its own"
    )
    parser.add_argument("--backups", type=Path, help="a folder, best on another disk, that gets a backup each day")
    parser.add_argument("--keep", type=int, default=14, help="how many of them are kept (default %(default)s)")
    asked = parser.parse_args()
    until_stopped()
    house = House(asked.data)
    if house.data.is_relative_to(ROOT):
        raise fail(
            f"{house.data} lies inside the program's own folder, where an update writes.", "Give another with --data."
        )
    house.take()
    url = os.environ.get("OFFSETTER_DATABASE_URL", "")
    try:
        print(f"offsetter: the shop lies in {house.data}", flush=True)
        if url:
            _elsewhere(url)
        else:
            house.start_database()
            house.bring_up_to_date()
        told = {"url": url, "last_backup": str(house.data / LAST_BACKUP)}
        where = on_network(house, asked.port, told) if asked.network else house.serve(asked.port, **told)
        house.say_where(where)
        if asked.backups is not None:
            daily(house, asked.backups.resolve(), max(1, asked.keep))
        print(f"offsetter: the shop is open at {where} (Ctrl-C closes it)", flush=True)
        return house.wait()
    except KeyboardInterrupt:
        return 0
    finally:
        house.close()


def on_network(house: House, port: int, told: dict[str, str]) -> str:
    """With TLS on every address of this machine; tells where, and how a tablet comes to trust it."""
    import segno
    from network import addresses, certificates

    if not house.has_owner(told["url"]):
        raise fail("Nobody owns this shop yet, and whoever came first over the network would.",
                   "Open it without --network, become its owner on this machine, then open it again.")  # fmt: skip
    found = addresses()
    names = (*found, socket.gethostname(), f"{socket.gethostname()}.local", "localhost", "127.0.0.1")
    authority, certificate, key = certificates(house.data / "network", names)
    house.serve(
        port,
        address="0.0.0.0",  # noqa: S104
        scheme="https",
        tls_certificate=str(certificate),
        tls_key=str(key),
        authority=str(authority),
        **told,
    )
    where = f"https://{found[0] if found else '127.0.0.1'}:{port}"
    print(f"offsetter: on the shop's network at {where}", flush=True)
    print(
        f"offsetter: a tablet trusts it once it has {where}/api/welcome/authority.crt; docs/running.md tells how",
        flush=True,
    )
    segno.make(where, error="m").terminal(compact=True)
    return where


def daily(house: House, folder: Path, keep: int) -> None:
    """A backup a day, beside the open shop; the oldest of more than `keep` go."""

    def due() -> bool:
        made = sorted(folder.glob(BACKUPS))
        return not made or time.time() - made[-1].stat().st_mtime > DAY_S

    def watch() -> None:
        while True:
            if due():
                file = folder / f"shop-{datetime.now(UTC):%Y-%m-%d-%H%M}.zip"
                told = [
                    sys.executable,
                    str(ROOT / "tools" / "backup.py"),
                    "backup",
                    str(file),
                    "--data",
                    str(house.data),
                ]
                if subprocess.run(told, check=False, stdin=subprocess.DEVNULL).returncode == 0:
                    for old in sorted(folder.glob(BACKUPS))[:-keep]:
                        old.unlink()
            time.sleep(LOOK_S)

    folder.mkdir(parents=True, exist_ok=True)
    threading.Thread(target=watch, daemon=True, name="daily backup").start()


def _elsewhere(url: str) -> None:
    """A database server that the shop was given: brought up to date where its owner's address is known too."""
    from offsetter.store.engine import engine_for, grant, migrate, migration_of

    owner = os.environ.get("OFFSETTER_OWNER_URL", "")
    try:
        found = migration_of(owner or url)
    except Exception as wrong:
        host = engine_for(url).url.host
        raise fail(
            f"The database at {host} does not let this shop in.", "Look at OFFSETTER_DATABASE_URL and at that server."
        ) from wrong
    newest = newest_migration()
    if found is not None and found > newest:
        raise fail(
            f"That database was last opened by a newer Offsetter (tables {found}, this one knows {newest}).",
            "Bring this Offsetter up to date.",
        )
    if found == newest:
        return
    if not owner:
        raise fail(
            "That database is not at this version.",
            "Set OFFSETTER_OWNER_URL to a user that owns it, and open the shop again.",
        )
    migrate(owner)
    grant(owner, engine_for(url).url.username or "app")


if __name__ == "__main__":
    sys.exit(main())
