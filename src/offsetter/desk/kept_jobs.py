"""Jobs as the database holds them: their documents, runs and acts, and what their pictures are known to be."""

from contextlib import suppress
from datetime import datetime

from pydantic import ValidationError
from sqlalchemy.orm import Session

from offsetter.core.acts import Act
from offsetter.core.compute.art_ref import ArtRef
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.context import Measured
from offsetter.core.decisions import DOCUMENTS, Decisions, OrderDoc, number_of
from offsetter.core.prints import JobPrint, TextArt, shown_slot
from offsetter.core.runs import Run
from offsetter.core.runs_ahead import SpoilRate
from offsetter.core.runs_ahead import spoil_rate as rate_of
from offsetter.core.values import Frozen, digest
from offsetter.desk import letterings
from offsetter.desk.base import Base, no_such_job
from offsetter.desk.bounded import Bounded
from offsetter.desk.checks import unreadable
from offsetter.desk.pictures import Pictures
from offsetter.intake.names import CAPITAL_PX, draw_name
from offsetter.intake.receive import receive
from offsetter.store.acts import ActStore
from offsetter.store.decisions import Address, DecisionStore, Revision, address
from offsetter.store.runs import RunStore
from offsetter.store.shop import ArtworkStore
from offsetter.store.standings import StandingStore

FIRST = address("", "order")
SPOIL_WINDOW = 400
"""Acts that the shop's own rate of spoiling is read from."""


class Stored(Frozen):
    """A job as the database holds it, seen from one of its prints."""

    id: str
    created_at: datetime
    order: OrderDoc
    prints: tuple[JobPrint, ...]
    print: str
    kind: str = ""
    revisions: dict[str, int]
    """Of the print's documents and the job's."""
    authors: dict[str, str]
    runs: tuple[Run, ...]
    acts: tuple[Act, ...]
    measured: Measured | None = None
    """On its pixels, when the job was last written."""
    spoil: SpoilRate = SpoilRate()
    """Of the shop when the job was last decided on: the spares suggested do not move while nobody decides."""
    can_undo: bool = False
    can_redo: bool = False

    @property
    def here(self) -> JobPrint:
        return next(p for p in self.prints if p.id == self.print)

    @property
    def decisions(self) -> Decisions:
        return self.here.decisions


class Held(Frozen):
    """What the database holds of a job, whoever looks and from where."""

    created_at: datetime
    order: OrderDoc
    decisions: dict[str, Decisions]
    """Of each print."""
    revisions: dict[str, dict[str, int]]
    authors: dict[str, dict[str, str]]
    names: dict[str, str]
    """Of the files that its prints hold."""
    runs: tuple[Run, ...]
    acts: tuple[Act, ...]
    spoil: SpoilRate
    measured: dict[str, Measured]
    """Of each print that has a picture."""


