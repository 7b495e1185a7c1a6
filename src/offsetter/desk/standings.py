"""Where jobs stand, as it is kept: read in pages, brought up to the shop's facts, folded anew on request."""

import logging

from sqlalchemy.exc import SQLAlchemyError

from offsetter.core.counted_sheets import fold_sheets
from offsetter.core.leftovers import fold_lots
from offsetter.core.remaining import WorkLeft
from offsetter.core.sentences import say
from offsetter.core.standing import JobStanding
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.logbook import Logbook
from offsetter.desk.pages import mark, read_mark
from offsetter.desk.scenes import Scene
from offsetter.store.acts import ActStore
from offsetter.store.counted_sheets import CountedSheetStore
from offsetter.store.decisions import DecisionStore
from offsetter.store.lots import LotStore
from offsetter.store.standings import Counts, KeptStanding, StandingStore, Unreadable, Which
from offsetter.store.stock import StockStore

log = logging.getLogger("offsetter")
PAGE = 40
SMALLEST = 0.01
"""Of an item's amount: less is the last digit of a sum."""
LOT_KINDS = ("stored", "fetched")
SHEET_KINDS = ("renewed", "pressed")


class CardView(Frozen):
    standing: JobStanding
    picture_key: str | None


class BrokenJob(Frozen):
    """A job that cannot be worked out."""

    id: str
    why: str


class Page(Frozen):
    broken: tuple[BrokenJob, ...]
    cards: tuple[CardView, ...]
    following: str | None
    """Asks for the page after this one; None: this is the last."""
    open: int
    needs_person: int
    late: int
    held: int


class Differs(Frozen):
    """Something kept that is not what folding anew gives."""

    what: str
    kept: str
    anew: str


