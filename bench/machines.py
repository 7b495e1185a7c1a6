"""Machines at work: what watching twelve printers costs, a nozzle sheet read back, the ink of five hundred jobs fitted."""

import sys
import time
from statistics import median

import numpy as np
from shop import ROOT

sys.path.insert(0, str(ROOT))
from standins.engine import Engine
from standins.kinds import KINDS
from standins.scanner import scanned
from standins.serving import Machines

from offsetter.core.compute.ink_fit import fit_ink
from offsetter.core.compute.nozzles import draw_sheet, read_sheet, sheet_for
from offsetter.devices.address import checked_address
from offsetter.devices.printer import Printer

POLL_SHARE, NOZZLES_S, FIT_MS = 0.02, 1.0, 100.0
PRINTERS, EVERY_S, JOBS = 12, 30.0, 500


def bench_machines() -> None:
    print("machines (client's processor time; bounds: 2 % of a core, 1 s, 100 ms)")
    machines = Machines(speed=1000)
    try:
        at = [Printer(checked_address(machines.uri(n), frozenset({machines.port}))) for n in machines.engines]
        took = []
        for n in range(60):
            begin = time.thread_time()
            at[n % len(at)].ask()
            took.append(time.thread_time() - begin)
        share = median(took) * PRINTERS / EVERY_S
        print(
            f"  watching {PRINTERS} printers every {EVERY_S:.0f} s: {share * 100:.3f} % of a core   of bound {share / POLL_SHARE:.3f}"
        )
    finally:
        machines.close()
    sheet = sheet_for(("C", "M", "Y", "K", "W"), 96, "petrel")
    engine = Engine(KINDS["petrel"]())
    out = {c: tuple(n) for c, n in engine.dropouts().items()}
    engine.close()
    scan = scanned(draw_sheet(sheet, 600, out), 600, 300, 1, skew_deg=1.0, bent_mm=0.3, blur_px=0.6, noise=5)
    reads = []
    for _ in range(5):
        begin = time.process_time()
        read = read_sheet(scan, sheet)
        reads.append(time.process_time() - begin)
    assert {c: n for c, n in read.missing.items() if n} == out
    print(f"  a nozzle sheet of {sheet.lines} lines: {median(reads):.2f} s   of bound {median(reads) / NOZZLES_S:.2f}")
    chance = np.random.default_rng(1)
    expected = tuple(float(v) for v in chance.uniform(4, 12, JOBS))
    left, levels = 100.0, []
    for ml in expected:
        left -= ml * 1.09 / 10
        left = 100.0 if left < 8 else left
        levels.append(round(left))
    fits = []
    for _ in range(5):
        begin = time.process_time()
        fit = fit_ink(expected, tuple(map(float, levels)), 1000.0)
        fits.append((time.process_time() - begin) * 1000)
    print(
        f"  ink of {JOBS} jobs: {median(fits):.0f} ms, factor {fit.factor} (1.09 was laid)   of bound {median(fits) / FIT_MS:.2f}"
    )
