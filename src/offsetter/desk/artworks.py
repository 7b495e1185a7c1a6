"""Artwork coming in: kept by its hash, parsed in a child process, or refused without a trace in the job."""

import json

from offsetter.core.compute.art_ref import ArtRef
from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.context import Context
from offsetter.core.decisions import ArtworkDoc
from offsetter.core.sentences import say
from offsetter.core.units import ppi_of
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.kept_jobs import Stored
from offsetter.desk.pictures import Pictures
from offsetter.intake.header import Header, read_header
from offsetter.intake.limits import MAX_BYTES
from offsetter.intake.receive import receive
from offsetter.store.shop import ArtworkStore


class Begun(Frozen):
    """A file that is being looked at."""

    file: str
    name: str
    header: Header
    ppi: float | None
    """At the print's width, the whole file's width taken for it."""
    width_mm: float
    key: str | None
    """Of the work to follow; None: the picture is known already."""


class Artworks:
    def __init__(self, base: Base, pictures: Pictures, jobs: Jobs) -> None:
        self._base, self._pictures, self._jobs = base, pictures, jobs

    def receive(self, name: str, data: bytes) -> ArtworkFacts:
        """Facts of the file. Raises Refusal, in three parts, for what cannot be printed from."""
        name, file_hash = self._kept(name, data)
        facts = receive(self._base.files.original(file_hash), name, file_hash, self._pictures.bench.folder(file_hash))
        self._know(name, file_hash, len(data))
        return facts

    def begin(self, job_id: str, print_id: str, name: str, data: bytes) -> Begun:
        """What the header says at once; the picture itself is looked at off the request, for the print it is meant for."""
        name, file_hash = self._kept(name, data)
        header = read_header(self._base.files.original(file_hash))
        self._know(name, file_hash, len(data))
        stored = self._jobs.kept.read(job_id, "", print_id)
        width_mm = stored.here.decisions.place.width_um / 1000
        ppi = ppi_of(header.pixels[0], width_mm) if header.pixels else None
        key = self._look_at(
            stored, ArtRef(file=file_hash, fixes=stored.decisions.artwork.fixes), stored.decisions.artwork, name
        )
        return Begun(file=file_hash, name=name, header=header, ppi=ppi, width_mm=width_mm, key=key)

    def begin_fixed(self, job_id: str, print_id: str, artwork: ArtworkDoc) -> str | None:
        """The job's picture with what shall be put right, looked at before it is decided; gives the key to follow it by.

        None: it is known already, or there is no picture.
        """
        stored = self._jobs.kept.read(job_id, "", print_id)
        place = stored.decisions.place
        if place.file is None:
            return None
        with self._base.session() as session:
            name = ArtworkStore(session).name_of(place.file) or place.file
        return self._look_at(stored, ArtRef(file=place.file, page=place.page, fixes=artwork.fixes), artwork, name)

    def _look_at(self, stored: Stored, ref: ArtRef, artwork: ArtworkDoc, name: str) -> str | None:
        """Measure a picture off the request, for the print it is meant for."""
        folder, way, shop = (
            self._pictures.bench.folder(str(ref)),
            Context(self._jobs.inputs(stored)).way,
            self._jobs.shop()[0],
        )
        if (folder / "facts.json").exists() or way is None:
            return None
        blank = shop.blanks[stored.order.lines[0].blank]
        asked = {
            "doc": artwork.model_dump(mode="json"), "width_um": stored.decisions.place.width_um,
            "method": shop.methods[way.method].model_dump(mode="json"), "cloth": blank.colour, "colour_name": blank.colour_name,
        }  # fmt: skip
        self._base.work.submit(f"intake-{ref}", "take_in", {
            "source": str(self._base.files.original(ref.file)), "name": name, "file": str(ref), "folder": str(folder), "asked": json.dumps(asked),
        })  # fmt: skip
        return f"intake-{ref}"

    def _know(self, name: str, file_hash: str, size: int) -> None:
        with self._base.session() as session, session.begin():
            ArtworkStore(session).put(file_hash, name, size, self._base.now())

    def _kept(self, name: str, data: bytes) -> tuple[str, str]:
        """A plain name, and the hash under which the file is kept."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:200] or "artwork"
        if not data:
            raise Refusal("empty-file", say("“{name}” is empty.", name=name), say("Nothing was added to the job."),
                          say("Ask for the file again: it was cut off on its way."))  # fmt: skip
        if len(data) > MAX_BYTES:
            raise Refusal("too-large", say("“{name}” is larger than {max_bytes} MB.", name=name, max_bytes=MAX_BYTES // 2 ** 20), say("Nothing was added to the job."),
                          say("Save it at the size it is printed at 300 ppi."))  # fmt: skip
        return name, self._base.files.keep(data)
