"""How much more or less ink a printer really lays than was expected, from the levels that it reports.

Least squares on the use summed up since the tank was last filled: a reading's rounding then stays within half a step however many jobs
there are, while differences of single jobs drown in it. Millilitres; levels in % of the tank.
"""

import math
from typing import Literal

import numpy as np

from offsetter.core.values import Frozen

Verdict = Literal["corrected", "too few steps", "readings do not fit"]

LEAST, MOST = 0.5, 2.0
"""A factor at one of these is no factor: something else is wrong (from memory)."""
STEPS_WANTED = 5
"""Of drop, under which nothing is concluded."""
STEP_PCT = 1.0
"""Of a reading, where its own figures do not tell."""
OFF_STEPS = 1.5
"""How far readings may lie from the fit, root mean square: more is no rounding."""
P90 = 1.645 * 1.3
"""Nine of ten of a normal spread; a third more, for readings that follow each other are rounded alike (tried on made readings)."""
FINEST = 0.01


class InkFit(Frozen):
    factor: float
    """Of the expected use; 1 while nothing is concluded."""
    error_pct: float | None
    """Of the factor, nine times in ten within; None while nothing is concluded."""
    verdict: Verdict
    steps: float
    """Of drop that were seen."""
    fills: int
    """Times that the tank was filled on the way: each begins a count of its own."""


def fit_ink(
    expected_ml: tuple[float, ...], level_pct: tuple[float, ...], tank_ml: float, cleaning_ml: float = 0.0
) -> InkFit:
    """One channel: what each print run should have taken, and the level read after it (below 0: not told). cleaning_ml: besides,
    with every run."""
    told = [(e, v) for e, v in zip(expected_ml, level_pct, strict=True) if math.isfinite(v)]
    step = step_of([v for _, v in told if v >= 0])
    rows, dropped, fills = _summed(told, step, tank_ml)
    steps = dropped / step
    if steps < STEPS_WANTED or not rows:
        return InkFit(factor=1.0, error_pct=None, verdict="too few steps", steps=round(steps, 1), fills=fills)
    used = np.array([u - n * cleaning_ml for u, _, n, _ in rows])
    wanted, half = np.array([e for _, e, _, _ in rows]), step / 2 / 100 * tank_ml
    # Every count begins at a reading that was rounded too, unless the tank was full.
    begins = sorted({b for *_, b in rows if b})
    columns = np.column_stack([wanted, *[[float(b == k) for *_, b in rows] for k in begins]])
    from scipy.optimize import lsq_linear

    found = lsq_linear(columns, used, bounds=([LEAST, *[-half] * len(begins)], [MOST, *[half] * len(begins)]))
    factor = float(found.x[0])
    off = float(np.sqrt(np.mean((columns @ found.x - used) ** 2))) / (step / 100 * tank_ml)
    rounded = step / 100 * tank_ml / math.sqrt(12)
    sure = max(rounded, off * step / 100 * tank_ml) * math.sqrt(_variance(columns))
    if off > OFF_STEPS or factor <= LEAST + 1e-6 or factor >= MOST - 1e-6:
        return InkFit(
            factor=round(factor, 4),
            error_pct=None,
            verdict="readings do not fit",
            steps=round(steps, 1),
            fills=fills,
        )
    return InkFit(
        factor=round(factor, 4),
        error_pct=round(100 * P90 * sure / factor, 2),
        verdict="corrected",
        steps=round(steps, 1),
        fills=fills,
    )


def step_of(levels: list[float]) -> float:
    """The smallest step that the readings are made in."""
    apart = {round(abs(a - b) / FINEST) for a in levels for b in levels[:40]} - {0}
    return (
        max(FINEST, math.gcd(*apart) * FINEST) if len(apart) > 1 else min((a * FINEST for a in apart), default=STEP_PCT)
    )


def _summed(
    told: list[tuple[float, float]], step: float, tank_ml: float
) -> tuple[list[tuple[float, float, int, int]], float, int]:
    """Rows of: used mL, expected mL, runs, and which count (0: begun at a full tank), since each filling; the whole drop in %;
    and how often it was filled."""
    rows: list[tuple[float, float, int, int]] = []
    start, expected, runs, count, dropped, fills, last = 0.0, 0.0, 0, -1, 0.0, 0, math.nan
    for wanted, level in told:
        if level < 0:
            expected, runs = expected + wanted, runs + 1
            continue
        if count < 0:
            # A first reading that a full tank explains begins there; any other is where the count begins.
            is_full = 100 - level <= step + MOST * (expected + wanted) / tank_ml * 100
            count = 0 if is_full else 1
            start, last = (100.0, 100.0) if is_full else (level, level)
            if not is_full:
                expected, runs = 0.0, 0
                continue
        elif level > last + step * 0.75:
            fills, count, start, last, expected, runs = fills + 1, count + 1 or 1, level, level, 0.0, 0
            continue
        expected, runs = expected + wanted, runs + 1
        dropped += max(0.0, last - level)
        last = min(last, level)
        rows.append(((start - level) / 100 * tank_ml, expected, runs, count))
    return rows, dropped, fills


def _variance(columns: "np.ndarray[tuple[int, int], np.dtype[np.float64]]") -> float:
    """Of the factor, for readings that are off by one."""
    return float(np.linalg.pinv(columns.T @ columns)[0, 0])
