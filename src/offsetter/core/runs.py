"""A run: what is printed in one go. Released it is frozen; another release supersedes it."""

from datetime import datetime
from typing import Literal

from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.decisions import Way
from offsetter.core.values import Frozen, digest


class RunPlan(Frozen):
    spec: PlateSpec
    way: Way
    layout: RunLayout
    media: str
    measure: PlateMeasure
    ink_ml: dict[str, float]
    signature: str


class Run(Frozen):
    id: str
    number: int
    job: str
    state: Literal["released", "superseded"]
    plan: RunPlan
    released_at: datetime
    released_by: str

    @property
    def copies(self) -> int:
        return len(self.plan.layout.places)


def physical_signature(spec: PlateSpec, way: Way, media: str) -> str:
    """What makes one printed transfer differ from another; a price or a word does not enter."""
    return digest("print", spec.key, media, way.printer, way.mode)
