"""What is shown and kept beside the work: the proof, photographs, and the way back from a code to the making."""

import re
import tempfile
from datetime import datetime
from pathlib import Path

from offsetter.core import derive
from offsetter.core import line as core_line
from offsetter.core.acts import Act, Photographed, Prepared, Pressed, Printed, Spoiled, standing
from offsetter.core.decisions import kind_of, number_of
from offsetter.core.prints import Variant, placing_of
from offsetter.core.proof import ProofState, proof_of
from offsetter.core.stations.order import draw_garment
from offsetter.core.stations.result import GarmentDrawing
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs, Stored
from offsetter.desk.work_done import WorkDone
from offsetter.formats.proof_pdf import ProofPrint, ProofSheet, write_proof
from offsetter.intake.receive import bare_photo
from offsetter.store.work_done import RunStore

MOST_PHOTO_BYTES = 30 * 1024 * 1024
CODE = re.compile(r"^[Rr]?(\d{1,9})(?:-(\d{1,6}))?$")


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


class MadePiece(Frozen):
    """One print pressed: where, when, by whom, with which values."""

    label: str
    print_name: str
    at: datetime
    by: str
    press: str
    stages: tuple[str, ...]


class Done(Frozen):
    at: datetime
    by: str
    what: str


class Making(Frozen):
    """How something was made, from its run's code."""

    code: str
    job: str
    title: str
    customer: str
    run: int
    place: int | None
    what: tuple[str, ...]
    printer: str
    media: str
    recipe: str
    recipe_version: int
    released_at: datetime
    released_by: str
    done: tuple[Done, ...]
    """What was done to the run's transfers, in order."""
    lots: tuple[str, ...]
    pieces: tuple[MadePiece, ...]
    photos: tuple[str, ...]


