"""Ink factors found back in readings made with known ones, against a general optimiser, with the rounding that printers have."""

import json

import numpy as np
import pytest
from scipy.optimize import minimize_scalar

from offsetter.core.compute.ink_fit import fit_ink
from tests.outside.test_cut_and_nest import offsetter


def readings(
    factor: float,
    jobs: int,
    *,
    step: float = 1.0,
    cleaning: float = 0.0,
    seed: int = 1,
    start: float = 100.0,
    tank: float = 1000.0,
):
    """Expected mL of each job, and the level after it as a printer tells it."""
    wanted = np.random.default_rng(seed).uniform(5, 10.4, jobs)
    level = start - (np.cumsum(wanted) * factor + cleaning * np.arange(1, jobs + 1)) / tank * 100
    return tuple(map(float, wanted)), tuple(float(v) for v in np.round(level / step) * step)


@pytest.mark.parametrize("factor", [0.7, 1.0, 1.25, 1.6])
def test_a_known_factor_is_found_within_what_is_promised(factor):
    """At 1 % steps, by tens of jobs; nine of ten lie within the error that is told."""
    off = [(fit_ink(*readings(factor, 40, seed=s), 1000.0), s) for s in range(60)]
    assert {f.verdict for f, _ in off} == {"corrected"}
    assert np.quantile([abs(f.factor / factor - 1) for f, _ in off], 0.9) < 0.01
    within = [abs(f.factor / factor - 1) * 100 <= f.error_pct for f, _ in off]
    assert np.mean(within) >= 0.85


def test_it_agrees_with_a_general_optimiser():
    wanted, levels = readings(1.3, 30, seed=7)
    used, summed = (100 - np.array(levels)) * 10, np.cumsum(wanted)
    best = minimize_scalar(lambda f: float(((f * summed - used) ** 2).sum()), bounds=(0.5, 2), method="bounded")
    assert fit_ink(wanted, levels, 1000.0).factor == pytest.approx(best.x, abs=1e-4)


def test_cleaning_that_is_known_is_no_ink_of_the_print():
    wanted, levels = readings(1.2, 60, cleaning=1.5, seed=3)
    assert fit_ink(wanted, levels, 1000.0, 1.5).factor == pytest.approx(1.2, rel=0.01)
    assert fit_ink(wanted, levels, 1000.0).factor > 1.3, "unsaid, it looks like use"


def test_a_filling_begins_a_count_of_its_own_and_a_level_that_is_not_told_is_bridged():
    first, one = readings(1.4, 40, seed=1)
    second, two = readings(1.4, 40, seed=2, start=96.3)
    told = fit_ink(first + second, one + two, 1000.0)
    assert (told.verdict, told.fills) == ("corrected", 1)
    assert told.factor == pytest.approx(1.4, rel=0.015)
    gaps = tuple(-2.0 if n % 3 == 1 else v for n, v in enumerate(one))
    assert fit_ink(first, gaps, 1000.0).factor == pytest.approx(1.4, rel=0.02)


def test_too_little_drop_concludes_nothing_and_readings_that_make_no_sense_are_said():
    assert fit_ink(*readings(1.3, 3), 1000.0).verdict == "too few steps"
    assert fit_ink(*readings(1.3, 3), 1000.0).factor == 1.0
    wanted, _ = readings(1.0, 40)
    assert fit_ink(*readings(3.0, 40), 1000.0).verdict == "readings do not fit"
    jumping = tuple(float(v) for v in np.linspace(100, 40, 40) - 12 * (np.arange(40) % 2))
    assert fit_ink(wanted, jumping, 1000.0).verdict in ("readings do not fit", "too few steps")


def test_the_command_answers_by_channel_and_refuses_what_is_no_reading(tmp_path):
    (c, lc), (k, lk) = readings(1.25, 30, seed=1), readings(0.8, 30, seed=2)
    rows = [
        "job,expected_ml_C,expected_ml_K,level_pct_C,level_pct_K",
        *(f"{n},{a},{b},{x},{y}" for n, (a, b, x, y) in enumerate(zip(c, k, lc, lk, strict=True))),
    ]
    (tmp_path / "r.csv").write_text("\n".join(rows))
    told = json.loads(offsetter("ink", tmp_path / "r.csv", "--tank-ml", 1000, "--json").stdout)
    assert told["factor"] == {"C": pytest.approx(1.25, rel=0.03), "K": pytest.approx(0.8, rel=0.04)}
    assert told["verdict"] == {"C": "corrected", "K": "corrected"}
    for bad in (
        "job,expected_ml_C\n1,2",
        "",
        "job,expected_ml_C,level_pct_C\n1,2,150",
        "job,expected_ml_C,level_pct_C\n1,x,50",
        "job,expected_ml_C,level_pct_C\n1,2,50,7",
    ):
        (tmp_path / "b.csv").write_text(bad)
        done = offsetter("ink", tmp_path / "b.csv", "--json")
        assert (done.returncode, len(done.stderr.strip().splitlines())) == (2, 1), bad
