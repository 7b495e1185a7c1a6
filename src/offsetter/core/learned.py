"""How long work really takes here: from the shop's own clocked acts, against what the recipe's stages say.

The time from one load's end to the next one's, on the same press for the same job, is a load's whole round: laying, the stages, lifting
off. Only rounds that press mode clocked count, and none with a pause in it.
"""

from collections.abc import Iterable
from itertools import pairwise

import numpy as np

from offsetter.core.acts import Act, Prepared, Pressed, standing
from offsetter.core.compute.batch import blocks_of
from offsetter.core.facts import Recipe
from offsetter.core.sending import Send
from offsetter.core.values import Frozen

ENOUGH = 10
SLOWEST, QUICKEST = 3.0, 0.4
"""Times the recipe's round: beyond it somebody was called away, or ticked it afterwards. From memory."""


class Pace(Frozen):
    """Of one press: what its rounds take, as a share of what the recipes say; the middle one, and the middle half's ends."""

    rounds: int
    factor: float
    low: float
    high: float

    @property
    def spread(self) -> float:
        """Standard deviation as a share, from the middle half: 1.35 of them wide where times are spread as a bell is."""
        return round((self.high - self.low) / 1.35 / self.factor, 3)


def pace_of(pressed: tuple[Act, ...], recipes: dict[str, Recipe]) -> dict[str, Pace]:
    """Press to its pace, where enough rounds were seen. pressed: of any jobs."""
    rows: dict[tuple[str, str, str], list[Act]] = {}
    for act in standing(pressed):
        if isinstance(act.body, Pressed) and act.body.press and act.body.stages and act.body.recipe in recipes:
            rows.setdefault((act.body.press, act.job, act.body.recipe), []).append(act)
    shares: dict[str, list[float]] = {}
    for (press, _, recipe), acts in rows.items():
        acts.sort(key=lambda a: a.at)
        for before, after in pairwise(acts):
            planned = _round_min(after, recipes[recipe])
            took = (after.at - before.at).total_seconds() / 60
            if planned > 0 and QUICKEST <= took / planned <= SLOWEST:
                shares.setdefault(press, []).append(took / planned)
    return {press: pace for press, seen in shares.items() if (pace := _middle(seen)) is not None}


def printing_pace(sends: Iterable[Send]) -> Pace | None:
    """Of one printer: what its runs took from their first sheet to their last, as a share of what its modes say; None: too few were seen."""
    seen = []
    for s in sends:
        if s.state == "done" and s.begun_at and s.ended_at and s.planned_min > 0 and s.sheets_done == s.sheets:
            share = (s.ended_at - s.begun_at).total_seconds() / 60 / s.planned_min
            if QUICKEST <= share <= SLOWEST:
                seen.append(share)
    return _middle(seen)


STAGE = "stage:"
"""Before a stage's id: its pace is the shop's, whatever machine it ran on."""


def stage_paces(prepared: tuple[Act, ...], recipes: dict[str, Recipe]) -> dict[str, Pace]:
    """Stage of preparing, with its mark before it, to its pace: from one lot's end to the next one's of the same run. prepared: of any jobs."""
    known = {s.id: s for r in recipes.values() for s in r.stages if s.part == "prepare"}
    rows: dict[tuple[str, str, str], list[Act]] = {}
    for act in standing(prepared):
        if isinstance(act.body, Prepared) and act.body.stage in known:
            rows.setdefault((act.job, act.body.run, act.body.stage), []).append(act)
    shares: dict[str, list[float]] = {}
    for (_, _, stage), acts in rows.items():
        acts.sort(key=lambda a: a.at)
        for before, after in pairwise(acts):
            # One that was ticked by hand breaks the row: when it was really done, nobody knows.
            ran, begun = (a.body.ran for a in (after, before) if isinstance(a.body, Prepared))
            planned = (ran.planned_s + known[stage].hands_s) / 60 if ran and begun else 0.0
            took = (after.at - before.at).total_seconds() / 60
            if planned > 0 and QUICKEST <= took / planned <= SLOWEST:
                shares.setdefault(stage, []).append(took / planned)
    return {STAGE + stage: pace for stage, seen in shares.items() if (pace := _middle(seen)) is not None}


def _middle(seen: list[float]) -> Pace | None:
    if len(seen) < ENOUGH:
        return None
    low, middle, high = (float(q) for q in np.quantile(seen, (0.25, 0.5, 0.75)))
    return Pace(rounds=len(seen), factor=round(middle, 2), low=round(low, 2), high=round(high, 2))


def _round_min(act: Act, recipe: Recipe) -> float:
    """Minutes that hands and press are busy with one load, as the recipe has them; cooling beside it takes none."""
    body = act.body
    assert isinstance(body, Pressed)
    ran = {s.stage for s in body.stages}
    stages = tuple(s for s in recipe.stages if s.id in ran)
    return sum(b.busy_min for b in blocks_of(stages, at_once=body.together))