class Records:
    def __init__(self, base: Base, jobs: Jobs, work_done: WorkDone) -> None:
        self._base, self._jobs, self._work_done = base, jobs, work_done

    def proof(self, job_id: str) -> Proof:
        stored = self._jobs.read(job_id)
        inputs = self._jobs.inputs(stored)
        variants = core_line.all_variants(inputs)
        views = tuple(v for one in variants if (v := self._view(stored, one)) is not None)
        order = stored.order
        pieces = ", ".join(f"{n} x {k.split('/')[1]}" for k, n in order.ordered.items())
        return Proof(title=order.title, customer=order.customer, pieces=f"{order.pieces} pieces: {pieces}",
                     state=proof_of(stored.acts, variants, wanted=inputs.proof_wanted), prints=views)  # fmt: skip

    def proof_pdf(self, job_id: str) -> bytes:
        proof = self.proof(job_id)
        if not proof.prints:
            raise Refusal("no-artwork", "There is nothing to show yet.", "Nothing was made.", "Add the artwork first.")
        shop, _ = self._jobs.shop()
        shown = []
        for v in proof.prints:
            box = v.garment.box
            assert box is not None
            shown.append(ProofPrint(
                name=v.name, outline=v.garment.outline, collar=v.garment.collar, bounds_mm=v.garment.bounds_mm, cloth=v.garment.colour,
                cloth_name=v.cloth_name, box_mm=(box.x_mm, box.y_mm, box.width_mm, box.height_mm), sizes=v.sizes, placing=v.placing,
                picture=self._jobs.picture(v.picture_key, "cloth"),
            ))  # fmt: skip
        s = proof.state
        signed = f"Agreed by {s.by}, {s.at[:10]}" + (" (changed since)" if s.state == "changed" else "") if s.by else ""
        return write_proof(ProofSheet(title=proof.title, customer=proof.customer, shop=shop.name, pieces=proof.pieces, signed=signed,
                                      prints=tuple(shown)))  # fmt: skip

    def _view(self, stored: Stored, variant: Variant) -> ProofView | None:
        shop, _ = self._jobs.shop()
        one = next(p for p in stored.prints if p.id == variant.print)
        slot = variant.slots[0]
        number, size = number_of(slot), kind_of(slot).split("/")[1]
        blank = derive.blank_of(shop, one.decisions, slot)
        file = self._jobs.facts_for(
            variant.artwork, next((n.text for n in stored.order.names if n.number == number), "")
        )
        if file is None:
            return None
        place = one.decisions.place.model_copy(update={"width_um": variant.spec.width_um, "widths_um": {}})
        sizes = ", ".join(dict.fromkeys(kind_of(s).split("/")[1] for s in variant.slots))
        text = next((n.text for n in stored.order.names if n.number == number), "") if number else ""
        return ProofView(
            name=f"{variant.name}: {text}" if text else variant.name, place=variant.name, text=text, cloth_name=f"{blank.colour_name} {blank.name.lower()}", sizes=f"size {sizes}",
            placing=placing_of(place), garment=draw_garment(blank, size, place, variant.height_um / 1000),
            picture_key=self._jobs.remember(self._jobs.scene(shop, stored, variant, slot)),
        )  # fmt: skip

    def attach_photo(
        self, job_id: str, name: str, data: bytes, of: str, note: str, act_id: str, at: datetime, by: str
    ) -> None:
        """A photograph of an act's outcome, kept without its location."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:120] or "photo"
        if not data or len(data) > MOST_PHOTO_BYTES:
            raise Refusal(
                "bad-photo",
                f"“{name}” is {'empty' if not data else 'larger than 30 MB'}.",
                "Nothing was attached.",
                "Take a smaller one.",
            )
        self._jobs.read(job_id)
        with tempfile.TemporaryDirectory() as folder:
            source, bare = Path(folder) / "in", Path(folder) / "out.jpg"
            source.write_bytes(data)
            bare_photo(source, name, bare)
            file = self._base.files.keep(bare.read_bytes())
        self._work_done.record(
            Act(id=act_id, job=job_id, at=at, actor=by, signature="", body=Photographed(file=file, of=of, note=note))
        )

    def photo(self, file: str) -> Path:
        path = self._base.files.original(file if file.isalnum() else "none")
        if not path.exists():
            raise Refusal(
                "no-such-picture", "This photograph is not known.", "Nothing was changed.", "Open the job again."
            )
        return path

    def trace(self, code: str) -> Making:
        """From a code on a label or ticket (R12, or R12-7) to how it was made."""
        read = CODE.match(code.strip())
        with self._base.session() as session:
            run = RunStore(session).numbered(int(read[1])) if read else None
        if read is None or run is None:
            raise Refusal("no-such-code", f"“{code[:20]}” is no code of this shop.", "Nothing was changed.",
                          "A code looks like R12 or R12-7: it stands beside every print and on the ticket.")  # fmt: skip
        stored = self._jobs.read(run.job)
        shop, _ = self._jobs.shop()
        labels = self._jobs.labels(stored)
        place = int(read[2]) if read[2] and 1 <= int(read[2]) <= run.copies else None
        here = run.plan.items[run.plan.layout.places[place - 1].sort] if place else None
        names = {s.id: s.name for s in shop.recipes[run.plan.way.recipe].stages}
        done = sorted(standing(stored.acts), key=lambda a: (a.at, a.id))
        of_run = [a for a in done if getattr(a.body, "run", "") == run.id]
        pieces = [a for a in of_run if isinstance(a.body, Pressed) and (here is None or a.signature == here.signature)]
        return Making(
            code=f"R{run.number}" + (f"-{place}" if place else ""), job=run.job, title=stored.order.title, customer=stored.order.customer,
            run=run.number, place=place, what=tuple(i.name for i in run.plan.items if here in (None, i)),
            printer=shop.printers[run.plan.way.printer].name, media=run.plan.media, recipe=shop.recipes[run.plan.way.recipe].name,
            recipe_version=run.plan.way.recipe_version, released_at=run.released_at, released_by=run.released_by,
            done=tuple(Done(at=a.at, by=a.actor, what=s) for a in done if (s := _said(a, run.id, names))),
            lots=tuple(dict.fromkeys(a.body.lot for a in of_run if isinstance(a.body, Printed) and a.body.lot)),
            pieces=tuple(
                MadePiece(label=labels.get(a.body.slot, a.body.size), print_name=next((i.name for i in run.plan.items if i.signature == a.signature), ""),
                          at=a.at, by=a.actor, press=shop.presses[a.body.press].name if a.body.press in shop.presses else "",
                          stages=tuple(f"{names.get(s.stage, s.stage)} {s.ran_s:.0f} s" + (f" at {s.temperature_c:.0f} °C" if s.temperature_c else "") for s in a.body.stages))
                for a in pieces if isinstance(a.body, Pressed)
            ),
            photos=tuple(a.body.file for a in done if isinstance(a.body, Photographed)),
        )  # fmt: skip


def _said(act: Act, run: str, names: dict[str, str]) -> str:
    body = act.body
    if isinstance(body, Printed) and body.run == run:
        return f"{body.count} printed" + (f", lot {body.lot}" if body.lot else "")
    if isinstance(body, Prepared) and body.run == run:
        return f"{names.get(body.stage, body.stage)}: {body.count}"
    if isinstance(body, Spoiled):
        return f"{body.count} {body.what} spoiled at {names.get(body.stage, body.stage).lower()}: {body.cause}"
    return ""
