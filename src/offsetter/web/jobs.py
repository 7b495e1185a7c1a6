"""Jobs over the wire: thin; every write is one use case of the desk."""

from fastapi import APIRouter

from offsetter.core import derive
from offsetter.core.acts import Closed, Printed, standing
from offsetter.desk.jobs import JobLine
from offsetter.web.schemas import (
    JobCard,
    JobOut,
    LineOut,
    Made,
    NewJob,
    SaveIn,
    ShopOut,
    TryIn,
    ledger_out,
    picture_set,
    run_out,
)
from offsetter.web.services import Desk, Person, Services

router = APIRouter(prefix="/api")
WANTS_SOMEONE = ("out of date", "blocked", "needs you", "ready")


@router.get("/shop")
def read_shop(desk: Desk) -> ShopOut:
    """The shop's own things to choose from."""
    shop, _ = desk.jobs.shop()
    return ShopOut(
        name=shop.name, currency=shop.prices.currency, blanks=tuple(shop.blanks.values()), printers=tuple(shop.printers.values()),
        presses=tuple(shop.presses.values()), ovens=tuple(shop.ovens.values()), recipes=tuple(shop.recipes.values()),
        proposed_way=derive.proposed_way(shop, desk.jobs.profile), now=desk.base.now(),
    )  # fmt: skip


@router.get("/jobs")
def list_jobs(desk: Desk) -> list[JobCard]:
    """Every job, what it needs next first by due time."""
    cards = [_card(desk.jobs.look(i)) for i in desk.jobs.ids()]
    return sorted(cards, key=lambda c: (c.is_closed, c.due))


@router.post("/jobs", status_code=201)
def create_job(new: NewJob, desk: Desk, person: Person) -> Made:
    """Take an order at the counter."""
    return Made(id=desk.jobs.create(new.order, person))


@router.get("/jobs/{job_id}")
def read_job(job_id: str, desk: Desk, person: Person) -> JobOut:
    """The job with its whole line."""
    return job_out(desk, job_id, person)


@router.post("/jobs/{job_id}/try")
def try_decision(job_id: str, wanted: TryIn, desk: Desk) -> LineOut:
    """The line as it would be; nothing is saved."""
    return _line_out(desk, desk.jobs.attempt(job_id, wanted.station, wanted.body))


@router.put("/jobs/{job_id}/decisions/{station}")
def decide(job_id: str, station: str, save: SaveIn, desk: Desk, person: Person) -> JobOut:
    """Save one station's document on the revision it was read at."""
    desk.jobs.decide(job_id, station, save.body, save.base, person)
    return job_out(desk, job_id, person)


@router.post("/jobs/{job_id}/undo")
def undo(job_id: str, desk: Desk, person: Person) -> JobOut:
    """Take back one's own last decision."""
    desk.jobs.undo(job_id, person)
    return job_out(desk, job_id, person)


@router.post("/jobs/{job_id}/redo")
def redo(job_id: str, desk: Desk, person: Person) -> JobOut:
    """Do again what one's own undo took back."""
    desk.jobs.redo(job_id, person)
    return job_out(desk, job_id, person)


def job_out(desk: Services, job_id: str, person: str) -> JobOut:
    seen = desk.jobs.look(job_id, person)
    job, done = seen.job, standing(seen.job.acts)
    printed = {
        r.id: sum(a.body.count for a in done if isinstance(a.body, Printed) and a.body.run == r.id) for r in job.runs
    }
    return JobOut(
        id=job.id, line=_line_out(desk, seen), revisions=job.revisions, authors=job.authors, ledger=ledger_out(seen.line.ledger),
        runs=tuple(run_out(r, printed[r.id]) for r in job.runs), acts=job.acts, can_undo=job.can_undo, can_redo=job.can_redo,
        is_closed=any(isinstance(a.body, Closed) for a in done),
    )  # fmt: skip


def _line_out(desk: Services, seen: JobLine) -> LineOut:
    line, spec = seen.line, seen.line.spec
    return LineOut(
        stations=line.stations, readings=line.readings, pictures=picture_set(seen), decisions=seen.job.decisions, way=line.way,
        plates_key=spec.key if spec else None, plates_ready=bool(spec and desk.jobs.device_measure(spec)),
    )  # fmt: skip


def _card(seen: JobLine) -> JobCard:
    line, order = seen.line, seen.job.decisions.order
    closed = any(isinstance(a.body, Closed) for a in standing(seen.job.acts))
    # What is urgent anywhere comes before what is merely next.
    urgent = [s for s in line.stations if s.state in ("out of date", "blocked")]
    waiting = [s for s in line.stations if s.state in WANTS_SOMEONE]
    chosen = (urgent or waiting or [line.stations[-1]])[0]
    drawing = line.station("order").drawing
    pictures = picture_set(seen)
    return JobCard(
        id=seen.job.id, title=order.title, customer=order.customer, due=order.due, pieces=order.line.pieces,
        good=sum(line.ledger.still_good.values()), blank=order.line.blank, cloth=getattr(getattr(drawing, "garment", None), "colour", "#888888"),
        next_station=chosen.station, next_state=chosen.state, next_verdict=chosen.verdict,
        states=tuple((s.station, s.state) for s in line.stations), picture=pictures.cloth if pictures else None, is_closed=closed,
        garment=drawing.garment.model_dump(mode="json") if drawing is not None and hasattr(drawing, "garment") else None,
    )  # fmt: skip
