"""How one press of the shop heats and cools: from its own readings, or a usual press until it has some."""

from functools import lru_cache

from offsetter.core.compute.heat import FEWEST_COOLING, FEWEST_HEATING, PressHeat, fit_press
from offsetter.core.facts import HeatReading, Press
from offsetter.core.values import Refusal

USUAL = PressHeat(q_c_per_min=14.0, k_per_min=0.045, room_c=22.0)
"""Thirteen minutes from cold to 160 °C: from memory, until this press was measured."""


def fitted(press: Press) -> PressHeat | None:
    """The model from its own readings; None while there are too few. Raises Refusal when they make no sense."""
    return _fitted(press.readings, press.room_c)


def heat_of(press: Press) -> PressHeat:
    try:
        return fitted(press) or USUAL
    except Refusal:
        return USUAL


@lru_cache(64)
def _fitted(readings: tuple[HeatReading, ...], room_c: float | None) -> PressHeat | None:
    runs = {run: tuple((r.minute, r.celsius) for r in readings if r.run == run) for run in ("heating", "cooling")}
    if room_c is None or len(runs["heating"]) < FEWEST_HEATING or len(runs["cooling"]) < FEWEST_COOLING:
        return None
    return fit_press(runs["heating"], runs["cooling"], room_c)
