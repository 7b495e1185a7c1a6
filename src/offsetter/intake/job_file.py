"""Runs as a process of its own: open a job's zip that came from outside, leave its document and its files in a folder.

python -m offsetter.intake.job_file SOURCE NAME FOLDER
Prints one line of JSON: {"ok": true} or the three parts of a refusal.
"""

import errno
import hashlib
import json
import re
import sys
import zipfile
from pathlib import Path

from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.intake import limits

MOST_BYTES = 600_000_000
"""Of the zip, and of all that is in it."""
MOST_DOCUMENT, MOST_FILES, PART = 40_000_000, 500, 1 << 20
_ENTRY = re.compile(r"^(job\.json|job\.schema\.json|files/([0-9a-f]{32}))$")
KEPT = say("Nothing was taken in.")


def main(source: Path, name: str, folder: Path) -> int:
    limits.confine()
    try:
        take_apart(source, name, folder)
    except Refusal as said:
        print(json.dumps({"code": said.code, "happened": said.happened, "kept": said.kept, "to_do": said.to_do}))
        return 0
    print(json.dumps({"ok": True}))
    return 0


def take_apart(source: Path, name: str, folder: Path) -> None:
    """Raises Refusal for what is no job's zip, holds more than one may, or was changed on the way."""
    try:
        with zipfile.ZipFile(source) as zipped:
            entries = zipped.infolist()
            odd = next((e.filename for e in entries if not _ENTRY.match(e.filename)), None)
            if odd is not None or len(entries) > MOST_FILES + 2 or len({e.filename for e in entries}) < len(entries):
                raise _bad(name, say("it holds “{odd}”", odd=(odd or "too much")[:60]))
            if sum(e.file_size for e in entries) > MOST_BYTES:
                raise _bad(name, say("unpacked it is larger than a job may be"))
            if not any(e.filename == "job.json" for e in entries):
                raise _bad(name, say("it holds no job.json"))
            _read(zipped, name, folder)
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError, ValueError) as broken:
        if isinstance(broken, OSError) and broken.errno in (errno.ENOSPC, errno.EDQUOT):
            raise Refusal("disk-full", say("The disk of the shop's computer is full."), say("No job was taken in."), say("Make room there, then open the zip again.")) from broken  # fmt: skip
        raise _bad(name, say("it cannot be unpacked")) from broken


def _read(zipped: zipfile.ZipFile, name: str, folder: Path) -> None:
    from pydantic import ValidationError

    from offsetter.core.job_file import JobFile, documents_are_sound

    with zipped.open("job.json") as file:
        data = file.read(MOST_DOCUMENT + 1)
    if len(data) > MOST_DOCUMENT:
        raise _bad(name, say("its document is larger than a job's may be"))
    try:
        told = JobFile.model_validate_json(data)
        documents_are_sound(told)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        raise _bad(name, say("its document cannot be read: {first}: {first2}", first='.'.join(str(p) for p in first['loc']), first2=first['msg'])) from wrong  # fmt: skip
    except ValueError as wrong:
        raise _bad(name, say("its document cannot be read: {wrong}", wrong=wrong)) from wrong
    there = {e.filename.removeprefix("files/") for e in zipped.infolist() if e.filename.startswith("files/")}
    missing = set(told.files) - there
    if missing:
        raise _bad(name, say("the file “{name}” is missing from it", name=told.files[min(missing)].name[:60]))
    for file_hash in told.files:
        part, seen = folder / file_hash, hashlib.sha256()
        with zipped.open(f"files/{file_hash}") as file, part.open("wb") as out:
            while block := file.read(PART):
                seen.update(block)
                out.write(block)
        if seen.hexdigest()[:32] != file_hash:
            raise _bad(name, say("the file “{name}” was changed on the way", name=told.files[file_hash].name[:60]))
    (folder / "job.json").write_bytes(data)


def _bad(name: str, why: str) -> Refusal:
    return Refusal("bad-job-file", say("“{name}” is no job's file: {why}.", name=name[:80], why=why), KEPT, say("Take the job out of the other shop again."))  # fmt: skip


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), sys.argv[2], Path(sys.argv[3])))
