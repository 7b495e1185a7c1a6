"""What methods, recipes and care say to people, as they came with the program: a language may say these too. What a shop wrote itself stays as written."""

from collections.abc import Iterator
from functools import cache

from pydantic import BaseModel

from offsetter.core.facts.shipped import care, faults, methods, recipes
from offsetter.core.quantities import OPEN

FIELDS = frozenset((
    "name", "question", "what_decides", "consequence", "say", "then", "caution", "what", "note", "asks", "window", "lay_out", "source", "blanks", "carrier",
    "hand_feel", "wash_life", "holds", "why_mirror", "over_edge", "prepares_first", "leaves_out", "steps", "why", "cure",
))  # fmt: skip
"""In which they speak. Not what a fault looks like, nor a sheet's colour: decisions and acts name them."""


@cache
def shipped_texts() -> frozenset[str]:
    """Without those that hold a quantity: these are said in its reader's units."""
    tables = (*methods().values(), *recipes().values(), *care().task, *faults())
    return frozenset(t for one in tables for t in _texts(one) if t and OPEN not in t)


def _texts(value: object, speaks: bool = False) -> Iterator[str]:
    match value:
        case BaseModel():
            for name in type(value).model_fields.keys() - {"sheets"}:
                yield from _texts(getattr(value, name), name in FIELDS)
        case dict():
            for inner in value.values():
                yield from _texts(inner, speaks)
        case tuple():
            for inner in value:
                yield from _texts(inner, speaks)
        case str() if speaks:
            yield value
