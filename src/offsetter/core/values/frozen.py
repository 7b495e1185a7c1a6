from pydantic import BaseModel, ConfigDict


class Frozen(BaseModel):
    """A value: it does not change, and a field nobody knows is an error rather than a silence."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
