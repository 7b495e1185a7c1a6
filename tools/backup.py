"""./offsetter backup FILE, ./offsetter restore FILE: a whole shop in one zip file, and back into an empty folder.

The zip holds `database.sql` (one consistent moment of it), `originals/` (named by the hash of what is in them, and never changed:
all that the moment knows of is among them) and `manifest.json`.
"""

import argparse
import hashlib
import json
import os
import re
import shutil
import subprocess
import sys
import time
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from database import Database
from house import LAST_BACKUP, House, newest_migration, own_folder
from pydantic import BaseModel, Field
from sqlalchemy.engine import make_url

from offsetter.store.engine import grant, migrate

FORM = 1
"""Of the zip; a later one that cannot be read by this says so."""
ORIGINAL = re.compile(r"originals/([0-9a-f]{2})/(\1[0-9a-f]{30})")
PIECE = 1 << 20
SAID_EVERY_S = 2.0


class Manifest(BaseModel):
    form: int = Field(ge=1)
    migration: str
    made_at: datetime
    database_sha256: str = Field(pattern="^[0-9a-f]{64}$")
    files: int = Field(ge=0)
    bytes: int = Field(ge=0)


def main() -> int:
    what = sys.argv[1]
    parser = argparse.ArgumentParser(prog=f"./offsetter {what}", description=__doc__)
    parser.add_argument("file", type=Path, metavar="FILE", help="the backup")
    parser.add_argument("--data", type=Path, default=own_folder(), help="the shop's folder (default %(default)s)")
    asked = parser.parse_args(sys.argv[2:])
    return backup(asked.file, House(asked.data)) if what == "backup" else restore(asked.file, House(asked.data))


def backup(target: Path, house: House) -> int:
    """Of a shop that is open or closed; what cannot be read back is not called a backup."""
    if not (house.data / "database" / "data").exists():
        raise SystemExit(
            f"offsetter: There is no shop in {house.data}. Nothing was written. Give its folder with --data."
        )
    target, part = target.resolve(), target.resolve().with_name(target.name + ".part")
    needed, free = (
        _bytes_in(house.files / "originals"),
        shutil.disk_usage(target.parent).free if target.parent.exists() else -1,
    )
    if free < 0:
        raise SystemExit(
            f"offsetter: There is no folder {target.parent}. Nothing was written. Make it, or give another place."
        )
    if free < needed:
        raise SystemExit(f"offsetter: The files take {_mb(needed)} MB, and {_mb(free)} MB are free at {target.parent}. Nothing was written. Make room, or give another place.")  # fmt: skip
    try:
        with _running(house) as database, zipfile.ZipFile(part, "w", zipfile.ZIP_STORED, allowZip64=True) as made:
            found = database.migration()
            with made.open(zipfile.ZipInfo("database.sql", _now()), "w", force_zip64=True) as into:
                checked = _Hashed(into)
                _dump(database, checked)
            progress = _Progress("kept", needed)
            for path in sorted((house.files / "originals").rglob("*")):
                if path.is_file() and ORIGINAL.fullmatch(f"originals/{path.parent.name}/{path.name}"):
                    made.write(path, f"originals/{path.parent.name}/{path.name}")
                    progress.add(path.stat().st_size)
            manifest = Manifest(
                form=FORM, migration=found or "", made_at=datetime.now(UTC), database_sha256=checked.hexdigest(),
                files=progress.files, bytes=progress.bytes,
            )  # fmt: skip
            made.writestr(zipfile.ZipInfo("manifest.json", _now()), manifest.model_dump_json(indent=1))
        _read(part, None)
        part.replace(target)
    except OSError as wrong:
        raise SystemExit(f"offsetter: {target} could not be written ({wrong.strerror}). The shop is as it was; no half backup is left. Make room, or give another place.") from wrong  # fmt: skip
    finally:
        part.unlink(missing_ok=True)
    (house.data / LAST_BACKUP).write_text(json.dumps({"at": manifest.made_at.isoformat(), "file": str(target)}))
    print(
        f"offsetter: kept in {target} and read back: {manifest.files} files, {_mb(target.stat().st_size)} MB",
        flush=True,
    )
    return 0


