"""The press as a first-order system: against an ODE solver, against a synthetic press with known constants, against worked figures.

The law is Newton's law of cooling with a constant heater. The batches are worked by hand for a maker's 150 C 12 s and
120 C 8 s against a house's 140 C 15 s and 8 s, half a minute of loading, one and a half of cooling.
"""

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from offsetter.core.compute.heat import PressHeat, TwoPresses, batch_minutes, fit_press
from offsetter.core.values import Refusal
from tests.outside.test_command_line import answer, offsetter

Q, K, ROOM = 14.0, 0.045, 22.0
PRESS = PressHeat(q_c_per_min=Q, k_per_min=K, room_c=ROOM)


@pytest.mark.parametrize(
    ("from_c", "to_c", "minutes"),
    [(20, 160, 13.169), (120, 160, 4.620), (160, 180, 2.728), (160, 130, 5.447), (180, 120, 10.614), (160, 150, 1.672)],
)
def test_minutes_agree_with_worked_figures_and_with_a_solver(from_c, to_c, minutes):
    told = PRESS.minutes(from_c, to_c)
    assert told == pytest.approx(minutes, abs=5e-4)
    heater = Q if to_c > from_c else 0.0
    reached = lambda t, y: y[0] - to_c  # noqa: E731
    reached.terminal = True
    run = solve_ivp(lambda t, y: [heater - K * (y[0] - ROOM)], (0, 60), [from_c], events=reached, rtol=1e-9, atol=1e-9)
    assert told == pytest.approx(float(run.t_events[0][0]), abs=1e-5)


def test_what_the_press_never_reaches_takes_for_ever():
    assert PRESS.ceiling_c == pytest.approx(333.1, abs=0.05)
    assert PRESS.minutes(160, 340) == math.inf
    assert PRESS.minutes(160, 21) == math.inf
    assert PRESS.minutes(160, 160) == 0


def synthetic(noise: float, seed: int, *, set_point=None, outliers=False):
    """Fourteen heating and eight cooling readings of a press with known constants."""
    chance = np.random.default_rng(seed)
    up, down = np.arange(14) * 1.0, np.arange(8) * 1.5
    ceiling = ROOM + Q / K
    risen = ceiling - (ceiling - 25) * np.exp(-K * up)
    if set_point:
        risen = np.minimum(risen, set_point)
    fallen = ROOM + (170 - ROOM) * np.exp(-K * down)
    risen, fallen = risen + chance.normal(0, noise, 14), fallen + chance.normal(0, noise, 8)
    if outliers:
        risen[4] += 15
        fallen[3] += 15
    return tuple(zip(up.tolist(), risen.tolist(), strict=True)), tuple(zip(down.tolist(), fallen.tolist(), strict=True))


@pytest.mark.parametrize(
    ("noise", "heat", "cool"), [(0.0, 0.001, 0.001), (0.5, 0.06, 0.15), (1.0, 0.12, 0.3), (2.0, 0.3, 0.6)]
)
def test_a_synthetic_press_is_found_again(noise, heat, cool):
    errors = []
    for seed in range(12):
        fitted = fit_press(*synthetic(noise, seed), ROOM)
        errors.append((abs(fitted.minutes(120, 160) - 4.620), abs(fitted.minutes(160, 130) - 5.447)))
    assert np.percentile([e[0] for e in errors], 90) <= heat
    assert np.percentile([e[1] for e in errors], 90) <= cool


def test_a_misread_thermometer_and_a_thermostat_do_not_spoil_the_fit():
    misread = fit_press(*synthetic(0.5, 3, outliers=True), ROOM)
    assert misread.minutes(120, 160) == pytest.approx(4.620, abs=0.2)
    held = fit_press(*synthetic(0.3, 4, set_point=130), ROOM)
    assert held.q_c_per_min == pytest.approx(Q, rel=0.05)
    assert held.minutes(60, 120) == pytest.approx(PRESS.minutes(60, 120), abs=0.15)


@pytest.mark.parametrize("which", ["few", "order", "flat", "room", "silly", "rising"])
def test_readings_that_are_no_press_are_refused(which):
    heating, cooling = synthetic(0.2, 1)
    room = ROOM
    if which == "few":
        cooling = cooling[:2]
    elif which == "order":
        heating = heating[::-1]
    elif which == "flat":
        heating = tuple((m, 25.0) for m, _ in heating)
    elif which == "room":
        room = 120.0
    elif which == "silly":
        heating = (*heating[:-1], (13.0, 5_000.0))
    else:
        cooling = heating
    with pytest.raises(Refusal) as refused:
        fit_press(heating, cooling, room)
    assert refused.value.to_do


