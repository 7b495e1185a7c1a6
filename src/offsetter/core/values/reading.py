from typing import Literal

from offsetter.core.values.frozen import Frozen

Quality = Literal["exact", "preview", "device"]


class Reading(Frozen):
    """One figure of the row along the bottom. preview values are shown with a tilde and open no gate."""

    key: str
    label: str
    value: float
    unit: str
    decimals: int = 1
    scope: Literal["a piece", "the order", "this print"] = "a piece"
    quality: Quality = "exact"
    note: str = ""
    is_over: bool = False
