"""Previews wait their turn: acts and press mode go before them, and one that nobody waits for any more is dropped."""

import time
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from typing import Any

from fastapi import HTTPException, Request

from offsetter.web.lookers import Lookers, T

GONE = 499
AT_PRESS = "x-at-press"
"""A header of what press mode reads."""


@asynccontextmanager
async def in_turn(request: Request) -> AsyncIterator[Lookers]:
    """Held while a preview is worked out. Raises HTTPException where the browser went meanwhile."""
    lookers: Lookers = request.app.state.lookers
    came = time.monotonic()
    async with lookers.turns:
        request.state.waited_ms = (time.monotonic() - came) * 1000
        if await request.is_disconnected():
            raise HTTPException(GONE)
        yield lookers


async def looked_at(request: Request, near: str, work: Callable[..., T], *given: Any) -> T:
    """What work(services, *given) gives, in a process for previews when its turn comes; it must be a module's own function.

    near: the job or picture that it is about.
    """
    async with in_turn(request) as lookers:
        return await lookers.ask(near, work, *given)


def wait_told(request: Request) -> dict[str, str]:
    """A header, by the W3C's Server Timing: how long a preview waited for its turn. A hand at a slider leaves the others
    twice so much before it asks again, and then asks for what it wants by then: about as many answers, each newer."""
    return {"Server-Timing": f"turn;dur={request.state.waited_ms:.0f}"}
