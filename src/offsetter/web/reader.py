"""Every answer's sentences in the units of the browser that asked. They are kept with their quantities typed
(offsetter.core.quantities); nothing behind this knows what a reader measures in."""

from typing import Any

from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request

from offsetter.core.quantities import OPEN, Units, told
from offsetter.formats.reader import READER

COOKIE = "offsetter-units"
"""Set by the page itself, such as "in-F"; what cannot be read is taken for the first of each."""
SAID = ("application/json", "text/csv", "text/calendar", "text/event-stream", "text/plain")
MARK = OPEN.encode()


def units_of(told_by: str) -> Units:
    length, _, heat = told_by.partition("-")
    return Units(length="in" if length == "in" else "mm", heat="F" if heat == "F" else "C")


class InReadersUnits:
    """Pure ASGI, inside of what packs the answer: only text is looked at, block by block."""

    def __init__(self, app: Any) -> None:
        self._app = app

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        units = units_of(Request(scope).cookies.get(COOKIE, ""))
        begins: Any = None
        is_text = False

        async def sent(message: Any) -> None:
            nonlocal begins, is_text
            if message["type"] == "http.response.start":
                begins = message
                is_text = Headers(raw=message["headers"]).get("content-type", "").startswith(SAID)
                return
            if message["type"] == "http.response.body" and is_text:
                message = {**message, "body": _in(message.get("body", b""), units)}
            if begins is not None:
                headers = MutableHeaders(raw=begins["headers"])
                if is_text and "content-length" in headers and not message.get("more_body"):
                    headers["content-length"] = str(len(message["body"]))
                await send(begins)
                begins = None
            await send(message)

        token = READER.set(units)
        try:
            await self._app(scope, receive, sent)
        finally:
            READER.reset(token)


def _in(body: bytes, units: Units) -> bytes:
    return told(body.decode(errors="surrogateescape"), units).encode(errors="surrogateescape") if MARK in body else body
