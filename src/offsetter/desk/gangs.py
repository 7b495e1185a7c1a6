"""Sheets that several jobs share: made of what is ready, laid by the search or by hand, released as one run."""

import json
import secrets
from collections import defaultdict
from contextlib import suppress
from datetime import datetime, timedelta
from decimal import Decimal

from pydantic import TypeAdapter, ValidationError
from sqlalchemy.orm import Session

from offsetter.core import derive
from offsetter.core.compute import gang
from offsetter.core.compute.cost import cents, media_money
from offsetter.core.compute.gang import GangPiece, Laid, Room
from offsetter.core.compute.sheet import RunLayout, Want
from offsetter.core.facts import Shop
from offsetter.core.gang import MOST_LOTS, GangLot, GangSheet, ToLay
from offsetter.core.prints import Variant
from offsetter.core.remaining import WorkLeft
from offsetter.core.runs import Run
from offsetter.core.standing import JobStanding
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.base import Base
from offsetter.desk.jobs import JobLine, Jobs
from offsetter.desk.runs import Runs
from offsetter.desk.standings import Standings
from offsetter.desk.today import MOST_JOBS, Today
from offsetter.store.gangs import GangStore
from offsetter.work.runner import SO_FAR

MOST_OPEN = 30
UNCHANGED = "The sheet is as it was."
LAID = TypeAdapter(tuple[Laid, ...])


class LotView(Frozen):
    """Prints of a job that are alike, on a sheet or ready for one."""

    job: str
    print: str
    slot: str
    title: str
    customer: str
    due: datetime
    name: str
    copies: int
    width_um: int
    height_um: int
    waits: str = ""
    """What it waits for; empty: it can be laid."""
    unseen: str = ""
    """The first station that nobody has looked at yet."""


class OnSheet(LotView):
    wanted: int
    """How many are still to print."""
    picture: str | None
    """As it comes out of the printer."""
    late: str = ""
    """What waiting for the whole sheet makes of its due time, in words."""


class BedView(Frozen):
    """What may lie on one run: one printer, mode, medium, cure and profile."""

    id: str
    method: str
    printer: str
    mode: str
    medium: str
    lots: tuple[LotView, ...]


class SheetBrief(Frozen):
    id: str
    printer: str
    method: str
    titles: tuple[str, ...]
    prints: int
    length_um: int
    sheet_um: int


class Beds(Frozen):
    ready: tuple[BedView, ...]
    open: tuple[SheetBrief, ...]


class PieceView(Frozen):
    id: str
    lot: int
    number: int
    cut: int
    x_um: int
    y_um: int
    width_um: int
    """As it lies."""
    height_um: int
    turned: bool
    pinned: bool


class SheetView(Frozen):
    id: str
    revision: int
    method: str
    printer: str
    medium: str
    mirrored: bool
    room: Room
    lots: tuple[OnSheet, ...]
    more: tuple[LotView, ...]
    """Ready, and could lie here too."""
    pieces: tuple[PieceView, ...]
    cut_lengths_um: tuple[int, ...]
    length_um: int
    bound_um: int
    """No layout is shorter."""
    alone_um: int
    """What the jobs take each by itself, in rows."""
    waste_share: float
    saved: Decimal
    """Of the medium's price, against each by itself."""
    currency: str
    minutes: int
    """At the printer."""
    is_searching: bool
    by_hand: bool
    problems: tuple[str, ...]
    """What keeps it from being released."""
    plates_key: str
    plates_ready: bool


class Tried(Frozen):
    """Where a moved print would lie, and why not."""

    x_um: int
    y_um: int
    refused: str


