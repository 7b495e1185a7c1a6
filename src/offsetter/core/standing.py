"""Where a job stands, kept with it: what Jobs shows and finds without working the job out."""

import re
import unicodedata
from datetime import datetime

from offsetter.core.acts import Act, Closed, Standing, job_standing, standing
from offsetter.core.decisions import OrderDoc
from offsetter.core.line import Line
from offsetter.core.results import GarmentDrawing, OrderDrawing, State, StationName, StationResult
from offsetter.core.runs import Run
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

WORST_FIRST: tuple[State, ...] = ("out of date", "blocked", "needs you", "ready", "open", "done", "not needed")
URGENT: tuple[State, ...] = ("out of date", "blocked")
WANTS_SOMEONE: tuple[State, ...] = (*URGENT, "needs you", "ready")
WORD = re.compile(r"\w+")
LONGEST_WORD = 40


class StandingTold(Frozen):
    """What a list shows of a whole job, over all its prints."""

    id: str
    title: str
    customer: str
    due: datetime
    stands: Standing
    why: str
    ended_at: datetime | None
    """When it was closed or cancelled."""
    pieces: int
    good: int
    next_station: StationName
    next_state: State
    next_verdict: str
    needs_person: bool
    states: tuple[tuple[StationName, State], ...]
    garment: GarmentDrawing | None
    codes: tuple[str, ...]
    """Of its runs, as they stand on labels."""


class JobStanding(StandingTold):
    """What is kept of it."""

    uses: tuple[str, ...]
    """Plates and pictures that it was worked out from: work that makes one anew may change it."""

    @property
    def words(self) -> frozenset[str]:
        """What the job is found by: every word of its title and customer, and its codes."""
        return words_of(f"{self.title} {self.customer} {' '.join(self.codes)}")


def words_of(text: str) -> frozenset[str]:
    """Its words as they are looked for: small letters, no accents."""
    plain = "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))
    return frozenset(w[:LONGEST_WORD] for w in WORD.findall(plain))


def standing_of(
    job: str, order: OrderDoc, lines: tuple[Line, ...], runs: tuple[Run, ...], acts: tuple[Act, ...]
) -> JobStanding:
    """lines: of each print, the first print's first."""
    stands, why = job_standing(acts)
    stations = _worst(lines)
    # What is urgent anywhere comes before what is merely next.
    urgent = [s for s in stations if s.state in URGENT]
    waiting = [s for s in stations if s.state in WANTS_SOMEONE]
    chosen = (urgent or waiting or [stations[-1]])[0]
    drawing = lines[0].station("order").drawing
    done = [a for a in standing(acts) if isinstance(a.body, Closed) or a.body.kind == "cancelled"]
    return JobStanding(
        id=job, title=order.title, customer=order.customer, due=order.due, stands=stands, why=why,
        ended_at=max((a.at for a in done), default=None) if stands in ("closed", "cancelled") else None,
        pieces=order.pieces, good=sum(lines[0].ledger.still_good.values()), next_station=chosen.station, next_state=chosen.state,
        next_verdict=say("Held: {why}", why=why) if stands == "held" else say("Cancelled: {why}", why=why) if stands == "cancelled" else chosen.verdict,
        needs_person=stands == "open" and any(s.state in (*URGENT, "needs you") for s in stations),
        states=tuple((s.station, s.state) for s in stations), garment=drawing.garment if isinstance(drawing, OrderDrawing) else None,
        codes=tuple(f"R{r.number}" for r in runs),
        uses=tuple(sorted({u for v in lines[0].variants for u in (v.spec.key, v.artwork)})),
    )  # fmt: skip


def _worst(lines: tuple[Line, ...]) -> tuple[StationResult, ...]:
    """Each station as the print sees it that needs it most; the first print's where they agree."""
    of = [{s.station: s for s in line.stations} for line in lines]
    return tuple(
        min((by[s.station] for by in of if s.station in by), key=lambda r: WORST_FIRST.index(r.state))
        for s in lines[0].stations
    )
