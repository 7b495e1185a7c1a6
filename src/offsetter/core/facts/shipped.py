"""Reads the data files that ship with the core, once. No other module of the core touches a file."""

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from pydantic import ValidationError

from offsetter.core.facts.advice import AdviceFacts
from offsetter.core.facts.care import CareFacts
from offsetter.core.facts.faults import Fault
from offsetter.core.facts.kinds import Kinds
from offsetter.core.facts.methods import Method
from offsetter.core.facts.recipes import Recipe
from offsetter.core.quantities import written
from offsetter.core.values import Refusal

_DATA = files("offsetter.core.facts") / "data"


def read_method(text: str, name: str) -> tuple[Method, tuple[Recipe, ...]]:
    """A method file: one table `method` and its recipes. Raises Refusal that names the field which is wrong."""
    try:
        rows = tomllib.loads(written(text))
        unknown = set(rows) - {"method", "recipes"}
        if unknown or "method" not in rows:
            raise _unfit(name, f"it holds {' and '.join(sorted(unknown))}" if unknown else "it has no table “method”")
        method = Method.model_validate(rows["method"])
        recipes = tuple(Recipe.model_validate({"id": key, **row}) for key, row in rows.get("recipes", {}).items())
    except tomllib.TOMLDecodeError as broken:
        raise _unfit(name, f"it is not TOML ({broken})") from broken
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        said = "is not a field of methods" if first["type"] == "extra_forbidden" else f"is wrong: {first['msg']}"
        raise _unfit(name, f"“{where}” {said}") from wrong
    if not recipes or any(r.method != method.id for r in recipes):
        raise _unfit(name, f"it needs a recipe, and its recipes must be of “{method.id}”")
    return method, recipes


def _unfit(name: str, why: str) -> Refusal:
    return Refusal("bad-method-file", f"The method file “{name}” cannot be read: {why}.", "Nothing was added.",
                   "Put it right by the list of fields in docs/methods.md.")  # fmt: skip


def _rows(name: str) -> dict[str, Any]:
    return tomllib.loads(written((_DATA / f"{name}.toml").read_text()))


@cache
def _shipped() -> tuple[tuple[Method, tuple[Recipe, ...]], ...]:
    found = [read_method(f.read_text(), f.name) for f in (_DATA / "methods").iterdir() if f.name.endswith(".toml")]
    return tuple(sorted(found, key=lambda m: m[0].rank))


@cache
def methods() -> dict[str, Method]:
    """The fifteen methods by id, in their order."""
    return {m.id: m for m, _ in _shipped()}


@cache
def recipes() -> dict[str, Recipe]:
    """The shipped recipes by id, in the order of the methods."""
    return {r.id: r for _, found in _shipped() for r in found}


@cache
def advice_facts() -> AdviceFacts:
    """What advice reckons with besides the methods."""
    return AdviceFacts.model_validate(_rows("advice"))


@cache
def faults() -> tuple[Fault, ...]:
    """What is seen when something goes wrong, with its cure."""
    return tuple(Fault.model_validate(row) for row in _rows("faults")["fault"])


@cache
def care() -> CareFacts:
    """What machines want done for them."""
    return CareFacts.model_validate(_rows("care"))


@cache
def kinds() -> Kinds:
    """General kinds of machines and blanks, and the prices that a new shop begins with."""
    return Kinds.from_rows(_rows("kinds"))


@cache
def profile_bytes() -> bytes:
    """Our own CMYK profile of an invented print condition on film (CC0)."""
    return (_DATA / "profiles" / "film.icc").read_bytes()