def restore(source: Path, house: House) -> int:
    """Into a folder where no shop is. It becomes the shop's by one renaming at the end: before it there is none."""
    house.take()
    aside = house.data / "restoring"
    # Files without a database are those of a shop whose database is elsewhere, unless a restoring that was cut short left them.
    if (house.data / "database" / "data").exists() or (house.files.exists() and not aside.exists()):
        raise SystemExit(
            f"offsetter: There is a shop in {house.data} already. It is as it was. Give an empty folder with --data."
        )
    for left in (aside, house.files):
        shutil.rmtree(left, ignore_errors=True)
    database = Database(aside / "database")
    try:
        sql = aside / "database.sql"
        aside.mkdir(exist_ok=True)
        _read(source, aside)
        database.start()
        database.create()
        _load(database, sql)
        # An older one is brought to this version; rights are not among what a database tells of itself.
        migrate(database.url(user="owner"))
        grant(database.url(user="owner"), "app")
        sql.unlink()
        database.stop()
        (aside / "originals").mkdir(exist_ok=True)
        house.files.mkdir()
        (aside / "originals").replace(house.files / "originals")
        shutil.rmtree(house.data / "database", ignore_errors=True)  # the passwords that a look at it made
        (aside / "database").replace(house.data / "database")
    except OSError as wrong:
        raise SystemExit(f"offsetter: The shop could not be written ({wrong.strerror}). Nothing of it is left in {house.data}. Make room, or give another folder.") from wrong  # fmt: skip
    finally:
        database.stop()
        if not (house.data / "database" / "data").exists():
            shutil.rmtree(house.files, ignore_errors=True)
        shutil.rmtree(aside, ignore_errors=True)
    print(f"offsetter: the shop is back in {house.data}; open it with ./offsetter open --data {house.data}", flush=True)
    return 0


def _read(source: Path, into: Path | None) -> None:
    """Every member, its hash compared with what it should be; written below `into` where one is given. Raises SystemExit."""

    def refused(why: str) -> SystemExit:
        return SystemExit(f"offsetter: {source} is no whole backup: {why}. Nothing was brought back. Take another one.")

    try:
        with zipfile.ZipFile(source) as told:
            names = told.namelist()
            if "manifest.json" not in names or "database.sql" not in names:
                raise refused("it has no manifest or no database")
            if told.getinfo("manifest.json").file_size > PIECE:
                raise refused("its manifest is too long")
            manifest = Manifest.model_validate_json(told.read("manifest.json"))
            if manifest.form > FORM or manifest.migration > newest_migration():
                raise SystemExit(f"offsetter: {source} was made by a newer Offsetter. Nothing was brought back. Bring this one up to date first.")  # fmt: skip
            others = set(names) - {"manifest.json", "database.sql"}
            wrong = next((n for n in others if not ORIGINAL.fullmatch(n)), "")
            if wrong or len(set(names)) < len(names):
                raise refused(f"it holds {wrong!r}" if wrong else "a name stands in it twice")
            if len(others) != manifest.files:
                raise refused(f"{manifest.files} files are named and {len(others)} are there")
            whole = sum(i.file_size for i in told.infolist())
            if into is not None and shutil.disk_usage(into).free < whole * 1.2:
                raise SystemExit(f"offsetter: The shop takes about {_mb(int(whole * 1.2))} MB, and {_mb(shutil.disk_usage(into).free)} MB are free. Nothing was brought back. Make room, or give another folder.")  # fmt: skip
            progress = _Progress("read", whole)
            for name in ["database.sql", *sorted(others)]:
                wanted = manifest.database_sha256 if name == "database.sql" else name.rsplit("/", 1)[1]
                found = hashlib.sha256()
                target = into / name if into is not None else Path(os.devnull)
                target.parent.mkdir(parents=True, exist_ok=True)
                with told.open(name) as member, target.open("wb") as out:
                    while piece := member.read(PIECE):
                        found.update(piece)
                        out.write(piece)
                if found.hexdigest()[: len(wanted)] != wanted:
                    raise refused(f"{name} is not what was kept")
                progress.add(told.getinfo(name).file_size)
    except (zipfile.BadZipFile, EOFError, KeyError, ValueError, NotImplementedError) as wrong:
        raise refused("it was cut short or changed") from wrong
    except FileNotFoundError as missing:
        raise SystemExit(
            f"offsetter: There is no file {source}. Nothing was brought back. Look at its name."
        ) from missing


