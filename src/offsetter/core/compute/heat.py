"""A press as a first-order system, fitted to its own readings; what a change of temperature costs a batch in minutes.

Heating dT/dt = q - k (T - room), cooling dT/dt = -k (T - room): Newton's law of cooling with a constant heater. A press
regulates near its set-point with less power, so readings close to it say nothing about q and are left out.
"""

import math
from itertools import pairwise
from typing import TYPE_CHECKING

from offsetter.core.compute.batch import ORDERS, Block, run_batch
from offsetter.core.quantities import a_heat
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

RECOVERS_K = 3.0
"""What a platen gives to a cold piece before it heats again: from memory."""
FEWEST_HEATING, FEWEST_COOLING = 4, 3
SET_POINT_ZONE_K, FLAT_K = 5.0, 2.0
"""Readings this near the set-point are regulated ones; the last three within FLAT_K of each other show a set-point."""
OUTLIER_K = 2.0
HIGHEST_C = 260.0

Readings = tuple[tuple[float, float], ...]
"""(minute, °C), minutes rising."""


class PressHeat(Frozen):
    q_c_per_min: float
    k_per_min: float
    room_c: float

    @property
    def ceiling_c(self) -> float:
        """What full power would reach in the end."""
        return self.room_c + self.q_c_per_min / self.k_per_min

    def minutes(self, from_c: float, to_c: float) -> float:
        """Minutes from one platen temperature to another; infinite where the press never gets there."""
        if to_c == from_c:
            return 0.0
        if to_c > from_c:
            if to_c >= self.ceiling_c:
                return math.inf
            return math.log((self.ceiling_c - from_c) / (self.ceiling_c - to_c)) / self.k_per_min
        if to_c <= self.room_c:
            return math.inf
        return math.log((from_c - self.room_c) / (to_c - self.room_c)) / self.k_per_min

    def recovery_min(self, celsius: float) -> float:
        """Minutes until the platen has back what a cold piece took."""
        return self.minutes(celsius - RECOVERS_K, celsius)


def fit_press(heating: Readings, cooling: Readings, room_c: float) -> PressHeat:
    """The press's own q and k from a heating and a cooling run together; the room is measured, never fitted.

    Raises Refusal for too few readings, for runs that do not rise or fall, and for a fit that is no press.
    """
    import numpy as np
    from scipy.optimize import least_squares

    up, down = np.array(_regulated_off(heating)), np.array(cooling)
    _refuse_unfit(heating, cooling, len(up), room_c)

    def residuals(x: "NDArray[np.float64]") -> "NDArray[np.float64]":
        q, k, start_up, start_down = x
        ceiling = room_c + q / k
        risen = ceiling - (ceiling - start_up) * np.exp(-k * (up[:, 0] - up[0, 0]))
        fallen = room_c + (start_down - room_c) * np.exp(-k * (down[:, 0] - down[0, 0]))
        return np.concatenate([risen - up[:, 1], fallen - down[:, 1]])

    found = least_squares(
        residuals, x0=(12.0, 0.04, up[0, 1], down[0, 1]), bounds=((0.1, 1e-4, -50, -50), (500, 5, 400, 400)),
        x_scale=(10, 0.05, 20, 100), loss="soft_l1", f_scale=OUTLIER_K,
    )  # fmt: skip
    q, k = (float(v) for v in found.x[:2])
    fitted = PressHeat(q_c_per_min=q, k_per_min=k, room_c=room_c)
    if not found.success or fitted.ceiling_c <= float(up[:, 1].max()):
        raise Refusal(
            "readings-do-not-fit",
            say("These readings do not behave like one press."),
            say("Nothing was changed."),
            say("Take a heating run from cold and a cooling run with the heater off, without opening the press."),
        )
    return fitted


def _regulated_off(heating: Readings) -> Readings:
    """The heating run without the part where the thermostat holds it."""
    last = [c for _, c in heating[-3:]]
    if len(heating) < FEWEST_HEATING + 2 or max(last) - min(last) > FLAT_K:
        return heating
    held = sorted(last)[1] - SET_POINT_ZONE_K
    return tuple(r for r in heating if r[1] < held)


def _refuse_unfit(heating: Readings, cooling: Readings, below_set_point: int, room_c: float) -> None:
    def refuse(happened: str, to_do: str) -> Refusal:
        return Refusal("bad-readings", happened, say("Nothing was changed."), to_do)

    for name, run in (("heating", heating), ("cooling", cooling)):
        if any(b[0] <= a[0] for a, b in pairwise(run)):
            raise refuse(
                say("The minutes of the {name} run do not rise.", name=name),
                say("Put the readings in the order of their time."),
            )
        if any(not -20 <= c <= HIGHEST_C * 1.5 or not math.isfinite(m) for m, c in run):
            raise refuse(
                say("The {name} run holds a temperature that no press has.", name=name),
                say("Give °C, one reading a row."),
            )
    if below_set_point < FEWEST_HEATING or len(cooling) < FEWEST_COOLING:
        raise refuse(
            say(
                "{below_set_point} heating readings below the set-point and {cooling} cooling ones are too few.",
                below_set_point=below_set_point,
                cooling=len(cooling),
            ),
            say(
                "Take at least {fewest_heating} and {fewest_cooling}: a heating run alone says little about cooling.",
                fewest_heating=FEWEST_HEATING,
                fewest_cooling=FEWEST_COOLING,
            ),
        )
    if heating[-1][1] - heating[0][1] < SET_POINT_ZONE_K or cooling[0][1] - cooling[-1][1] < SET_POINT_ZONE_K:
        raise refuse(
            say("The press hardly changed its temperature in these readings."),
            say("Let it heat, and cool, by 30 °C (54 °F) or more."),
        )
    if not -10 <= room_c <= 45 or min(c for _, c in cooling) < room_c - SET_POINT_ZONE_K:
        raise refuse(
            say("A room of {room} does not go with these readings.", room=a_heat(room_c)),
            say("Measure the room beside the press."),
        )


class TwoPresses(Frozen):
    """A piece is pressed twice, and cools between: temperatures in °C, times in minutes with the loading."""

    first_c: float
    first_min: float
    second_c: float
    second_min: float
    cool_min: float


class Batch(Frozen):
    piece_by_piece_min: float
    rolling_min: float
    by_stage_min: float


def batch_minutes(work: TwoPresses, pieces: int, press: PressHeat) -> Batch:
    """Minutes of a batch on one press, three ways of going about it; the way back to the first heat is the next job's."""
    blocks = (
        Block(celsius=work.first_c, busy_min=work.first_min, wait_min=work.cool_min),
        Block(celsius=work.second_c, busy_min=work.second_min),
    )
    one_by_one, rolling, by_stage = (
        run_batch(blocks, pieces, press, order, keep_spans=False).minutes for order in ORDERS
    )
    return Batch(piece_by_piece_min=one_by_one, rolling_min=rolling, by_stage_min=by_stage)
