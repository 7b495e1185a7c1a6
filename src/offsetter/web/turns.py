"""Previews wait their turn: acts and press mode go before them, and one that nobody waits for any more is dropped."""

from collections.abc import Callable
from typing import TypeVar

import anyio
from fastapi import HTTPException, Request
from starlette.concurrency import run_in_threadpool

AT_ONCE = 2
"""Previews worked out in one moment: they take a core each, and who waits for one holds no thread."""
GONE = 499
T = TypeVar("T")


async def in_turn(request: Request, work: Callable[[], T]) -> T:
    """What work gives, off the event loop, when its turn comes. Raises HTTPException where the browser went meanwhile."""
    state = request.app.state
    if not hasattr(state, "turns"):
        state.turns = anyio.CapacityLimiter(AT_ONCE)
    async with state.turns:
        if await request.is_disconnected():
            raise HTTPException(GONE)
        return await run_in_threadpool(work)
