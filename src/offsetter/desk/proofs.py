"""The proof: the pieces as the customer will see and sign them."""

from offsetter.core import derive
from offsetter.core.context import Context
from offsetter.core.decisions import kind_of, number_of
from offsetter.core.garments import draw_garment
from offsetter.core.places import placing_of
from offsetter.core.prints import Variant
from offsetter.core.proof import ProofState, proof_of
from offsetter.core.results import GarmentDrawing
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.jobs import Jobs
from offsetter.desk.kept_jobs import Stored
from offsetter.formats.proof_pdf import ProofPrint, ProofSheet, write_proof


class ProofView(Frozen):
    """One print, of one cloth, on the piece as the customer will see it."""

    name: str
    place: str
    text: str
    """The piece's own text, when the print is a name."""
    cloth_name: str
    sizes: str
    placing: str
    garment: GarmentDrawing
    picture_key: str


class Proof(Frozen):
    title: str
    customer: str
    pieces: str
    state: ProofState
    prints: tuple[ProofView, ...]


class Proofs:
    def __init__(self, jobs: Jobs) -> None:
        self._jobs = jobs

    def read(self, job_id: str) -> Proof:
        stored = self._jobs.kept.read(job_id)
        inputs = self._jobs.inputs(stored)
        variants = Context(inputs).variants
        views = tuple(v for one in variants if (v := self._view(stored, one)) is not None)
        order = stored.order
        pieces = ", ".join(f"{n} x {k.split('/')[1]}" for k, n in order.ordered.items())
        return Proof(title=order.title, customer=order.customer, pieces=say("{count} pieces: {sizes}", count=order.pieces, sizes=pieces),
                     state=proof_of(stored.acts, variants, wanted=inputs.proof_wanted), prints=views)  # fmt: skip

    def pdf(self, job_id: str) -> bytes:
        proof = self.read(job_id)
        if not proof.prints:
            raise Refusal(
                "no-artwork",
                say("There is nothing to show yet."),
                say("Nothing was made."),
                say("Add the artwork first."),
            )
        shop, _ = self._jobs.shop()
        shown = [self._drawn(v) for v in proof.prints]
        s = proof.state
        signed = (
            say("Agreed by {by}, {at}", by=s.by, at=s.at[:10])
            + (say(" (changed since)") if s.state == "changed" else "")
            if s.by
            else ""
        )
        return write_proof(ProofSheet(title=proof.title, customer=proof.customer, shop=shop.name, pieces=proof.pieces, signed=signed,
                                      prints=tuple(shown)))  # fmt: skip

    def shown(self, stored: Stored, print_id: str) -> ProofPrint | None:
        """One print as it is drawn on paper; None while it has no picture."""
        variants = (v for v in Context(self._jobs.inputs(stored)).variants if v.print == print_id)
        view = next((v for one in variants if (v := self._view(stored, one)) is not None), None)
        return self._drawn(view) if view else None

    def _drawn(self, view: ProofView) -> ProofPrint:
        box = view.garment.box
        assert box is not None
        return ProofPrint(
            name=view.name, outline=view.garment.outline, collar=view.garment.collar, bounds_mm=view.garment.bounds_mm, cloth=view.garment.colour,
            cloth_name=view.cloth_name, box_mm=(box.x_mm, box.y_mm, box.width_mm, box.height_mm), sizes=view.sizes, placing=view.placing,
            picture=self._jobs.picture(view.picture_key, "cloth"),
        )  # fmt: skip

    def _view(self, stored: Stored, variant: Variant) -> ProofView | None:
        shop = self._jobs.shop_of(stored)
        one = next(p for p in stored.prints if p.id == variant.print)
        slot = variant.slots[0]
        number, size = number_of(slot), kind_of(slot).split("/")[1]
        blank = derive.blank_of(shop, one.decisions, slot)
        file = self._jobs.kept.facts_for(
            variant.artwork, next((n.text for n in stored.order.names if n.number == number), "")
        )
        if file is None:
            return None
        place = one.decisions.place.model_copy(update={"width_um": variant.spec.width_um, "widths_um": {}})
        sizes = ", ".join(dict.fromkeys(kind_of(s).split("/")[1] for s in variant.slots))
        text = next((n.text for n in stored.order.names if n.number == number), "") if number else ""
        return ProofView(
            name=f"{variant.name}: {text}" if text else variant.name, place=variant.name, text=text, cloth_name=f"{blank.colour_name} {blank.name.lower()}", sizes=say("size {sizes}", sizes=sizes),
            placing=placing_of(place), garment=draw_garment(blank, size, place, variant.height_um / 1000),
            picture_key=self._jobs.remember(self._jobs.scene(stored, variant, slot)),
        )  # fmt: skip
