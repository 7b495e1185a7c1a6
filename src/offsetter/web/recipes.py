"""Recipes: read by method and schools chosen, in versions, side by side, printed, taken out and in; method files."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, File, Query, Response, UploadFile
from fastapi.responses import JSONResponse
from pydantic import Field

from offsetter.core.compute.cost import press_minutes
from offsetter.core.compute.recipe_versions import Difference, StageValues
from offsetter.core.compute.stack import stage_findings
from offsetter.core.facts import Recipe, SchoolQuestion, Stage
from offsetter.core.values import Finding, Frozen
from offsetter.desk.recipes import MOST_BYTES, Source
from offsetter.formats.recipe_pdf import write_recipe
from offsetter.web.guard import Owner, Person, signed_in
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
    newest: int
    source: str
    why: str
    by: str
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


class VersionRow(Frozen):
    version: int
    source: str
    why: str
    by: str


class ValuesIn(Frozen):
    """Values for the next version, on top of the one they were read from."""

    base: int = Field(ge=1)
    values: dict[str, StageValues] = Field(min_length=1, max_length=60)
    source: Source
    why: str = Field(min_length=3, max_length=200)


class MethodAdded(Frozen):
    id: str


@router.get("/recipes")
def list_recipes(desk: Desk) -> list[RecipeRow]:
    """Every recipe, in the order of the methods."""
    shop, _ = desk.jobs.shop()
    here = {m for p in shop.printers.values() for m in p.methods}
    return [
        RecipeRow(id=r.id, name=r.name, method=r.method, method_name=shop.methods[r.method].name, version=r.version, source=r.source,
                  is_here=r.method in here, asks=any(s.missing for s in r.stages_for({})))
        for r in shop.recipes.values()
    ]  # fmt: skip


@router.get("/recipes/{recipe_id}")
def read_recipe(recipe_id: str, desk: Desk, school: School = [], version: int | None = None) -> RecipeOut:  # noqa: B006
    """One recipe's stages by the schools chosen (question=choice), with what stands against pressing so."""
    recipe = desk.recipes.version(recipe_id, version)
    return _recipe_out(desk, recipe, _given(school))


@router.get("/recipes/{recipe_id}/versions")
def list_versions(recipe_id: str, desk: Desk) -> list[VersionRow]:
    """Every version, the newest first."""
    return [
        VersionRow(version=r.version, source=r.source, why=r.why, by=r.by) for r in desk.recipes.versions(recipe_id)
    ]


@router.get("/recipes/{recipe_id}/compare")
def compare_versions(recipe_id: str, left: int, right: int, desk: Desk) -> tuple[Difference, ...]:
    """What two versions do otherwise."""
    return desk.recipes.compare(recipe_id, left, right)


@router.post("/recipes/{recipe_id}/versions", status_code=201)
def enter_values(recipe_id: str, given: ValuesIn, desk: Desk, person: Person) -> RecipeOut:
    """Values entered become the next version; jobs keep the one they pinned."""
    return _recipe_out(
        desk, desk.recipes.enter(recipe_id, given.base, given.values, given.source, given.why, person), {}
    )


@router.post("/recipes", status_code=201)
def import_recipe(file: Annotated[UploadFile, File()], desk: Desk, person: Person) -> RecipeOut:
    """A recipe as JSON, as it is exported."""
    return _recipe_out(desk, desk.recipes.take(file.file.read(MOST_BYTES + 1), person), {})


@router.post("/methods", status_code=201)
def add_method(file: Annotated[UploadFile, File()], desk: Desk, who: Owner) -> MethodAdded:
    """A method file (TOML): one more way, made of the capabilities that are known."""
    return MethodAdded(id=desk.recipes.add_method(file.file.read(MOST_BYTES + 1), file.filename or "the file"))


@router.get("/recipes/{recipe_id}/card.pdf", response_class=Response)
def recipe_card(recipe_id: str, desk: Desk, school: School = [], version: int | None = None) -> Response:  # noqa: B006
    """The card with the stack pictures, for the wall beside the press."""
    recipe, (shop, _) = desk.recipes.version(recipe_id, version), desk.jobs.shop()
    given = _given(school)
    chosen = tuple(
        f"{q.question} {next((c.name for c in q.choices if c.id == given.get(q.id)), q.choices[0].name)}"
        for q in recipe.schools
    )
    data = write_recipe(recipe, recipe.stages_for(given), shop.methods[recipe.method].name, chosen, shop.name)
    return Response(
        data,
        media_type="application/pdf",
        headers={"content-disposition": f'inline; filename="{recipe.id}-{recipe.version}.pdf"'},
    )


@router.get("/recipes/{recipe_id}/recipe.json", response_class=JSONResponse)
def export_recipe(recipe_id: str, desk: Desk, version: int | None = None) -> JSONResponse:
    """The whole recipe with all its schools, and the schema that it keeps to."""
    recipe = desk.recipes.version(recipe_id, version)
    body: dict[str, Any] = {"schema": Recipe.model_json_schema(), "recipe": recipe.model_dump(mode="json")}
    return JSONResponse(
        body, headers={"content-disposition": f'attachment; filename="{recipe.id}-{recipe.version}.json"'}
    )


def _given(school: list[str]) -> dict[str, str]:
    return {q: c for q, _, c in (s.partition("=") for s in school)}


def _recipe_out(desk: Desk, recipe: Recipe, given: dict[str, str]) -> RecipeOut:
    shop, _ = desk.jobs.shop()
    method, stages = shop.methods[recipe.method], recipe.stages_for(given)
    return RecipeOut(
        id=recipe.id, name=recipe.name, version=recipe.version, newest=shop.recipes[recipe.id].version, source=recipe.source, why=recipe.why, by=recipe.by,
        method_name=method.name, why_mirror=method.why_mirror, mirror=method.mirror, lay_out=recipe.lay_out, schools=recipe.schools,
        chosen={q.id: given.get(q.id, q.choices[0].id) for q in recipe.schools}, stages=stages,
        minutes=None if any(s.missing for s in stages) else press_minutes(stages, 1),
        findings=stage_findings(stages, is_face_down=method.mirror),
    )  # fmt: skip
