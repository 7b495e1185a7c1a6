"""Who asks, and whether they may: the session's cookie, roles, and writes from our own pages alone."""

from typing import Annotated, Any
from urllib.parse import urlsplit

from fastapi import Depends, Request, Response

from offsetter.desk.people import LASTS
from offsetter.store.people import SignedIn
from offsetter.web.problems import MayNot, NotSignedIn, problem
from offsetter.web.services import Desk

COOKIE = "offsetter"
SAFE = {"GET", "HEAD", "OPTIONS"}


def signed_in(request: Request, desk: Desk) -> SignedIn:
    """The session of this browser. Raises NotSignedIn."""
    token = request.cookies.get(COOKIE, "")
    found = desk.people.who(token) if token else None
    if found is None:
        raise NotSignedIn
    return found


def worker(who: Annotated[SignedIn, Depends(signed_in)]) -> str:
    """The name of somebody who may change things; every act and decision carries it."""
    if who.user.role == "viewer":
        raise MayNot(who.user.role)
    return who.user.name


def owner(who: Annotated[SignedIn, Depends(signed_in)]) -> SignedIn:
    if who.user.role != "owner":
        raise MayNot(who.user.role)
    return who


def refuse_others(by: str, person: str) -> None:
    """What somebody did is recorded for them alone. Raises NotSignedIn when another person's session brings it."""
    if by and by != person:
        raise NotSignedIn


Who = Annotated[SignedIn, Depends(signed_in)]
Person = Annotated[str, Depends(worker)]
Owner = Annotated[SignedIn, Depends(owner)]


def give_cookie(request: Request, response: Response, token: str) -> None:
    response.set_cookie(COOKIE, token, max_age=int(LASTS.total_seconds()), path="/", httponly=True, samesite="strict",
                        secure=request.url.scheme == "https")  # fmt: skip


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
    return origin is not None and urlsplit(origin).netloc != headers.get("host", "")
