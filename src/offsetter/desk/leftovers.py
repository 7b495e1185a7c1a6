"""Transfers left over, in the store."""

from datetime import datetime

from offsetter.core.compute.looks import Ground
from offsetter.core.values import Frozen
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.scenes import Scene
from offsetter.store.lots import LotStore
from offsetter.store.runs import RunStore


class Leftover(Frozen):
    """Cured transfers in the store, with what they fit."""

    id: str
    job: str
    signature: str
    count: int
    stored_at: datetime
    printed_at: datetime
    run: int
    name: str
    recipe: str
    recipe_version: int
    width_mm: float
    height_mm: float
    cloth: str
    cloth_name: str
    picture_key: str
    note: str


class Leftovers:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def left(self, signatures: set[str] | None = None) -> list[Leftover]:
        """Transfers in the store, oldest first; only those alike to signatures when they are given."""
        shop, _ = self._jobs.shop()
        cloths = {b.colour: f"{b.colour_name} {b.name.lower()}" for b in shop.blanks.values()}
        found = []
        with self._base.session() as session:
            runs = RunStore(session)
            for lot in LotStore(session).left(signatures):
                whole = runs.find(lot.run) if lot.run else None
                run = whole.part_of(lot.job) if whole else None
                item = next((i for i in run.plan.items if i.signature == lot.signature), None) if run else None
                if run is None or item is None:
                    continue
                cloth = item.spec.white.cloth if item.spec.white else ""
                method = shop.methods[run.plan.way.method]
                ground = Ground(cloth=cloth or "#FFFFFF", opacity=method.white_opacity or 1.0, white=method.white)
                found.append(Leftover(
                    id=lot.id, job=lot.job, signature=lot.signature, count=lot.left, stored_at=lot.stored_at, printed_at=run.released_at,
                    run=run.number, name=item.name, recipe=run.plan.way.recipe, recipe_version=run.plan.way.recipe_version,
                    width_mm=item.spec.width_um / 1000, height_mm=item.spec.height_um / 1000,
                    cloth=cloth, cloth_name=cloths.get(cloth, cloth), picture_key=self._jobs.remember(Scene(spec=item.spec, ground=ground)), note=lot.note,
                ))  # fmt: skip
        return found
