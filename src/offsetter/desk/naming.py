"""Ids made from what people call things."""

import re
import unicodedata
from collections.abc import Collection


def free_id(said: str, taken: Collection[str], otherwise: str) -> str:
    """In plain letters, with a number where that is taken. otherwise: for a name without any."""
    plain = unicodedata.normalize("NFKD", said).encode("ascii", "ignore").decode().lower()
    slug = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:32].strip("-") or otherwise
    return next(i for n in range(1, 10_000) if (i := slug if n == 1 else f"{slug}-{n}") not in taken)
