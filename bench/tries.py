"""Where the processor's time of one try goes: a print drawn wider, as a hand at a slider asks for it, part by part.

In one process, on the demo's shop, without web server and browser; what a part calls of another is counted there alone.
"""

import shutil
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path
from typing import Any

from shop import ROOT, close_shop, open_shop

sys.path.insert(0, str(ROOT / "src"))
MOVES, WARM = 24, 4


def bench_tries() -> None:
    from database import free_port

    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-bench-")), free_port()
    try:
        demo = open_shop(folder, port, f"http://127.0.0.1:{port}")
        try:
            told = measured((folder / "url").read_text().strip(), folder / "files")
        finally:
            close_shop(demo)
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    whole = sum(told.values())
    print(f"one try, in processor ms, over the demo's jobs: {whole:.1f}")
    for part, ms in sorted(told.items(), key=lambda t: -t[1]):
        print(f"  {part:28} {ms:6.1f}   {ms / whole:5.0%}")


def measured(database_url: str, files: Path) -> dict[str, float]:
    """Part to processor ms of one try, the mean over every open job that has a picture."""
    from offsetter.core import line
    from offsetter.desk.base import Base
    from offsetter.desk.bench_plates import BenchPlates
    from offsetter.desk.colours_told import ColoursTold
    from offsetter.desk.jobs import Jobs
    from offsetter.desk.pictures import Pictures
    from offsetter.desk.shops import Shops
    from offsetter.store.engine import engine_for
    from offsetter.store.files import FileStore
    from offsetter.web import jobs as said
    from offsetter.web.schemas import LineOut, TryIn
    from offsetter.web.services import Services

    parts = Parts()
    for part, owner, names in (
        ("the job and the shop read", Jobs, ("_read",)),
        ("the shop as the job sees it", Shops, ("for_job",)),
        ("plates at bench size", BenchPlates, ("made", "rgba", "ink")),
        ("its colours", ColoursTold, ("steps", "misses", "brands")),
        ("where the magnifier looks", Pictures, ("lens",)),
        ("stations judged", line, ("evaluate",)),
        ("the answer written", LineOut, ("model_dump_json",)),
    ):
        for name in names:
            parts.wrap(part, owner, name)
    services = Services(Base(engine_for(database_url), FileStore(files)))
    jobs = [c.standing.id for c in services.standings.page("open").cards]
    asked = 0
    for job in jobs:
        place = services.jobs.look(job).job.decisions.place
        if not place.file:
            continue
        for move in range(MOVES + WARM):
            if move == WARM:
                parts.go_on()
            body = {**place.model_dump(mode="json"), "width_um": place.width_um + 1000 * (move - MOVES)}
            parts.timed("the rest", said._attempted, services, job, TryIn(station="place", body=body))
            asked += move >= WARM
        parts.stop()
    return {part: s * 1000 / asked for part, s in parts.spent.items()}


class Parts:
    def __init__(self) -> None:
        self.spent: dict[str, float] = defaultdict(float)
        self._open: list[float] = []
        self._is_on = False

    def wrap(self, part: str, owner: Any, name: str) -> None:
        whole = getattr(owner, name)
        setattr(owner, name, lambda *given, **named: self.timed(part, whole, *given, **named))

    def timed(self, part: str, whole: Callable[..., Any], *given: Any, **named: Any) -> Any:
        began = time.process_time()
        self._open.append(0.0)
        try:
            return whole(*given, **named)
        finally:
            took, inside = time.process_time() - began, self._open.pop()
            if self._open:
                self._open[-1] += took
            if self._is_on:
                self.spent[part] += took - inside

    def go_on(self) -> None:
        self._is_on = True

    def stop(self) -> None:
        self._is_on = False
