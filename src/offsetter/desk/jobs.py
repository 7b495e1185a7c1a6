"""Jobs: made, decided, undone, looked at."""

import secrets
from collections.abc import Collection
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from offsetter.core import facts as shipped
from offsetter.core import line as core_line
from offsetter.core.acts import Act
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.decisions import DOCUMENTS, Decision, Decisions, OrderDoc
from offsetter.core.facts import Levels, Shop
from offsetter.core.line import Line, LineInputs, Measured
from offsetter.core.runs import Run
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base, no_such_job
from offsetter.desk.newest import Newest
from offsetter.desk.pictures import Lens, Pictures
from offsetter.intake.receive import receive
from offsetter.store.decisions import DecisionStore, Revision, SavedElsewhere
from offsetter.store.shop import ArtworkStore, ShopStore
from offsetter.store.work_done import ActStore, RunStore

PROFILE_NAME = "Invented film print condition"


class Conflict(Exception):
    """Two people changed the same station: one is kept, the other told, with both values."""

    def __init__(self, theirs: Revision, mine: dict[str, Any] | None) -> None:
        super().__init__(theirs.station)
        self.theirs, self.mine = theirs, mine


class Stored(Frozen):
    """A job as the database holds it."""

    id: str
    created_at: datetime
    decisions: Decisions
    revisions: dict[str, int]
    authors: dict[str, str]
    facts: ArtworkFacts | None
    runs: tuple[Run, ...]
    acts: tuple[Act, ...]
    can_undo: bool = False
    can_redo: bool = False


class JobLine(Frozen):
    """A job with its line worked out."""

    job: Stored
    line: Line
    picture_key: str | None
    lens: Lens | None


class Jobs:
    def __init__(self, base: Base, pictures: Pictures) -> None:
        self._base, self._pictures = base, pictures
        # An original like any other: a worker finds it by its hash.
        self.profile = base.files.keep(shipped.profile_bytes())
        self._shops: Newest[tuple[Shop, Levels]] = Newest(2)
        self._facts_known: Newest[ArtworkFacts] = Newest(64)

    def shop(self) -> tuple[Shop, Levels]:
        with self._base.session() as session:
            return self._read_shop(session)

    def _read_shop(self, session: Session) -> tuple[Shop, Levels]:
        store = ShopStore(session)
        # Rows are versions: they are added and never edited, so their count says whether there is a newer one.
        edition = str(store.edition())
        found = self._shops.get(edition)
        if found is None:
            found = self._shops[edition] = store.read()
        return found

    def ids(self) -> list[str]:
        with self._base.session() as session:
            return DecisionStore(session).job_ids()

    def create(self, order: OrderDoc, author: str) -> str:
        self._check_due(order)
        job_id = secrets.token_hex(6)
        with self._base.session() as session, session.begin():
            shop, _ = self._read_shop(session)
            _check_blank(shop, order)
            store = DecisionStore(session)
            store.add_job(job_id, self._base.now())
            store.save(job_id, "order", order.model_dump(mode="json"), author, 0, self._base.now())
        return job_id

    def read(self, job_id: str, author: str = "") -> Stored:
        with self._base.session() as session:
            store = DecisionStore(session)
            created_at = store.created_at(job_id)
            current = store.current(job_id)
            if created_at is None or "order" not in current:
                raise no_such_job(job_id)
            decisions = _decisions_of(current)
            undo, redo = store.stacks(job_id, author) if author else ([], [])
            facts = self._facts(decisions.place.file, ArtworkStore(session))
            return Stored(
                id=job_id, created_at=created_at, decisions=decisions,
                revisions={s: r.revision for s, r in current.items()}, authors={s: r.author for s, r in current.items()},
                facts=facts, runs=RunStore(session).of_job(job_id), acts=ActStore(session).of_job(job_id),
                can_undo=any(entry != ("order", 1) for entry in undo[-1:]), can_redo=bool(redo),
            )  # fmt: skip

    def look(self, job_id: str, author: str = "") -> JobLine:
        """The job with its line as decided."""
        return self.work_out(self.read(job_id, author))

    def attempt(self, job_id: str, station: str, body: dict[str, Any]) -> JobLine:
        """The job's line as it would be with one document changed; nothing is saved."""
        stored = self.read(job_id)
        return self.work_out(stored.model_copy(update={"decisions": self._drafted(stored, station, body)}))

    def decide(self, job_id: str, station: str, body: dict[str, Any], base: int, author: str) -> None:
        """Save one document on top of the revision it was read at. Raises Conflict when somebody was quicker."""
        stored = self.read(job_id)
        drafted = self._drafted(stored, station, body)
        if station == "order" and drafted.order.due != stored.decisions.order.due:
            self._check_due(drafted.order)
        shop, _ = self.shop()
        _check_blank(shop, drafted.order)
        _check_way(shop, drafted)
        document: Decision = getattr(drafted, station)
        try:
            with self._base.session() as session, session.begin():
                if station == "place" and drafted.place.file and not ArtworkStore(session).name_of(drafted.place.file):
                    raise Refusal("no-such-file", "This artwork is not in the store.", "The job is as it was.", "Drop the file again.")  # fmt: skip
                DecisionStore(session).save(
                    job_id, station, document.model_dump(mode="json"), author, base, self._base.now()
                )
        except SavedElsewhere as other:
            raise Conflict(other.theirs, document.model_dump(mode="json")) from other

    def undo(self, job_id: str, author: str) -> None:
        """Take back the author's own last change; refused with both values if somebody saved since."""
        self._step(job_id, author, is_undo=True)

    def redo(self, job_id: str, author: str) -> None:
        self._step(job_id, author, is_undo=False)

    def work_out(self, stored: Stored) -> JobLine:
        """The whole line from what is stored, with pixels measured where they have to be."""
        shop, store_levels = self.shop()
        inputs = LineInputs(shop=shop, profile=self.profile, profile_name=PROFILE_NAME, decisions=stored.decisions,
                            facts=stored.facts, acts=stored.acts, runs=stored.runs, levels=store_levels)  # fmt: skip
        spec = core_line.spec_of(inputs)
        key, lens = None, None
        if spec is not None and stored.facts is not None:
            opacity = shop.methods["film"].white_opacity or 1.0
            device = self._pictures.device(spec)
            inputs = inputs.model_copy(update={"measured": Measured(
                preview=device or self._pictures.preview(spec), device=device,
                steps=self._pictures.steps(spec, stored.facts, opacity))})  # fmt: skip
            key = self._pictures.remember_spec(spec)
            lens = self._pictures.lens(spec, stored.facts)
        return JobLine(job=stored, line=core_line.evaluate(inputs, self._base.memo), picture_key=key, lens=lens)

    def device_measure(self, spec: PlateSpec) -> PlateMeasure | None:
        return self._pictures.device(spec)

    def _step(self, job_id: str, author: str, *, is_undo: bool) -> None:
        with self._base.session() as session, session.begin():
            store = DecisionStore(session)
            undo, redo = store.stacks(job_id, author)
            stack = undo if is_undo else redo
            if not stack or (is_undo and stack[-1] == ("order", 1)):
                raise Refusal(
                    "nothing-left",
                    f"There is nothing of yours to {'undo' if is_undo else 'redo'}.",
                    "The job is as it was.",
                    "Go on.",
                )
            station, revision = stack[-1]
            body = store.body_at(job_id, station, revision - 1 if is_undo else revision)
            latest = store.current(job_id)[station]
            if latest.author != author:
                raise Conflict(latest, body)
            store.save(
                job_id,
                station,
                body,
                author,
                latest.revision,
                self._base.now(),
                "undo" if is_undo else "redo",
                revision,
            )

    def _drafted(self, stored: Stored, station: str, body: dict[str, Any]) -> Decisions:
        if station not in DOCUMENTS:
            raise Refusal(
                "no-such-station",
                f"Nothing is decided at “{station}”.",
                "The job is as it was.",
                "Choose a station of the line.",
            )
        return stored.decisions.with_draft(station, body)

    def _facts(self, file_hash: str | None, artworks: ArtworkStore) -> ArtworkFacts | None:
        if file_hash is None:
            return None
        if not self._base.files.original(file_hash).exists():
            return None  # Order says so; one lost file must not close the whole shop
        name = artworks.name_of(file_hash) or file_hash
        found = self._facts_known.get(file_hash)
        folder = self._pictures.folder(file_hash)
        if found is None or found.name != name or not folder.exists():
            found = receive(self._base.files.original(file_hash), name, file_hash, folder)
            self._facts_known[file_hash] = found
        return found

    def _check_due(self, order: OrderDoc) -> None:
        if order.due <= self._base.now():
            raise Refusal(
                "due-in-the-past",
                "The due time lies in the past.",
                "The order was not saved.",
                "Give a time from now on.",
            )