class Standings:
    def __init__(self, base: Base, jobs: Jobs, logbook: Logbook) -> None:
        self._base, self._jobs, self._logbook = base, jobs, logbook
        base.work.after("lettering", lambda read: self.made(read["ref"]))
        self._is_caught_up = False
        self._broken: dict[str, str] = {}
        """Jobs that cannot be worked out, and why: one of them takes no more than itself from a list."""

    def page(self, which: Which = "open", words: str = "", after: str = "") -> Page:
        """Jobs of a kind that hold every word typed. Raises Refusal for a page that is not one of ours."""
        self.catch_up()
        self.bring_up()
        found, counts = self._read(which, words, after)
        cards = tuple(self._card(k) for k in found[:PAGE])
        broken = tuple(BrokenJob(id=i, why=w) for i, w in sorted(self._broken.items()))
        return Page(
            broken=broken, cards=cards, following=_mark(found[PAGE - 1].standing) if len(found) > PAGE else None,
            open=counts.open, needs_person=counts.needs_person, late=counts.late, held=counts.held,
        )  # fmt: skip

    def _read(self, which: Which, words: str, after: str) -> tuple[list[KeptStanding], Counts]:
        now, mark_read = self._base.now(), read_mark(after)
        for _ in range(2 * PAGE):
            try:
                with self._base.session() as session:
                    store = StandingStore(session, self._broken)
                    return store.page(which, words, now, PAGE + 1, mark_read), store.counts(now)
            except Unreadable as row:
                # Another version kept it: this one works it out for itself.
                self.again(row.job_id)
        raise Refusal("jobs-unreadable", say("Too many jobs were kept by another version of Offsetter."), say("They are as they were."),
                      say("Run ./offsetter refold once."))  # fmt: skip

    def cards(self, job_ids: list[str]) -> tuple[CardView, ...]:
        """Of these jobs, in this order; what another version kept is left out."""
        with self._base.session() as session:
            store = StandingStore(session)
            found = [kept for job in job_ids if (kept := store.find(job)) is not None]
        return tuple(self._card(k) for k in found)

    def bring_up(self) -> None:
        """Open jobs whose standing was worked out with other facts of the shop are worked out with today's."""
        edition = self._jobs.shops.edition()
        with self._base.session() as session:
            behind = StandingStore(session).outdated(edition)
        for job_id in behind:
            if not self.again(job_id):
                with self._base.session() as session, session.begin():
                    StandingStore(session).seen_with(job_id, edition)

    def open_work(self, most: int) -> list[tuple[JobStanding, WorkLeft]]:
        """Open jobs, the next due first, with what is left to do of each: today's facts, none of another version."""
        self.catch_up()
        self.bring_up()
        for is_last in (False, True):
            with self._base.session() as session:
                rows = StandingStore(session).work(most)
            behind = [told.id for told, work in rows if work is None]
            if not behind or is_last:
                break
            for job_id in behind:
                self.again(job_id)
        return [(told, work or WorkLeft()) for told, work in rows]

    def again(self, job_id: str) -> bool:
        """Work out where a job stands, and say whether that could be done."""
        try:
            with self._jobs.changing(job_id):
                pass
        except SQLAlchemyError:
            raise
        except Exception as error:  # whatever is wrong with one job, the others are shown
            log.error("job %s cannot be worked out", job_id, exc_info=error)
            self._broken[job_id] = (
                error.happened if isinstance(error, Refusal) else say("Something of it cannot be read.")
            )
            return False
        self._broken.pop(job_id, None)
        return True

    def made(self, key: str) -> None:
        """Plates or a picture's lettering were made: open jobs that were judged without them are judged again."""
        with self._base.session() as session:
            using = StandingStore(session).using(key)
        for job_id in using:
            self.again(job_id)

    def catch_up(self) -> int:
        """Give every job of a version that kept none its standing, and the stores their rows; says how many jobs."""
        if self._is_caught_up:
            return 0
        with self._base.session() as session:
            missing = StandingStore(session).missing()
        if missing:
            self._fold_stores()
        for job_id in missing:
            if self.again(job_id):
                self._logbook.write_missing(job_id)
        self._is_caught_up = True
        return len(missing)

    def refold(self) -> list[Differs]:
        """Work everything kept out anew, put right what differed, and say it."""
        found = self._fold_stores()
        edition = self._jobs.shops.edition()
        with self._base.session() as session:
            job_ids = DecisionStore(session).job_ids()
        for job_id in job_ids:
            with self._base.session() as session, session.begin():
                DecisionStore(session).lock(job_id)
                store = StandingStore(session)
                kept, anew = store.find(job_id), self._jobs.standing(session, job_id, anew=True)
                same_facts = kept is not None and kept.edition == edition
                # With other facts of the shop a difference is none: open jobs are brought up to them at the next look.
                differs = kept is None or kept.standing != anew.standing or store.work_of(job_id) != anew.work
                if kept is None or (same_facts and differs):
                    found.append(
                        Differs(what=say("standing of job {job_id}", job_id=job_id), kept=_told(kept), anew=_told(anew))
                    )
                    store.save(anew)
                if StockStore(session).move(job_id, anew.moves, self._base.now().date()):
                    found.append(
                        Differs(
                            what=say("stock that job {job_id} takes", job_id=job_id),
                            kept=say("something else"),
                            anew=str(anew.moves.taken),
                        )
                    )
        return found + self._fold_stock()

    def _fold_stock(self) -> list[Differs]:
        """What lies in the store against the sum of its acts and of what the jobs took."""
        with self._base.session() as session:
            store = StockStore(session)
            acts, jobs = store.summed()
            return [
                Differs(
                    what=say("stock of {item}", item=item),
                    kept=f"{shelf.counted} {shelf.taken} {shelf.wanted}",
                    anew=f"{counted} {taken} {wanted}",
                )
                for item, shelf in store.shelves().items()
                for counted, (taken, wanted) in [(acts.get(item, 0.0), jobs.get(item, (0.0, 0.0)))]
                if max(abs(shelf.counted - counted), abs(shelf.taken - taken), abs(shelf.wanted - wanted)) > SMALLEST
            ]

    def _fold_stores(self) -> list[Differs]:
        found = []
        with self._base.session() as session, session.begin():
            acts, lots, sheets = ActStore(session), LotStore(session), CountedSheetStore(session)
            known_lots, known_sheets = lots.every(), sheets.every()
            for lot in fold_lots(acts.every(LOT_KINDS)).values():
                kept = known_lots.pop(lot.id, None)
                if kept != lot:
                    found.append(
                        Differs(what=say("lot {id}", id=lot.id), kept=str(kept and kept.left), anew=str(lot.left))
                    )
                    lots.add(lot)
            for gone in known_lots.values():
                found.append(Differs(what=say("lot {id}", id=gone.id), kept=str(gone.left), anew="none"))
                lots.drop(gone.id)
            for at, sheet in fold_sheets(acts.every(SHEET_KINDS)).items():
                if known_sheets.get(at) != sheet:
                    was = known_sheets.get(at)
                    found.append(
                        Differs(
                            what=say("{cover} at {press}", cover=sheet.cover, press=sheet.press),
                            kept=str(was and was.used),
                            anew=str(sheet.used),
                        )
                    )
                    sheets.save(sheet)
        return found

    def _card(self, kept: KeptStanding) -> CardView:
        key = self._jobs.remember(Scene.model_validate(kept.scene)) if kept.scene else None
        return CardView(standing=kept.standing, picture_key=key)


def _told(kept: KeptStanding | None) -> str:
    if kept is None:
        return "none"
    told = kept.standing
    return say(
        "{next_station} {next_state}: {next_verdict}; {good} of {pieces} good",
        next_station=told.next_station,
        next_state=told.next_state,
        next_verdict=told.next_verdict,
        good=told.good,
        pieces=told.pieces,
    )


def _mark(last: JobStanding) -> str:
    return mark(last.ended_at or last.due, last.id)
