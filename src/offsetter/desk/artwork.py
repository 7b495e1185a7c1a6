"""Artwork coming in: kept by its hash, parsed in a child process, or refused without a trace in the job."""

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.desk.pictures import Pictures
from offsetter.intake.limits import MAX_BYTES
from offsetter.intake.receive import receive
from offsetter.store.shop import ArtworkStore


class Artworks:
    def __init__(self, base: Base, pictures: Pictures) -> None:
        self._base, self._pictures = base, pictures

    def receive(self, name: str, data: bytes) -> ArtworkFacts:
        """Facts of the file. Raises Refusal, in three parts, for what cannot be printed from."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:200] or "artwork"
        if not data:
            raise Refusal("empty-file", f"“{name}” is empty.", "Nothing was added to the job.",
                          "Ask for the file again: it was cut off on its way.")  # fmt: skip
        if len(data) > MAX_BYTES:
            raise Refusal("too-large", f"“{name}” is larger than {MAX_BYTES // 2**20} MB.", "Nothing was added to the job.",
                          "Save it at the size it is printed at 300 ppi.")  # fmt: skip
        file_hash = self._base.files.keep(data)
        facts = receive(self._base.files.original(file_hash), name, file_hash, self._pictures.folder(file_hash))
        with self._base.session() as session, session.begin():
            ArtworkStore(session).put(file_hash, name, len(data), self._base.now())
        return facts
