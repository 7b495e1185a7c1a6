from decimal import Decimal
from typing import Literal

from offsetter.core.values import Frozen

ArtKind = Literal["photo", "graphic", "lettering"]


class AdviceFacts(Frozen):
    """Thresholds and rates that advice reckons with; lightness as CIE L*, temperatures in °C, money a piece or an hour."""

    white_from_l: float
    light_from_l: float
    dark_below_l: float
    lighter_matters: float
    """Share of the artwork lighter than a light blank from which white is laid under it."""
    hands_hour: Decimal
    machine_hour: Decimal
    spoil_share: Decimal
    gap_mm: float
    migration_c: float
    coverage: dict[ArtKind, float]
    scorch_c: dict[str, float]
    cover_uses: dict[str, int]
    """Cover sheet to the presses that it is good for."""