def _decisions_of(current: dict[str, Revision]) -> Decisions:
    found = {
        s: DOCUMENTS[s].model_validate(r.body) for s, r in current.items() if r.body is not None and s in DOCUMENTS
    }
    order = found.pop("order")
    assert isinstance(order, OrderDoc)
    return Decisions(order=order).model_copy(update=found)


def _check_blank(shop: Shop, order: OrderDoc) -> None:
    blank = shop.blanks.get(order.line.blank)
    unknown = [] if blank is None else [s for s in order.line.counts if s not in blank.sizes]
    if blank is None or unknown:
        what = (
            f"There is no blank “{order.line.blank}”"
            if blank is None
            else f"{blank.name} does not come in {', '.join(unknown)}"
        )
        raise Refusal(
            "no-such-blank", f"{what}.", "The order was not saved.", "Choose a blank and its sizes from the list."
        )


def _check_way(shop: Shop, decisions: Decisions) -> None:
    way = decisions.method
    if way is None:
        return
    owned: dict[str, Collection[str]] = {
        "printer": shop.printers, "press": shop.presses, "oven": shop.ovens, "recipe": shop.recipes, "method": shop.methods,
    }  # fmt: skip
    for field, ids in owned.items():
        if getattr(way, field) not in ids:
            raise Refusal(
                "not-owned",
                f"The shop has no {field} “{getattr(way, field)}”.",
                "The way is as it was.",
                "Choose one of the shop's own.",
            )
    if way.mode not in {m.id for m in shop.printers[way.printer].modes}:
        raise Refusal(
            "no-such-mode",
            f"{shop.printers[way.printer].name} has no mode “{way.mode}”.",
            "The way is as it was.",
            "Choose one of its modes.",
        )
    shop.recipes[way.recipe].stages_for(way.schools)
