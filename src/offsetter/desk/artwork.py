"""Artwork coming in: kept by its hash, parsed in a child process, or refused without a trace in the job."""

import json

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.line import way_of
from offsetter.core.units import ppi_of
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
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
        facts = receive(self._base.files.original(file_hash), name, file_hash, self._pictures.folder(file_hash))
        self._know(name, file_hash, len(data))
        return facts

    def begin(self, job_id: str, print_id: str, name: str, data: bytes) -> Begun:
        """What the header says at once; the picture itself is looked at off the request, for the print it is meant for."""
        name, file_hash = self._kept(name, data)
        source, folder = self._base.files.original(file_hash), self._pictures.folder(file_hash)
        header = read_header(source)
        stored = self._jobs.read(job_id, "", print_id)
        way, shop = way_of(self._jobs.inputs(stored)), self._jobs.shop()[0]
        place, order = stored.here.decisions.place, stored.order
        blank = shop.blanks[order.lines[0].blank]
        ppi = ppi_of(header.pixels[0], place.width_um / 1000) if header.pixels else None
        begun = Begun(file=file_hash, name=name, header=header, ppi=ppi, width_mm=place.width_um / 1000, key=None)
        self._know(name, file_hash, len(data))
        if (folder / "facts.json").exists() or way is None:
            return begun
        key = f"intake-{file_hash}"
        asked = {"width_um": place.width_um, "method": shop.methods[way.method].model_dump(mode="json"), "cloth": blank.colour,
                 "colour_name": blank.colour_name}  # fmt: skip
        self._base.work.submit(
            key,
            "take_in",
            {"source": str(source), "name": name, "file": file_hash, "folder": str(folder), "asked": json.dumps(asked)},
        )
        return begun.model_copy(update={"key": key})

    def _know(self, name: str, file_hash: str, size: int) -> None:
        with self._base.session() as session, session.begin():
            ArtworkStore(session).put(file_hash, name, size, self._base.now())

    def _kept(self, name: str, data: bytes) -> tuple[str, str]:
        """A plain name, and the hash under which the file is kept."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:200] or "artwork"
        if not data:
            raise Refusal("empty-file", f"“{name}” is empty.", "Nothing was added to the job.",
                          "Ask for the file again: it was cut off on its way.")  # fmt: skip
        if len(data) > MAX_BYTES:
            raise Refusal("too-large", f"“{name}” is larger than {MAX_BYTES // 2**20} MB.", "Nothing was added to the job.",
                          "Save it at the size it is printed at 300 ppi.")  # fmt: skip
        return name, self._base.files.keep(data)
