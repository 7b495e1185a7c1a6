"""The hash by which a result is found again: sorted keys, no floats that depend on the machine."""

import hashlib
from typing import Any

import orjson
from pydantic import BaseModel


def digest(*parts: Any) -> str:
    """SHA-256 (hex, 32 characters) of models, mappings, sequences and plain values, in a fixed form.

    Raises TypeError for a value without a canonical form (an array, a date).
    """
    text = orjson.dumps([_plain(p) for p in parts], option=orjson.OPT_SORT_KEYS | orjson.OPT_NON_STR_KEYS)
    return hashlib.sha256(text).hexdigest()[:32]


def _plain(value: Any) -> Any:
    if isinstance(value, BaseModel):
        return value.model_dump(mode="json")
    if isinstance(value, tuple | list):
        return [_plain(v) for v in value]
    if isinstance(value, dict):
        return {str(k): _plain(v) for k, v in value.items()}
    return value
