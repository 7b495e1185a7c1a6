"""What the owner is told of the shop's keeping: backups, and the disk."""

import json
from datetime import datetime, timedelta
from pathlib import Path

from fastapi import Request

from offsetter.core.sentences import say
from offsetter.store.people import SignedIn
from offsetter.web.services import Services

BACKUP_WITHIN = timedelta(days=2)
"""Older than that, the owner is told."""


def backup_wanted(request: Request, who: SignedIn, now: datetime, jobs: int) -> str:
    """What to tell the owner of backups; empty: one was made lately, or somebody else sees to them."""
    note: Path | None = request.app.state.last_backup
    if note is None or who.user.role != "owner" or not jobs:
        return ""
    try:
        days = (now - datetime.fromisoformat(json.loads(note.read_text())["at"])).days
    except (OSError, ValueError, KeyError):
        return say("No backup was made yet.")
    return say("The last backup is {days} days old.", days=days) if days >= BACKUP_WITHIN.days else ""


def filling(request: Request) -> str:
    """What the demo's shop is still being filled with; empty: nothing."""
    note: Path | None = request.app.state.filling
    try:
        return note.read_text()[:80] if note else ""
    except OSError:
        return ""


RESERVE_BYTES = 2 * 1024**3
"""Of the disk: an order of large pictures takes as much in a day. From memory."""


def disk_left(desk: Services) -> int | None:
    free = desk.base.files.free_bytes()
    return free // 1024**2 if free < RESERVE_BYTES else None
