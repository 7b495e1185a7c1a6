"""Reads the data files that ship with the core, once. No other module of the core touches a file."""

import tomllib
from functools import cache
from importlib.resources import files

from offsetter.core.facts.advice import AdviceFacts
from offsetter.core.facts.methods import Method
from offsetter.core.facts.recipes import Recipe

_DATA = files("offsetter.core.facts") / "data"


@cache
def methods() -> dict[str, Method]:
    """The fifteen methods by id, in the order of the data file."""
    rows = tomllib.loads((_DATA / "methods.toml").read_text())
    return {key: Method(id=key, **row) for key, row in rows.items()}


@cache
def recipes() -> dict[str, Recipe]:
    """The shipped recipes by id: a file a method, in the order of the methods."""
    found = {}
    for method in methods():
        for key, row in tomllib.loads((_DATA / "recipes" / f"{method}.toml").read_text()).items():
            found[key] = Recipe(id=key, **row)
    return found


@cache
def advice_facts() -> AdviceFacts:
    """What advice reckons with besides the methods."""
    return AdviceFacts.model_validate(tomllib.loads((_DATA / "advice.toml").read_text()))


@cache
def profile_bytes() -> bytes:
    """Our own CMYK profile of an invented print condition on film (CC0)."""
    return (_DATA / "profiles" / "film.icc").read_bytes()
