"""The front end's files, the strict content policy, and what may be cached."""

import secrets
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import FileResponse, HTMLResponse, Response

from offsetter.web.problems import by_status, problem, unexpected

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; manifest-src 'self'; worker-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
OFFLINE = "sw.js"
OF_OFFLINE = "default-src 'none'; script-src 'self'; connect-src 'self'"
"""Of the service worker: it fetches what it keeps."""
ASSETS = "public, max-age=31536000, immutable"


class Headers:
    """Pure ASGI: streams pass through untouched."""

    def __init__(self, app: Any) -> None:
        self._app = app

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        has_begun, is_replaced = False, False

        async def sent(message: Any) -> None:
            if message["type"] == "http.response.start":
                names = {k.lower() for k, _ in message["headers"]}
                extra = [(b"x-content-type-options", b"nosniff"), (b"referrer-policy", b"no-referrer")]
                if b"content-security-policy" not in names:
                    extra.append((b"content-security-policy", b"default-src 'none'; frame-ancestors 'none'"))
                if b"cache-control" not in names:
                    extra.append((b"cache-control", b"no-store"))
                message["headers"] = [*message["headers"], *extra]
            await send(message)

        async def answered(message: Any) -> None:
            nonlocal has_begun, is_replaced
            if is_replaced:
                return
            if message["type"] == "http.response.start":
                has_begun = True
                if message["status"] == 413:  # what counts the body answers in plain text
                    is_replaced = True
                    await by_status(413)(scope, receive, sent)
                    return
            await sent(message)

        try:
            await self._app(scope, receive, answered)
        except Exception as error:
            # Answered here and not above, so that errors too carry the headers.
            answer = unexpected(error)
            if not has_begun:
                await answer(scope, receive, sent)


def install(app: FastAPI, dist: Path) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    def front_end(path: str, request: Request) -> Response:
        if path == "api" or path.startswith("api/"):
            return problem(
                404, "no-such-address", "There is nothing at this address.", "Nothing was changed.", "Go back to Jobs."
            )
        file = (dist / path).resolve()
        if path and file.is_file() and file.is_relative_to(dist.resolve()):
            kept = ASSETS if path.startswith("assets/") else "no-cache"
            policy = {"content-security-policy": OF_OFFLINE} if path == OFFLINE else {}
            return FileResponse(file, headers={"cache-control": kept, **policy})
        if "." in path.rsplit("/", 1)[-1]:
            return problem(
                404, "no-such-file-made", "There is no such file.", "Nothing was changed.", "Go back to Jobs."
            )
        nonce = secrets.token_urlsafe(16)
        page = (dist / "index.html").read_text().replace("__NONCE__", nonce)
        return HTMLResponse(
            page, headers={"content-security-policy": POLICY.format(nonce=nonce), "cache-control": "no-store"}
        )
