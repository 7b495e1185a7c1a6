"""python -m standins PORT FOLDER: the simulated machines until stopped; port 0: any. The first line says where they are."""

import argparse
import signal
import threading
from pathlib import Path

from standins.serving import Machines

if __name__ == "__main__":
    parser = argparse.ArgumentParser(prog="python -m standins", description=__doc__)
    parser.add_argument("port", type=int)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--speed", type=float, default=20.0)
    parser.add_argument(
        "--weeks", type=float, default=0.0, help="that the printer before the colour probe has wandered"
    )
    asked = parser.parse_args()
    over = threading.Event()
    for told in (signal.SIGINT, signal.SIGTERM):
        signal.signal(told, lambda *_: over.set())
    machines = Machines(asked.port, asked.folder, speed=asked.speed, weeks=lambda: asked.weeks)
    print(machines.port, flush=True)
    over.wait()
    machines.close()
