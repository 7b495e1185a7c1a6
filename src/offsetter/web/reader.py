"""Every answer's sentences in the units and the language of the browser that asked. They are kept with their quantities typed and their texts
apart (offsetter.core.quantities, sentences); nothing behind this knows what a reader measures in, or reads."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from pydantic_core import from_json, to_json
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import Request

from offsetter.core.quantities import OPEN, Units
from offsetter.core.sentences import BEGIN, ENGLISH, Language
from offsetter.formats.catalogue import Catalogue, InJson
from offsetter.formats.reader import READER, Reader

COOKIE = "offsetter-units"
"""Set by the page itself, such as "in-F" or "mm-C-de"; what cannot be read is taken for the first of each."""
SAID = ("application/json", "text/csv", "text/calendar", "text/event-stream", "text/plain")
PLAIN = ("text/csv", "text/calendar", "text/plain")
MARKS = OPEN.encode(), BEGIN.encode()


def units_of(told_by: str) -> Units:
    length, heat, *_ = *told_by.split("-"), ""
    return Units(length="in" if length == "in" else "mm", heat="F" if heat == "F" else "C")


def reader_of(told_by: str, languages: Mapping[str, Language]) -> Reader:
    _, _, code, *_ = *told_by.split("-"), "", "", ""
    return Reader(units_of(told_by), languages.get(code, ENGLISH))


class InReadersUnits:
    """Pure ASGI, inside of what packs the answer: only text is looked at, block by block."""

    def __init__(self, app: Any, languages: Mapping[str, Language]) -> None:
        self._app, self._languages = app, languages

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        reader = reader_of(Request(scope).cookies.get(COOKIE, ""), self._languages)
        begins: Any = None
        is_text = is_json = is_answer = False

        async def sent(message: Any) -> None:
            nonlocal begins, is_text, is_json, is_answer
            if message["type"] == "http.response.start":
                begins = message
                told = Headers(raw=message["headers"])
                kind = told.get("content-type", "")
                is_answer = kind == "application/json" and "content-disposition" not in told
                is_text, is_json = kind.startswith(SAID), not kind.startswith(PLAIN)
                return
            if message["type"] == "http.response.body" and is_text:
                body = _in(message.get("body", b""), reader, is_json=is_json)
                # What is taken along as a file goes on in the words in which it was written.
                if is_answer and not message.get("more_body"):
                    body = _of_shop(body, reader.language)
                message = {**message, "body": body}
            if begins is not None:
                headers = MutableHeaders(raw=begins["headers"])
                if is_text and "content-length" in headers and not message.get("more_body"):
                    headers["content-length"] = str(len(message["body"]))
                await send(begins)
                begins = None
            await send(message)

        token = READER.set(reader)
        try:
            await self._app(scope, receive, sent)
        finally:
            READER.reset(token)


def _in(body: bytes, reader: Reader, *, is_json: bool) -> bytes:
    if not any(m in body for m in MARKS):
        return body
    if is_json and reader.language is not ENGLISH:
        reader = replace(reader, language=InJson(reader.language))
    return reader.told(body.decode(errors="surrogateescape")).encode(errors="surrogateescape")


def _of_shop(body: bytes, language: Language) -> bytes:
    """What methods, recipes and care say of themselves, in a language of the shop's own."""
    if not isinstance(language, Catalogue) or not body:
        return body
    return to_json(language.of_shop(from_json(body)))