@contextmanager
def _running(house: House) -> Iterator[Database]:
    """The shop's database: that of the open shop, or its own started for as long."""
    database = house.database
    if house.is_open():
        database.port = int(make_url((house.data / "url").read_text()).port or 0)
        yield database
        return
    house.take()
    house.start_database()
    try:
        yield database
    finally:
        database.stop()


def _dump(database: Database, into: "_Hashed") -> None:
    options, environment = database.as_owner()
    process = subprocess.Popen(
        ["mariadb-dump", "--no-defaults", *options, "--single-transaction", "--quick", "--skip-lock-tables", "--hex-blob",
         "--skip-dump-date", "--default-character-set=utf8mb4", "--no-tablespaces",
         "--ignore-table-data=offsetter.long_work", "offsetter"],
        stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.PIPE, env=environment,
    )  # fmt: skip
    assert process.stdout is not None
    assert process.stderr is not None
    shutil.copyfileobj(process.stdout, into, PIECE)
    said = process.stderr.read().decode(errors="replace").strip()
    if process.wait():
        raise SystemExit(f"offsetter: The database could not be read: {said[-300:]}. The shop is as it was. Try again.")


def _load(database: Database, sql: Path) -> None:
    options, environment = database.as_owner()
    with sql.open("rb") as told:
        done = subprocess.run(
            ["mariadb", "--no-defaults", *options, "--default-character-set=utf8mb4", "offsetter"], stdin=told, capture_output=True, env=environment, check=False
        )  # fmt: skip
    if done.returncode:
        raise SystemExit(f"offsetter: The database could not be filled: {done.stderr.decode(errors='replace')[-300:]}. Nothing was brought back. Take another backup.")  # fmt: skip


class _Hashed:
    """A stream that is hashed while it is written."""

    def __init__(self, into: IO[bytes]) -> None:
        self._into, self._hash = into, hashlib.sha256()

    def write(self, piece: bytes) -> int:
        self._hash.update(piece)
        return self._into.write(piece)

    def hexdigest(self) -> str:
        return self._hash.hexdigest()


class _Progress:
    def __init__(self, word: str, whole: int) -> None:
        self._word, self._whole, self._said = word, whole, time.monotonic()
        self.files = self.bytes = 0

    def add(self, size: int) -> None:
        self.files += 1
        self.bytes += size
        if time.monotonic() - self._said > SAID_EVERY_S:
            self._said = time.monotonic()
            print(
                f"offsetter: {self._word} {_mb(self.bytes)} of {_mb(self._whole)} MB, {self.files} files",
                file=sys.stderr,
                flush=True,
            )


def _bytes_in(folder: Path) -> int:
    return sum(p.stat().st_size for p in folder.rglob("*") if p.is_file())


def _mb(count: int) -> int:
    return round(count / 1e6)


def _now() -> tuple[int, int, int, int, int, int]:
    now = datetime.now(UTC)
    return now.year, now.month, now.day, now.hour, now.minute, now.second


if __name__ == "__main__":
    sys.exit(main())
