"""A whole job out as a zip, and in again, here or in another shop: what that shop does not have is asked for before anything is written."""

import secrets
import shutil
import tempfile
from pathlib import Path

from pydantic import ValidationError
from sqlalchemy.orm import Session

from offsetter.core.acts import Closed, Photographed, Stored, standing
from offsetter.core.compute.art_ref import ArtRef
from offsetter.core.decisions import DOCUMENTS
from offsetter.core.facts import Shop, condition_id
from offsetter.core.job_file import SORTS, Carried, Document, FileTold, Instead, JobFile, Sort, at_home
from offsetter.core.leftovers import lot_of
from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal, digest
from offsetter.desk.artworks import Artworks
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.logbook import Logbook
from offsetter.desk.shops import pinned
from offsetter.formats.job_zip import write_job_zip
from offsetter.intake.job_file import MOST_BYTES
from offsetter.intake.receive import job_file
from offsetter.store.acts import ActStore
from offsetter.store.decisions import DecisionStore
from offsetter.store.lots import LotStore
from offsetter.store.runs import RunStore
from offsetter.store.shop import ArtworkStore, ShopStore

NOTHING = say("Nothing was taken in.")
BRING = "bring"
ONE = {"blanks": "blank", "printers": "printer", "presses": "press", "ovens": "oven"}


class Missing(Frozen):
    """Something that the job names and this shop does not have."""

    sort: Sort
    id: str
    name: str
    like: tuple[tuple[str, str], ...]
    """What the shop has of the sort: id and name."""


class Arrival(Frozen):
    """A job that came as a file and is looked at; nothing of it is written yet."""

    key: str
    title: str
    customer: str
    shop: str
    pieces: int
    runs: int
    acts: int
    missing: tuple[Missing, ...]
    notes: tuple[str, ...]


