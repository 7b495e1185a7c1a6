"""Recipes and methods of the shop's own: versions as rows beside the shipped ones."""

import json
from typing import Literal

from offsetter.core.compute.recipe_versions import Difference, StageValues, differences, read_recipe, with_values
from offsetter.core.facts import Recipe, read_method
from offsetter.core.facts import methods as shipped_methods
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.store.shop import ShopStore

MOST_BYTES = 500_000
Source = Literal["practice", "memory", "maker", "house", "trial"]


class Recipes:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def newest(self, recipe_id: str) -> Recipe:
        shop, _ = self._jobs.shop()
        found = shop.recipes.get(recipe_id)
        if found is None:
            raise Refusal(
                "no-such-recipe",
                say("There is no such recipe."),
                say("Nothing was changed."),
                say("Choose one of the list."),
            )
        return found

    def version(self, recipe_id: str, version: int | None) -> Recipe:
        """One version, the newest when none is named."""
        newest, (shop, _) = self.newest(recipe_id), self._jobs.shop()
        if version is None or version == newest.version:
            return newest
        found = shop.older.get(f"{recipe_id}@{version}")
        if found is None:
            raise Refusal(
                "no-such-version",
                say("{name} has no version {version}.", name=newest.name, version=version),
                say("Nothing was changed."),
                say("Choose one of the list."),
            )
        return found

    def versions(self, recipe_id: str) -> tuple[Recipe, ...]:
        """Every version that is known, the newest first."""
        newest, (shop, _) = self.newest(recipe_id), self._jobs.shop()
        kept = {r.version: r for r in shop.older.values() if r.id == recipe_id} | {newest.version: newest}
        return tuple(kept[v] for v in sorted(kept, reverse=True))

    def enter(
        self, recipe_id: str, base: int, values: dict[str, StageValues], source: Source, why: str, by: str
    ) -> Recipe:
        """Values become the next version. Refused when somebody made one meanwhile."""
        with self._base.session() as session, session.begin():
            store = ShopStore(session)
            store.lock()
            shop = store.read()
            if recipe_id not in shop.recipes:
                raise Refusal(
                    "no-such-recipe",
                    say("There is no such recipe."),
                    say("Nothing was changed."),
                    say("Choose one of the list."),
                )
            newest = shop.recipes[recipe_id]
            if newest.version != base:
                raise Refusal("newer-version", say("{by} made version {version} meanwhile.", by=newest.by or say('Somebody'), version=newest.version), say("Yours was not added."),
                              say("Look at the newest version and enter yours again."))  # fmt: skip
            made = with_values(newest, values, source, why, by)
            store.put("recipes", made.id, made.model_dump(mode="json"), made.version)
        return made

    def take(self, data: bytes, by: str) -> Recipe:
        """A recipe as JSON, as exported here or by another shop."""
        if len(data) > MOST_BYTES:
            raise Refusal(
                "too-large",
                say("The file is larger than 500 kB."),
                say("No version was added."),
                say("A recipe is a few pages of text."),
            )
        try:
            body = json.loads(data.decode("utf-8-sig"))
        except (UnicodeDecodeError, ValueError, RecursionError) as broken:
            raise Refusal(
                "not-json",
                say("The file is not JSON."),
                say("No version was added."),
                say("Give a recipe that was exported as JSON."),
            ) from broken
        with self._base.session() as session, session.begin():
            store = ShopStore(session)
            held = body.get("recipe", body) if isinstance(body, dict) else {}
            recipe_id = str(held.get("id", "")) if isinstance(held, dict) else ""
            store.lock()
            shop = store.read()
            made = read_recipe(body, shop.methods, shop.recipes.get(recipe_id)).model_copy(update={"by": by})
            store.put("recipes", made.id, made.model_dump(mode="json"), made.version)
        return made

    def add_method(self, data: bytes, name: str) -> str:
        """A method file: the shop's own method with its recipes, as rows; gives its id."""
        if len(data) > MOST_BYTES:
            raise Refusal(
                "too-large",
                say("The file is larger than 500 kB."),
                say("Nothing was added."),
                say("A method file is a few pages of text."),
            )
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError as broken:
            raise Refusal(
                "not-text",
                say("“{name}” is not text.", name=name),
                say("Nothing was added."),
                say("Save it as text in UTF-8."),
            ) from broken
        method, recipes = read_method(text, name)
        with self._base.session() as session, session.begin():
            store = ShopStore(session)
            shop = store.read()
            taken = [r.id for r in recipes if r.id in shop.recipes and shop.recipes[r.id].method != method.id]
            if method.id in shipped_methods() or taken:
                raise Refusal(
                    "method-known",
                    say("“{which}” is known already.", which=taken[0] if taken else method.id),
                    say("Nothing was added."),
                    say("Give it another id."),
                )
            store.change("methods", method.id, **method.model_dump(mode="json"))
            for recipe in recipes:
                known = shop.recipes.get(recipe.id)
                made = recipe.model_copy(update={"version": known.version + 1 if known else recipe.version})
                store.put("recipes", made.id, made.model_dump(mode="json"), made.version)
        return method.id

    def compare(self, recipe_id: str, left: int, right: int) -> tuple[Difference, ...]:
        return differences(self.version(recipe_id, left), self.version(recipe_id, right))
