"""Cut paths and layouts: seconds of the processor, and how far a layout lies over what is known to be possible.

Instances are made by construction with a fixed seed: a rectangle cut apart from edge to edge, so that the optimum is known (fine: tenths of a
millimetre; coarse: a grid of 112 x 200; shrunk: fine, each side 3 % shorter, against the bound of its area).
"""

import resource
import time
from statistics import median

import cv2
import numpy as np

from offsetter.core.compute import gang
from offsetter.core.compute.contour import contour_of
from offsetter.core.compute.nest import Piece, nest
from offsetter.core.compute.sheet import Want

SECONDS, SEEDS = 5.0, 3
A3_PX, DPI = (3508, 4961), 300


def cut_apart(seed: int, count: int, wide: int, high: int) -> list[tuple[int, int]]:
    chance, parts = np.random.default_rng(seed), [(wide, high)]
    while len(parts) < count:
        w, h = parts.pop(int(np.argmax([w * h * chance.uniform(0.5, 1) for w, h in parts])))
        at = int(chance.uniform(0.25, 0.75) * max(w, h)) or 1
        parts += [(at, h), (w - at, h)] if w >= h else [(w, at), (w, h - at)]
    return parts


def pieces_of(sizes: list[tuple[float, float]]) -> tuple[Piece, ...]:
    return tuple(Piece(id=str(n), width_mm=w, height_mm=h, rotate="90") for n, (w, h) in enumerate(sizes))


def bench_sheets() -> None:
    nest(
        pieces_of([(10.0, 20.0), (20.0, 30.0)]), gap_mm=0, margin_mm=0, roll_mm=100, share=lambda t: t / 400
    )  # compiled
    made: dict[str, tuple[float, float, float]] = {
        "coarse": (112, 200, 1.5),
        "fine": (560, 1000, 3.5),
        "shrunk": (560, 1000, 4.5),
    }
    for kind, (wide, high, bar) in made.items():
        for count in (50, 100):
            over = [_over(kind, seed, count, wide, high) for seed in range(1, SEEDS + 1)]
            against = "over the optimum" if kind != "shrunk" else "over the area"
            print(
                f"{kind:7} {count:4} pieces, {SECONDS:.0f} processor s: {median(over):.2%} {against} ({min(over):.2%} to {max(over):.2%}), bar {bar} %"
            )
    began = time.perf_counter()
    pieces = pieces_of([(w / 10, h / 10) for w, h in cut_apart(1, 100, 5600, 10000)])
    nest(pieces, gap_mm=0, margin_mm=0, roll_mm=560, share=lambda t: t / 1)
    print(f"first layout of 100 rectangles: {(time.perf_counter() - began) * 1000:.0f} ms (bar 50)")
    _shared()
    _contour()


def _shared() -> None:
    """Five orders of film with labels and gaps, in the lengths that an oven takes: against each by itself, and against what no layout beats."""
    room = gang.Room(media_um=460_000, printable_um=450_000, usable_um=420_000, longest_um=820_000, margin_um=10_000, gap_um=8_000, label_um=7_000)  # fmt: skip
    first, searched, alone = [], [], []
    for seed in range(1, SEEDS + 1):
        chance = np.random.default_rng(seed)
        orders = [(int(w), int(h), int(n)) for w, h, n in zip(chance.integers(50, 260, 5), chance.integers(40, 240, 5), chance.integers(8, 32, 5), strict=True)]  # fmt: skip
        pieces = tuple(gang.GangPiece(id=f"{o}~{n}", width_um=w * 1000, height_um=h * 1000) for o, (w, h, count) in enumerate(orders) for n in range(count))  # fmt: skip
        by_id = {p.id: p for p in pieces}
        began = time.perf_counter()
        gang.lay_gang(pieces, room)
        first.append((time.perf_counter() - began) * 1000)
        laid = gang.lay_gang(pieces, room, tries=gang.tries_for(len(pieces)))
        assert not gang.faults_in(laid, by_id, room)
        length = sum(gang.lengths_um(laid, by_id, room))
        searched.append(length / gang.bound_um(pieces, room) - 1)
        wants = [(Want(width_um=w * 1000, height_um=h * 1000, copies=n),) for w, h, n in orders]
        alone.append(1 - length / gang.alone_um(wants, room))
    print(f"five orders on one roll, about 100 prints: first layout {median(first):.0f} ms (bar 50), searched {median(searched):.1%} over the bound, "
          f"{median(alone):.1%} less film than each by itself")  # fmt: skip


def _over(kind: str, seed: int, count: int, wide: float, high: float) -> float:
    scale, shrunk = (1, 1.0) if kind == "coarse" else (10, 0.97 if kind == "shrunk" else 1.0)
    parts = cut_apart(seed, count, round(wide * scale), round(high * scale))
    sizes = [(w / scale * shrunk, h / scale * shrunk) for w, h in parts]
    began = time.process_time()
    made = nest(
        pieces_of(sizes),
        gap_mm=0,
        margin_mm=0,
        roll_mm=wide,
        seed=seed,
        share=lambda _: (time.process_time() - began) / SECONDS,
    )
    best = sum(w * h for w, h in sizes) / wide if kind == "shrunk" else high
    return (made.length_mm or 0) / best - 1


def _contour() -> None:
    """A picture of many parts, soft at its edges, on A3."""
    mask = np.zeros(A3_PX, np.uint8)
    chance = np.random.default_rng(3)
    for _ in range(60):
        middle = (int(chance.uniform(200, A3_PX[1] - 200)), int(chance.uniform(200, A3_PX[0] - 200)))
        cv2.ellipse(
            mask,
            middle,
            (int(chance.uniform(60, 240)), int(chance.uniform(60, 240))),
            float(chance.uniform(0, 180)),
            0,
            360,
            255,
            -1,
            cv2.LINE_AA,
        )
    spent = []
    for _ in range(5):
        began = time.process_time()
        found = contour_of(mask, 25.4 / DPI, 2.0)
        spent.append(time.process_time() - began)
    print(f"contour of A3 at {DPI} dpi: {median(spent):.2f} processor s (bar 1.5), error {found.max_error_mm:.3f} mm (bar 0.05), "
          f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")  # fmt: skip
