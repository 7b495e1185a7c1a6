"""Recipes as they are read: fifteen methods, their schools, what is missing, and JSON to take along."""

from offsetter.core.facts import Recipe


def test_every_method_has_its_recipe_and_a_missing_value_is_said(counter):
    rows = {r["method"]: r for r in counter.get("/api/recipes").json()}
    assert len(rows) == 15
    assert {m for m, r in rows.items() if r["asks"]} == {"toner-opaque", "inkjet-light"}
    assert all(r["is_here"] for r in rows.values())
    opaque = counter.get("/api/recipes/toner-opaque-house").json()
    assert (opaque["minutes"], opaque["mirror"]) == (None, False)
    assert [f["code"] for f in opaque["findings"]] == ["value-missing", "value-missing"]


def test_a_school_changes_the_stages_and_an_unknown_one_is_refused(counter):
    usual = counter.get("/api/recipes/white-coat-house").json()
    maker = counter.get("/api/recipes/white-coat-house", params={"school": "one-press=maker"}).json()
    heats = [{s["temperature_c"] for s in r["stages"] if s["temperature_c"]} for r in (usual, maker)]
    assert heats == [{165.56}, {121.11, 190.56}]
    assert (usual["chosen"], maker["chosen"]) == ({"one-press": "house"}, {"one-press": "maker"})
    told = counter.get("/api/recipes/white-coat-house", params={"school": "one-press=sunshine"})
    assert (told.status_code, told.json()["code"]) == (409, "unknown-school")
    assert counter.get("/api/recipes/nothing").status_code == 404


def test_a_recipe_goes_out_as_json_and_keeps_to_its_schema(counter):
    sent = counter.get("/api/recipes/film-house/recipe.json").json()
    read = Recipe.model_validate(sent["recipe"])
    assert (read.id, read.version, len(read.stages)) == ("film-house", 3, len(sent["recipe"]["stages"]))
    assert set(sent["schema"]["required"]) <= set(sent["recipe"])
