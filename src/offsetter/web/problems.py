"""The one door for errors: every answer that is not a success has three parts and no trace."""

import errno
import logging
import shutil
from collections.abc import Mapping
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from sqlalchemy.exc import InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException

from offsetter.core.sentences import capitalised, say
from offsetter.core.values import Refusal
from offsetter.desk.jobs import Conflict
from offsetter.desk.people import name_taken
from offsetter.formats.reader import for_reader
from offsetter.store.people import NameTaken


class NotSignedIn(Exception):
    """Nobody is signed in at this browser, or the session ended."""


class MayNot(Exception):
    """The person's role does not allow it."""

    def __init__(self, role: str) -> None:
        super().__init__(role)
        self.role = role


log = logging.getLogger("offsetter")
MB = 1_000_000
NOT_FOUND = {
    "no-such-language",
    "no-such-job",
    "no-such-run",
    "no-such-picture",
    "no-such-file-made",
    "no-such-code",
    "no-such-recipe",
}
STATUS = dict.fromkeys(NOT_FOUND, 404) | {
    "wrong-sign-in": 401,
    "too-many-tries": 429,
    "no-demo": 403,
    "no-token": 401,
    "no-right": 403,
}


def _room(request: Request) -> str:
    """What is free, and what this asked for."""
    free = shutil.disk_usage(request.app.state.services.base.files.folder).free // MB
    length = request.headers.get("content-length", "")
    wants = (
        say(", and it wants {length} MB", length=int(length) // MB + 1)
        if length.isdecimal() and len(length) < 16
        else ""
    )
    return say("{free} MB are free{wants}", free=free, wants=wants)


def install(app: FastAPI) -> None:
    @app.exception_handler(Refusal)
    def refused(_: Request, refusal: Refusal) -> JSONResponse:
        return problem(STATUS.get(refusal.code, 409), refusal.code, refusal.happened, refusal.kept, refusal.to_do)

    @app.exception_handler(NotSignedIn)
    def nobody(_: Request, __: NotSignedIn) -> JSONResponse:
        return not_signed_in()

    @app.exception_handler(MayNot)
    def may_not(_: Request, who: MayNot) -> JSONResponse:
        return problem(
            403,
            "may-not",
            say("A {role} may not do this.", role=who.role),
            say("Nothing was changed."),
            say("Ask the shop's owner, or change hands by PIN."),
        )

    @app.exception_handler(NameTaken)
    def taken(_: Request, error: NameTaken) -> JSONResponse:
        refusal = name_taken(error)
        return problem(409, refusal.code, refusal.happened, refusal.kept, refusal.to_do)

    @app.exception_handler(Conflict)
    def conflict(_: Request, other: Conflict) -> JSONResponse:
        theirs = other.theirs
        return problem(
            409, "saved-elsewhere", say("{author} changed {station} since you opened it.", author=theirs.author, station=theirs.station), say("Theirs is kept; yours is below."),
            say("Take theirs, or save yours again on top."), station=theirs.station, print=theirs.print, theirs=theirs.body, mine=other.mine,
            revision=theirs.revision, author=theirs.author,
        )  # fmt: skip

    @app.exception_handler(RequestValidationError)
    def not_valid(_: Request, error: RequestValidationError) -> JSONResponse:
        return _fields(list(error.errors()))

    @app.exception_handler(ValidationError)
    def bad_document(_: Request, error: ValidationError) -> JSONResponse:
        return _fields(list(error.errors()))

    @app.exception_handler(PoolTimeout)
    @app.exception_handler(OperationalError)
    @app.exception_handler(InterfaceError)
    def database_away(_: Request, error: Exception) -> JSONResponse:
        log.error("database: %s", error)
        told = getattr(getattr(error, "orig", None), "args", ())
        if told and told[0] in MET:
            return problem(503, "changes-met", say("Another change of the same thing was under way and did not end in time."), say("What you did is kept in this browser."),
                           say("Go on; it is sent again in a moment."))  # fmt: skip
        return problem(503, "database-away", say("The database does not answer."), say("What you did is kept in this browser."),
                       say("Go on; it is sent as soon as the database is back."))  # fmt: skip

    @app.exception_handler(OSError)
    def no_room(request: Request, error: OSError) -> JSONResponse:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise error
        log.error("the disk is full: %s", error)
        return problem(507, "disk-full", say("The disk of the shop's computer is full."), say("What was saved before is kept; this file was not."),
                       say("Make room on it, then send the file again: {room}.", room=_room(request)))  # fmt: skip

    @app.exception_handler(HTTPException)
    def by_the_framework(_: Request, error: HTTPException) -> JSONResponse:
        return by_status(error.status_code, error.headers)


MET = {1180, 1205, 1213}
"""MariaDB's numbers for a transaction that another one stood in the way of: at its commit on a cluster, waiting too long, going round."""
BY_STATUS = {
    400: ("not-understood", say("The server could not read what was sent."), say("Open the page again and try once more.")),
    404: ("no-such-address", say("There is nothing at this address."), say("Go back to Jobs.")),
    405: ("not-this-way", say("This address does not take that kind of request."), say("Open the page again and try once more.")),
    413: ("too-large", say("What was sent is larger than this place takes."), say("Send less: artwork may have 300 MB, all else 1 MB.")),
}  # fmt: skip


def by_status(status: int, headers: Mapping[str, str] | None = None) -> JSONResponse:
    code, happened, to_do = BY_STATUS.get(status, BY_STATUS[400])
    return problem(status, code, happened, say("Nothing was changed."), to_do, headers=headers)


def not_signed_in() -> JSONResponse:
    return problem(
        401,
        "not-signed-in",
        say("Nobody is signed in here."),
        say("What you did is kept in this browser."),
        say("Sign in; it is sent then."),
    )


def unexpected(error: Exception) -> JSONResponse:
    """A bug: written to the log, and said without a trace of it."""
    log.error("unexpected", exc_info=error)
    return problem(500, "unexpected", say("Something went wrong inside Offsetter."), say("What was saved before is kept."),
                   say("Try once more; if it happens again, send the log to whoever looks after Offsetter."))  # fmt: skip


def problem(
    status: int, code: str, happened: str, kept: str, to_do: str, *, headers: Mapping[str, str] | None = None, **more: Any
) -> JSONResponse:  # fmt: skip
    said = {"happened": happened, "kept": kept, "to_do": to_do}
    # Said here as well: a door that shuts stands before what says sentences in their reader's units.
    return JSONResponse({"code": code, **{k: for_reader(v) for k, v in said.items()}, **more}, status, headers=headers)


def _fields(errors: list[Any]) -> JSONResponse:
    fields = {}
    for error in errors:
        parts = [str(p) for p in error["loc"] if p not in ("body", "query", "path")]
        fields[".".join(parts)] = _sentence(error)
    first = next(iter(fields.items()), ("", say("a value is missing")))
    named = f"“{first[0]}”: {first[1]}" if first[0] else capitalised(first[1])
    return problem(
        422,
        "not-valid",
        f"{named}.",
        say("Nothing was saved."),
        say("Correct the field and try again."),
        fields=fields,
    )


def _sentence(error: Any) -> str:
    kind, limits = error["type"], error.get("ctx") or {}
    words = {
        "greater_than": say("must be more than {gt}", gt=limits.get("gt")), "greater_than_equal": say("must be at least {ge}", ge=limits.get("ge")),
        "less_than_equal": say("must be at most {le}", le=limits.get("le")), "missing": say("is missing"), "int_parsing": say("must be a whole number"),
        "int_type": say("must be a whole number"), "int_from_float": say("must be a whole number"), "float_parsing": say("must be a number"), "float_type": say("must be a number"),
        "string_too_short": say("must not be empty"), "string_too_long": say("is too long"), "extra_forbidden": say("is not known here"),
    }  # fmt: skip
    if kind in words:
        return words[kind]
    return str(error["msg"]).removeprefix("Value error, ")
