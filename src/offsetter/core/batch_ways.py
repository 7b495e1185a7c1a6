"""The schools of a recipe that differ in heat, each worked out for this batch on this press."""

from math import ceil

from offsetter.core import derive
from offsetter.core.compute.batch import ORDERS, Trace, blocks_of, run_batch
from offsetter.core.compute.heat import PressHeat
from offsetter.core.decisions import Way
from offsetter.core.facts import Press, Shop, Stage
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

MOST_PIECES = 400
"""More than this are no picture any more."""


class BatchWay(Frozen):
    """One choice of schools: its heats, and the batch in each order of work."""

    name: str
    question: str
    choice: str
    is_chosen: bool
    heats_c: tuple[float, ...]
    warm_up_min: float
    """From the room's temperature to the first heat, lower platen included."""
    recovery_min: float
    """The platen's under a cold piece."""
    recovery_waits: bool
    """Whether hands are quicker than that."""
    traces: tuple[Trace, ...]


def batch_ways(
    shop: Shop, way: Way, press: Press, heat: PressHeat, pieces: int, at_once: int = 1
) -> tuple[BatchWay, ...]:
    """pieces: things still to press, at_once of them in a load. The schools chosen first, then every other choice that presses at other heats. Choices with a missing value are left out."""
    recipe = derive.recipe_of(shop, way)
    chosen = recipe.stages_for(way.schools)
    found = [_worked(say("as chosen"), "", "", chosen, press, heat, pieces, at_once, is_chosen=True)]
    for q in recipe.schools:
        for c in q.choices:
            if way.schools.get(q.id, q.choices[0].id) == c.id:
                if (
                    found[0]
                    and not found[0].question
                    and _differs(
                        recipe.stages_for(way.schools),
                        [recipe.stages_for({**way.schools, q.id: o.id}) for o in q.choices],
                    )
                ):
                    found[0] = found[0].model_copy(update={"name": c.name, "question": q.id, "choice": c.id})
                continue
            stages = recipe.stages_for({**way.schools, q.id: c.id})
            if heats_of(stages) != heats_of(chosen):
                found.append(_worked(c.name, q.id, c.id, stages, press, heat, pieces, at_once, is_chosen=False))
    return tuple(f for f in found if f is not None)


def heats_of(stages: tuple[Stage, ...]) -> tuple[float, ...]:
    """The press's heats in the order of work, each once in a row."""
    hot = [s.temperature_c for s in stages if s.part == "press" and not s.first_only and s.temperature_c is not None]
    return tuple(c for i, c in enumerate(hot) if i == 0 or hot[i - 1] != c)


def _differs(chosen: tuple[Stage, ...], others: list[tuple[Stage, ...]]) -> bool:
    return any(heats_of(o) != heats_of(chosen) for o in others)


def _worked(
    name: str, question: str, choice: str, stages: tuple[Stage, ...], press: Press, heat: PressHeat, pieces: int, at_once: int, *, is_chosen: bool
) -> BatchWay | None:  # fmt: skip
    heats = heats_of(stages)
    if not heats or any(s.missing for s in stages if s.part == "press") or max(heats) >= heat.ceiling_c:
        return None
    loads = ceil(pieces / at_once)
    recovery = heat.recovery_min(max(heats))
    hands = (
        min(
            (s.hands_s for s in stages if s.part == "press" and s.temperature_c is not None and not s.first_only),
            default=0,
        )
        * (pieces / loads)
        / 60
    )
    blocks = blocks_of(stages, recovery, pieces / loads)
    return BatchWay(
        name=name, question=question, choice=choice, is_chosen=is_chosen, heats_c=heats,
        warm_up_min=heat.minutes(heat.room_c, heats[0]) + press.settle_min + press.lower_warm_min, recovery_min=recovery, recovery_waits=recovery > hands,
        traces=tuple(run_batch(blocks, min(loads, MOST_PIECES), heat, o, settle_min=press.settle_min) for o in ORDERS),
    )  # fmt: skip
