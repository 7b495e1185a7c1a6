"""The job ticket: on paper beside the work, what the screen says."""

from collections.abc import Callable
from datetime import datetime

from offsetter.core.acts import job_standing
from offsetter.core.context import Context
from offsetter.core.decisions import kind_of, number_of
from offsetter.core.prints import slots_of
from offsetter.core.quantities import a_length
from offsetter.core.results import LoadDrawing
from offsetter.core.sentences import a_day, say
from offsetter.core.values import Refusal
from offsetter.core.wording import several
from offsetter.desk.jobs import JobLine, Jobs
from offsetter.desk.proofs import Proofs
from offsetter.formats.ticket_pdf import Ticket, TicketPrint, write_ticket


class Tickets:
    def __init__(self, jobs: Jobs, proofs: Proofs, local: Callable[[datetime], datetime]) -> None:
        """local: into the shop's own time zone."""
        self._jobs, self._proofs, self._local = jobs, proofs, local

    def pdf(self, job_id: str) -> bytes:
        """A page a print. Raises Refusal while there is no artwork."""
        stored = self._jobs.kept.read(job_id)
        order, shop = stored.order, self._jobs.shop()[0]
        pages = [page for p in order.prints if (page := self._print(job_id, p)) is not None]
        if not pages:
            raise Refusal(
                "no-artwork",
                say("There is nothing to make yet."),
                say("Nothing was made."),
                say("Add the artwork first."),
            )
        stands, why = job_standing(stored.acts)
        return write_ticket(Ticket(
            title=order.title, customer=order.customer, due=_due(self._local(order.due)), pieces=several(order.pieces, "piece"),
            code=code_of(job_id), shop=shop.name, note="" if stands == "open" else STANDS[stands] + (f": {why}" if why else ""), prints=tuple(pages),
        ))  # fmt: skip

    def _print(self, job_id: str, print_id: str) -> TicketPrint | None:
        seen = self._jobs.look(job_id, "", print_id)
        shown = self._proofs.shown(seen.job, print_id)
        if shown is None:
            return None
        ctx = Context(self._jobs.inputs(seen.job))
        labels, here = self._jobs.labels(seen.job), ctx.pass_here
        heading = say("{name}, on {cloth_name}", name=shown.name, cloth_name=shown.cloth_name) + (say(" · print {number} of {of}", number=here.number, of=here.of) if here and here.of > 1 else "")  # fmt: skip
        load = seen.line.station("print").drawing
        slots = slots_of(ctx.order, ctx.place)
        texts = {n.number: n.text for n in ctx.order.names}
        counts = tuple(
            (f"{labels.get(s, s)}{': ' + texts[n] if (n := number_of(s)) and n in texts else ''}", 1 if number_of(s) else ctx.ledger.ordered[kind_of(s)])
            for s in slots
        )  # fmt: skip
        return TicketPrint(
            proof=shown, heading=heading, said=_said(ctx, seen), load=tuple(x for x in load.steps if x) if isinstance(load, LoadDrawing) else (),
            counts=counts, stages=ctx.stages_here if ctx.way else (),
        )  # fmt: skip


STANDS = {"held": say("Held"), "cancelled": say("Cancelled"), "closed": say("Closed")}


def _due(at: datetime) -> str:
    return f"{a_day(at, 'short weekday')} {a_day(at, 'short')}, {at:%H:%M}"


def code_of(job_id: str) -> str:
    """What opens a job, read from its ticket."""
    return f"J-{job_id}"


def _said(ctx: Context, seen: JobLine) -> tuple[tuple[str, str], ...]:
    if ctx.way is None:
        return ((say("Way"), say("not decided yet")),)
    mode = next((m.name for m in ctx.printer.modes if m.id == ctx.gone.mode), ctx.gone.mode)
    white = ctx.variant.spec.white if ctx.variant else None
    choke = white.choke_um / 1000 if white else 0.0
    runs = ", ".join(f"R{r.number} ({n})" for r in seen.job.runs if r.state == "released" and (n := sum(r.laid()[v.signature] for v in ctx.own)))  # fmt: skip
    here = ctx.pass_here
    told = {
        say("Way"): say("{name} on {name2}, {mode}", name=ctx.method.name, name2=ctx.printer.name, mode=mode),
        say("Medium"): ctx.feed.media.replace("-", " "),
        say("Mirror"): say("in the file already; the printer's own OFF")
        if ctx.method.mirror
        else say("none; the printer's own OFF"),
        say("White"): say("{said}, pulled in {choke}", said=white.said, choke=a_length(choke, 2)) if white else "",
        say("Press"): say("{press}, cured in {oven}", press=ctx.press.name, oven=ctx.oven.name)
        if ctx.oven and ctx.cures_in == "oven"
        else ctx.press.name,
        say("Lies"): here.turn if here else "",
        say("Shield"): here.shield if here else "",
        say("Runs"): runs,
    }
    return tuple((name, value) for name, value in told.items() if value)
