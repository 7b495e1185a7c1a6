"""Signing in and out, and the people of the shop."""

from collections.abc import Mapping
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Header, Request, Response
from pydantic import Field

from offsetter.core.sentences import say
from offsetter.core.values import Frozen, Refusal
from offsetter.formats.catalogue import Catalogue
from offsetter.store.people import Right, SignedIn
from offsetter.web.guard import COOKIE, DEVICE, Owner, Who, give_cookie
from offsetter.web.services import Desk

router = APIRouter(prefix="/api")
Agent = Annotated[str, Header(alias="user-agent")]
Role = Literal["owner", "technician", "viewer"]
Name = Annotated[str, Field(min_length=1, max_length=60)]
Secret = Annotated[str, Field(max_length=200)]


class Liking(Frozen):
    """What a person likes to see."""

    heat: Literal["C", "F"] = "C"
    length: Literal["mm", "in"] = "mm"
    theme: Literal["light", "dark"] = "light"
    language: Annotated[str, Field(pattern=r"^([a-z]{2,3}(_[A-Z]{2})?)?$")] = ""
    """By its code; empty: English."""


class Me(Frozen):
    name: str
    role: Role
    liking: Liking | None
    rights: frozenset[Right] = frozenset()
    """That a technician was given besides."""


class Welcome(Frozen):
    """What a browser may know before anybody signs in."""

    needs_owner: bool
    demo_people: tuple[tuple[str, str], ...] = ()
    """Name and role, where one click signs in."""
    languages: tuple[tuple[str, str], ...] = ()
    """Code and name of those that sentences can be read in besides English."""
    me: Me | None = None


class NameAndPassword(Frozen):
    name: Name
    password: Secret


class FirstOwner(NameAndPassword):
    shop: Annotated[str, Field(max_length=60)] = ""
    """What the shop is called."""


class NameAndPin(Frozen):
    name: Name
    pin: Secret


class JustName(Frozen):
    name: Name


class PersonOut(Frozen):
    id: str
    name: str
    role: Role
    is_active: bool
    has_pin: bool
    rights: frozenset[Right] = frozenset()


class SessionOut(Frozen):
    id: str
    name: str
    device: str
    created_at: datetime
    seen_at: datetime
    is_this: bool


class NewPerson(Frozen):
    name: Name
    role: Role
    password: Secret
    pin: Secret = ""


class ChangedPerson(Frozen):
    role: Role | None = None
    password: Secret | None = None
    pin: Secret | None = None
    is_active: bool | None = None
    rights: frozenset[Right] | None = None


@router.get("/welcome")
def welcome(request: Request, desk: Desk) -> Welcome:
    """Whether the shop has an owner yet, and who is signed in here."""
    found = desk.people.who(request.cookies.get(COOKIE, ""))
    demo = tuple((u.name, u.role) for u in desk.people.all() if u.is_active) if desk.is_demo else ()
    return Welcome(
        needs_owner=desk.people.is_empty(),
        demo_people=demo,
        languages=tuple((c.code, c.name) for c in request.app.state.languages.values()),
        me=_me(found) if found else None,
    )


@router.get("/welcome/texts/{code}")
def texts(request: Request, code: str) -> dict[str, str]:
    """What pages say in a language, by their English: each way of counting is a text of its own."""
    languages: Mapping[str, Catalogue] = request.app.state.languages
    found = languages.get(code)
    if found is None:
        raise Refusal(
            "no-such-language",
            say("This shop has no texts in “{code}”.", code=code[:20]),
            say("Pages stay as they are."),
            say("Lay its catalogue into the shop's folder of texts, or choose another language."),
        )
    return found.for_pages()


@router.get("/welcome/authority.crt")
def authority(request: Request) -> Response:
    """The certificate by which a tablet comes to trust this shop; nothing secret."""
    file = request.app.state.authority
    if file is None:
        raise Refusal(
            "no-authority",
            say("This shop has no certificate of its own."),
            say("Nothing was changed."),
            say("Open it with --network to make one."),
        )
    return Response(
        file.read_bytes(),
        media_type="application/x-x509-ca-cert",
        headers={"content-disposition": 'attachment; filename="offsetter-shop.crt"'},
    )


