"""A machine that takes files from a folder which a program of its own watches: a file is there whole, or not at all."""

import os
import shutil
from pathlib import Path


def put_whole(folder: Path, files: dict[str, Path | str]) -> tuple[str, ...]:
    """Copy files (or write texts) under their names. Written aside first; named only when all of them are there. Raises OSError;
    then none of them is."""
    parts: list[tuple[Path, Path]] = []
    done: list[Path] = []
    try:
        for name, source in files.items():
            part, whole = folder / f".{name}.{os.getpid()}.part", folder / name
            parts.append((part, whole))
            if isinstance(source, str):
                part.write_text(source)
            else:
                shutil.copyfile(source, part)
            with part.open("rb") as file:
                os.fsync(file.fileno())
        for part, whole in parts:
            part.rename(whole)
            done.append(whole)
    except OSError:
        for path in (*(p for p, _ in parts), *done):
            path.unlink(missing_ok=True)
        raise
    return tuple(files)


def still_there(folder: Path, files: tuple[str, ...]) -> tuple[str, ...]:
    """Of these files those that nobody took. Raises OSError where the folder itself cannot be seen."""
    found = {p.name for p in folder.iterdir()}
    return tuple(f for f in files if f in found)


def take_back(folder: Path, files: tuple[str, ...]) -> tuple[str, ...]:
    """Remove what nobody took yet; gives what it was."""
    there = still_there(folder, files)
    for name in there:
        (folder / name).unlink(missing_ok=True)
    return there
