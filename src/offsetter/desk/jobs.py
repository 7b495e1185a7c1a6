"""Jobs: made, decided, undone, looked at."""

import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy.orm import Session

from offsetter.core import derive
from offsetter.core import line as core_line
from offsetter.core.acts import Act
from offsetter.core.acts import Held as ActHeld
from offsetter.core.books import labels_of
from offsetter.core.compute import placement
from offsetter.core.compute.looks import Ground
from offsetter.core.compute.plate_spec import PlateMeasure, PlateSpec
from offsetter.core.compute.wrap import cup_of
from offsetter.core.context import Context, LineInputs, Measured
from offsetter.core.decisions import DOCUMENTS, Decision, OrderDoc, PlaceDoc, Way, WhiteDoc, kind_of
from offsetter.core.facts import Levels, MugSize, Shop, Size
from offsetter.core.gang import lots_of
from offsetter.core.line import Line
from offsetter.core.places import first_place, starting_place
from offsetter.core.prints import Variant, way_of
from offsetter.core.remaining import WorkLeft, work_left
from offsetter.core.sentences import say
from offsetter.core.standing import standing_of
from offsetter.core.stock import moves_of
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base, no_such_job
from offsetter.desk.checks import check_facts, check_order, check_place, check_way
from offsetter.desk.kept_jobs import FIRST, Held, KeptJobs, Stored
from offsetter.desk.pictures import Kind, Lens, Pictures
from offsetter.desk.print_measures import measured
from offsetter.desk.scenes import PointView, Scene, brands_of
from offsetter.desk.shops import Shops, pinned
from offsetter.store.acts import ActStore
from offsetter.store.customers import CustomerStore
from offsetter.store.decisions import DecisionStore, Revision, SavedElsewhere
from offsetter.store.newest import newest_in
from offsetter.store.shop import ArtworkStore, ShopStore
from offsetter.store.standings import KeptStanding, StandingStore
from offsetter.store.stock import StockStore
from offsetter.store.tokens import TokenStore

MASK_OFF = 0.01
"""How far the shape of a picture for the white may differ from the artwork's: rounding of pixels."""


class Conflict(Exception):
    """Two people changed the same station: one is kept, the other told, with both values."""

    def __init__(self, theirs: Revision, mine: dict[str, Any] | None) -> None:
        super().__init__(theirs.station)
        self.theirs, self.mine = theirs, mine


class JobLine(Frozen):
    """A job with its line worked out."""

    job: Stored
    shop: Shop
    """As the job sees it."""
    line: Line
    picture_key: str | None
    lens: Lens | None
    is_round: bool = False
    """It goes round a cup."""


@dataclass(slots=True)
class JobRecorded:
    """A job held by a transaction, while acts are recorded."""

    session: Session
    before: Held
    today: tuple[int, tuple[Shop, Levels]]
    """The shop's facts, with their number."""
    acts: list[Act] = field(default_factory=list)
    """Added to it."""

    @property
    def held(self) -> Held:
        return self.before.model_copy(update={"acts": (*self.before.acts, *self.acts)})


