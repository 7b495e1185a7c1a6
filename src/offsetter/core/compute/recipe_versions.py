"""Versions of a recipe: values entered, two versions side by side, a recipe from outside."""

from typing import Any, Literal

from pydantic import Field, ValidationError

from offsetter.core.compute.stack import stack_faults
from offsetter.core.facts import Method, Recipe, Stage
from offsetter.core.quantities import a_heat, both_heats
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal

HOTTEST_C = 260.0
"""No transfer is pressed hotter, and hardly a press goes there: from memory."""
FIELDS = ("temperature_c", "time_s", "pressure", "then")
NOTHING = say("No version was added.")


class StageValues(Frozen):
    """What is entered for one stage; None leaves it as it is."""

    temperature_c: float | None = None
    time_s: int | None = None
    pressure: str | None = Field(None, min_length=1, max_length=40)
    peel: str | None = Field(None, min_length=1, max_length=200)
    """When and how it is peeled, in words."""


class Difference(Frozen):
    stage: str
    what: str
    left: str
    right: str


def with_values(
    recipe: Recipe, values: dict[str, StageValues], source: Literal["practice", "memory", "maker", "house", "trial"], why: str, by: str
) -> Recipe:  # fmt: skip
    """The next version of a recipe. Raises Refusal for a stage it has not, a value that cannot be, or nothing changed."""
    known = {s.id for s in recipe.stages}
    for stage_id, entered in values.items():
        if stage_id not in known:
            raise Refusal(
                "no-such-stage",
                say("{name} has no stage “{stage_id}”.", name=recipe.name, stage_id=stage_id),
                NOTHING,
                say("Choose one of its stages."),
            )
        _refuse_impossible(next(s for s in recipe.stages if s.id == stage_id), entered)
    stages = tuple(_entered(s, values.get(s.id)) for s in recipe.stages)
    if stages == recipe.stages:
        raise Refusal("nothing-changed", say("Every value is as it was."), NOTHING, say("Change a value first."))
    return recipe.model_copy(
        update={"version": recipe.version + 1, "source": source, "stages": stages, "why": why, "by": by}
    )


def _refuse_impossible(stage: Stage, entered: StageValues) -> None:
    heat, time = entered.temperature_c, entered.time_s
    if heat is not None and not 30 <= heat <= HOTTEST_C:
        raise Refusal("impossible-heat", say("{heat} for “{name}” cannot be right.", heat=a_heat(heat, None), name=stage.name), NOTHING,
                      say("Give {value} to {hottest}, as the medium's card says.", value=both_heats(30), hottest=both_heats(HOTTEST_C)))  # fmt: skip
    if time is not None and not 0 <= time <= 3600:
        raise Refusal(
            "impossible-time",
            say("{time} s for “{name}” cannot be right.", time=time, name=stage.name),
            NOTHING,
            say("Give 0 to 3600 seconds."),
        )


def _entered(stage: Stage, values: StageValues | None) -> Stage:
    if values is None:
        return stage
    given = {k: v for k, v in values.model_dump().items() if v is not None}
    left = tuple(m for m in stage.missing if m not in given)
    then = given.pop("peel", None)
    return stage.model_copy(update={**given, **({"then": then} if then else {}), "missing": left})


def differences(left: Recipe, right: Recipe) -> tuple[Difference, ...]:
    """What two versions do otherwise, stage by stage in the order of work."""
    found = []
    a, b = ({s.id: s for s in r.stages} for r in (left, right))
    for stage_id in dict.fromkeys([*a, *b]):
        one, two = a.get(stage_id), b.get(stage_id)
        if one is None or two is None:
            there = one or two
            assert there is not None
            found.append(
                Difference(
                    stage=there.name,
                    what=say("the stage"),
                    left="there" if one else say("not there"),
                    right="there" if two else say("not there"),
                )
            )
            continue
        for field in FIELDS:
            was, now = _said(one, field), _said(two, field)
            if was != now:
                found.append(
                    Difference(
                        stage=one.name,
                        what={"temperature_c": "heat", "time_s": "time"}.get(field, field),
                        left=was,
                        right=now,
                    )
                )
        if one.stack != two.stack:
            found.append(Difference(stage=one.name, what="stack", left=_stack(one), right=_stack(two)))
    return tuple(found)


def _said(stage: Stage, field: str) -> str:
    if field in stage.missing:
        return "missing"
    value = getattr(stage, field)
    if field == "temperature_c":
        return "cold" if value is None else both_heats(value)
    return f"{value} s" if field == "time_s" else str(value)


def _stack(stage: Stage) -> str:
    return ", ".join(f"{x.what}{f' (print {x.printed_face})' if x.printed_face != 'none' else ''}" for x in stage.stack)


def read_recipe(body: Any, methods: dict[str, Method], newest: Recipe | None) -> Recipe:
    """A recipe as it was exported, as the next version of the one known under its id. Raises Refusal in three parts."""
    held = body.get("recipe") if isinstance(body, dict) and "recipe" in body else body
    try:
        read = Recipe.model_validate(held)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(p) for p in first["loc"]) or say("the file")
        raise Refusal("bad-recipe", say("This is no recipe: “{where}”, {first}.", where=where, first=first['msg'].lower()), NOTHING,
                      say("Export one here to see how it must look; its schema comes with it.")) from wrong  # fmt: skip
    method = methods.get(read.method)
    if method is None:
        raise Refusal(
            "unknown-method",
            say("The recipe is for “{method}”, which is no method here.", method=read.method),
            NOTHING,
            say("Add the method's file first."),
        )
    if newest is not None and newest.method != read.method:
        raise Refusal(
            "other-method",
            say("“{id}” is a recipe for {method} here.", id=read.id, method=newest.method),
            NOTHING,
            say("Give it another id."),
        )
    for stage in read.stages:
        faults = stack_faults(stage, is_face_down=method.mirror)
        if faults:
            raise Refusal(
                "wrong-stack", f"{stage.name}: {faults[0]}.", NOTHING, say("Put the stack right in the file.")
            )
    return read.model_copy(update={"version": newest.version + 1 if newest else 1})
