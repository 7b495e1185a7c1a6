"""The hash by which a result is found again: sorted keys, no floats that depend on the machine."""

import hashlib
from functools import cached_property
from typing import Any

import orjson
from pydantic import BaseModel
from pydantic_core import to_json

from offsetter.core.values.frozen import Frozen


def digest(*parts: Any) -> str:
    """SHA-256 (hex, 32 characters) of models, mappings, sequences and plain values, in a fixed form.

    Raises TypeError for a value without a canonical form (an array, a date).
    """
    text = orjson.dumps([_plain(p) for p in parts], option=orjson.OPT_SORT_KEYS | orjson.OPT_NON_STR_KEYS)
    return hashlib.sha256(text).hexdigest()[:32]


def fingerprint(*parts: Any) -> str:
    """The same for what is kept in memory alone, several times quicker: two mappings that are equal, and hold their keys in another order, differ."""
    return hashlib.sha256(to_json([_marked(p) for p in parts])).hexdigest()[:32]


class Fact(Frozen):
    """A value of the shop that many results are worked out from: what it is told apart by is worked out once."""

    @cached_property
    def mark(self) -> str:
        return fingerprint(self.model_dump_json())


def _marked(value: Any) -> Any:
    """With the marks of the facts that it holds in their place."""
    if isinstance(value, tuple):
        return [_marked(v) for v in value]
    if isinstance(value, BaseModel) and not isinstance(value, Fact):
        return {n: _mark_of(getattr(value, n)) for n in type(value).__pydantic_fields__}
    return _mark_of(value)


def _mark_of(value: Any) -> Any:
    if isinstance(value, Fact):
        return value.mark
    if isinstance(value, dict) and any(isinstance(v, Fact) for v in value.values()):
        return {k: _mark_of(v) for k, v in value.items()}
    if isinstance(value, tuple) and value and isinstance(value[0], Fact):
        return [_mark_of(v) for v in value]
    return value


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, tuple | list):
        return [_plain(v) for v in value]
    if isinstance(value, dict):
        return {str(k): _plain(v) for k, v in value.items()}
    return value
