"""Sheets that several jobs share: made of what is ready, laid by the search or by hand, released as one run."""

import json
import secrets
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import timedelta

import numpy as np
from pydantic import TypeAdapter, ValidationError
from sqlalchemy.orm import Session

from offsetter.core import derive
from offsetter.core.compute import gang
from offsetter.core.compute.cost import cents
from offsetter.core.compute.gang import Laid, Room
from offsetter.core.compute.sheet import Points, Want
from offsetter.core.facts import Shop
from offsetter.core.gang import MOST_LOTS, GangLot, GangSheet, ToLay
from offsetter.core.prints import Variant, at_slant
from offsetter.core.remaining import WorkLeft
from offsetter.core.runs import Run
from offsetter.core.sentences import a_day, listed, say
from offsetter.core.standing import JobStanding
from offsetter.core.values import Refusal, digest
from offsetter.desk.base import Base
from offsetter.desk.bounded import Bounded
from offsetter.desk.gang_view import (
    Beds,
    BedView,
    SheetView,
    Tried,
    brief_of,
    lot_view,
    medium_price,
    minutes_of,
    named_of,
    on_sheet,
    piece_view,
)
from offsetter.desk.jobs import JobLine, Jobs
from offsetter.desk.pictures import Pictures
from offsetter.desk.runs import Runs
from offsetter.desk.standings import Standings
from offsetter.desk.today import MOST_JOBS, Today
from offsetter.store.gangs import GangStore
from offsetter.work.runner import SO_FAR

MOST_OPEN, KEPT = 30, 400
UNCHANGED = say("The sheet is as it was.")
LAID = TypeAdapter(tuple[Laid, ...])


