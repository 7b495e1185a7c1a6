"""What each level of white costs: the ink that it lays and the powder that it holds, measured on this print's own plates."""

from decimal import Decimal

from offsetter.core.compute.cost import Used, ink_money, powder_money, used_of
from offsetter.core.compute.plate_spec import PlateSpec
from offsetter.core.derive import stages_of
from offsetter.core.values import Frozen
from offsetter.desk.jobs import Jobs
from offsetter.desk.pictures import Pictures

LEVELS = (0.0, 25.0, 50.0, 75.0, 100.0)


class WhiteCost(Frozen):
    """Of one print, at one level. ml: of white; None where nobody knows how much this printer lays."""

    level_pct: float
    area_cm2: float
    """Covered, by its share of ink."""
    ml: float | None
    money: Decimal
    """All its inks, and what powder stays on them."""


class WhiteCosts:
    def __init__(self, jobs: Jobs, pictures: Pictures) -> None:
        self._jobs, self._pictures = jobs, pictures

    def look(self, job_id: str, print_id: str = "") -> tuple[WhiteCost, ...]:
        """From following the picture to solid; none where no level says how much white lies."""
        line = self._jobs.look(job_id, "", print_id).line
        if line.way is None or line.spec is None or line.spec.white is None or line.spec.white.by != "level":
            return ()
        shop = self._jobs.shop()[0]
        method, stages, prices = shop.methods[line.way.method], stages_of(shop, line.way), shop.prices
        found = []
        for level in LEVELS:
            used = self._used(line.spec, level, method.id)
            ml = used.ink_ml.get("W")
            found.append(WhiteCost(
                level_pct=level, area_cm2=round(used.white_m2 * 1e4, 2), ml=None if ml is None else round(ml, 4),
                money=(ink_money(used, prices, method) + powder_money(used, stages, prices, method)).quantize(Decimal("0.0001")),
            ))  # fmt: skip
        return tuple(found)

    def _used(self, spec: PlateSpec, level: float, method: str) -> Used:
        assert spec.white is not None
        at = spec.model_copy(update={"white": spec.white.model_copy(update={"level_pct": level})})
        return used_of(at, self._pictures.bench.preview(at), self._jobs.shop()[0].methods[method])