class Gangs:
    def __init__(self, base: Base, jobs: Jobs, runs: Runs, standings: Standings, today: Today) -> None:
        self._base, self._jobs, self._runs, self._standings, self._today = base, jobs, runs, standings, today

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
            BedView(id=bed, lots=tuple(_lot_view(told, lot) for told, lot in lots), **_named(shop, lots[0][1])) for bed, lots in found.items()
        )  # fmt: skip
        titles = {told.id: told.title for told, _ in rows}
        # What can be laid together at once comes first, by the first that is due.
        beds = tuple(sorted(beds, key=lambda b: (sum(not x.waits for x in b.lots) < 2, b.lots[0].due, b.id)))
        return Beds(ready=beds, open=tuple(_brief(shop, s, rows, titles) for s in sheets))

    def make(self, lots: tuple[GangLot, ...], person: str) -> SheetView:
        """A sheet of these, laid at once and made better behind. Raises Refusal where they cannot lie together."""
        known = self._known(self._standings.open_work(MOST_JOBS))
        sized, bed = self._sized(lots, known)
        sheet = GangSheet(id=secrets.token_hex(6), bed=bed, lots=sized, room=self._room(sized, None), made_by=person)
        laid = sheet.model_copy(update={"laid": gang.lay_gang(sheet.pieces, sheet.room)})
        with self._base.session() as session, session.begin():
            GangStore(session).save(laid, self._base.now())
        return self.look(sheet.id)

    def change(self, sheet_id: str, lots: tuple[GangLot, ...], gap_um: int | None, base: int) -> SheetView:
        """Other lots, counts or another gap: what is pinned stays where it can, the rest is laid anew."""
        known = self._known(self._standings.open_work(MOST_JOBS))
        sized, bed = self._sized(lots, known)
        with self._changing(sheet_id, base) as (session, sheet):
            if bed != sheet.bed:
                raise Refusal("another-bed", "These are printed another way than what lies on the sheet.", UNCHANGED, "Make a sheet of their own.")  # fmt: skip
            room = self._room(sized, sheet.room.gap_um if gap_um is None else gap_um)
            self._save(session, self._laid_anew(sheet.model_copy(update={"lots": sized, "room": room})))
        return self.look(sheet_id)

    def again(self, sheet_id: str, base: int, *, unpinned: bool = False) -> SheetView:
        """Lay it anew around what is pinned, with the prints as they are decided now. unpinned: every pin is taken out first."""
        known = self._known(self._standings.open_work(MOST_JOBS))
        with self._changing(sheet_id, base) as (session, sheet):
            sized, _ = self._sized(sheet.lots, known)
            laid = () if unpinned else sheet.laid
            changed = sheet.model_copy(update={"lots": sized, "laid": laid, "room": self._room(sized, sheet.room.gap_um)})  # fmt: skip
            self._save(session, self._laid_anew(changed))
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
                raise Refusal("lies-badly", f"It cannot lie there: {found.refused}.", UNCHANGED, "Lay it elsewhere.")
            now = moved.model_copy(update={"x_um": found.x_um, "y_um": found.y_um, "pinned": True})
            laid = tuple(now if p.id == moved.id else p for p in sheet.laid)
            self._save(session, sheet.model_copy(update={"laid": laid, "by_hand": True}))
        return self.look(sheet_id)

    def pin(self, sheet_id: str, piece: str, base: int, *, out: bool) -> SheetView:
        """Keep one print where it is, or let the search have it again."""
        with self._changing(sheet_id, base) as (session, kept):
            sheet = self._shown(kept)
            if piece not in {p.id for p in sheet.laid}:
                raise Refusal("no-such-piece", "That print is not on the sheet.", UNCHANGED, "Look at it as it is now.")  # fmt: skip
            laid = tuple(p.model_copy(update={"pinned": not out}) if p.id == piece else p for p in sheet.laid)
            self._save(session, sheet.model_copy(update={"laid": laid}))
        return self.look(sheet_id)

    def give_up(self, sheet_id: str) -> None:
        """Take the sheet apart: its jobs are as they were."""
        with self._base.session() as session, session.begin():
            store = GangStore(session)
            store.save(_found(store.find(sheet_id, locked=True)), self._base.now(), is_open=False)

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
        problems = [*self._problems(sheet, known, titles), *gang.faults_in(sheet.laid, pieces, sheet.room)[:3]]
        key, missing = self._plates(sheet, seen)
        lengths, alone = gang.lengths_um(sheet.laid, pieces, sheet.room), self._alone(sheet)
        length, way = sum(lengths), next((s.line.way for s in seen.values() if s.line.way), None)
        one = next((known[lot.key][1] for lot in sheet.lots if lot.key in known), None)
        if way is None or one is None:
            raise Refusal("nothing-to-print", "Nothing on this sheet is to be printed any more.", UNCHANGED, "Take the sheet apart.")  # fmt: skip
        printer = shop.printers[way.printer]
        mode = next((m for m in printer.modes if m.id == way.mode), printer.modes[0])
        minutes = _minutes(length, sheet.room, mode.m2_per_h)
        late = self._late(sheet, minutes, mode.m2_per_h)
        area = sum(p.width_um * p.height_um for p in pieces.values())
        return SheetView(
            id=sheet.id, revision=sheet.revision, mirrored=shop.methods[way.method].mirror, room=sheet.room,
            lots=tuple(_on_sheet(lot, titles.get(lot.job), known.get(lot.key, (None, None))[1], self._picture(shop, seen, lot, v), late.get(lot.job, ""))
                       for lot, v in zip(sheet.lots, lines, strict=True)),
            more=tuple(_lot_view(told, lot) for key_of, (told, lot) in known.items() if lot.bed == sheet.bed and key_of not in taken and not lot.is_laid and not lot.waits),
            pieces=tuple(_piece(sheet, pieces[p.id], p) for p in sheet.laid if p.id in pieces), cut_lengths_um=lengths, length_um=length,
            bound_um=gang.bound_um(sheet.pieces, sheet.room), alone_um=alone, waste_share=round(1 - area / (length * sheet.room.media_um), 4) if length else 0.0,
            saved=cents(_money(shop, way.printer, way.method, alone, sheet.room) - _money(shop, way.printer, way.method, length, sheet.room)), currency=shop.prices.currency,
            minutes=minutes, is_searching=is_searching, by_hand=sheet.by_hand, problems=tuple(problems), plates_key=key, plates_ready=not missing,
            **{k: v for k, v in _named(shop, one).items() if k != "mode"},
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
            sheet = self._shown(_found(GangStore(session).find(sheet_id)))
        if sheet.revision != base:
            raise _changed()
        titles = {told.id: told for told, _ in known.values()}
        problems = self._problems(sheet, known, titles)
        pieces = {p.id: p for p in sheet.pieces}
        faults = gang.faults_in(sheet.laid, pieces, sheet.room)
        if problems or faults:
            raise Refusal("not-ready", f"{(*problems, *faults)[0]}.", "No run was released.", "Put it right first, or take it off the sheet.")  # fmt: skip
        layout, lots = gang.run_layout(sheet.laid, pieces, sheet.room, sheet.lot_of)
        seen = self._seen(sheet)
        on_run = [(seen[sheet.lots[at].key[:2]], sheet.lots[at]) for at in lots]
        return self._runs.release_shared(
            tuple((look, _needed(look, lot)) for look, lot in on_run), layout, person,
            lambda session: self._close(session, sheet),
        )  # fmt: skip

    # What it is made of.

    def _known(self, rows: list[tuple[JobStanding, WorkLeft]]) -> dict[tuple[str, str, str], tuple[JobStanding, ToLay]]:
        return {(told.id, lot.print, lot.slot): (told, lot) for told, work in rows for lot in work.to_lay}

    def _sized(self, lots: tuple[GangLot, ...], known: dict[tuple[str, str, str], tuple[JobStanding, ToLay]]) -> tuple[tuple[GangLot, ...], str]:  # fmt: skip
        """The lots as they are decided now, and the bed that they share. Raises Refusal."""
        if not lots or len(lots) > MOST_LOTS or len({lot.key for lot in lots}) < len(lots):
            raise Refusal(
                "no-lots", f"A sheet carries 1 to {MOST_LOTS} lots, each once.", UNCHANGED, "Choose them again."
            )
        found: list[GangLot] = []
        beds: dict[str, str] = {}
        for lot in lots:
            told, now = known.get(lot.key, (None, None))
            if told is None or now is None:
                raise Refusal("nothing-to-print", "One of these is not to be printed any more.", UNCHANGED, "Take it off the sheet.")  # fmt: skip
            if now.is_laid:
                raise Refusal("laid-already", f"{told.title}, {now.name} lies on a released run already.", UNCHANGED, "Print that run, or take it apart first.")  # fmt: skip
            if now.waits:
                raise Refusal("not-ready", f"{told.title} still waits for {now.waits}.", UNCHANGED, "Finish that station first.")  # fmt: skip
            beds.setdefault(now.bed, told.title)
            found.append(lot.model_copy(update={"width_um": now.width_um, "height_um": now.height_um}))
        if len(beds) > 1:
            raise Refusal("another-bed", f"{' and '.join(list(beds.values())[:2])} are printed or cured in different ways.", UNCHANGED, "Lay together what has the same printer, mode, medium and cure.")  # fmt: skip
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
            raise Refusal("not-ready", "None of these has a way yet.", UNCHANGED, "Go through Method first.")
        return rooms[0].model_copy(update={"gap_um": max(r.gap_um for r in rooms) if gap_um is None else gap_um})

    def _seen(self, sheet: GangSheet) -> dict[tuple[str, str], JobLine]:
        found: dict[tuple[str, str], JobLine] = {}
        for lot in sheet.lots:
            if lot.key[:2] not in found:
                with suppress(Refusal):  # a job that cannot be read takes no more than itself
                    found[lot.key[:2]] = self._jobs.look(lot.job, "", lot.print)
        return found

    def _problems(
        self, sheet: GangSheet, known: dict[tuple[str, str, str], tuple[JobStanding, ToLay]], titles: dict[str, JobStanding]
    ) -> list[str]:  # fmt: skip
        found = []
        for lot in sheet.lots:
            told, now = known.get(lot.key, (None, None))
            called = titles[lot.job].title if lot.job in titles else "One job"
            if now is None or told is None:
                found.append(f"{called}: nothing of this is to be printed any more")
            elif now.waits:
                found.append(f"{called} waits for {now.waits}")
            elif now.is_laid:
                found.append(f"{called}: it lies on a released run already")
            elif now.bed != sheet.bed:
                found.append(f"{called} is printed or cured another way now")
            elif (now.width_um, now.height_um) != (lot.width_um, lot.height_um):
                found.append(f"{called}: its size changed since it was laid")
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
            more = minutes - _minutes(gang.alone_um([tuple(own)], sheet.room), sheet.room, m2_per_h)
            lane = lanes.get(job)
            if lane is None or more <= 0:
                continue
            over = lane.end_min + more - lane.due_min
            if over > 0:
                due = (view.midnight + timedelta(minutes=lane.due_min)).strftime("%a %H:%M")
                found[job] = f"{more} min longer at the printer than alone: {over} min after {due} by today's plan"
        return found

    def _picture(self, shop: Shop, seen: dict[tuple[str, str], JobLine], lot: GangLot, variant: Variant | None) -> str | None:  # fmt: skip
        look = seen.get(lot.key[:2])
        if look is None or variant is None:
            return None
        return self._jobs.remember(self._jobs.scene(shop, look.job, variant))

    def _plates(self, sheet: GangSheet, seen: dict[tuple[str, str], JobLine]) -> tuple[str, list[Variant]]:
        return self._runs.plates_of([v for lot in sheet.lots if (v := _variant(seen.get(lot.key[:2]), lot)) is not None])  # fmt: skip

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
                if not gang.faults_in(found, pieces, kept.room):
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
                "pinned": json.dumps([p.model_dump() for p in kept.pinned]), "out": str(out),
            })  # fmt: skip
        return True

    def _changing(self, sheet_id: str, base: int) -> "_Changing":
        return _Changing(self._base, sheet_id, base)

    def _save(self, session: Session, sheet: GangSheet) -> None:
        GangStore(session).save(sheet.model_copy(update={"revision": sheet.revision + 1}), self._base.now())

    def _close(self, session: Session, sheet: GangSheet) -> None:
        store = GangStore(session)
        kept = _found(store.find(sheet.id, locked=True))
        if kept.revision != sheet.revision:
            raise _changed()
        store.save(sheet, self._base.now(), is_open=False)


