"""Runs as a process of its own: parse one hostile file, leave pixels and facts in a folder, say how it went.

python -m offsetter.intake.child SOURCE NAME HASH FOLDER
Prints one line of JSON: {"ok": true} or the three parts of a refusal.
"""

import json
import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from offsetter.core.values import Refusal
from offsetter.intake import limits

if TYPE_CHECKING:
    from offsetter.core.compute.artwork import ArtworkFacts


def main(source: Path, name: str, file_hash: str, folder: Path) -> int:
    limits.confine()
    # Only after the limits hold are the libraries loaded that parse.
    import cv2

    cv2.setNumThreads(1)
    hold_to_promise(source, file_hash)
    try:
        take_in(source, name, file_hash, folder)
    except Refusal as said:
        print(json.dumps({"code": said.code, "happened": said.happened, "kept": said.kept, "to_do": said.to_do}))
        return 0
    print(json.dumps({"ok": True}))
    return 0


def hold_to_promise(source: Path, file_hash: str) -> None:
    """This process, for good, to the memory that a picture of its header's size may take."""
    from offsetter.core.compute.art_ref import ArtRef
    from offsetter.intake.header import promised_pixels

    pixels = promised_pixels(source)
    if pixels is not None:
        limits.hold_to(round(pixels * (ArtRef.read(file_hash).fixes.enlarge or 1) ** 2))


def take_in(
    source: Path, name: str, file_hash: str, folder: Path, report: "Callable[[ArtworkFacts, int, str], None]" = lambda so_far, done, what: None
) -> None:  # fmt: skip
    """A file's pixels and facts left in folder, in this process. Raises Refusal for what cannot be printed from."""
    from offsetter.core.compute.art_ref import ArtRef
    from offsetter.intake.decode import decode

    ref = ArtRef.read(file_hash)
    picture = decode(source, name, page=ref.page, negative=ref.fixes.negative)
    # Only what is a picture is measured: what is none is refused before anything that computes is loaded.
    from offsetter.core.compute.artwork import measure_artwork
    from offsetter.core.compute.fixes import apply_fixes, ground_inside
    from offsetter.intake.bench import write_bench

    fixes = ref.fixes
    rgba = apply_fixes(picture.rgba, fixes)
    left_inside = ground_inside(picture.rgba, fixes.ground) if fixes.ground is not None and not fixes.inside else 0
    facts = measure_artwork(
        rgba, file=file_hash, name=name, mode=picture.mode, profile=picture.profile, notes=picture.notes, is_vector=picture.is_vector,
        real_mm=picture.real_mm, pages=picture.pages, ground_inside=left_inside, raster_ppi=picture.raster_ppi, white_name=picture.white_name, report=report,
    )  # fmt: skip
    part = folder.with_name(f"{folder.name}.{os.getpid()}.part")
    part.mkdir(parents=True)
    try:
        write_bench(rgba, facts, part, picture.white)
        (part / "facts.json").write_text(facts.model_dump_json())
    except OSError:
        shutil.rmtree(part, ignore_errors=True)
        raise
    _put(part, folder)


def _put(part: Path, folder: Path) -> None:
    """Whole or not at all: two requests may read the same picture in the same moment."""
    try:
        part.rename(folder)
    except OSError:
        if (folder / "facts.json").exists():
            shutil.rmtree(part)
            return
        shutil.rmtree(folder)
        part.rename(folder)


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), sys.argv[2], sys.argv[3], Path(sys.argv[4])))
