"""Jobs over the wire: thin; every write is one use case of the desk."""

from collections.abc import Iterable
from typing import Annotated, TypeVar

from fastapi import APIRouter, Depends, File, Query, Request, Response, UploadFile
from pydantic import Field
from starlette.concurrency import run_in_threadpool

from offsetter.core.acts import Prepared, Printed, job_standing, standing
from offsetter.core.facts import Blank, Press, Printer
from offsetter.core.facts.inks import INKS
from offsetter.core.proof import proof_of
from offsetter.core.values import Frozen
from offsetter.desk.jobs import JobLine
from offsetter.desk.standings import CardView
from offsetter.desk.white_costs import WhiteCost
from offsetter.intake.names import MOST_BYTES
from offsetter.store.standings import Which
from offsetter.web.guard import Owner, Person, Who, refuse_others, signed_in
from offsetter.web.keeping import backup_wanted, disk_left, filling
from offsetter.web.schemas import (
    AddPrintIn,
    AdviceOut,
    AgainIn,
    AgreedIn,
    JobCard,
    JobOut,
    JobsOut,
    LineOut,
    Looks,
    Made,
    NewJob,
    PrintTab,
    SaveIn,
    ShopOut,
    TryIn,
    ledger_out,
    picture_set,
    run_out,
)
from offsetter.web.services import Desk, Services
from offsetter.web.turns import AT_PRESS, looked_at, wait_told

router = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Named = TypeVar("Named", Blank, Printer, Press)


@router.get("/shop")
def read_shop(desk: Desk) -> ShopOut:
    """The shop's own things to choose from."""
    shop, _ = desk.jobs.shop()
    return ShopOut(
        name=shop.name, proof_wanted=shop.proof_wanted, currency=shop.prices.currency, blanks=_by_name(shop.blanks.values()), printers=_by_name(shop.printers.values()),
        presses=_by_name(shop.presses.values()), ovens=tuple(shop.ovens.values()), cutters=tuple(shop.cutters.values()), probes=tuple(shop.probes.values()),
        now=desk.base.now(),
        method_names={m.id: m.name for m in shop.methods.values()},
        ink_names={c: ink.name for c, ink in INKS.items()},
    )  # fmt: skip


def _by_name(things: Iterable[Named]) -> tuple[Named, ...]:
    return tuple(sorted(things, key=lambda t: (t.name, t.id)))


@router.get("/jobs")
def list_jobs(
    desk: Desk, request: Request, who: Who, which: Which = "open", words: Annotated[str, Query(max_length=120)] = "", after: Annotated[str, Query(max_length=90)] = ""
) -> JobsOut:  # fmt: skip
    """Jobs in pages, the next due first, ended ones newest first; words: of their title, customer or code."""
    page = desk.standings.page(which, words, after)
    return JobsOut(cards=tuple(card_out(c) for c in page.cards), broken=page.broken, broken_facts=desk.jobs.shop()[0].broken, disk_left_mb=disk_left(desk), filling=filling(request), backup=backup_wanted(request, who, desk.base.now(), page.open), following=page.following, open=page.open, needs_person=page.needs_person,
                   late=page.late, held=page.held)  # fmt: skip


class BackIn(Frozen):
    kind: str = Field(max_length=64)
    id: str = Field(max_length=64)


@router.post("/jobs/{job_id}/mend")
def mend_job(job_id: str, desk: Desk, who: Owner) -> JobOut:
    """Put every document of the job that cannot be read back to its last good version."""
    desk.mending.job(job_id, who.user.name)
    return job_out(desk, job_id, who.user.name)


@router.post("/shop/mend", status_code=204)
def mend_fact(given: BackIn, desk: Desk, who: Owner) -> None:
    """A fact's last good version becomes its newest."""
    desk.mending.fact(given.kind, given.id)


@router.post("/jobs", status_code=201)
def create_job(new: NewJob, desk: Desk, person: Person) -> Made:
    """Take an order at the counter."""
    return Made(id=desk.jobs.create(new.order, person))


@router.get("/jobs/{job_id}", response_model=JobOut)
async def read_job(job_id: str, desk: Desk, who: Who, request: Request, print: str = "", kind: str = "") -> Response:
    """The job with its whole line, seen from one of its prints and a line and size."""
    asked = (job_id, who.user.name, print, kind)
    if AT_PRESS in request.headers:  # whoever stands at a press waits behind nobody's preview
        return Response(await run_in_threadpool(_job_said, desk, *asked), media_type="application/json")
    return Response(await looked_at(request, job_id, _job_said, *asked), media_type="application/json")


def _job_said(desk: Services, job_id: str, person: str, print_id: str, kind: str) -> str:
    return job_out(desk, job_id, person, print_id, kind).model_dump_json()


@router.get("/jobs/{job_id}/advice")
def advice(job_id: str, desk: Desk, print: str = "", kind: str = "") -> AdviceOut:
    """Every method for this piece: allowed, with care, or ruled out, each with its reasons, cost and minutes."""
    told, asked, ways = desk.ways.advise(job_id, print, kind)
    shop, _ = desk.jobs.shop()
    here = {m for p in shop.printers.values() for m in p.methods}
    looks = {m.id: Looks(lies=m.lies, white=m.white, is_here=m.id in here) for m in shop.methods.values()}
    return AdviceOut(advice=told, asked=asked, looks=looks, ways=ways)


@router.get("/jobs/{job_id}/white-cost")
def white_cost(job_id: str, desk: Desk, print: str = "") -> tuple[WhiteCost, ...]:
    """What a print takes of white at levels from following the picture to solid."""
    return desk.white_costs.look(job_id, print)


