"""./offsetter demo: a private database, the demo shop, the server; Ctrl-C stops what it started."""

import argparse
import json
import os
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from database import Database

ROOT = Path(__file__).resolve().parents[1]
WEEKS_SINCE_CORRECTION = 7.0
"""Of the film printer's tones, as the demo's shop tells it."""
READY_WITHIN_S = 60
EDITION = "3"
"""Of the demo's shop and orders: data of an earlier one get what is new added."""


def main() -> int:
    parser = argparse.ArgumentParser(prog="./offsetter demo", description=__doc__)
    parser.add_argument("--port", type=int, default=8040)
    parser.add_argument("--data", type=Path, default=ROOT / ".data" / "demo", help="where the demo's data lie")
    asked = parser.parse_args()
    signal.signal(signal.SIGINT, signal.default_int_handler)  # a shell that starts it in the background ignores it
    signal.signal(signal.SIGTERM, lambda *_: (_ for _ in ()).throw(KeyboardInterrupt()))
    data = asked.data.resolve()
    database = Database(data / "database")
    server = None
    try:
        database.stop_left_over()
        database.start()
        seeded = data / "seeded"
        if not seeded.exists():  # a seeding that was cut short begins anew
            database.drop("offsetter")
        database.create()
        # For the tools beside it: where this shop's rows are, readable by whoever started it alone.
        (data / "url").touch(mode=0o600)
        (data / "url").write_text(database.url())
        # A warm start asks the database alone: loading what migrates takes longer than opening the shop.
        is_old = database.migration() != newest_migration()
        if is_old:
            from offsetter.store.engine import grant, migrate

            migrate(database.url(user="owner"))
            grant(database.url(user="owner"), "app")
        if is_old or not seeded.exists() or seeded.read_text() != EDITION:
            if not seeded.exists():
                print("offsetter: filling the demo shop, once (about a minute) ...", flush=True)
            seed = [sys.executable, str(ROOT / "demo" / "seed.py"), database.url(), str(data / "files")]
            subprocess.run(seed, check=True, stdin=subprocess.DEVNULL)
            seeded.write_text(EDITION)
        # The shop's machines are simulated, and reached over the network like real ones.
        sys.path.insert(0, str(ROOT))
        from standins.probe import Probe

        probe = Probe(lambda: WEEKS_SINCE_CORRECTION)
        server = subprocess.Popen(
            [sys.executable, "-m", "offsetter.web"], stdin=subprocess.DEVNULL, start_new_session=True,
            env={**os.environ, "OFFSETTER_DATABASE_URL": database.url(), "OFFSETTER_DATA_FOLDER": str(data / "files"),
                 "OFFSETTER_PORT": str(asked.port), "OFFSETTER_ADDRESS": "127.0.0.1", "OFFSETTER_DEMO": "true",
                 "OFFSETTER_PROBES": json.dumps({"Kittiwake": probe.address})},
        )  # fmt: skip
        _wait(server, f"http://127.0.0.1:{asked.port}/api/welcome")
        print(f"offsetter: the demo shop is open at http://127.0.0.1:{asked.port} (Ctrl-C closes it)", flush=True)
        return server.wait()
    except KeyboardInterrupt:
        return 0
    finally:
        if server is not None and server.poll() is None:
            server.terminate()
            try:
                server.wait(10)
            except subprocess.TimeoutExpired:
                server.kill()
        database.stop()


def newest_migration() -> str:
    """The number of the newest migration, from its file's name."""
    folder = ROOT / "src" / "offsetter" / "store" / "migrations" / "versions"
    return max(p.name for p in folder.glob("0*.py"))[:4]


def _wait(server: "subprocess.Popen[bytes]", address: str) -> None:
    end = time.monotonic() + READY_WITHIN_S
    while time.monotonic() < end:
        if server.poll() is not None:
            sys.exit("offsetter: the server stopped; is the port taken? Try --port with another number.")
        try:
            with urllib.request.urlopen(address, timeout=2):
                return
        except OSError:
            time.sleep(0.1)
    sys.exit("offsetter: the server does not answer.")


if __name__ == "__main__":
    sys.exit(main())
