"""Orders from other programs, under a token; and the owner's list of such programs. docs/elsewhere.md walks one through."""

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Depends, File, Path, Request, UploadFile
from pydantic import Field

from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.desk.elsewhere import BlankTold, Brought, OrderIn, Right
from offsetter.intake.limits import MAX_BYTES
from offsetter.intake.names import MOST_BYTES
from offsetter.store.tokens import Token
from offsetter.web.guard import NO_TOKEN, Owner, signed_in, token_of
from offsetter.web.limits import FORM_BYTES
from offsetter.web.services import Desk

router = APIRouter(prefix="/api/elsewhere")
owned = APIRouter(prefix="/api", dependencies=[Depends(signed_in)])
Reference = Annotated[str, Path(min_length=1, max_length=80)]


class TokenIn(Frozen):
    name: Annotated[str, Field(min_length=2, max_length=60)]
    rights: tuple[Right, ...] = Field(min_length=1, max_length=2)


class TokenOut(Frozen):
    id: str
    name: str
    rights: tuple[str, ...]
    made_by: str
    made_at: datetime
    used_at: datetime | None
    ended_at: datetime | None


class TokenMade(TokenOut):
    token: str
    """Told this once."""


class Program:
    """A program with a right."""

    def __init__(self, right: Right) -> None:
        self._right = right

    def __call__(self, request: Request, desk: Desk) -> Token:
        found = token_of(request.scope, desk.elsewhere.who)
        if found is None:
            raise Refusal("no-token", *NO_TOKEN)
        if self._right not in found.rights:
            raise Refusal(
                "no-right",
                say("This token may not {right}.", right=self._right),
                say("Nothing was changed."),
                say("Ask the shop's owner for one that may."),
            )
        return found


Brings = Annotated[Token, Depends(Program("bring orders"))]
Reads = Annotated[Token, Depends(Program("read orders"))]


@router.get("/blanks")
def blanks_elsewhere(desk: Desk, program: Brings) -> tuple[BlankTold, ...]:
    """What can be ordered: codes, names, colours, sizes."""
    return desk.elsewhere.blanks()


@router.post("/orders", status_code=201)
def bring_order(told: OrderIn, desk: Desk, program: Brings) -> Brought:
    """Bring an order: it becomes a job that is held until somebody in the shop has looked at it. The same reference again is the same order."""
    return desk.elsewhere.take(told, program.id, program.name)


@router.post("/orders/{reference}/file", max_body_size=MAX_BYTES + FORM_BYTES)
def bring_file(reference: Reference, file: Annotated[UploadFile, File()], desk: Desk, program: Brings) -> Brought:
    """Its picture."""
    return desk.elsewhere.add_file(program.id, reference, file.filename or "artwork", file.file.read(MAX_BYTES + 1), program.name)  # fmt: skip


@router.post("/orders/{reference}/names", max_body_size=MOST_BYTES + FORM_BYTES)
def bring_names(reference: Reference, file: Annotated[UploadFile, File()], desk: Desk, program: Brings) -> Brought:
    """Its list of names, as CSV."""
    return desk.elsewhere.add_names(program.id, reference, file.file.read(MOST_BYTES + 1), program.name)


@router.get("/orders/{reference}")
def read_brought(reference: Reference, desk: Desk, program: Reads) -> Brought:
    """Where an order stands that this program brought."""
    return desk.elsewhere.read(program.id, reference)


@owned.get("/tokens")
def list_tokens(desk: Desk, who: Owner) -> tuple[TokenOut, ...]:
    """Programs that may bring or read orders."""
    return tuple(_out(t) for t in desk.elsewhere.tokens())


@owned.post("/tokens", status_code=201)
def make_token(new: TokenIn, desk: Desk, who: Owner) -> TokenMade:
    """Let a program in: its token is told this once."""
    token, plain = desk.elsewhere.make(new.name, new.rights, who.user.name)
    return TokenMade(**_out(token).model_dump(), token=plain)


@owned.delete("/tokens/{token_id}")
def end_token(token_id: Annotated[str, Path(max_length=40)], desk: Desk, who: Owner) -> tuple[TokenOut, ...]:
    """From now on it opens nothing."""
    desk.elsewhere.end(token_id)
    return list_tokens(desk, who)


def _out(token: Token) -> TokenOut:
    return TokenOut(id=token.id, name=token.name, rights=token.rights, made_by=token.made_by, made_at=token.made_at, used_at=token.used_at, ended_at=token.ended_at)  # fmt: skip
