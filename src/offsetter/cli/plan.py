"""`offsetter plan`: a day by the engine of the Today screen, without a database."""

import json
import time
from argparse import Namespace
from pathlib import Path
from typing import Any

from offsetter.core.values import Refusal

SECONDS = 5.0
MOST_BYTES = 5_000_000
SEARCHED = 0.3
"""Share of the time for the search over the order; the rest is the solver's."""


def plan(asked: Namespace) -> dict[str, Any]:
    from offsetter.core.compute.day import Day, plan_day
    from offsetter.core.compute.day.check import faults_of
    from offsetter.core.compute.day.platen import heats_of
    from offsetter.core.compute.day.solver import Effort, improve

    path = Path(asked.day)
    if path.stat().st_size > MOST_BYTES:
        raise Refusal("too-large", f"“{path.name}” is larger than {MOST_BYTES // 1_000_000} MB.", "", "Give one day.")
    try:
        told = json.loads(path.read_text("utf-8"))
    except (ValueError, UnicodeDecodeError):
        raise Refusal("not-json", f"“{path.name}” is no JSON.", "", "Give one object with “jobs”.") from None
    day = Day.model_validate(told).checked()
    began = time.monotonic()

    def spent() -> float:
        return time.monotonic() - began

    seconds = SECONDS if asked.seconds is None and asked.tries is None else asked.seconds
    share = (
        (lambda done: done / asked.tries) if seconds is None else (lambda _: spent() / max(1e-9, seconds * SEARCHED))
    )
    made = plan_day(day, seed=asked.seed, share=share)
    made = improve(day, made, seed=asked.seed, effort=Effort(seconds=seconds), spent=spent)
    wrong = faults_of(day, made)
    if wrong:
        raise RuntimeError(f"the plan does not hold: {wrong[0]}")
    return {
        "jobs": len(day.jobs), "stages": day.steps, "cost": made.cost, "floor_cost": made.floor, "ends_min": made.ends_min, "late_min": made.late,
        "proven": made.proven, "bound": made.bound, "found_by": made.found_by,
        "places": [p.model_dump(mode="json") for p in made.places],
        "platens": [h.model_dump(mode="json") for m in day.machines for h in heats_of(day, made, m)],
        "seconds": round(spent(), 2), "findings": [],
    }  # fmt: skip
