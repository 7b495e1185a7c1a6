"""A pressed colour came out off: what to ask for instead, and the strip that tells whether it was right."""

from offsetter.core import derive
from offsetter.core.compute.chart import Chart
from offsetter.core.compute.cielab import lab_of_srgb, rgb_of_hex
from offsetter.core.compute.correction import OffColour, off_colour
from offsetter.core.context import Context
from offsetter.core.facts import Lab
from offsetter.core.prints import Variant
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.jobs import Jobs
from offsetter.desk.kept_jobs import Stored
from offsetter.desk.measuring import Measuring
from offsetter.desk.pictures import Pictures
from offsetter.desk.scenes import brands_of


class OffColours:
    def __init__(self, jobs: Jobs, pictures: Pictures, measuring: Measuring) -> None:
        self._jobs, self._pictures, self._measuring = jobs, pictures, measuring

    def answer(self, job_id: str, print_id: str, colour: str, seen: Lab, wanted: Lab | None = None) -> OffColour:
        """Refused when the print has no artwork yet."""
        stored, variant = self._looked_at(job_id, print_id)
        spec = variant.spec.colour
        return off_colour(
            self._pictures.bench.prints_with(variant.spec),
            spec,
            colour,
            wanted or self._wanted(stored, variant, colour),
            seen,
        )

    def strip(self, job_id: str, print_id: str, colour: str, seen: Lab, wanted: Lab | None = None) -> Chart:
        """Refused as well where no profile is assigned to the print's printer, medium and mode."""
        told = self.answer(job_id, print_id, colour, seen, wanted)
        stored, _ = self._looked_at(job_id, print_id)
        way = Context(self._jobs.inputs(stored)).way
        if way is None:
            raise Refusal(
                "no-way",
                say("No way is chosen for this print yet."),
                say("No strip was made."),
                say("Choose one at Method."),
            )
        shop, _ = self._jobs.shop()
        title = f"{stored.order.title}, {colour.upper()} next time"
        return self._measuring.make_strip(way.printer, derive.feed_of(shop, way).media, way.mode, told.shift.lab, title)

    def _wanted(self, stored: Stored, variant: Variant, colour: str) -> Lab:
        """The customer's colour that it is meant to be, or as the artwork has it."""
        facts = Context(self._jobs.inputs(stored)).facts
        shop, _ = self._jobs.shop()
        if facts is not None:
            scene = self._jobs.scene(stored, variant)
            steps = self._pictures.told.brands(scene, facts, brands_of(shop, stored.order.customer))
            brand = next((b for b in steps if b.in_artwork.upper() == colour.upper()), None)
            if brand is not None:
                return brand.lab
        lab = lab_of_srgb(rgb_of_hex(colour)).reshape(-1)
        return round(float(lab[0]), 2), round(float(lab[1]), 2), round(float(lab[2]), 2)

    def _looked_at(self, job_id: str, print_id: str) -> tuple[Stored, Variant]:
        stored = self._jobs.kept.read(job_id, "", print_id)
        variant = Context(self._jobs.inputs(stored)).variant
        if variant is None:
            raise Refusal(
                "no-artwork",
                say("There is no artwork whose colour could be off."),
                say("Nothing was changed."),
                say("Add it at Order."),
            )
        return stored, variant