class Jobs:
    def __init__(self, base: Base, pictures: Pictures) -> None:
        self._base, self._pictures = base, pictures
        self.shops = Shops(base)
        self.profile = self.shops.profile
        self.kept = KeptJobs(base, pictures)

    def shop(self) -> tuple[Shop, Levels]:
        """As it is today. A job is worked out in the shop as that job sees it: shop_of."""
        return self.shops.today()

    def shop_in(self, session: Session) -> tuple[Shop, Levels]:
        """The same in a transaction of the caller's."""
        return self.shops.today_in(session)[1]

    def shop_of(self, stored: Stored, today: Shop | None = None) -> Shop:
        """The shop as this job sees it."""
        return self.shops.for_job(today or self.shop()[0], stored.order, (p.decisions.method for p in stored.prints))

    def want_proof(self, wanted: bool) -> None:
        """Whether this shop prints only what the customer has signed."""
        with self._base.session() as session, session.begin():
            ShopStore(session).change("shop", "shop", proof_wanted=wanted)

    @contextmanager
    def changing(self, *job_ids: str, is_decision: bool = False) -> Iterator[Session]:
        """A transaction that holds the jobs, and leaves with where the first of them stands written in it.

        What is read after the lock is what the last change left. is_decision: spares are suggested anew.
        """
        job_id = job_ids[0]
        with self._locked(*job_ids) as session:
            yield session
            held, today = self._held_and_today(session, job_id, is_decision=is_decision)
            told = self._standing_of(held, job_id, today)
            changes = self._keep(session, job_id, told)
        self.kept.remember(held.model_copy(update={"measured": told.measured}), job_id, changes)

    @contextmanager
    def recording(self, job_id: str, *others: str) -> Iterator[JobRecorded]:
        """The same for acts alone, which are added to what is given: nothing that it holds is read again after them."""
        with self._locked(job_id, *others) as session:
            held = self.kept.as_changed(session, job_id)
            recorded = JobRecorded(session, held, self.shops.today_in(session))
            yield recorded
            told = self._standing_of(recorded.held, job_id, recorded.today)
            changes = self._keep(session, job_id, told)
        self.kept.remember(recorded.held.model_copy(update={"measured": told.measured}), job_id, changes)

    @contextmanager
    def _locked(self, *job_ids: str) -> Iterator[Session]:
        with self._base.session() as session, session.begin():
            for job_id in sorted(set(job_ids)):
                if not DecisionStore(session).lock(job_id):
                    raise no_such_job(job_id)
            yield session

    def keep_standing(self, session: Session, job_id: str, *, is_decision: bool = False, came_along: bool = False) -> None:  # fmt: skip
        """Work out where the job stands and write it. came_along: it comes from elsewhere, and what it took was taken there."""
        self._keep(session, job_id, self.standing(session, job_id, is_decision=is_decision), came_along=came_along)

    def _keep(self, session: Session, job_id: str, told: KeptStanding, *, came_along: bool = False) -> int:
        """The number of the change."""
        changes, is_old = StandingStore(session).save(told)
        CustomerStore(session).ensure(told.standing.customer, self._base.now())
        StockStore(session).move(job_id, told.moves, self._base.now().date(), is_old=is_old or came_along)
        return changes

    def standing(self, session: Session, job_id: str, *, is_decision: bool = False, anew: bool = False) -> KeptStanding:
        """Where the job stands, worked out anew over all its prints. anew: from their pixels on."""
        held, today = self._held_and_today(session, job_id, is_decision=is_decision)
        return self._standing_of(held.model_copy(update={"measured": {}}) if anew else held, job_id, today)

    def _held_and_today(
        self, session: Session, job_id: str, *, is_decision: bool
    ) -> tuple[Held, tuple[int, tuple[Shop, Levels]]]:
        today, held = self.shops.today_in(session), self.kept.held(session, job_id)
        return held.model_copy(update={"spoil": self.kept.spoil_rate(session)}) if is_decision else held, today

    def _standing_of(self, held: Held, job_id: str, today: tuple[int, tuple[Shop, Levels]]) -> KeptStanding:
        edition, facts = today
        contexts = self._contexts(held, job_id, facts)
        lines = tuple(core_line.evaluate(ctx, self._base.memo) for ctx in contexts)
        told = standing_of(job_id, held.order, lines, held.runs, held.acts)
        scene = self.scene_of(contexts[0]) if contexts[0].measure else None
        return KeptStanding(
            told,
            edition,
            held.spoil,
            scene.model_dump(mode="json") if scene else None,
            {c.here.id: c.given.measured for c in contexts if c.given.measured is not None},
            moves_of(contexts),
            work_left(contexts[0].shop, told.stands, lines).model_copy(
                update={"to_lay": tuple(t for c, ln in zip(contexts, lines, strict=True) for t in lots_of(c, ln))}
            ),
        )

    def work_of_another(self, job_id: str, pieces: int) -> tuple[str, WorkLeft]:
        """Title of a job, and what so many more of the same would take, from an empty table; sizes in the job's own proportion."""
        with self._base.session() as session:
            _, facts = self.shops.today_in(session)
            held = self.kept.held(session, job_id)
        order = held.order.in_proportion(pieces)
        decided = {p: d.model_copy(update={"order": order}) for p, d in held.decisions.items()}
        again = held.model_copy(update={"order": order, "decisions": decided, "acts": (), "runs": ()})
        lines = tuple(core_line.evaluate(ctx, self._base.memo) for ctx in self._contexts(again, job_id, facts))
        return held.order.title, work_left(facts[0], "open", lines)

    def work_by(self, job_id: str, way: Way) -> WorkLeft:
        """What a job that nobody has begun would take if it went another way; a reason where it could not."""
        with self._base.session() as session:
            _, facts = self.shops.today_in(session)
            held = self.kept.held(session, job_id)
        decided = {p: d.model_copy(update={"method": way}) for p, d in held.decisions.items()}
        contexts = self._contexts(held.model_copy(update={"decisions": decided}), job_id, facts)
        lines = tuple(core_line.evaluate(ctx, self._base.memo) for ctx in contexts)
        blocked = next(
            (f for line in lines for s in line.stations for f in s.findings if f.severity == "blocker"), None
        )
        return WorkLeft(why=blocked.message) if blocked else work_left(facts[0], "open", lines)

    def create(self, order: OrderDoc, author: str, *, held: str = "", brought: tuple[str, str] | None = None) -> str:
        """held: why it waits for a person's look from its first moment. brought: whose it is elsewhere, and what it is called there."""
        self._check_due(order)
        job_id = secrets.token_hex(6)
        with self._base.session() as session, session.begin():
            self.create_in(session, job_id, order, author)
            shop, _ = self.shop_in(session)
            place = first_place(shop.blanks[order.lines[0].blank])
            if place != PlaceDoc():
                now = self._base.now()
                DecisionStore(session).save(
                    job_id, order.prints[0], "place", place.model_dump(mode="json"), author, 0, now
                )
            if brought is not None:
                TokenStore(session).brought(job_id, *brought)
            if held:
                waits = Act(id=secrets.token_hex(16), job=job_id, at=self._base.now(), actor=author, signature="", body=ActHeld(reason=held))  # fmt: skip
                ActStore(session).add(waits, self._base.now())
            self.keep_standing(session, job_id, is_decision=True)
        return job_id

    def create_in(self, session: Session, job_id: str, order: OrderDoc, author: str) -> None:
        """The bare job with its order, in a transaction of the caller's."""
        self._check_due(order)
        shop = self.shop_in(session)[0]
        check_order(shop, order)
        store = DecisionStore(session)
        store.add_job(job_id, self._base.now())
        taken = pinned(order, shop)
        store.save(job_id, "", "order", taken.model_dump(mode="json"), author, 0, self._base.now())

    def look(self, job_id: str, author: str = "", print_id: str = "", kind: str = "") -> JobLine:
        """The job with its line as decided."""
        return self.work_out(*self._read(job_id, author, print_id, kind))

    def _read(self, job_id: str, author: str, print_id: str, kind: str) -> tuple[Stored, tuple[Shop, Levels]]:
        """The job, and the shop of today with what its machines hold."""
        with self._base.session() as session:
            newest = newest_in(session, job_id)
            stored = self.kept.read_in(session, newest.changes, job_id, author, print_id, kind)
            return stored, self.shops.as_read(session, newest)

    def contexts_in(self, session: Session, job_id: str) -> tuple[Context, ...]:
        """What the stations of each of the job's prints share, as a transaction of the caller's sees them."""
        return self._contexts(self.kept.held(session, job_id), job_id, self.shop_in(session))

    def _contexts(self, held: Held, job_id: str, of_shop: tuple[Shop, Levels]) -> tuple[Context, ...]:
        check_facts(of_shop[0], held.order, [d.method for d in held.decisions.values()])
        seen = (self.kept.seen_from(held, job_id, p) for p in held.order.prints)
        return tuple(self.context(self.inputs(s, of_shop), s.measured) for s in seen)

    def attempt(self, job_id: str, station: str, body: dict[str, Any], print_id: str = "", kind: str = "") -> JobLine:
        """The job's line as it would be with one document changed; nothing is saved."""
        stored, today = self._read(job_id, "", print_id, kind)
        drafted = self._drafted(stored, station, body)
        shop = self.shop_of(drafted, today[0])
        check_order(shop, drafted.order)
        check_way(shop, drafted.decisions)
        check_place(shop, drafted.order, drafted.decisions.place.place)
        return self.work_out(drafted, today)

    def decide(
        self, job_id: str, station: str, body: dict[str, Any], base: int, author: str, print_id: str = ""
    ) -> None:
        """Save one document on top of the revision it was read at. Raises Conflict when somebody was quicker."""
        stored, today = self._read(job_id, "", print_id, "")
        drafted = self._drafted(stored, station, body)
        if station == "order" and drafted.order.due != stored.order.due:
            self._check_due(drafted.order)
        shop = self.shop_of(drafted, today[0])
        check_order(shop, drafted.order)
        for one in drafted.prints:
            check_way(shop, one.decisions)
        if station == "place":
            check_place(shop, drafted.order, drafted.decisions.place.place)
        document = pinned(self._accepted(stored, drafted, station, today), shop)
        if isinstance(document, WhiteDoc) and document.mask:
            self._check_mask(document.mask, stored)
        try:
            with self.changing(job_id, is_decision=True) as session:
                file = drafted.decisions.place.file
                if station == "place" and file and not ArtworkStore(session).name_of(file):
                    raise Refusal("no-such-file", say("This artwork is not in the store."), say("The job is as it was."), say("Drop the file again."))  # fmt: skip
                DecisionStore(session).save(
                    job_id, stored.print, station, document.model_dump(mode="json"), author, base, self._base.now()
                )
        except SavedElsewhere as other:
            raise Conflict(other.theirs, document.model_dump(mode="json")) from other

    def _check_mask(self, mask: str, stored: Stored) -> None:
        """It lies over the artwork as a whole, so it has its shape. Raises Refusal."""
        here = next(p for p in stored.prints if p.id == stored.print)
        if here.facts is None:
            return
        (wide, high), (mask_wide, mask_high) = here.facts.pixels, self._pictures.bench.pixels(mask)
        if abs(wide * mask_high / (high * mask_wide) - 1) > MASK_OFF:
            raise Refusal("mask-shape", say("The picture for the white has another shape: {mask_wide} x {mask_high} pixels for {wide} x {high}.", mask_wide=mask_wide, mask_high=mask_high, wide=wide, high=high),
                          say("The white is as it was."), say("Give one that covers the whole artwork, margins with it."))  # fmt: skip

    def _accepted(self, stored: Stored, drafted: Stored, station: str, today: tuple[Shop, Levels]) -> Decision:
        """The document as it is kept: with what its station has found, when this is the word that the station is right."""
        document: Decision = getattr(drafted.decisions, station)
        if isinstance(document, PlaceDoc):
            document = self._until_moved(stored, drafted, document, self.shop_of(drafted, today[0]))
        before: Decision | None = getattr(stored.decisions, station)
        was_settled = before is not None and before.settled
        if not document.settled:
            return document.model_copy(update={"seen": None})
        if was_settled and before is not None and not document.says_the_same(before):
            return document.model_copy(update={"seen": before.seen})
        found = self.work_out(drafted, today).line.station(core_line.STATION_OF[station])
        return document.model_copy(update={"seen": core_line.seen_at(found)})

    def _until_moved(self, stored: Stored, drafted: Stored, place: PlaceDoc, shop: Shop) -> PlaceDoc:
        """A picture that comes in is laid in the middle of what is printed in its middle, while nobody has moved the print."""
        was, facts = stored.decisions.place, drafted.here.facts
        if (
            facts is None
            or place.text is not None
            or place.file == was.file
            or place.below_collar_um != was.below_collar_um
        ):
            return place
        blank = shop.blanks[drafted.order.lines[0].blank]
        if was.below_collar_um != starting_place(blank, was.place).below_collar_um:
            return place
        height = derive.print_height_um(drafted.decisions, facts, place.width_um)
        size = next(iter(blank.sizes.values()))
        panel = placement.panel(blank, size, place.place)
        if panel.centre_y_mm is None:
            return place
        return place.model_copy(update={"below_collar_um": round(panel.centre_y_mm * 1000 - height / 2)})

    def undo(self, job_id: str, author: str) -> str:
        """Take back the author's own last change; refused with both values if somebody saved since. Gives its print."""
        return self._step(job_id, author, is_undo=True)

    def redo(self, job_id: str, author: str) -> str:
        return self._step(job_id, author, is_undo=False)

    def inputs(self, stored: Stored, of_shop: tuple[Shop, Levels] | None = None) -> LineInputs:
        """What the line is worked out from, pixels not yet measured."""
        today, store_levels = of_shop or self.shops.with_what_is_held()
        shop = self.shop_of(stored, today)
        return LineInputs(shop=shop, profile=self.profile, prints=stored.prints, print=stored.print,
                          kind=stored.kind, acts=stored.acts, runs=stored.runs, levels=store_levels, spoil=stored.spoil,
                          proof_wanted=shop.proof_wanted)  # fmt: skip

    def work_out(self, stored: Stored, of_shop: tuple[Shop, Levels] | None = None) -> JobLine:
        """The whole line from what is stored, with pixels measured where they have to be.

        of_shop: its facts, where a transaction has read them already.
        """
        of_shop = of_shop or self.shops.with_what_is_held()
        check_facts(of_shop[0], stored.order, [p.decisions.method for p in stored.prints])
        ctx = self.context(self.inputs(stored, of_shop), stored.measured)
        scene, lens = self.scene_of(ctx) if ctx.measure else None, None
        if scene is not None and ctx.variant is not None and ctx.facts is not None:
            lens = self._pictures.lens(ctx.variant.spec, ctx.facts)
        key = self._pictures.remember(scene) if scene else None
        return JobLine(
            job=stored,
            shop=ctx.shop,
            line=core_line.evaluate(ctx, self._base.memo),
            picture_key=key,
            lens=lens,
            is_round=bool(scene and scene.cup),
        )

    def context(self, inputs: LineInputs, kept: Measured | None = None) -> Context:
        """What a print's stations share, its plates measured. kept: what was measured when the job was last written."""
        ctx = Context(inputs)
        if ctx.variant is None or ctx.facts is None:
            return ctx
        spec, facts, scene = ctx.variant.spec, ctx.facts, self.scene_of(ctx)
        if scene is None or not self._pictures.bench.has_profiles(spec):
            return ctx.lost_profile()
        brands = brands_of(ctx.shop, ctx.order.customer)
        return ctx.measured_as(measured(self._pictures, scene, facts, brands, kept))

    def scene_of(self, ctx: Context) -> Scene | None:
        """The print that is looked at, on the cloth of the slot that is drawn; None without a picture."""
        if ctx.variant is None or ctx.facts is None:
            return None
        if ctx.way is None:
            return Scene(spec=ctx.variant.spec)
        return _scene_on(
            ctx.variant.spec,
            derive.ground_of(ctx.shop, ctx.way, ctx.decisions, ctx.blank),
            ctx.blank.sizes[ctx.size],
            ctx.place,
        )

    def measure(self, spec: PlateSpec) -> PlateMeasure:
        """The plates' measurement at full size, at bench size until there is one."""
        return self._pictures.bench.device(spec) or self._pictures.bench.preview(spec)

    def device_measure(self, spec: PlateSpec) -> PlateMeasure | None:
        return self._pictures.bench.device(spec)

    def picture(self, key: str, kind: Kind) -> bytes:
        return self._pictures.png(key, kind)

    def point(self, key: str, x: float, y: float) -> PointView:
        """What one point of a picture is made of; x and y are shares of its width and height."""
        return self._pictures.point(key, x, y)

    def labels(self, stored: Stored) -> dict[str, str]:
        """Slots and kinds of the job as people call them."""
        shop = self.shop_of(stored)
        return labels_of(stored.order, {ln.id: shop.blanks[ln.blank] for ln in stored.order.lines})

    def last_stages(self, seen: JobLine) -> dict[str, str]:
        """Print to its last stage of preparing, by its own way."""
        shop, found = seen.shop, {}
        for one in seen.job.prints:
            way = seen.line.ways.get(one.id)
            after = derive.after_print(shop.methods[way.method], derive.stages_of(shop, way)) if way else ()
            found[one.id] = after[-1].id if after else ""
        return found

    def stages_after_print(self, way: Way) -> tuple[tuple[str, str], ...]:
        """Id and name of what a print goes through before the press, by a way."""
        shop, _ = self.shop()
        return tuple((s.id, s.name) for s in derive.after_print(shop.methods[way.method], derive.stages_of(shop, way)))

    def title(self, job_id: str) -> str:
        with self._base.session() as session:
            kept = StandingStore(session).find(job_id)
        return kept.standing.title if kept else self.kept.read(job_id).order.title

    def scene(self, stored: Stored, variant: Variant, slot: str = "", line: JobLine | None = None) -> Scene:
        """A variant on the cloth of one of its slots: the one asked for, or its first. line: the job's, where it was worked out."""
        shop = line.shop if line else self.shop_of(stored)
        one = next(p for p in stored.prints if p.id == variant.print)
        way = line.line.ways.get(one.id) if line else way_of(shop, stored.prints, one.id, self.profile)
        wanted = next((s for s in variant.slots if s == slot or kind_of(s) == kind_of(slot)), variant.slots[0])
        if way is None:
            return Scene(spec=variant.spec)
        blank = derive.blank_of(shop, one.decisions, wanted)
        ground, size = derive.ground_of(shop, way, one.decisions, blank), blank.sizes[kind_of(wanted).split("/")[1]]
        return _scene_on(variant.spec, ground, size, one.decisions.place)

    def remember(self, scene: Scene) -> str:
        return self._pictures.remember(scene)

    def _step(self, job_id: str, author: str, *, is_undo: bool) -> str:
        with self.changing(job_id, is_decision=True) as session:
            store = DecisionStore(session)
            undo, redo = store.stacks(job_id, author)
            stack = undo if is_undo else redo
            if not stack or (is_undo and stack[-1] == (FIRST, 1)):
                raise Refusal(
                    "nothing-left",
                    say("There is nothing of yours to {which}.", which="undo" if is_undo else "redo"),
                    say("The job is as it was."),
                    say("Go on."),
                )
            (print_id, station), revision = stack[-1]
            body = store.body_at(job_id, print_id, station, revision - 1 if is_undo else revision)
            latest = store.current(job_id)[print_id, station]
            if latest.author != author:
                raise Conflict(latest, body)
            store.save(
                job_id,
                print_id,
                station,
                body,
                author,
                latest.revision,
                self._base.now(),
                "undo" if is_undo else "redo",
                revision,
            )
            return print_id

    def _drafted(self, stored: Stored, station: str, body: dict[str, Any]) -> Stored:
        """The job with one document changed; the order's and the sheet's belong to every print."""
        if station not in DOCUMENTS:
            raise Refusal(
                "no-such-station",
                say("Nothing is decided at “{station}”.", station=station),
                say("The job is as it was."),
                say("Choose a station of the line."),
            )
        drafted = stored.decisions.with_draft(station, body)
        changed = getattr(drafted, station)
        if station == "order" and not set(drafted.order.prints) <= set(stored.order.prints):
            raise Refusal(
                "no-such-print",
                say("The order names a print that it does not have."),
                say("The job is as it was."),
                say("Add the print first."),
            )
        order, prints = drafted.order, []
        for one in (p for p in stored.prints if p.id in order.prints):
            if station in ("order", "sheet") or one.id == stored.print:
                decisions = one.decisions.model_copy(update={station: changed})
                # Only another file, or other names, make other facts of the picture: a moved print keeps them.
                was, now = one.decisions.place, decisions.place
                is_same = now.text is None and (one.decisions.art_ref, was.text) == (decisions.art_ref, now.text)
                if is_same and station != "artwork":
                    one = one.model_copy(update={"decisions": decisions})
                else:
                    one = self.kept.print_of(one.id, decisions, stored.kind, self.kept.names_of(drafted.art_ref))
            prints.append(one)
        here = stored.print if stored.print in order.prints else order.prints[0]
        return stored.model_copy(update={"order": order, "prints": tuple(prints), "print": here})

    def _check_due(self, order: OrderDoc) -> None:
        if order.due <= self._base.now():
            raise Refusal(
                "due-in-the-past",
                say("The due time lies in the past."),
                say("The order was not saved."),
                say("Give a time from now on."),
            )


def _scene_on(spec: PlateSpec, ground: Ground, size: Size, place: PlaceDoc) -> Scene:
    """A print on its blank; round it, where that is a cup."""
    cup = cup_of(size, place.below_collar_um / 1000, place.offset_um / 1000) if isinstance(size, MugSize) else None
    return Scene(spec=spec, ground=ground, cup=cup)