# (pieces, piece by piece, by stage) for the maker's two temperatures and for the house's one, worked by hand.
WORKED = [
    (1, 7.27, 7.27, 2.88, 2.88),
    (5, 49.83, 12.60, 14.42, 6.92),
    (20, 209.42, 32.60, 57.67, 27.67),
]


def work(first, second) -> TwoPresses:
    (a, s), (b, t) = first, second
    return TwoPresses(first_c=a, first_min=0.5 + s / 60, second_c=b, second_min=0.5 + t / 60, cool_min=1.5)


@pytest.mark.parametrize("worked", WORKED)
def test_batches_agree_with_the_worked_table(worked):
    pieces, maker_one, maker_stage, house_one, house_stage = worked
    maker = batch_minutes(work((150, 12), (120, 8)), pieces, PRESS)
    house = batch_minutes(work((140, 15), (140, 8)), pieces, PRESS)
    assert maker.piece_by_piece_min == pytest.approx(maker_one, abs=0.006)
    assert maker.by_stage_min == pytest.approx(maker_stage, abs=0.006)
    assert house.piece_by_piece_min == pytest.approx(house_one, abs=0.006)
    assert house.by_stage_min == pytest.approx(house_stage, abs=0.006)


@given(
    st.integers(1, 40), st.integers(110, 200), st.integers(110, 200), st.floats(0.1, 3), st.floats(0.1, 3), st.floats(0, 6),
)  # fmt: skip
@settings(max_examples=150, deadline=None)
def test_no_way_is_quicker_than_the_press_and_rolling_never_slower_than_one_by_one(pieces, a, b, p1, p2, cool):
    done = TwoPresses(first_c=a, first_min=p1, second_c=b, second_min=p2, cool_min=cool)
    told = batch_minutes(done, pieces, PRESS)
    least = pieces * (p1 + p2) + (PRESS.minutes(a, b) if a != b else 0)
    assert least - 1e-6 <= told.by_stage_min <= told.piece_by_piece_min + 1e-6
    assert least - 1e-6 <= told.rolling_min <= told.piece_by_piece_min + 1e-6
    if pieces == 1:
        assert told.rolling_min == pytest.approx(p1 + max(cool, PRESS.minutes(a, b)) + p2)


def test_the_command_line_fits_a_press_and_weighs_the_two_ways(tmp_path):
    heating, cooling = synthetic(0.0, 0)
    for name, rows in (("up.csv", heating), ("down.csv", cooling)):
        (tmp_path / name).write_text("minute,celsius\n" + "".join(f"{m},{c}\n" for m, c in rows))
    fitted = answer("press-fit", tmp_path / "up.csv", tmp_path / "down.csv", "--room-c", ROOM, "--between", "120-160", "--between", "160-130",
                    "--between", "100-400")  # fmt: skip
    assert fitted["q_c_per_min"] == pytest.approx(Q, rel=1e-3)
    assert fitted["ceiling_c"] == pytest.approx(333.1, abs=0.1)
    assert fitted["minutes"] == {
        "120-160": pytest.approx(4.62, abs=2e-3),
        "160-130": pytest.approx(5.447, abs=2e-3),
        "100-400": None,
    }
    (tmp_path / "fit.json").write_text(json.dumps(fitted))
    told = answer("temperatures", "--maker", "150/12,120/8", "--house", "140/15,140/8", "--pieces", 20, "--load-s", 30, "--cool-s", 90,
                  "--press", tmp_path / "fit.json")  # fmt: skip
    assert told["maker"]["piece_by_piece_min"] == pytest.approx(209.42, abs=0.1)
    assert told["house"]["by_stage_min"] == pytest.approx(27.67, abs=0.01)
    assert set(told["maker"]) == {"piece_by_piece_min", "rolling_min", "by_stage_min"}


@pytest.mark.parametrize(
    "words",
    [
        ("--maker", "900/12,120/8", "--pieces", "5"),
        ("--maker", "150/-3,120/8", "--pieces", "5"),
        ("--maker", "150,120", "--pieces", "5"),
        ("--maker", "150/12,120/8", "--pieces", "0"),
    ],
)
def test_a_pressing_that_cannot_be_is_one_sentence(words, tmp_path):
    (tmp_path / "fit.json").write_text(PRESS.model_dump_json())
    done = offsetter("temperatures", *words, "--house", "140/15,140/8", "--press", tmp_path / "fit.json")
    assert (done.returncode, done.stdout) == (2, "")
    assert len(done.stderr.strip().splitlines()) == 1
    (tmp_path / "bad.csv").write_text("minute,celsius\n1,hot\n")
    done = offsetter("press-fit", tmp_path / "bad.csv", tmp_path / "bad.csv", "--room-c", "20")
    assert done.returncode == 2
    assert "Row 2" in done.stderr
