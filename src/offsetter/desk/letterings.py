"""Lettering read back from a print's picture, kept beside the picture's facts."""

from pathlib import Path

from offsetter.core.compute.lettering import Lettering
from offsetter.core.decisions import Decisions
from offsetter.core.sentences import say
from offsetter.core.values import Refusal, digest
from offsetter.desk.base import Base
from offsetter.desk.pictures import Pictures


def known(pictures: Pictures, decisions: Decisions) -> Lettering | None:
    """What the picture says, once it was read in this language."""
    ref = decisions.art_ref
    found = _place(pictures, ref, decisions) if ref else None
    return Lettering.model_validate_json(found.read_text()) if found and found.exists() else None


def start_reading(base: Base, pictures: Pictures, decisions: Decisions) -> str:
    """Gives the key to follow the reading by. Raises Refusal when there is no picture."""
    ref = decisions.art_ref
    if ref is None or not pictures.bench.folder(ref).exists():
        raise Refusal(
            "no-artwork", say("There is no artwork to read."), say("Nothing was read."), say("Add it at Order.")
        )
    place, language = _place(pictures, ref, decisions), decisions.artwork.language
    key = f"lettering-{digest(ref, language)}"
    if not place.exists():
        base.work.submit(key, "lettering", {
            "folder": str(place.parent), "file": place.name, "language": language,
            "known": f"{decisions.order.title} {decisions.order.customer}",
            "ref": ref,
        })  # fmt: skip
    return key


def _place(pictures: Pictures, ref: str, decisions: Decisions) -> Path:
    return pictures.bench.folder(ref) / f"lettering-{decisions.artwork.language}.json"
