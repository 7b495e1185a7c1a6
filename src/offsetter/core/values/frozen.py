from collections.abc import Mapping
from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Frozen(BaseModel):
    """A value: it does not change, and a field nobody knows is an error rather than a silence."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """What was worked out of the value (a cached property) is worked out anew of its copy."""
        made = super().model_copy(update=update, deep=deep)
        fields = type(self).__pydantic_fields__
        if len(made.__dict__) != len(fields):
            for name in made.__dict__.keys() - fields.keys():
                del made.__dict__[name]
        return made