class Gangs:
    def __init__(
        self, base: Base, jobs: Jobs, runs: Runs, standings: Standings, today: Today, pictures: Pictures
    ) -> None:
        self._base, self._jobs, self._runs, self._standings, self._today = base, jobs, runs, standings, today
        self._pictures = pictures
        self._outlines: Bounded[Points] = Bounded(KEPT)
        self._judged: Bounded[tuple[str, ...]] = Bounded(KEPT)

    def beds(self) -> Beds:
        """What is ready to be laid together, by what prints it, and the sheets that are open."""
        shop = self._jobs.shop()[0]
        rows = self._standings.open_work(MOST_JOBS)
        with self._base.session() as session:
            sheets = GangStore(session).open(MOST_OPEN)
        taken = {lot.key for s in sheets for lot in s.lots}
        found: defaultdict[str, list[tuple[JobStanding, ToLay]]] = defaultdict(list)
        for told, work in rows:
            for lot in work.to_lay:
                if not lot.is_laid and (told.id, lot.print, lot.slot) not in taken:
                    found[lot.bed].append((told, lot))
        beds = tuple(
            BedView(id=bed, lots=tuple(lot_view(told, lot) for told, lot in lots), **named_of(shop, lots[0][1])) for bed, lots in found.items()
        )  # fmt: skip
        titles = {told.id: told.title for told, _ in rows}
        # What can be laid together at once comes first, by the first that is due.
        beds = tuple(sorted(beds, key=lambda b: (sum(not x.waits for x in b.lots) < 2, b.lots[0].due, b.id)))
        return Beds(ready=beds, open=tuple(brief_of(shop, s, rows, titles) for s in sheets))

    def make(self, lots: tuple[GangLot, ...], person: str) -> SheetView:
        """A sheet of these, laid at once and made better behind. Raises Refusal where they cannot lie together."""
        known = self._known(self._standings.open_work(MOST_JOBS))
        sized, bed = self._sized(lots, known)
        sheet = GangSheet(id=secrets.token_hex(6), bed=bed, lots=sized, room=self._room(sized, None), made_by=person)
        laid = sheet.model_copy(update={"laid": gang.lay_gang(sheet.pieces, sheet.room)})
        with self._base.session() as session, session.begin():
            GangStore(session).save(laid, self._base.now())
        return self.look(sheet.id)

    def change(
        self, sheet_id: str, lots: tuple[GangLot, ...], gap_um: int | None, base: int, *, by_outline: bool | None = None
    ) -> SheetView:  # fmt: skip
        """Other lots, counts, turns or another gap: what is pinned stays where it can, the rest is laid anew.

        by_outline: whether prints lie by what is inked of them or by their boxes; None: as before.
        """
        known = self._known(self._standings.open_work(MOST_JOBS))
        sized, bed = self._sized(lots, known)
        with self._changing(sheet_id, base) as (session, sheet):
            if bed != sheet.bed:
                raise Refusal("another-bed", say("These are printed another way than what lies on the sheet."), UNCHANGED, say("Make a sheet of their own."))  # fmt: skip
            room = self._room(sized, sheet.room.gap_um if gap_um is None else gap_um)
            room = room.model_copy(update={"by_outline": sheet.room.by_outline if by_outline is None else by_outline})
            self._save(session, self._laid_anew(self._outlined(sheet.model_copy(update={"lots": sized, "room": room}))))
        return self.look(sheet_id)

    def again(self, sheet_id: str, base: int, *, unpinned: bool = False) -> SheetView:
        """Lay it anew around what is pinned, with the prints as they are decided now. unpinned: every pin is taken out first."""
        known = self._known(self._standings.open_work(MOST_JOBS))
        with self._changing(sheet_id, base) as (session, sheet):
            sized, _ = self._sized(sheet.lots, known)
            laid = () if unpinned else sheet.laid
            room = self._room(sized, sheet.room.gap_um).model_copy(update={"by_outline": sheet.room.by_outline})
            changed = sheet.model_copy(update={"lots": sized, "laid": laid, "room": room})
            self._save(session, self._laid_anew(self._outlined(changed)))
        return self.look(sheet_id)

    def try_move(self, sheet_id: str, moved: Laid) -> Tried:
        """Where a print would lie that is let go there, drawn to its neighbours' edges, and why it may not; nothing is kept."""
        with self._base.session() as session:
            sheet = self._shown(_found(GangStore(session).find(sheet_id)))
        return _tried(sheet, moved)

    def move(self, sheet_id: str, moved: Laid, base: int) -> SheetView:
        """Lay one print elsewhere and pin it there; all others stay."""
        with self._changing(sheet_id, base) as (session, kept):
            sheet = self._shown(kept)
            found = _tried(sheet, moved)
            if found.refused:
                raise Refusal(
                    "lies-badly",
                    say("It cannot lie there: {refused}.", refused=found.refused),
                    UNCHANGED,
                    say("Lay it elsewhere."),
                )
            now = moved.model_copy(update={"x_um": found.x_um, "y_um": found.y_um, "pinned": True})
            laid = tuple(now if p.id == moved.id else p for p in sheet.laid)
            self._save(session, sheet.model_copy(update={"laid": laid, "by_hand": True}))
        return self.look(sheet_id)

    def pin(self, sheet_id: str, piece: str, base: int, *, out: bool) -> SheetView:
        """Keep one print where it is, or let the search have it again."""
        with self._changing(sheet_id, base) as (session, kept):
            sheet = self._shown(kept)
            if piece not in {p.id for p in sheet.laid}:
                raise Refusal("no-such-piece", say("That print is not on the sheet."), UNCHANGED, say("Look at it as it is now."))  # fmt: skip
            laid = tuple(p.model_copy(update={"pinned": not out}) if p.id == piece else p for p in sheet.laid)
            self._save(session, sheet.model_copy(update={"laid": laid}))
        return self.look(sheet_id)

    def give_up(self, sheet_id: str) -> None:
        """Take the sheet apart: its jobs are as they were."""
        with self._base.session() as session, session.begin():
            store = GangStore(session)
            kept = _found(store.find(sheet_id, locked=True))
            store.save(kept, self._base.now(), is_open=False)
        self._end_search(kept)

    def look(self, sheet_id: str) -> SheetView:
        rows = self._standings.open_work(MOST_JOBS)
        with self._base.session() as session:
            kept = _found(GangStore(session).find(sheet_id))
            taken = {lot.key for s in GangStore(session).open(MOST_OPEN) for lot in s.lots}
        sheet, is_searching = self._shown(kept), self._search(kept)
        shop, known, titles = self._jobs.shop()[0], self._known(rows), {told.id: told for told, _ in rows}
        seen = self._seen(sheet)
        lines = [_variant(seen.get(lot.key[:2]), lot) for lot in sheet.lots]
        pieces = {p.id: p for p in sheet.pieces}
        problems = [*self._problems(sheet, known, titles, seen), *self._faults(sheet)[:3]]
        key, missing = self._plates(sheet, seen)
        lengths, alone = gang.lengths_um(sheet.laid, pieces, sheet.room), self._alone(sheet)
        length, way = sum(lengths), next((s.line.way for s in seen.values() if s.line.way), None)
        one = next((known[lot.key][1] for lot in sheet.lots if lot.key in known), None)
        if way is None or one is None:
            raise Refusal("nothing-to-print", say("Nothing on this sheet is to be printed any more."), UNCHANGED, say("Take the sheet apart."))  # fmt: skip
        printer = shop.printers[way.printer]
        mode = next((m for m in printer.modes if m.id == way.mode), printer.modes[0])
        minutes = minutes_of(length, sheet.room, mode.m2_per_h)
        late = self._late(sheet, minutes, mode.m2_per_h)
        area = sum(gang.inked_um2(p, sheet.room) for p in pieces.values())
        return SheetView(
            id=sheet.id, revision=sheet.revision, mirrored=shop.methods[way.method].mirror, room=sheet.room,
            lots=tuple(on_sheet(lot, titles.get(lot.job), known.get(lot.key, (None, None))[1], self._picture(shop, seen, lot, v), late.get(lot.job, ""))
                       for lot, v in zip(sheet.lots, lines, strict=True)),
            more=tuple(lot_view(told, lot) for key_of, (told, lot) in known.items() if lot.bed == sheet.bed and key_of not in taken and not lot.is_laid and not lot.waits),
            pieces=tuple(piece_view(sheet, pieces[p.id], p) for p in sheet.laid if p.id in pieces), cut_lengths_um=lengths, length_um=length,
            bound_um=gang.bound_um(sheet.pieces, sheet.room), alone_um=alone, waste_share=round(1 - area / (length * sheet.room.media_um), 4) if length else 0.0,
            saved=cents(medium_price(shop, way.printer, way.method, alone, sheet.room) - medium_price(shop, way.printer, way.method, length, sheet.room)), currency=shop.prices.currency,
            minutes=minutes, is_searching=is_searching, by_hand=sheet.by_hand, problems=tuple(problems), plates_key=key, plates_ready=not missing,
            **{k: v for k, v in named_of(shop, one).items() if k != "mode"},
        )  # fmt: skip

    def make_plates(self, sheet_id: str) -> str:
        """Start the full-size plates of everything on the sheet; gives the key to follow them by."""
        with self._base.session() as session:
            sheet = self._shown(_found(GangStore(session).find(sheet_id)))
        key, missing = self._plates(sheet, self._seen(sheet))
        self._runs.submit_plates(key, missing)
        return key

    def release(self, sheet_id: str, person: str, base: int) -> Run:
        """One run of all of it, frozen. Raises Refusal while anything on it is not as it must be."""
        known = self._known(self._standings.open_work(MOST_JOBS))
        with self._base.session() as session:
            kept = _found(GangStore(session).find(sheet_id))
        sheet = self._shown(kept)
        if sheet.revision != base:
            raise _changed()
        titles = {told.id: told for told, _ in known.values()}
        seen = self._seen(sheet)
        problems = self._problems(sheet, known, titles, seen)
        pieces = {p.id: p for p in sheet.pieces}
        faults = self._faults(sheet)
        if problems or faults:
            raise Refusal("not-ready", f"{(*problems, *faults)[0]}.", say("No run was released."), say("Put it right first, or take it off the sheet."))  # fmt: skip
        layout, lots = gang.run_layout(sheet.laid, pieces, sheet.room, sheet.lot_of)
        on_run = [
            (seen[sheet.lots[at].key[:2]], sheet.lots[at], sort.slant)
            for at, sort in zip(lots, layout.sorts, strict=True)
        ]
        run = self._runs.release_shared(
            tuple((look, at_slant(_needed(look, lot), slant)) for look, lot, slant in on_run), layout, person,
            lambda session: self._close(session, sheet),
        )  # fmt: skip
        self._end_search(kept)
        return run

    # What it is made of.

    def _known(self, rows: list[tuple[JobStanding, WorkLeft]]) -> dict[tuple[str, str, str], tuple[JobStanding, ToLay]]:
        return {(told.id, lot.print, lot.slot): (told, lot) for told, work in rows for lot in work.to_lay}

    def _sized(self, lots: tuple[GangLot, ...], known: dict[tuple[str, str, str], tuple[JobStanding, ToLay]]) -> tuple[tuple[GangLot, ...], str]:  # fmt: skip
        """The lots as they are decided now, and the bed that they share. Raises Refusal."""
        if not lots or len(lots) > MOST_LOTS or len({lot.key for lot in lots}) < len(lots):
            raise Refusal(
                "no-lots",
                say("A sheet carries 1 to {most_lots} lots, each once.", most_lots=MOST_LOTS),
                UNCHANGED,
                say("Choose them again."),
            )
        found: list[GangLot] = []
        beds: dict[str, str] = {}
        for lot in lots:
            told, now = known.get(lot.key, (None, None))
            if told is None or now is None:
                raise Refusal("nothing-to-print", say("One of these is not to be printed any more."), UNCHANGED, say("Take it off the sheet."))  # fmt: skip
            if now.is_laid:
                raise Refusal("laid-already", say("{title}, {name} lies on a released run already.", title=told.title, name=now.name), UNCHANGED, say("Print that run, or take it apart first."))  # fmt: skip
            if now.waits:
                raise Refusal("not-ready", say("{title} still waits for {waits}.", title=told.title, waits=now.waits), UNCHANGED, say("Finish that station first."))  # fmt: skip
            beds.setdefault(now.bed, told.title)
            found.append(lot.model_copy(update={"width_um": now.width_um, "height_um": now.height_um}))
        if len(beds) > 1:
            raise Refusal("another-bed", say("{beds} are printed or cured in different ways.", beds=listed(list(beds.values())[:2])), UNCHANGED, say("Lay together what has the same printer, mode, medium and cure."))  # fmt: skip
        return tuple(found), next(iter(beds))

    def _room(self, lots: tuple[GangLot, ...], gap_um: int | None) -> Room:
        """gap_um: None: the widest gap that any of the jobs asks for."""
        rooms = []
        for lot in lots:
            seen = self._jobs.look(lot.job, "", lot.print)
            if seen.line.way is not None:
                decisions = next(p.decisions for p in seen.job.prints if p.id == lot.print)
                rooms.append(gang.room_of(derive.layout_ask(self._jobs.shop()[0], decisions, seen.line.way, ())))
        if not rooms:
            raise Refusal("not-ready", say("None of these has a way yet."), UNCHANGED, say("Go through Method first."))
        return rooms[0].model_copy(update={"gap_um": max(r.gap_um for r in rooms) if gap_um is None else gap_um})

    def _outlined(self, sheet: GangSheet) -> GangSheet:
        """Each lot with the outline of what is inked of it, where the sheet is laid by outlines."""
        if not sheet.room.by_outline:
            return sheet.model_copy(update={"lots": tuple(x.model_copy(update={"outline": ()}) for x in sheet.lots)})
        seen = self._seen(sheet)
        lots = tuple(lot.model_copy(update={"outline": self._outline(_variant(seen.get(lot.key[:2]), lot))}) for lot in sheet.lots)  # fmt: skip
        return sheet.model_copy(update={"lots": lots})

    def _outline(self, variant: Variant | None) -> Points:
        """As it is printed; empty where a cutter boxes it in, and so nothing else may lie in its box."""
        from offsetter.core.compute.gang_shapes import outline_round

        cut = variant.cut if variant else None
        if variant is None or (cut and (cut.weed_boxes or cut.through)):
            return ()
        spec, more_um = variant.spec, max(0, cut.offset_um) if cut else 0
        key = digest("outline", spec.key, more_um)
        if key not in self._outlines:
            inked = self._pictures.bench.inked(spec)
            inked = np.ascontiguousarray(inked[:, ::-1]) if spec.mirrored else inked
            self._outlines[key] = outline_round(inked, *spec.printed_um, more_um=more_um)
        return self._outlines[key]

    def _seen(self, sheet: GangSheet) -> dict[tuple[str, str], JobLine]:
        found: dict[tuple[str, str], JobLine] = {}
        for lot in sheet.lots:
            if lot.key[:2] not in found:
                with suppress(Refusal):  # a job that cannot be read takes no more than itself
                    found[lot.key[:2]] = self._jobs.look(lot.job, "", lot.print)
        return found

    def _problems(
        self, sheet: GangSheet, known: dict[tuple[str, str, str], tuple[JobStanding, ToLay]], titles: dict[str, JobStanding],
        seen: dict[tuple[str, str], JobLine],
    ) -> list[str]:  # fmt: skip
        found = []
        for lot in sheet.lots:
            told, now = known.get(lot.key, (None, None))
            called = titles[lot.job].title if lot.job in titles else say("One job")
            if now is None or told is None:
                found.append(say("{called}: nothing of this is to be printed any more", called=called))
            elif now.waits:
                found.append(say("{called} waits for {waits}", called=called, waits=now.waits))
            elif now.is_laid:
                found.append(say("{called}: it lies on a released run already", called=called))
            elif now.bed != sheet.bed:
                found.append(say("{called} is printed or cured another way now", called=called))
            elif (now.width_um, now.height_um) != (lot.width_um, lot.height_um):
                found.append(say("{called}: its size changed since it was laid", called=called))
            elif sheet.room.by_outline and self._outline(_variant(seen.get(lot.key[:2]), lot)) != lot.outline:
                # What lies outside the outline that it was laid by would not be printed.
                found.append(say("{called}: its picture changed since it was laid", called=called))
        return found

    def _alone(self, sheet: GangSheet) -> int:
        wants: defaultdict[str, list[Want]] = defaultdict(list)
        for lot in sheet.lots:
            wants[lot.job].append(Want(width_um=lot.width_um, height_um=lot.height_um, copies=lot.copies))
        return gang.alone_um((tuple(w) for w in wants.values()), sheet.room)

    def _late(self, sheet: GangSheet, minutes: int, m2_per_h: float) -> dict[str, str]:
        """Job to what waiting for the whole sheet does to it, by today's plan."""
        view = self._today.look()
        lanes, found = {j.id: j for j in view.jobs}, {}
        for job in dict.fromkeys(lot.job for lot in sheet.lots):
            own = [Want(width_um=lot.width_um, height_um=lot.height_um, copies=lot.copies) for lot in sheet.lots if lot.job == job]  # fmt: skip
            more = minutes - minutes_of(gang.alone_um([tuple(own)], sheet.room), sheet.room, m2_per_h)
            lane = lanes.get(job)
            if lane is None or more <= 0:
                continue
            over = lane.end_min + more - lane.due_min
            if over > 0:
                at = view.midnight + timedelta(minutes=lane.due_min)
                due = f"{a_day(at, 'short weekday')} {at:%H:%M}"
                found[job] = say(
                    "{more} min longer at the printer than alone: {over} min after {due} by today's plan",
                    more=more,
                    over=over,
                    due=due,
                )
        return found

    def _picture(self, shop: Shop, seen: dict[tuple[str, str], JobLine], lot: GangLot, variant: Variant | None) -> str | None:  # fmt: skip
        look = seen.get(lot.key[:2])
        if look is None or variant is None:
            return None
        return self._jobs.remember(self._jobs.scene(look.job, variant, line=look))

    def _plates(self, sheet: GangSheet, seen: dict[tuple[str, str], JobLine]) -> tuple[str, list[Variant]]:
        """Of each lot at every slant that it lies at."""
        ways = sorted({(sheet.lot_of(p.id), p.slant) for p in sheet.laid})
        found = ((_variant(seen.get(sheet.lots[at].key[:2]), sheet.lots[at]), slant) for at, slant in ways)
        return self._runs.plates_of([at_slant(v, slant) for v, slant in found if v is not None])

    # How it is laid.

    def _laid_anew(self, sheet: GangSheet) -> GangSheet:
        """The first layout around the pins that still hold."""
        pieces = {p.id: p for p in sheet.pieces}
        pins: list[Laid] = []
        for pin in (p for p in sheet.pinned if p.id in pieces):
            if not gang.trouble((*pins, pin), pin, pieces, sheet.room):
                pins.append(pin)
        laid = gang.lay_gang(sheet.pieces, sheet.room, tuple(pins))
        return sheet.model_copy(update={"laid": laid, "by_hand": False})

    def _shown(self, kept: GangSheet) -> GangSheet:
        """With the best that the search has found for it so far."""
        if kept.by_hand:
            return kept
        out = self._base.files.derived("gangs", _search_key(kept))
        pieces = {p.id: p for p in kept.pieces}
        best = kept.laid
        for path in (out, out.with_suffix(SO_FAR)):
            with suppress(OSError, ValidationError):
                found = LAID.validate_json(path.read_text())
                if not self._faults(kept.model_copy(update={"laid": found})):
                    best = gang.shorter(best, found, pieces, kept.room)
        return kept.model_copy(update={"laid": best})

    def _search(self, kept: GangSheet) -> bool:
        """Whether it is still being made better; starts that where nobody does it."""
        key = _search_key(kept)
        out = self._base.files.derived("gangs", key)
        if kept.by_hand or out.exists():
            return False
        latest = self._base.work.latest(f"gang-{key}")
        if latest is not None and latest.stage == "failed":
            return False
        if latest is None or latest.is_last:
            self._base.work.submit(f"gang-{key}", "gang", {
                "pieces": json.dumps([p.model_dump() for p in kept.pieces]), "room": kept.room.model_dump_json(),
                "pinned": json.dumps([p.model_dump() for p in kept.pinned]), "tries": str(gang.tries_for(len(kept.pieces))), "seconds": str(gang.SHAPES_S), "out": str(out),
            })  # fmt: skip
        return True

    def _end_search(self, before: GangSheet) -> None:
        """Whichever process does it: nobody waits any more for how the sheet was, and the next one would wait behind it."""
        self._base.work.cancel(f"gang-{_search_key(before)}")

    def _faults(self, sheet: GangSheet) -> tuple[str, ...]:
        """Of one layout once: by outlines it costs a look's whole time, and each look asks for it."""
        key = digest("faults", sheet.pieces, sheet.room, sheet.laid)
        known = self._judged.get(key)
        if known is None:
            known = gang.faults_in(sheet.laid, {p.id: p for p in sheet.pieces}, sheet.room)
            self._judged[key] = known
        return known

    @contextmanager
    def _changing(self, sheet_id: str, base: int) -> Iterator[tuple[Session, GangSheet]]:
        """A transaction that holds a sheet as it was read; what made that better ends with it."""
        with self._base.session() as session, session.begin():
            sheet = _found(GangStore(session).find(sheet_id, locked=True))
            if sheet.revision != base:
                raise _changed()
            yield session, sheet
        self._end_search(sheet)

    def _save(self, session: Session, sheet: GangSheet) -> None:
        GangStore(session).save(sheet.model_copy(update={"revision": sheet.revision + 1}), self._base.now())

    def _close(self, session: Session, sheet: GangSheet) -> None:
        store = GangStore(session)
        kept = _found(store.find(sheet.id, locked=True))
        if kept.revision != sheet.revision:
            raise _changed()
        store.save(sheet, self._base.now(), is_open=False)