class _Changing:
    """A transaction that holds a sheet as it was read."""

    def __init__(self, base: Base, sheet_id: str, revision: int) -> None:
        self._session, self._id, self._revision = base.session(), sheet_id, revision

    def __enter__(self) -> tuple[Session, GangSheet]:
        self._session.begin()
        try:
            sheet = _found(GangStore(self._session).find(self._id, locked=True))
            if sheet.revision != self._revision:
                raise _changed()
        except BaseException:
            self._session.close()
            raise
        return self._session, sheet

    def __exit__(self, failed: object, *_: object) -> None:
        try:
            if failed is None:
                self._session.commit()
        finally:
            self._session.close()


def _changed() -> Refusal:
    return Refusal("changed-elsewhere", "Somebody changed this sheet meanwhile.", "Your change was not made.", "Look at it as it is now, then do it again.")  # fmt: skip


def _found(sheet: GangSheet | None) -> GangSheet:
    if sheet is None:
        raise Refusal("no-such-sheet", "This sheet is not open any more.", "Nothing was changed.", "Go back to Sheets.")  # fmt: skip
    return sheet


def _search_key(sheet: GangSheet) -> str:
    return digest("gang", sheet.pieces, sheet.room, sheet.pinned)


def _tried(sheet: GangSheet, moved: Laid) -> Tried:
    pieces = {p.id: p for p in sheet.pieces}
    if moved.id not in pieces:
        raise Refusal("no-such-piece", "That print is not on the sheet.", UNCHANGED, "Look at it as it is now.")
    if moved.cut > max((p.cut for p in sheet.laid), default=1) + 1:
        return Tried(x_um=moved.x_um, y_um=moved.y_um, refused="there is no such length")
    at = gang.snapped(sheet.laid, moved, pieces, sheet.room)
    return Tried(x_um=at.x_um, y_um=at.y_um, refused=gang.trouble(sheet.laid, at, pieces, sheet.room))


