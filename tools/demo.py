"""./offsetter demo: a private database, the demo shop, the server; Ctrl-C stops what it started."""

import argparse
import json
import os
import subprocess
import sys
import threading
from pathlib import Path

from database import free_port, is_free
from house import ROOT, House, until_stopped, with_parent

PORT_NOTE = "machines-port"
"""Where its simulated printers answered last: they are found there again."""
WEEKS_SINCE_CORRECTION = 7.0
"""Of the film printer's tones, as the demo's shop tells it."""
EDITION = "6"
"""Of the demo's shop and orders: data of an earlier one get what is new added."""


def main() -> int:
    parser = argparse.ArgumentParser(prog="./offsetter demo", description=__doc__)
    parser.add_argument("--port", type=int, default=8040)
    parser.add_argument("--data", type=Path, default=ROOT / ".data" / "demo", help="where the demo's data lie")
    parser.add_argument("--whole", action="store_true", help="open when all of it is there")
    asked = parser.parse_args()
    until_stopped()
    house = House(asked.data)
    house.take()
    machines: subprocess.Popen[str] | None = None
    try:
        # They load while the database and the server do.
        machines, machines_port = _machines(house)
        house.start_database()
        seeded = house.data / "seeded"
        if not seeded.exists():  # a seeding that was cut short begins anew
            house.database.drop("offsetter")
        is_old = house.bring_up_to_date()
        wants_filling = is_old or not seeded.exists() or seeded.read_text() != EDITION
        note = house.data / "filling"
        seed = [
            sys.executable,
            str(ROOT / "demo" / "seed.py"),
            house.database.url(),
            str(house.files),
            "--machines",
            str(machines_port),
        ]
        if wants_filling:
            _answer(machines)
            note.write_text("its orders")
            shop = subprocess.Popen([*seed, "--only-shop"], stdin=subprocess.DEVNULL, preexec_fn=with_parent)
        else:
            note.unlink(missing_ok=True)

        def fill() -> None:
            done = subprocess.run(
                [*seed, "--note", str(note)], check=False, stdin=subprocess.DEVNULL, preexec_fn=with_parent
            )
            note.unlink(missing_ok=True)
            if done.returncode == 0:
                seeded.write_text(EDITION)

        if wants_filling and asked.whole:
            shop.wait()
            fill()
        where = house.serve(asked.port, demo="true", filling=str(note), loopback_ports=json.dumps([machines_port]))  # fmt: skip
        house.say_where(where)
        if not wants_filling:
            _answer(machines)
        # Its machines and blanks are laid in while the server loads.
        if wants_filling and shop.wait():
            sys.exit("offsetter: the demo's shop could not be filled; what it said stands above.")
        print(f"offsetter: the demo shop is open at {where} (Ctrl-C closes it)", flush=True)
        print(f"offsetter: its simulated machines are fed, heated and made to fail at http://127.0.0.1:{machines_port}", flush=True)  # fmt: skip
        if wants_filling and not asked.whole:
            print("offsetter: it goes on being filled behind the page, once (about two minutes)", flush=True)
            threading.Thread(target=fill, daemon=True).start()
        return house.wait()
    except KeyboardInterrupt:
        return 0
    finally:
        house.close()
        if machines is not None:
            machines.terminate()


def _machines(house: House) -> tuple[subprocess.Popen[str], int]:
    """The shop's simulated machines in a process of their own, and the port that they will answer at: where they did last, if nobody took it."""
    note, folder = house.data / PORT_NOTE, house.data / "machines"
    port = int(note.read_text()) if note.exists() and is_free(int(note.read_text())) else free_port()
    started = subprocess.Popen(
        [sys.executable, "-m", "standins", str(port), str(folder), "--weeks", str(WEEKS_SINCE_CORRECTION)], stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, text=True, preexec_fn=with_parent,
        cwd=ROOT, env={**os.environ, "PYTHONPATH": f"{ROOT}:{ROOT / 'src'}"},
    )  # fmt: skip
    note.write_text(str(port))
    return started, port


def _answer(machines: subprocess.Popen[str]) -> None:
    """Waits until they do."""
    if not (machines.stdout and machines.stdout.readline().strip().isdigit()):
        sys.exit("offsetter: the simulated printers did not start; what they said stands above.")


if __name__ == "__main__":
    sys.exit(main())