@router.post("/jobs/{job_id}/try", response_model=LineOut)
async def try_decision(job_id: str, wanted: TryIn, desk: Desk, request: Request) -> Response:
    """The line as it would be; nothing is saved."""
    found = await looked_at(request, job_id, _attempted, job_id, wanted)
    return Response(found, media_type="application/json", headers=wait_told(request))


def _attempted(desk: Services, job_id: str, wanted: TryIn) -> str:
    seen = desk.jobs.attempt(job_id, wanted.station, wanted.body, wanted.print, wanted.kind)
    return _line_out(desk, seen).model_dump_json()


@router.put("/jobs/{job_id}/decisions/{station}")
def decide(job_id: str, station: str, save: SaveIn, desk: Desk, person: Person) -> JobOut:
    """Save one station's document on the revision it was read at."""
    refuse_others(save.by, person)
    desk.jobs.decide(job_id, station, save.body, save.base, person, save.print)
    return job_out(desk, job_id, person, save.print)


@router.post("/jobs/{job_id}/undo")
def undo(job_id: str, desk: Desk, person: Person) -> JobOut:
    """Take back one's own last decision; the answer is seen from the print it was of."""
    return job_out(desk, job_id, person, desk.jobs.undo(job_id, person))


@router.post("/jobs/{job_id}/redo")
def redo(job_id: str, desk: Desk, person: Person) -> JobOut:
    """Do again what one's own undo took back."""
    return job_out(desk, job_id, person, desk.jobs.redo(job_id, person))


@router.post("/jobs/{job_id}/prints", status_code=201)
def add_print(job_id: str, new: AddPrintIn, desk: Desk, person: Person) -> JobOut:
    """One more print on the piece."""
    return job_out(desk, job_id, person, desk.orders.add_print(job_id, new.place, person))


@router.post("/jobs/{job_id}/names")
def take_names(job_id: str, file: Annotated[UploadFile, File()], desk: Desk, person: Person, print: str = "") -> JobOut:
    """A CSV of names: numbered pieces, each with its own text."""
    desk.orders.take_names(job_id, file.file.read(MOST_BYTES + 1), person)
    return job_out(desk, job_id, person, print)


@router.post("/jobs/{job_id}/agreed")
def agree(job_id: str, given: AgreedIn, desk: Desk, person: Person) -> JobOut:
    """The customer accepts a quotation: so many pieces at that price."""
    desk.orders.agree(job_id, given.pieces, given.price, given.by, person)
    return job_out(desk, job_id, person)


@router.post("/jobs/{job_id}/again", status_code=201)
def make_again(job_id: str, wanted: AgainIn, desk: Desk, person: Person) -> Made:
    """The same decisions as a new job."""
    return Made(id=desk.orders.again(job_id, wanted.due, person))


def job_out(desk: Services, job_id: str, person: str, print_id: str = "", kind: str = "") -> JobOut:
    seen = desk.jobs.look(job_id, person, print_id, kind)
    job, line, done = seen.job, seen.line, standing(seen.job.acts)
    printed = {
        r.id: sum(a.body.count for a in done if isinstance(a.body, Printed) and a.body.run == r.id) for r in job.runs
    }
    prepared: dict[str, dict[str, int]] = {r.id: {} for r in job.runs}
    for a in done:
        if isinstance(a.body, Prepared) and a.body.run in prepared:
            of_run = prepared[a.body.run]
            of_run[a.body.stage] = of_run.get(a.body.stage, 0) + a.body.count
    stands, why = job_standing(job.acts)
    signatures = line.ledger.demand.signatures()
    wanted = {s for s in signatures if line.ledger.to_print_of(s)}
    offers = tuple(desk.leftovers.left(wanted)) if wanted and stands == "open" else ()
    return JobOut(
        id=job.id, print=job.print, kind=line.kind,
        prints=tuple(PrintTab(id=p.id, name=line.books.print_names[p.id], place=p.decisions.place.place,
                              has_art=bool(p.facts or p.texts), pieces=sum(line.ledger.to_press(p.id).values())) for p in job.prints),
        passes=line.passes, line=_line_out(desk, seen), revisions=job.revisions, authors=job.authors,
        ledger=ledger_out(line, desk.jobs.last_stages(seen)), runs=tuple(run_out(r, printed[r.id], prepared[r.id], tuple(desk.jobs.title(j) for j in r.others)) for r in job.runs),
        acts=job.acts, offers=offers, proof=proof_of(job.acts, line.variants, wanted=seen.shop.proof_wanted),
        can_undo=job.can_undo, can_redo=job.can_redo, standing=stands, why=why, is_closed=stands == "closed",
    )  # fmt: skip


def _line_out(desk: Services, seen: JobLine) -> LineOut:
    line = seen.line
    key, is_ready = desk.runs.plates_at(seen)
    return LineOut(
        stations=line.stations, readings=line.readings, pictures=picture_set(seen), decisions=seen.job.decisions, way=line.way, makes=line.makes,
        plates_key=key, plates_ready=is_ready,
        run_pictures=tuple(f"/api/pictures/{desk.jobs.remember(desk.jobs.scene(seen.job, v, line=seen))}/carrier.png" for v in line.on_run),
    )  # fmt: skip


def card_out(view: CardView) -> JobCard:
    told, key = view.standing, view.picture_key
    return JobCard(
        **told.model_dump(exclude={"uses", "garment"}), garment=told.garment,
        picture=f"/api/pictures/{key}/cloth.png" if key else None,
    )  # fmt: skip