class JobFiles:
    def __init__(self, base: Base, jobs: Jobs, artworks: Artworks, logbook: Logbook) -> None:
        self._base, self._jobs, self._artworks, self._logbook = base, jobs, artworks, logbook

    def write(self, job_id: str) -> tuple[Path, str]:
        """The job's zip, and what it is called. The caller removes it."""
        stored = self._jobs.kept.read(job_id)
        shop = self._jobs.shop_of(stored)
        with self._base.session() as session:
            current = DecisionStore(session).current(job_id)
            artworks = ArtworkStore(session)
            documents = tuple(
                Document(print=p, station=s, author=r.author, body=r.body) for (p, s), r in sorted(current.items()) if r.body is not None
            )  # fmt: skip
            told = JobFile(
                made_at=self._base.now(), shop=shop.name, created_at=stored.created_at, title=stored.order.title, customer=stored.order.customer, documents=documents,
                runs=stored.runs, acts=stored.acts, facts=Carried(),
            )  # fmt: skip
            pictures = {ArtRef.read(r).file for p in stored.prints if (r := p.decisions.art_ref)}
            pictures |= {m for p in stored.prints if (m := p.decisions.white.mask)}
            pictures |= {ArtRef.read(i.spec.artwork).file for r in stored.runs for i in r.plan.items}
            names = {f: artworks.name_of(f) or "picture" for f in pictures}
        facts = _carried(shop, told)
        files = {f: FileTold(name=n, sort="artwork") for f, n in names.items()}
        files |= {
            a.body.file: FileTold(name="photograph.jpg", sort="photograph")
            for a in stored.acts
            if isinstance(a.body, Photographed)
        }
        files |= {h: FileTold(name=f"{p.name}.icc", sort="profile") for h, p in facts.profiles.items()}
        where = {h: self._base.files.original(h) for h in files}
        there = {h: told_of for h, told_of in files.items() if where[h].exists()}
        folder = Path(tempfile.mkdtemp(prefix="job-"))
        write_job_zip(folder / "job.zip", told.model_copy(update={"files": there, "facts": facts}), {h: where[h] for h in there})  # fmt: skip
        said = "".join(c if c.isalnum() or c in " -" else " " for c in stored.order.title)
        return folder / "job.zip", f"{' '.join(said.split())[:80] or 'job'}.zip"

    def look(self, name: str, data: bytes) -> Arrival:
        """A job's zip opened in a process of its own. Raises Refusal for what is none."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:120] or "job.zip"
        if not data or len(data) > MOST_BYTES:
            raise Refusal("bad-job-file", say("“{name}” is {which}.", name=name, which=say('empty') if not data else say('larger than a job may be')), NOTHING, say("Take the job out of the other shop again."))  # fmt: skip
        key = digest("arrival", secrets.token_hex(8))
        folder = self._base.files.derived("arrivals", key)
        part = folder.with_name(f"{folder.name}.part")
        part.mkdir(parents=True)
        try:
            with tempfile.NamedTemporaryFile(suffix=".zip") as source:
                source.write(data)
                source.flush()
                job_file(Path(source.name), name, part)
            part.rename(folder)
        finally:
            shutil.rmtree(part, ignore_errors=True)
        told = self._told(key)
        shop = self._jobs.shop()[0]
        instead = _found(shop, told)
        missing = tuple(
            Missing(sort=sort, id=i, name=_named(told, sort, i), like=tuple((own.id, _called(own)) for own in getattr(shop, sort).values() if not own.retired))
            for sort in SORTS for i in sorted(told.uses()[sort]) if i not in instead[sort]
        )  # fmt: skip
        return Arrival(
            key=key, title=told.title, customer=told.customer, shop=told.shop, pieces=told.order.pieces, runs=len(told.runs), acts=len(told.acts),
            missing=missing, notes=_notes(shop, told),
        )  # fmt: skip

    def take_in(self, key: str, choices: dict[str, str], author: str) -> str:
        """The job as one of this shop's. choices: sort/id to one of the shop's own, or “bring”. Raises Refusal while something is missing."""
        told = self._told(key)
        shop = self._jobs.shop()[0]
        unknown = sorted({w.method for w in told.ways} - shop.methods.keys())
        if unknown:
            raise Refusal("no-such-method", say("This shop does not know the way “{unknown}”.", unknown=unknown[0]), NOTHING, say("Add its method file first: docs/methods.md."))  # fmt: skip
        for file_hash, file in told.files.items():
            data = (self._base.files.derived("arrivals", key) / file_hash).read_bytes()
            if file.sort == "artwork" and not file.name.startswith("name-"):
                self._keep_picture(file.name, data)
            else:
                self._base.files.keep(data)
        job = secrets.token_hex(6)
        with self._base.session() as session, session.begin():
            store = ShopStore(session, author, self._base.now())
            store.lock()
            shop = self._jobs.shop_in(session)[0]
            instead = self._settled(shop, told, choices, store)
            _bring_recipes(shop, told, store)
            _bring_colour(shop, told, store)
        try:
            with self._base.session() as session, session.begin():
                self._put(session, job, told, instead)
        except (LookupError, ValueError, ArithmeticError) as wrong:
            raise Refusal("bad-job-file", say("What this job holds does not go together."), NOTHING, say("Take the job out of the other shop again.")) from wrong  # fmt: skip
        shutil.rmtree(self._base.files.derived("arrivals", key), ignore_errors=True)
        return job

    def _keep_picture(self, name: str, data: bytes) -> None:
        """Looked at like any that comes in; one that this version would refuse is kept all the same: it was printed."""
        try:
            self._artworks.receive(name, data)
        except Refusal:
            file_hash = self._base.files.keep(data)
            with self._base.session() as session, session.begin():
                ArtworkStore(session).put(file_hash, name, len(data), self._base.now())

    def _settled(self, shop: Shop, told: JobFile, choices: dict[str, str], store: ShopStore) -> Instead:
        """Every blank and machine that it names to one of the shop's own, brought along where that was chosen."""
        instead = _found(shop, told)
        for sort in SORTS:
            own = getattr(shop, sort)
            for i in sorted(told.uses()[sort]):
                if i in instead[sort]:
                    continue
                chosen = choices.get(f"{sort}/{i}", "")
                if chosen in own:
                    instead[sort][i] = chosen
                    continue
                carried = getattr(told.facts, sort).get(i)
                if chosen != BRING or carried is None:
                    raise Refusal("still-missing", say("This shop has no {one} “{named}”.", one=ONE[sort], named=_named(told, sort, i)), NOTHING, say("Choose one of its own, or bring it along."))  # fmt: skip
                new = i if i not in own and i not in shop.machines else f"{i[:32]}-{secrets.token_hex(2)}"
                store.replace(sort, new, carried.model_dump(mode="json", exclude={"id"}))
                instead[sort][i] = new
        return instead

    def _put(self, session: Session, job: str, told: JobFile, instead: Instead) -> None:
        store, runs, acts, lots = DecisionStore(session), RunStore(session), ActStore(session), LotStore(session)
        begin = runs.next_number()
        numbers = {r.id: (secrets.token_hex(6), begin + n) for n, r in enumerate(sorted(told.runs, key=lambda r: r.number))}  # fmt: skip
        own = at_home(told, job, instead, lambda r: numbers[r], lambda a: digest("arrived", job, a)[:32])
        store.add_job(job, told.created_at)
        shop = self._jobs.shop_in(session)[0]
        for d in own.documents:
            document = pinned(DOCUMENTS[d.station].model_validate(d.body), shop)
            store.save(job, d.print, d.station, document.model_dump(mode="json"), d.author, 0, self._base.now())
        for run in own.runs:
            runs.add(run)
        for act in own.acts:
            acts.add(act, self._base.now())
        for act in standing(own.acts):
            if isinstance(act.body, Stored):
                lots.add(lot_of(act))
        # What it took was taken elsewhere: this shop's shelves do not move.
        self._jobs.keep_standing(session, job, is_decision=True, came_along=True)
        if any(isinstance(a.body, Closed) for a in standing(own.acts)):
            self._logbook.write(session, job)

    def _told(self, key: str) -> JobFile:
        try:
            return JobFile.model_validate_json((self._base.files.derived("arrivals", key) / "job.json").read_bytes())
        except (OSError, ValidationError) as gone:
            raise Refusal("arrival-gone", say("This job is not looked at any more."), NOTHING, say("Choose its file again.")) from gone  # fmt: skip