class KeptJobs:
    def __init__(self, base: Base, pictures: Pictures) -> None:
        self._base, self._pictures = base, pictures
        self._facts_known: Bounded[ArtworkFacts] = Bounded(64)
        self._texts: Bounded[TextArt] = Bounded(2_000)
        self._spoil: Bounded[SpoilRate] = Bounded(2)
        self._held: Bounded[Held] = Bounded(64)

    def read(self, job_id: str, author: str = "", print_id: str = "", kind: str = "") -> Stored:
        """The job, seen from one of its prints (the first when none is named) and a line and size."""
        with self._base.session() as session:
            return self.read_in(session, StandingStore(session).changes(job_id), job_id, author, print_id, kind)

    def read_in(self, session: Session, changes: int | None, job_id: str, author: str, print_id: str, kind: str) -> Stored:  # fmt: skip
        """The same in a transaction of the caller's, who knows the number of its last change."""
        held = self._as_of(session, job_id, changes)
        undo, redo = DecisionStore(session).stacks(job_id, author) if author else ([], [])
        seen = self.seen_from(held, job_id, print_id, kind)
        can_undo = any(entry != (FIRST, 1) for entry in undo[-1:])
        return seen.model_copy(update={"can_undo": can_undo, "can_redo": bool(redo)})

    def as_changed(self, session: Session, job_id: str) -> Held:
        """What its last change left: for a transaction that has not changed the job itself."""
        return self._as_of(session, job_id, StandingStore(session).changes(job_id))

    def _as_of(self, session: Session, job_id: str, changes: int | None) -> Held:
        held = self._held.get(f"{job_id} {changes}") if changes else None
        if held is None:
            held = self.held(session, job_id)
            if changes:
                self.remember(held, job_id, changes)
        return held

    def remember(self, held: Held, job_id: str, changes: int) -> None:
        """Once what was changed is kept: until then another change may take the same number."""
        self._held[f"{job_id} {changes}"] = held

    def held(self, session: Session, job_id: str) -> Held:
        """Raises Refusal where one of the job's rows cannot be read."""
        try:
            return self._held_of(session, job_id)
        except ValidationError as wrong:
            raise unreadable(wrong) from wrong

    def _held_of(self, session: Session, job_id: str) -> Held:
        store = DecisionStore(session)
        created_at, current = store.created_at(job_id), store.current(job_id)
        if created_at is None or FIRST not in current:
            raise no_such_job(job_id)
        order = OrderDoc.model_validate(current[FIRST].body)
        decisions = {p: decisions_of(current, order, p) for p in order.prints}
        mine = {p: {s: current[a] for s in DOCUMENTS if (a := address(p, s)) in current} for p in order.prints}
        artworks, (spoil, measured) = ArtworkStore(session), StandingStore(session).basis(job_id)
        files = {ArtRef.read(r).file for d in decisions.values() if (r := d.art_ref)}
        return Held(
            created_at=created_at, order=order, decisions=decisions,
            revisions={p: {s: r.revision for s, r in of.items()} for p, of in mine.items()},
            authors={p: {s: r.author for s, r in of.items()} for p, of in mine.items()},
            names={f: artworks.name_of(f) or "" for f in files}, runs=RunStore(session).of_job(job_id),
            acts=ActStore(session).of_job(job_id), spoil=spoil if spoil is not None else self.spoil_rate(session), measured=measured,
        )  # fmt: skip

    def seen_from(self, held: Held, job_id: str, print_id: str = "", kind: str = "") -> Stored:
        order = held.order
        print_id = print_id if print_id in order.prints else order.prints[0]
        return Stored(
            id=job_id, created_at=held.created_at, order=order, print=print_id, kind=kind, runs=held.runs, acts=held.acts, spoil=held.spoil,
            measured=held.measured.get(print_id), prints=tuple(self.print_of(p, held.decisions[p], kind, held.names) for p in order.prints),
            revisions=held.revisions[print_id], authors=held.authors[print_id],
        )  # fmt: skip

    def spoil_rate(self, session: Session) -> SpoilRate:
        """Of the shop's latest transfers; read again once a minute, since a suggestion need not follow every act."""
        at = self._base.now().strftime("%Y%m%d%H%M")
        found: SpoilRate | None = self._spoil.get(at)
        if found is None:
            store = ActStore(session)
            found = self._spoil[at] = rate_of(
                store.newest("pressed", SPOIL_WINDOW), store.newest("spoiled", SPOIL_WINDOW)
            )
        return found

    def print_of(self, print_id: str, decisions: Decisions, kind: str, names: dict[str, str]) -> JobPrint:
        place, order = decisions.place, decisions.order
        if place.text is None:
            return JobPrint(
                id=print_id,
                decisions=decisions,
                facts=self._facts(decisions.art_ref, names),
                lettering=letterings.known(self._pictures, decisions),
            )
        texts = {n.number: self._text(n.text, place.text.colour) for n in order.names if place.is_on(n.line)}
        shown = number_of(shown_slot(order, place, kind))
        facts = (
            None
            if shown is None
            else self._facts(texts[shown].file, names, next(n.text for n in order.names if n.number == shown))
        )
        return JobPrint(id=print_id, decisions=decisions, facts=facts, texts=texts)

    def _text(self, text: str, colour: str) -> TextArt:
        """A name drawn, kept like any original; found again while its words and colour stay."""
        key = f"{colour}{text}"
        found = self._texts.get(key)
        if found is None:
            found = self._texts[key] = self._drawn_before(digest(key)) or self._draw(text, colour, digest(key))
        return found

    def _drawn_before(self, key: str) -> TextArt | None:
        """Known without drawing: a shop that opens in the morning has its names drawn already."""
        files = self._base.files
        with suppress(OSError, ValidationError):
            found = TextArt.model_validate_json(files.derived("names", key).read_bytes())
            return found if files.original(found.file).exists() else None
        return None

    def _draw(self, text: str, colour: str, key: str) -> TextArt:
        files = self._base.files
        data, width, height = draw_name(text, colour)
        found = TextArt(file=files.keep(data), width_px=width, height_px=height, capital_px=CAPITAL_PX)
        files.write_if_room(files.derived("names", key), found.model_dump_json().encode())
        return found

    def facts_for(self, file_hash: str, known_as: str = "") -> ArtworkFacts | None:
        """Facts of a file that a job holds; None when the store has lost it."""
        return self._facts(file_hash, self.names_of(file_hash), known_as)

    def _facts(self, file_hash: str | None, names: dict[str, str], known_as: str = "") -> ArtworkFacts | None:
        if file_hash is None:
            return None
        original = self._base.files.original(ArtRef.read(file_hash).file)
        if not original.exists():
            return None  # Order says so; one lost file must not close the whole shop
        name = known_as or names.get(ArtRef.read(file_hash).file) or file_hash
        found = self._facts_known.get(file_hash)
        folder = self._pictures.bench.folder(file_hash)
        if found is None or found.name != name or not folder.exists():
            found = receive(original, name, file_hash, folder)
            self._facts_known[file_hash] = found
        return found

    def names_of(self, ref: str | None) -> dict[str, str]:
        """What the file of a picture was called when it came in."""
        if ref is None:
            return {}
        file = ArtRef.read(ref).file
        with self._base.session() as session:
            return {file: ArtworkStore(session).name_of(file) or ""}


def decisions_of(current: dict[Address, Revision], order: OrderDoc, print_id: str) -> Decisions:
    """The documents of one print, with those of the whole job."""
    found = {
        s: model.model_validate(r.body)
        for s, model in DOCUMENTS.items()
        if s != "order" and (r := current.get(address(print_id, s))) is not None and r.body is not None
    }
    return Decisions(order=order).model_copy(update=found)
