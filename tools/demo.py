"""./offsetter demo: a private database, the demo shop, the server; Ctrl-C stops what it started."""

import argparse
import json
import subprocess
import sys
from pathlib import Path

from house import ROOT, House, until_stopped

WEEKS_SINCE_CORRECTION = 7.0
"""Of the film printer's tones, as the demo's shop tells it."""
EDITION = "4"
"""Of the demo's shop and orders: data of an earlier one get what is new added."""


def main() -> int:
    parser = argparse.ArgumentParser(prog="./offsetter demo", description=__doc__)
    parser.add_argument("--port", type=int, default=8040)
    parser.add_argument("--data", type=Path, default=ROOT / ".data" / "demo", help="where the demo's data lie")
    asked = parser.parse_args()
    until_stopped()
    house = House(asked.data)
    house.take()
    try:
        house.start_database()
        seeded = house.data / "seeded"
        if not seeded.exists():  # a seeding that was cut short begins anew
            house.database.drop("offsetter")
        if house.bring_up_to_date() or not seeded.exists() or seeded.read_text() != EDITION:
            if not seeded.exists():
                print("offsetter: filling the demo shop, once (about a minute) ...", flush=True)
            seed = [sys.executable, str(ROOT / "demo" / "seed.py"), house.database.url(), str(house.files)]
            subprocess.run(seed, check=True, stdin=subprocess.DEVNULL)
            seeded.write_text(EDITION)
        # The shop's machines are simulated, and reached over the network like real ones.
        sys.path.insert(0, str(ROOT))
        from standins.probe import Probe

        probe = Probe(lambda: WEEKS_SINCE_CORRECTION)
        where = house.serve(asked.port, demo="true", probes=json.dumps({"Kittiwake": probe.address}))
        house.say_where(where)
        print(f"offsetter: the demo shop is open at {where} (Ctrl-C closes it)", flush=True)
        return house.wait()
    except KeyboardInterrupt:
        return 0
    finally:
        house.close()


if __name__ == "__main__":
    sys.exit(main())
