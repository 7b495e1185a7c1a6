"""Preflight of a whole A3 picture at 300 dpi in its child process: processor seconds against the bound; lettering aside."""

import resource
import tempfile
from pathlib import Path

import cv2
import numpy as np
from shop import row

from offsetter.intake.receive import receive

WIDTH, HEIGHT = 3508, 4961
BOUND_S = 6.0


def poster() -> np.ndarray:
    """Soft glows, hard shapes, fine dots and lettering on clear ground, as a real one has."""
    rng = np.random.default_rng(11)
    rgba = np.zeros((HEIGHT, WIDTH, 4), np.uint8)
    for x, y, r in zip(
        rng.integers(300, 3200, 60), rng.integers(300, 4600, 60), rng.integers(20, 400, 60), strict=True
    ):
        cv2.circle(rgba, (int(x), int(y)), int(r), (*rng.integers(0, 256, 3).tolist(), 255), -1, cv2.LINE_AA)
    for x, y in zip(rng.integers(50, 3450, 900), rng.integers(50, 4900, 900), strict=True):
        cv2.circle(rgba, (int(x), int(y)), int(rng.integers(1, 5)), (240, 240, 230, 255), -1, cv2.LINE_AA)
    for n in range(18):
        cv2.putText(
            rgba,
            "Nine nights of the comet",
            (150, 400 + 250 * n),
            cv2.FONT_HERSHEY_SIMPLEX,
            6,
            (250, 240, 220, 255),
            4 + n,
            cv2.LINE_AA,
        )
    return rgba


def bench_intake() -> None:
    print("Preflight of an A3 picture at 300 dpi, processor seconds")
    with tempfile.TemporaryDirectory() as place:
        source = Path(place) / "poster.png"
        cv2.imwrite(str(source), poster())
        times = []
        for n in range(5):
            before = resource.getrusage(resource.RUSAGE_CHILDREN)
            receive(source, "poster.png", f"a{n}", Path(place) / f"a{n}")
            after = resource.getrusage(resource.RUSAGE_CHILDREN)
            times.append(after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime)
    row("whole preflight", times, BOUND_S)
