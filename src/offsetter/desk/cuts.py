"""The cutter's line as it is seen before anything is printed: from the picture at bench size, in mm."""

from typing import TYPE_CHECKING

from offsetter.core.compute.cut_spec import CutSpec
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.bounded import Bounded
from offsetter.desk.jobs import Jobs
from offsetter.desk.pictures import Pictures

if TYPE_CHECKING:
    from offsetter.core.compute.contour import Contour

KEPT = 24


class CutView(Frozen):
    """Of one of the run's sorts, as it is printed: an SVG path in mm from its left upper corner."""

    d: str
    through: str = ""
    """The box round it that goes through the carrier too; empty: none does."""
    width_mm: float
    pieces: int
    holes: int
    nodes: int
    long_mm: float
    """That the blade travels for one print."""
    why_not: str = ""
    """Where there is no line."""


class Cuts:
    def __init__(self, jobs: Jobs, pictures: Pictures) -> None:
        self._jobs, self._pictures = jobs, pictures
        self._known: Bounded[CutView] = Bounded(KEPT)

    def look(self, job_id: str, print_id: str = "") -> tuple[CutView, ...]:
        """In the order of the run's sorts; none where no cutter follows a line."""
        # Loaded by the first look at a cut line: the server's start does not wait for it.
        from offsetter.core.compute.cutting import line_round

        found = []
        for v in self._jobs.look(job_id, "", print_id).line.on_run:
            if v.cut is None:
                return ()
            key = digest("cut", v.spec.key, v.cut)
            if key not in self._known:
                width_mm, alpha = v.spec.width_um / 1000, self._pictures.bench.alpha(v.spec)
                try:
                    made = line_round(alpha, width_mm / alpha.shape[1], v.cut)
                    self._known[key] = _view(made, width_mm, v.cut, is_mirrored=v.spec.mirrored)
                except Refusal as refusal:
                    self._known[key] = CutView(
                        d="",
                        width_mm=width_mm,
                        pieces=0,
                        holes=0,
                        nodes=0,
                        long_mm=0,
                        why_not=f"{refusal.happened} {refusal.to_do}",
                    )
            found.append(self._known[key])
        return tuple(found)


def _view(made: "Contour", width_mm: float, cut: CutSpec, *, is_mirrored: bool) -> CutView:
    from offsetter.core.compute.cutting import box_through, long_mm, mirrored
    from offsetter.formats.cut_files import d_of

    paths = mirrored(made.paths, width_mm) if is_mirrored else made.paths
    through = d_of(box_through(paths)) if cut.through else ""
    return CutView(d=" ".join(d_of(p) for p in paths), through=through, width_mm=width_mm, pieces=made.rings, holes=made.holes, nodes=made.nodes,
                   long_mm=round(long_mm(paths), 1))  # fmt: skip