def _named(shop: Shop, lot: ToLay) -> dict[str, str]:
    printer, method = shop.printers[lot.printer], shop.methods[lot.method]
    mode = next((m for m in printer.modes if m.id == lot.mode), printer.modes[0])
    return {"method": method.name, "printer": printer.name, "mode": mode.name, "medium": method.medium}


def _lot_view(told: JobStanding, lot: ToLay) -> LotView:
    return LotView(
        job=told.id, print=lot.print, slot=lot.slot, title=told.title, customer=told.customer, due=told.due, name=lot.name, copies=lot.copies,
        width_um=lot.width_um, height_um=lot.height_um, waits=lot.waits, unseen=lot.unseen,
    )  # fmt: skip


def _on_sheet(lot: GangLot, told: JobStanding | None, now: ToLay | None, picture: str | None, late: str) -> OnSheet:
    return OnSheet(
        job=lot.job, print=lot.print, slot=lot.slot, title=told.title if told else "a job that ended", customer=told.customer if told else "",
        due=told.due if told else datetime.max, name=now.name if now else "", copies=lot.copies, width_um=lot.width_um, height_um=lot.height_um,
        waits=now.waits if now else "", unseen=now.unseen if now else "", wanted=now.copies if now else 0,
        picture=f"/api/pictures/{picture}/carrier.png" if picture else None, late=late,
    )  # fmt: skip