def _changed() -> Refusal:
    return Refusal("changed-elsewhere", say("Somebody changed this sheet meanwhile."), say("Your change was not made."), say("Look at it as it is now, then do it again."))  # fmt: skip


def _found(sheet: GangSheet | None) -> GangSheet:
    if sheet is None:
        raise Refusal("no-such-sheet", say("This sheet is not open any more."), say("Nothing was changed."), say("Go back to Sheets."))  # fmt: skip
    return sheet


def _search_key(sheet: GangSheet) -> str:
    return digest("gang", sheet.pieces, sheet.room, sheet.pinned)


def _tried(sheet: GangSheet, moved: Laid) -> Tried:
    pieces = {p.id: p for p in sheet.pieces}
    if moved.id not in pieces:
        raise Refusal(
            "no-such-piece", say("That print is not on the sheet."), UNCHANGED, say("Look at it as it is now.")
        )
    if moved.cut > max((p.cut for p in sheet.laid), default=1) + 1:
        return Tried(x_um=moved.x_um, y_um=moved.y_um, refused=say("there is no such length"))
    at = gang.snapped(sheet.laid, moved, pieces, sheet.room)
    return Tried(x_um=at.x_um, y_um=at.y_um, refused=gang.trouble(sheet.laid, at, pieces, sheet.room))


def _variant(look: JobLine | None, lot: GangLot) -> Variant | None:
    return next((v for v in look.line.variants if v.print == lot.print and lot.slot in v.slots), None) if look else None


def _needed(look: JobLine, lot: GangLot) -> Variant:
    found = _variant(look, lot)
    if found is None:
        raise Refusal("nothing-to-print", say("{title}: this is not to be printed any more.", title=look.job.order.title), say("No run was released."), say("Take it off the sheet."))  # fmt: skip
    return found
