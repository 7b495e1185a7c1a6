"""What is measured on a print's pixels. It is kept with the job: to know where one stands, nothing is drawn again."""

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.context import Measured
from offsetter.core.facts import BrandColour
from offsetter.core.values import digest
from offsetter.desk.pictures import Pictures
from offsetter.desk.scenes import Scene

EDITION = 2
"""Raised when plates or colours come out otherwise than before: what was kept is then measured anew."""


def measured(
    pictures: Pictures, scene: Scene, facts: ArtworkFacts, brands: tuple[BrandColour, ...], kept: Measured | None
) -> Measured:
    """On the picture that is looked at, or on the full plates once they are made; kept where it was measured on just that."""
    spec, told = scene.spec, pictures.told
    device = pictures.bench.device(spec)
    on = digest("measured", EDITION, spec.key, scene.ground, facts.file, brands, device)
    if kept is not None and kept.on == on:
        return kept
    return Measured(
        on=on, preview=device or pictures.bench.preview(spec), device=device, steps=told.steps(scene, facts),
        misses=told.misses(scene, facts), brands=told.brands(scene, facts, brands),
    )  # fmt: skip
