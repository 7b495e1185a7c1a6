"""A cache that stays small and is shared by threads: cachetools' least recently used one, behind a lock."""

from threading import RLock
from typing import Any, TypeVar

from cachetools import LRUCache

Kept = TypeVar("Kept")


class Bounded(LRUCache[str, Kept]):
    def __init__(self, most: int) -> None:
        super().__init__(most)
        self._lock = RLock()

    def __getitem__(self, key: str) -> Kept:
        with self._lock:
            return super().__getitem__(key)

    def __setitem__(self, key: str, value: Kept) -> None:
        with self._lock:
            super().__setitem__(key, value)

    def get(self, key: str, default: Any = None) -> Kept | None:  # type: ignore[override]
        with self._lock:
            found: Kept | None = super().get(key, default)
            return found
