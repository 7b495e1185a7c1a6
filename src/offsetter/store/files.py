"""Files by content hash: originals are kept for ever, derived ones may be deleted at any time."""

import hashlib
import os
import secrets
import shutil
from contextlib import suppress
from pathlib import Path


class FileStore:
    def __init__(self, folder: Path) -> None:
        self.folder = folder.resolve()
        self._originals, self._derived = folder / "originals", folder / "derived"
        self.locks = self.folder / "locks"
        """What the processes of this machine hold while they do what one does at a time."""
        self._originals.mkdir(parents=True, exist_ok=True)
        self._derived.mkdir(parents=True, exist_ok=True)

    def keep(self, data: bytes) -> str:
        """Keep an original; gives its hash."""
        file_hash = hashlib.sha256(data).hexdigest()[:32]
        path = self.original(file_hash)
        if not path.exists():
            self.write(path, data)
        return file_hash

    def original(self, file_hash: str) -> Path:
        return self._originals.joinpath(file_hash[:2], file_hash)

    def derived(self, kind: str, key: str) -> Path:
        """Where what was worked out for key lies; it may not exist."""
        return self._derived.joinpath(kind, key[:2], key)

    @staticmethod
    def write(path: Path, data: bytes, *, is_derived: bool = False) -> None:
        """All or nothing: a reader never sees half a file. What can be worked out again is not waited for."""
        path.parent.mkdir(parents=True, exist_ok=True)
        part = path.with_name(f"{path.name}.{secrets.token_hex(4)}.part")
        try:
            with part.open("wb") as file:
                file.write(data)
                if not is_derived:
                    file.flush()
                    os.fsync(file.fileno())
            part.rename(path)
        except OSError:
            part.unlink(missing_ok=True)
            raise

    def write_if_room(self, path: Path, data: bytes) -> None:
        """The same for what can be worked out again: a full disk keeps nobody from looking."""
        with suppress(OSError):
            self.write(path, data, is_derived=True)

    def free_bytes(self) -> int:
        """Left on the disk that the files lie on."""
        return shutil.disk_usage(self._originals).free
