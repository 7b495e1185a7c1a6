"""A run: what is printed in one go. Released it is frozen; another release supersedes it."""

from collections import Counter
from datetime import datetime
from typing import Any, Literal

from pydantic import model_validator

from offsetter.core.acts import Act, Printed, standing
from offsetter.core.compute.cut_spec import CutSpec
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.sheet import RunLayout
from offsetter.core.decisions import SheetDoc, Way
from offsetter.core.values import Frozen, digest


class RunItem(Frozen):
    """Prints of a run that are alike; the layout's sort of the same position."""

    print: str
    name: str
    placing: str = ""
    """Where it goes on the piece, for the label."""
    slots: tuple[str, ...]
    spec: PlateSpec
    measure: PlateMeasure
    ink_ml: dict[str, float]
    signature: str
    cut: CutSpec | None = None
    job: str = ""
    """Whose it is, where a run carries several jobs; empty: the run's own."""
    way: Way | None = None
    """Its job's own, there: the same as the run's for what prints and cures it."""


class RunPlan(Frozen):
    items: tuple[RunItem, ...]
    way: Way
    layout: RunLayout
    media: str
    crop_marks: bool = False

    @model_validator(mode="before")
    @classmethod
    def reads_one_print(cls, body: Any) -> Any:
        """Runs released before a job could hold several prints carry one."""
        if isinstance(body, dict) and "spec" in body:
            one = {k: body[k] for k in ("spec", "measure", "ink_ml", "signature")}
            rest = {k: v for k, v in body.items() if k not in one}
            return {**rest, "items": [{"print": "front", "name": "Front", "slots": [], **one}]}
        return body


class Run(Frozen):
    id: str
    number: int
    job: str
    state: Literal["released", "superseded"]
    plan: RunPlan
    released_at: datetime
    released_by: str
    others: tuple[str, ...] = ()
    """Of a job's part of a run that carries several: the other jobs."""

    @property
    def jobs(self) -> tuple[str, ...]:
        """All that it carries, its own first."""
        return tuple(dict.fromkeys((self.job, *(i.job for i in self.plan.items if i.job), *self.others)))

    def part_of(self, job: str) -> "Run":
        """What one of its jobs sees of a run that carries several: its own prints, and its share of the medium by their area."""
        if self.others or len(self.jobs) == 1:
            return self
        own = [at for at, i in enumerate(self.plan.items) if (i.job or self.job) == job]
        layout = self.plan.layout.with_sorts(own)
        items = tuple(self.plan.items[at].model_copy(update={"job": "", "way": None}) for at in own)
        way = next((i.way for i in self.plan.items if (i.job or self.job) == job and i.way), self.plan.way)
        plan = self.plan.model_copy(update={"items": items, "layout": layout, "way": way})
        return self.model_copy(update={"job": job, "plan": plan, "others": tuple(j for j in self.jobs if j != job)})

    @property
    def copies(self) -> int:
        return len(self.plan.layout.places)

    def printed_in(self, acts: tuple[Act, ...]) -> int:
        """Prints of it that were recorded as printed. acts: of its jobs."""
        return sum(a.body.count for a in standing(acts) if isinstance(a.body, Printed) and a.body.run == self.id)

    def laid(self) -> Counter[str]:
        """Signature to prints on this run."""
        return self.per(0, self.copies)

    def per(self, done: int, count: int) -> Counter[str]:
        """Signature to prints among the next count places after the first done ones, in the order they leave the printer."""
        places = self.plan.layout.places[done : done + count]
        return Counter(self.plan.items[p.sort].signature for p in places)

    def ink_of(self, signature: str) -> dict[str, float]:
        return next((i.ink_ml for i in self.plan.items if i.signature == signature), {})


def physical_signature(spec: PlateSpec, way: Way, media: str, sheet: SheetDoc | None = None) -> str:
    """What makes one printed transfer differ from another; a price or a word does not enter.

    sheet: where a cutter follows a line: one that was set by hand makes another piece.
    """
    line = (
        (sheet.cut_offset_um, sheet.cut_holes)
        if sheet and (sheet.cut_offset_um is not None or not sheet.cut_holes)
        else ()
    )
    shape = (sheet.cut_shape,) if sheet and sheet.cut_shape != "outline" else ()
    return digest("print", spec.key, media, way.printer, way.mode, *line, *shape)
