"""Who asks, and whether they may: the session's cookie, roles, and writes from our own pages alone."""

from collections.abc import Awaitable, Callable
from typing import Annotated, Any
from urllib.parse import urlsplit

from fastapi import Depends, Request, Response
from sqlalchemy.exc import SQLAlchemyError
from starlette.concurrency import run_in_threadpool

from offsetter.desk.people import LASTS
from offsetter.store.people import Right, SignedIn
from offsetter.store.tokens import Token
from offsetter.web.problems import MayNot, NotSignedIn, not_signed_in, problem

COOKIE = "offsetter"
SAFE = {"GET", "HEAD", "OPTIONS"}


KNOWN = "offsetter.who"
"""In a request's scope: who asks, looked up before its body is read; or why that could not be."""


def asking(request: Request) -> SignedIn | None:
    """Whose browser this is; None where nobody signed in. Raises SQLAlchemyError where the database is away."""
    known: SignedIn | SQLAlchemyError | None = request.scope.get(KNOWN)
    if isinstance(known, SQLAlchemyError):
        raise known
    return known


# None of these waits for anything: as coroutines they cost no thread a turn.
async def signed_in(request: Request) -> SignedIn:
    """The session of this browser. Raises NotSignedIn."""
    found = asking(request)
    if found is None:
        raise NotSignedIn
    return found


async def worker(who: Annotated[SignedIn, Depends(signed_in)]) -> str:
    """The name of somebody who may change things; every act and decision carries it."""
    if who.user.role == "viewer":
        raise MayNot(who.user.role)
    return who.user.name


async def owner(who: Annotated[SignedIn, Depends(signed_in)]) -> SignedIn:
    if who.user.role != "owner":
        raise MayNot(who.user.role)
    return who


def allowed(right: Right) -> Callable[[SignedIn], Awaitable[SignedIn]]:
    """Somebody who may do this: an owner, or a technician who was given the right."""

    async def judged(who: Annotated[SignedIn, Depends(signed_in)]) -> SignedIn:
        if not who.user.may(right):
            raise MayNot(who.user.role)
        return who

    return judged


def refuse_others(by: str, person: str) -> None:
    """What somebody did is recorded for them alone. Raises NotSignedIn when another person's session brings it."""
    if by and by != person:
        raise NotSignedIn


Who = Annotated[SignedIn, Depends(signed_in)]
Person = Annotated[str, Depends(worker)]
Owner = Annotated[SignedIn, Depends(owner)]
Pricer = Annotated[SignedIn, Depends(allowed("prices"))]
ColourKeeper = Annotated[SignedIn, Depends(allowed("colours"))]


DEVICE = "offsetter-device"
"""The token of the last session opened here by a password: it opens nothing, and tells that this device is known."""
KNOWN_FOR_S = 365 * 24 * 3600


def give_cookie(request: Request, response: Response, token: str, *, by_password: bool = False) -> None:
    if by_password:
        response.set_cookie(DEVICE, token, max_age=KNOWN_FOR_S, path="/api/welcome", httponly=True, samesite="strict",
                            secure=request.url.scheme == "https")  # fmt: skip
    response.set_cookie(COOKIE, token, max_age=int(LASTS.total_seconds()), path="/", httponly=True, samesite="strict",
                        secure=request.url.scheme == "https")  # fmt: skip


OPEN_WRITES = {"/api/welcome/owner", "/api/welcome/sign-in", "/api/welcome/demo"}
"""Whoever is not signed in yet may send these; their bodies are short."""


ELSEWHERE = "/api/elsewhere/"
"""Other programs come here, with a token and no cookie."""
PROGRAM = "offsetter.program"
NO_TOKEN = ("This token opens nothing here.", "Nothing was taken.", "Ask the shop's owner for another.")


def token_of(scope: Any, who: Callable[[str], Token | None]) -> Token | None:
    """The program that asks, by its bearer token; looked up once a request."""
    if PROGRAM not in scope:
        told = Request(scope).headers.get("authorization", "")
        kind, _, plain = told.partition(" ")
        scope[PROGRAM] = who(plain.strip()) if kind.lower() == "bearer" else None
    found: Token | None = scope[PROGRAM]
    return found


class SignedInFirst:
    """Pure ASGI: who asks is looked up once, and nobody's body is read before it is known who sends it."""

    def __init__(self, app: Any, who: Callable[[str], SignedIn | None], program: Callable[[str], Token | None]) -> None:
        self._app, self._who, self._program = app, who, program

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        path = scope.get("path", "")
        if scope["type"] != "http" or not path.startswith("/api/") or path in OPEN_WRITES:
            await self._app(scope, receive, send)
            return
        is_write = scope["method"] not in SAFE
        if path.startswith(ELSEWHERE):
            known = await run_in_threadpool(token_of, scope, self._program) if is_write else None
            is_stranger = is_write and known is None
            await (problem(401, "no-token", *NO_TOKEN) if is_stranger else self._app)(scope, receive, send)
            return
        token = Request(scope).cookies.get(COOKIE, "")
        try:
            scope[KNOWN] = await run_in_threadpool(self._who, token) if token else None
        except SQLAlchemyError as away:  # the route says so itself
            scope[KNOWN] = away
        await (not_signed_in() if is_write and scope[KNOWN] is None else self._app)(scope, receive, send)


class OwnPagesOnly:
    """Pure ASGI: a write that another site's page sends is refused before it reaches a router."""

    def __init__(self, app: Any) -> None:
        self._app = app

    async def __call__(self, scope: Any, receive: Any, send: Any) -> None:
        if scope["type"] == "http" and scope["method"] not in SAFE and _is_foreign(scope):
            refused = problem(
                403,
                "other-site",
                "This came from another site's page.",
                "Nothing was changed.",
                "Open Offsetter itself.",
            )
            await refused(scope, receive, send)
            return
        await self._app(scope, receive, send)


def _is_foreign(scope: Any) -> bool:
    headers = {k.decode().lower(): v.decode("latin-1") for k, v in scope["headers"]}
    origin, site = headers.get("origin"), headers.get("sec-fetch-site")
    if site and site not in ("same-origin", "none"):
        return True
    if origin is None:
        return False
    came = urlsplit(origin)
    return (came.scheme, came.netloc) != (scope["scheme"], headers.get("host", ""))
