"""The way back from a code on a label or ticket to how the thing was made."""

import re
from datetime import datetime

from offsetter.core.acts import Act, Photographed, Prepared, Pressed, Printed, Spoiled, standing
from offsetter.core.quantities import a_heat
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.store.runs import RunStore

CODE = re.compile(r"^[Rr]?(\d{1,9})(?:-(\d{1,6}))?$")


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


class Codes:
    def __init__(self, base: Base, jobs: Jobs) -> None:
        self._base, self._jobs = base, jobs

    def trace(self, code: str) -> Making:
        """From a code on a label or ticket (R12, or R12-7) to how it was made."""
        read = CODE.match(code.strip())
        with self._base.session() as session:
            run = RunStore(session).numbered(int(read[1])) if read else None
        if read is None or run is None:
            raise Refusal("no-such-code", say("“{code}” is no code of this shop.", code=code[:20]), say("Nothing was changed."),
                          say("A code looks like R12 or R12-7: it stands beside every print and on the ticket."))  # fmt: skip
        place = int(read[2]) if read[2] and 1 <= int(read[2]) <= run.copies else None
        lies = run.plan.items[run.plan.layout.places[place - 1].sort] if place else None
        # Of a run that carries several jobs, a print leads to its own.
        if place and lies and lies.job:
            run = run.part_of(lies.job)
        here = next((i for i in run.plan.items if lies is not None and i.signature == lies.signature), None)
        stored = self._jobs.kept.read(run.job)
        shop, _ = self._jobs.shop()
        labels = self._jobs.labels(stored)
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
                MadePiece(label=(f"{a.body.count} x " if a.body.count > 1 else "") + labels.get(a.body.slot, a.body.size), print_name=next((i.name for i in run.plan.items if i.signature == a.signature), ""),
                          at=a.at, by=a.actor, press=shop.presses[a.body.press].name if a.body.press in shop.presses else "",
                          stages=tuple(f"{names.get(s.stage, s.stage)} {s.ran_s:.0f} s" + (say(" at {temperature}", temperature=a_heat(s.temperature_c)) if s.temperature_c else "") for s in a.body.stages))
                for a in pieces if isinstance(a.body, Pressed)
            ),
            photos=tuple(a.body.file for a in done if isinstance(a.body, Photographed)),
        )  # fmt: skip


def _said(act: Act, run: str, names: dict[str, str]) -> str:
    body = act.body
    if isinstance(body, Printed) and body.run == run:
        return say("{count} printed", count=body.count) + (say(", lot {lot}", lot=body.lot) if body.lot else "")
    if isinstance(body, Prepared) and body.run == run:
        return f"{names.get(body.stage, body.stage)}: {body.count}"
    if isinstance(body, Spoiled):
        return say(
            "{count} {what} spoiled at {names}: {cause}",
            count=body.count,
            what=body.what,
            names=names.get(body.stage, body.stage).lower(),
            cause=body.cause,
        )
    return ""
