"""What becomes of a picture's colours in print: its main ones, the customer's own, and the share that the inks miss."""

import numpy as np
from numpy.typing import NDArray

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.cielab import delta_e_2000, lab_of_srgb
from offsetter.core.compute.colour import Colours, DriverColours, out_of_gamut_share, print_difference
from offsetter.core.compute.looks import asked_ink, look_at
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
from offsetter.core.compute.plates import make_plates
from offsetter.core.compute.reach import Reached, nearest_reachable, what_to_ask
from offsetter.core.facts import BrandColour, Lab
from offsetter.core.results import BrandStep, ColourStep
from offsetter.core.values import digest
from offsetter.desk.bench_plates import KEPT, BenchPlates
from offsetter.desk.bounded import Bounded
from offsetter.desk.scenes import Scene, brand_steps

MAIN_COLOURS = 7
SHADE_DELTA_E = 12  # nearer colours are shades of one: from memory


class ColoursTold:
    def __init__(self, bench: BenchPlates) -> None:
        self._bench = bench
        self._main: Bounded[tuple[list[tuple[int, int, int]], list[float]]] = Bounded(KEPT)
        self._steps: Bounded[tuple[ColourStep, ...]] = Bounded(KEPT)
        self._misses: Bounded[float] = Bounded(KEPT)
        self._brands: Bounded[tuple[BrandStep, ...]] = Bounded(KEPT)
        self._reach: Bounded[tuple[Reached, tuple[Lab, float]]] = Bounded(KEPT)

    def steps(self, scene: Scene, facts: ArtworkFacts) -> tuple[ColourStep, ...]:
        """The artwork's main colours and what becomes of each in print and on the cloth."""
        key = digest("steps", scene.spec.colour, scene.ground, facts.file)
        if key not in self._steps:
            self._steps[key] = self._colour_steps(scene, facts)
        return self._steps[key]

    def misses(self, scene: Scene, facts: ArtworkFacts) -> float:
        """Share of the picture whose colours this print misses by more than CIEDE2000 2."""
        if scene.spec.colour.composite_black:
            return 0.0  # the coloured sheet gives the colour
        key = digest("misses", scene.spec.colour.model_copy(update={"ink_limit_pct": 400.0}), facts.file)
        found = self._misses.get(key)
        if found is None:
            found = self._misses[key] = out_of_gamut_share(
                self._bench.prints_with(scene.spec), facts.colours, scene.spec.colour
            )
        return found

    def brands(self, scene: Scene, facts: ArtworkFacts, brands: tuple[BrandColour, ...]) -> tuple[BrandStep, ...]:
        """The customer's own colours that the artwork holds, and what becomes of them."""
        if not brands:
            return ()
        key = digest("brands", scene.spec.colour, facts.file, brands)
        found = self._brands.get(key)
        if found is None:
            colours = self._bench.prints_with(scene.spec)
            found = self._brands[key] = brand_steps(
                colours,
                scene.spec.colour,
                facts.colours,
                brands,
                lambda lab: self._reached(colours, lab, scene.spec.colour),
            )
        return found

    def _reached(
        self, colours: Colours | DriverColours, lab: Lab, spec: ColourSpec
    ) -> tuple[Reached, tuple[Lab, float]]:
        """The nearest print of a colour, and what to ask for to come near it. Both are searched once without an ink limit, so that its
        slider searches again only where the limit is what keeps the colour away."""
        free = spec.model_copy(update={"ink_limit_pct": 400.0, "curves": (), "shifts": ()})
        key = digest("reach", free, lab)
        found = self._reach.get(key)
        if found is None:
            found = self._reach[key] = nearest_reachable(colours, lab, free), what_to_ask(colours, lab, free)
        nearest, ask = found
        if isinstance(colours, DriverColours) or sum(nearest.device_pct) <= spec.ink_limit_pct:
            return found
        return nearest_reachable(colours, lab, spec), ask

    def _main_colours(self, facts: ArtworkFacts) -> tuple[list[tuple[int, int, int]], list[float]]:
        """The few colours that a person would name, each with its share; shades join the nearest named before."""
        found = self._main.get(facts.file)
        if found is None:
            labs = lab_of_srgb(np.array([c.rgb for c in facts.colours]).reshape(-1, 3))
            chosen: list[int] = []
            shares: list[float] = []
            for i, colour in enumerate(facts.colours):
                apart = delta_e_2000(labs[chosen], labs[i]) if chosen else np.array([99.0])
                if float(apart.min()) < SHADE_DELTA_E:
                    shares[int(apart.argmin())] += colour.share
                elif len(chosen) < MAIN_COLOURS:
                    chosen.append(i)
                    shares.append(colour.share)
            found = self._main[facts.file] = ([facts.colours[i].rgb for i in chosen], shares)
        return found

    def _colour_steps(self, scene: Scene, facts: ArtworkFacts) -> tuple[ColourStep, ...]:
        spec = scene.spec
        chosen, shares = self._main_colours(facts)
        if not chosen:
            return ()
        rgb = np.array([chosen], np.uint8)
        apart = print_difference(self._bench.prints_with(spec), rgb, spec.colour)[0]
        row = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
        planes = make_plates(row, spec.model_copy(update={"crop_px": (0, 0, len(chosen), 1), "white": _flat(spec)}),
                             self._bench.colours(spec), scale=0.5).planes  # fmt: skip
        colours = self._bench.colours(spec)
        driver = self._bench.driver(spec) if spec.colour.driver else None
        driven = driver.to_screen(driver.to_rgb(row, spec.colour)) if driver else None
        printed = (driven if driven is not None else colours.to_screen(asked_ink(planes, spec.colour)))[0]
        seen = look_at("cloth", colours, planes, row[..., 3], scene.ground, printed=driven, spec=spec.colour)[0]
        return tuple(
            ColourStep(asked=_hex(rgb[0, i]), printed=_hex(printed[i]), on_cloth=_hex(seen[i]),
                       ink_pct={n: round(float(v) / 2.55, 1) for n, v in zip(spec.colour.lays, planes[0, i], strict=False)},
                       delta_e_2000=round(float(apart[i]), 2), share=round(shares[i], 4))
            for i in range(len(chosen))
        )  # fmt: skip


def _flat(spec: PlateSpec) -> WhiteSpec | None:
    """The white of a flat patch: no edge to choke."""
    return (
        spec.white.model_copy(update={"choke_um": 0, "guard_um": 0, "knock_out_delta_e": None}) if spec.white else None
    )


def _hex(rgb: NDArray[np.uint8]) -> str:
    return "#" + "".join(f"{int(v):02X}" for v in rgb[:3])
