"""Recipes as they are read: by method, by the schools chosen, and as JSON to take along."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Query
from fastapi.responses import JSONResponse

from offsetter.core.compute.cost import press_minutes
from offsetter.core.compute.stack import stage_findings
from offsetter.core.facts import Recipe, SchoolQuestion, Stage
from offsetter.core.values import Finding, Frozen, Refusal
from offsetter.web.guard import signed_in
from offsetter.web.services import Desk

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
School = Annotated[list[str], Query(max_length=20)]


class RecipeRow(Frozen):
    id: str
    name: str
    method: str
    method_name: str
    version: int
    source: str
    is_here: bool
    """One of the shop's printers does the method."""
    asks: bool
    """Nobody gave one of its usual values."""


class RecipeOut(Frozen):
    id: str
    name: str
    version: int
    source: str
    method_name: str
    why_mirror: str
    mirror: bool
    lay_out: tuple[str, ...]
    schools: tuple[SchoolQuestion, ...]
    chosen: dict[str, str]
    stages: tuple[Stage, ...]
    minutes: float | None
    """Of one piece alone; None while a value is missing."""
    findings: tuple[Finding, ...]


@router.get("/recipes")
def list_recipes(desk: Desk) -> list[RecipeRow]:
    """Every recipe, in the order of the methods."""
    shop, _ = desk.jobs.shop()
    here = {p.method for p in shop.printers.values()}
    return [
        RecipeRow(id=r.id, name=r.name, method=r.method, method_name=shop.methods[r.method].name, version=r.version, source=r.source,
                  is_here=r.method in here, asks=any(s.missing for s in r.stages_for({})))
        for r in shop.recipes.values()
    ]  # fmt: skip


@router.get("/recipes/{recipe_id}")
def read_recipe(recipe_id: str, desk: Desk, school: School = []) -> RecipeOut:  # noqa: B006
    """One recipe's stages by the schools chosen (question=choice), with what stands against pressing so."""
    shop, _ = desk.jobs.shop()
    recipe = _recipe(desk, recipe_id)
    method = shop.methods[recipe.method]
    given = {q: c for q, _, c in (s.partition("=") for s in school)}
    stages = recipe.stages_for(given)
    return RecipeOut(
        id=recipe.id, name=recipe.name, version=recipe.version, source=recipe.source, method_name=method.name, why_mirror=method.why_mirror,
        mirror=method.mirror, lay_out=recipe.lay_out, schools=recipe.schools,
        chosen={q.id: given.get(q.id, q.choices[0].id) for q in recipe.schools}, stages=stages,
        minutes=None if any(s.missing for s in stages) else press_minutes(stages, 1),
        findings=stage_findings(stages, is_face_down=method.mirror),
    )  # fmt: skip


@router.get("/recipes/{recipe_id}/recipe.json", response_class=JSONResponse)
def export_recipe(recipe_id: str, desk: Desk) -> JSONResponse:
    """The whole recipe with all its schools, and the schema that it keeps to."""
    recipe = _recipe(desk, recipe_id)
    body: dict[str, Any] = {"schema": Recipe.model_json_schema(), "recipe": recipe.model_dump(mode="json")}
    return JSONResponse(
        body, headers={"content-disposition": f'attachment; filename="{recipe.id}-{recipe.version}.json"'}
    )


def _recipe(desk: Desk, recipe_id: str) -> Recipe:
    shop, _ = desk.jobs.shop()
    found = shop.recipes.get(recipe_id)
    if found is None:
        raise Refusal("no-such-recipe", "There is no such recipe.", "Nothing was changed.", "Choose one of the list.")
    return found