@router.post("/welcome/owner")
def first_owner(new: FirstOwner, request: Request, response: Response, desk: Desk, agent: Agent = "") -> Welcome:
    """The first run: whoever opens the shop becomes its owner."""
    token = desk.people.first_owner(new.name, new.password, _device(agent))
    if new.shop.strip():
        desk.prices.found(new.shop, new.name)
    return _entered(token, request, response, desk, by_password=True)


@router.post("/welcome/sign-in")
def sign_in(given: NameAndPassword, request: Request, response: Response, desk: Desk, agent: Agent = "") -> Welcome:
    address = request.client.host if request.client else ""
    known = request.cookies.get(DEVICE, "")
    token = desk.people.sign_in(given.name, given.password, address, _device(agent), known)
    return _entered(token, request, response, desk, by_password=True)


@router.post("/welcome/demo")
def enter_demo(given: JustName, request: Request, response: Response, desk: Desk, agent: Agent = "") -> Welcome:
    """One click into the demo shop."""
    desk.refuse_unless_demo()
    return _entered(desk.people.enter_demo(given.name, _device(agent)), request, response, desk)


@router.post("/welcome/switch")
def switch(given: NameAndPin, request: Request, response: Response, desk: Desk, who: Who) -> Welcome:
    """Another person at this browser, by PIN."""
    return _entered(desk.people.switch(who, given.name, given.pin), request, response, desk)


@router.post("/welcome/sign-out", status_code=204)
def sign_out(response: Response, desk: Desk, who: Who) -> None:
    desk.people.sign_out(who)
    response.delete_cookie(COOKIE, path="/")


@router.put("/me/liking")
def like(liking: Liking, desk: Desk, who: Who) -> Liking:
    """Units and theme follow the person to every screen."""
    desk.people.like(who, liking.model_dump())
    return liking


@router.get("/people")
def people(desk: Desk, who: Who) -> list[PersonOut]:
    """Everybody who may sign in, for the quick switch and for the owner."""
    return [
        PersonOut(id=u.id, name=u.name, role=u.role, is_active=u.is_active, has_pin=bool(u.pin_hash), rights=u.rights)
        for u in desk.people.all()
    ]


@router.post("/people", status_code=201)
def add_person(new: NewPerson, desk: Desk, who: Owner) -> list[PersonOut]:
    desk.people.add(new.name, new.role, new.password, new.pin)
    return people(desk, who)


@router.patch("/people/{user_id}")
def change_person(user_id: str, changed: ChangedPerson, desk: Desk, who: Owner) -> list[PersonOut]:
    desk.people.change(user_id, **changed.model_dump(), keep=who.token_hash)
    return people(desk, who)


@router.get("/sessions")
def sessions(desk: Desk, who: Owner) -> list[SessionOut]:
    """Where people are signed in."""
    return [
        SessionOut(id=s.id, name=s.user.name, device=s.device, created_at=s.created_at, seen_at=s.seen_at, is_this=s.id == who.id)
        for s in desk.people.sessions()
    ]  # fmt: skip


@router.delete("/sessions/{session_id}")
def end_session(session_id: str, desk: Desk, who: Owner) -> list[SessionOut]:
    desk.people.end_session(session_id)
    return sessions(desk, who)


def _entered(token: str, request: Request, response: Response, desk: Desk, *, by_password: bool = False) -> Welcome:
    give_cookie(request, response, token, by_password=by_password)
    found = desk.people.who(token)
    return Welcome(needs_owner=False, me=_me(found) if found else None)


def _me(who: SignedIn) -> Me:
    liking = who.user.liking
    return Me(
        name=who.user.name,
        role=who.user.role,
        liking=Liking.model_validate(liking) if liking else None,
        rights=who.user.rights,
    )


def _device(agent: str) -> str:
    return say("a tablet or phone") if "Mobile" in agent else say("a computer")
