from collections import OrderedDict
from threading import Lock
from typing import Generic, TypeVar

Kept = TypeVar("Kept")


class Newest(OrderedDict[str, Kept], Generic[Kept]):
    """The newest few values by key; shared by threads."""

    def __init__(self, most: int) -> None:
        super().__init__()
        self._most, self._lock = most, Lock()

    def __setitem__(self, key: str, value: Kept) -> None:
        with self._lock:
            super().__setitem__(key, value)
            while len(self) > self._most:
                del self[next(iter(self))]