def _carried(shop: Shop, told: JobFile) -> Carried:
    uses, ways = told.uses(), told.ways
    recipes = {f"{w.recipe}@{w.recipe_version}": shop.recipe(w.recipe, w.recipe_version) for w in ways if w.recipe in shop.recipes}  # fmt: skip
    conditions = {}
    for way in ways:
        feed = shop.printers[way.printer].feed(way.method) if way.printer in shop.printers else None
        found = shop.condition_at(way.printer, feed.media, way.mode, way.calibration) if feed and way.calibration else None  # fmt: skip
        if found is not None:
            conditions[f"{found.id}@{found.version}"] = found
    hashes = {w.profile for w in ways} | {c.profile for c in conditions.values()}
    return Carried(
        **{sort: {i: getattr(shop, sort)[i] for i in uses[sort] if i in getattr(shop, sort)} for sort in SORTS}, recipes=recipes, conditions=conditions,
        profiles={h: p for h, p in shop.profiles.items() if h in hashes and h != shop.ink_profile},
    )  # fmt: skip


def _found(shop: Shop, told: JobFile) -> Instead:
    """What the shop has under the same id or the same name."""
    instead: Instead = {sort: {} for sort in SORTS}
    for sort in SORTS:
        own = getattr(shop, sort)
        by_name = {_called(o).casefold(): o.id for o in own.values()}
        for i in told.uses()[sort]:
            carried = getattr(told.facts, sort).get(i)
            if i in own and (carried is None or _called(own[i]).casefold() == _called(carried).casefold()):
                instead[sort][i] = i
            elif carried is not None and _called(carried).casefold() in by_name:
                instead[sort][i] = by_name[_called(carried).casefold()]
    return instead


def _called(thing: object) -> str:
    colour = getattr(thing, "colour_name", "")
    return f"{getattr(thing, 'name', '')}{f', {colour}' if colour else ''}"


def _named(told: JobFile, sort: Sort, id: str) -> str:
    found = getattr(told.facts, sort).get(id)
    return _called(found) if found is not None else id


def _notes(shop: Shop, told: JobFile) -> tuple[str, ...]:
    """What will read otherwise here."""
    notes = []
    for key, recipe in told.facts.recipes.items():
        known = shop.older.get(key) or (shop.recipes.get(recipe.id) if recipe.id in shop.recipes and shop.recipes[recipe.id].version == recipe.version else None)  # fmt: skip
        if known is not None and known != recipe:
            notes.append(say("This shop's version {version} of “{name}” has other values: the job goes by them.", version=recipe.version, name=recipe.name))  # fmt: skip
    return tuple(notes)


def _bring_recipes(shop: Shop, told: JobFile, store: ShopStore) -> None:
    for recipe in told.facts.recipes.values():
        known = shop.recipes.get(recipe.id)
        if recipe.method in shop.methods and (known is None or (f"{recipe.id}@{recipe.version}" not in shop.older and recipe.version < known.version)):  # fmt: skip
            store.put("recipes", recipe.id, recipe.model_dump(mode="json"), recipe.version)


def _bring_colour(shop: Shop, told: JobFile, store: ShopStore) -> None:
    for file_hash, profile in told.facts.profiles.items():
        if file_hash in told.files and file_hash not in shop.profiles:
            store.replace("profiles", file_hash, profile.model_dump(mode="json"))
    for key, condition in told.facts.conditions.items():
        same = condition.id == condition_id(condition.printer, condition.media, condition.mode)
        if same and key not in shop.older_conditions and condition.printer in shop.printers:
            newest = shop.conditions.get(condition.id)
            if newest is None or condition.version < newest.version:
                store.put("conditions", condition.id, condition.model_dump(mode="json"), condition.version)