def _brief(shop: Shop, sheet: GangSheet, rows: list[tuple[JobStanding, WorkLeft]], titles: dict[str, str]) -> SheetBrief:  # fmt: skip
    one = next((t for _, w in rows for t in w.to_lay if t.bed == sheet.bed), None)
    named = _named(shop, one) if one else {"printer": "", "method": ""}
    lengths = gang.lengths_um(sheet.laid, {p.id: p for p in sheet.pieces}, sheet.room)
    return SheetBrief(
        id=sheet.id, printer=named["printer"], method=named["method"], titles=tuple(dict.fromkeys(titles.get(lot.job, "a job that ended") for lot in sheet.lots)),
        prints=sum(lot.copies for lot in sheet.lots), length_um=sum(lengths), sheet_um=sheet.room.sheet_um,
    )  # fmt: skip


def _piece(sheet: GangSheet, piece: GangPiece, laid: Laid) -> PieceView:
    wide, high = (piece.height_um, piece.width_um) if laid.turned else (piece.width_um, piece.height_um)
    return PieceView(
        id=laid.id, lot=sheet.lot_of(laid.id), number=int(laid.id.rsplit("~", 1)[1]), cut=laid.cut, x_um=laid.x_um, y_um=laid.y_um, width_um=wide, height_um=high,
        turned=laid.turned, pinned=laid.pinned,
    )  # fmt: skip


def _variant(look: JobLine | None, lot: GangLot) -> Variant | None:
    return next((v for v in look.line.variants if v.print == lot.print and lot.slot in v.slots), None) if look else None


def _needed(look: JobLine, lot: GangLot) -> Variant:
    found = _variant(look, lot)
    if found is None:
        raise Refusal("nothing-to-print", f"{look.job.order.title}: this is not to be printed any more.", "No run was released.", "Take it off the sheet.")  # fmt: skip
    return found


def _minutes(length_um: int, room: Room, m2_per_h: float) -> int:
    return -(-round(length_um / 1e6 * room.printable_um / 1e6 / m2_per_h * 6000) // 100)


def _money(shop: Shop, printer: str, method: str, length_um: int, room: Room) -> Decimal:
    feed = shop.printers[printer].feed(method)
    if feed is None:
        return Decimal(0)
    lengths = (room.sheet_um,) * round(length_um / room.sheet_um) if room.sheet_um else (length_um,)
    as_laid = RunLayout(
        media_um=room.media_um, printable_um=room.printable_um, sorts=(), across=1, rows_per_cut=1, cut_lengths_um=lengths, places=(), label_um=room.label_um,
        length_um=length_um, waste_share=0, grid_length_um=0, sheet_um=room.sheet_um,
    )  # fmt: skip
    return media_money(as_laid, feed, shop.prices)
