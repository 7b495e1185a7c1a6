"""Advice for one job, all fifteen methods with their cost and the quantity at which the first two change places."""

import time

from shop import row

from offsetter.core.compute.advice import advise
from offsetter.core.compute.fit import AdviceJob
from offsetter.core.facts import advice_facts, methods, recipes

JOBS = [
    {"blank": {"kind": "cloth", "fibres": {"polyester": 1.0}}, "artwork": {"kind": "photo", "colours": 9000}, "width_mm": 400, "height_mm": 400, "quantity": 30},
    {"blank": {"kind": "cloth", "fibres": {"cotton": 1.0}, "colour": "#1C2A4A"}, "artwork": {"kind": "lettering", "colours": 2}, "width_mm": 180, "height_mm": 60, "quantity": 24},
    {"blank": {"kind": "hard", "coated": True}, "artwork": {"kind": "photo", "colours": 900}, "width_mm": 95, "height_mm": 95, "quantity": 40},
    {"blank": {"kind": "cloth", "fibres": {"softshell": 1.0}, "colour": "#1C2A4A", "obstacles": ["zip"]}, "artwork": {"kind": "graphic", "colours": 3}, "width_mm": 300, "height_mm": 250, "quantity": 8},
]  # fmt: skip


def bench_advice() -> None:
    times = []
    for _ in range(25):
        for job in JOBS:
            asked = AdviceJob.model_validate(job)
            began = time.perf_counter()
            advise(asked, methods(), recipes(), advice_facts())
            times.append((time.perf_counter() - began) * 1000)
    print("Advice for one job, ms")
    row("all methods", times[4:], 50)
