"""Who works here: signing in, changing hands at a shared tablet, roles, sessions."""

import hashlib
import re
import secrets
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import cache
from math import ceil
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from offsetter.core.sentences import say, say_many
from offsetter.core.values import Refusal
from offsetter.desk.base import Base
from offsetter.store.people import NameTaken, PeopleStore, Right, Role, SignedIn, User

LASTS = timedelta(days=30)
IDLE = timedelta(days=7)
WINDOW = timedelta(days=1)
"""Wrong tries that still count."""


@dataclass(frozen=True, slots=True)
class Waits:
    """Wrong tries slow down the next: so many are free, then each doubles the wait. Nobody is shut out for good."""

    free: int
    first: timedelta
    longest: timedelta

    def after(self, wrong: int) -> timedelta:
        if wrong < self.free:
            return timedelta(0)
        return min(self.longest, self.first * (1 << min(wrong - self.free, 20)))


BY_NAME = Waits(5, timedelta(seconds=15), timedelta(minutes=15))
"""Of one person from one address, or from a device that they signed in at before: a stranger elsewhere slows down himself alone."""
BY_ADDRESS = Waits(30, timedelta(seconds=1), timedelta(minutes=1))
BY_PIN = Waits(5, timedelta(seconds=30), timedelta(days=1))
"""Four digits: some twenty guesses on the first day and one a day after it."""
SEEN_EVERY = timedelta(minutes=5)
SHORTEST_PASSWORD = 10
FIRST_OWNER = "first-owner"
AS_IT_WAS = say("Nothing was changed.")
_HASHER = PasswordHasher()


@cache
def _nobody() -> str:
    """Checked when there is no such person, so that the answer takes as long as for one."""
    return _HASHER.hash(secrets.token_hex(16))


class People:
    def __init__(self, base: Base) -> None:
        self._base = base

    def is_empty(self) -> bool:
        with self._base.session() as session:
            return PeopleStore(session).count() == 0

    def first_owner(self, name: str, password: str, device: str) -> str:
        """The first person of a new shop; gives the token of their session."""
        owned = Refusal(
            "shop-has-owner",
            say("This shop has an owner already."),
            AS_IT_WAS,
            say("Sign in, or ask the owner for an account."),
        )
        with self._base.session() as session, session.begin():
            store = PeopleStore(session)
            if store.count():
                raise owned
            # Two in the same moment: the second finds the id taken.
            user = replace(self._made(name, "owner", password, ""), id=FIRST_OWNER)
            try:
                store.add(user, self._base.now())
            except NameTaken as taken:
                raise owned from taken
            return self._open(store, user, device)

    def sign_in(self, name: str, password: str, address: str, device: str, known: str = "") -> str:
        """A new session's token. Raises Refusal for a wrong name or password, and for tries that come too soon.

        known: the token of an earlier session at this browser. Where it was this person's, guesses from elsewhere do not slow it down.
        """
        said = name.strip().casefold()
        if self._was_here(known, name.strip()):
            guards = {f"at:{_hash(known)[:16]}:{said}"[:120]: BY_NAME}
        else:
            guards = {f"name:{said} from:{address}"[:120]: BY_NAME, f"from:{address}"[:120]: BY_ADDRESS}
        user = self._guarded(guards, name.strip(), "password_hash", password)
        with self._base.session() as session, session.begin():
            return self._open(PeopleStore(session), user, device)

    def switch(self, now: SignedIn, name: str, pin: str) -> str:
        """Another person at the same browser, by PIN: the old session ends, a new one begins."""
        key = f"pin:{name.strip().casefold()}"[:120]
        user = self._guarded({key: BY_PIN}, name.strip(), "pin_hash", pin)
        with self._base.session() as session, session.begin():
            store = PeopleStore(session)
            store.end(self._base.now(), token_hash=now.token_hash)
            return self._open(store, user, now.device)

    def enter_demo(self, name: str, device: str) -> str:
        """One click of the demo shop; only a server started as the demo offers it."""
        with self._base.session() as session, session.begin():
            store = PeopleStore(session)
            user = store.named(name)
            if user is None or not user.is_active:
                raise Refusal(
                    "no-such-person",
                    say("There is no “{name}” in the demo shop.", name=name),
                    AS_IT_WAS,
                    say("Choose one of its people."),
                )
            return self._open(store, user, device)

    def who(self, token: str) -> SignedIn | None:
        """The session behind a cookie; None when it ended, idled away or grew too old."""
        now = self._base.now()
        with self._base.session() as session:
            store = PeopleStore(session)
            found = store.session_of(_hash(token))
            if found is None or now - found.created_at > LASTS or now - found.seen_at > IDLE:
                return None
            if now - found.seen_at > SEEN_EVERY:
                store.seen(found.token_hash, now)
                session.commit()
            return found

    def sign_out(self, now: SignedIn) -> None:
        self.end_session(now.id)

    def end_session(self, session_id: str) -> None:
        with self._base.session() as session, session.begin():
            PeopleStore(session).end(self._base.now(), session_id=session_id)

    def sessions(self) -> list[SignedIn]:
        with self._base.session() as session:
            return PeopleStore(session).live_sessions(self._base.now() - IDLE)

    def all(self) -> list[User]:
        with self._base.session() as session:
            return PeopleStore(session).all()

    def add(self, name: str, role: Role, password: str, pin: str) -> None:
        with self._base.session() as session, session.begin():
            PeopleStore(session).add(self._made(name, role, password, pin), self._base.now())

    def change(self, user_id: str, *, role: Role | None = None, password: str | None = None, pin: str | None = None,
               is_active: bool | None = None, rights: frozenset[Right] | None = None, keep: str = "") -> None:  # fmt: skip
        """Change a person; a new password or a person shut out ends their sessions, but the one whose token hash is kept."""
        values: dict[str, Any] = {}
        if role is not None:
            values["role"] = role
        if password is not None:
            values["password_hash"] = _HASHER.hash(_password(password))
        if pin is not None:
            values["pin_hash"] = _HASHER.hash(_pin(pin)) if pin else ""
        if is_active is not None:
            values["is_active"] = is_active
        if rights is not None:
            values["rights"] = sorted(rights)
        with self._base.session() as session, session.begin():
            store = PeopleStore(session)
            if store.find(user_id) is None:
                raise Refusal(
                    "no-such-person", say("There is no such person."), AS_IT_WAS, say("Look at the list again.")
                )
            if values:
                store.change(user_id, **values)
            if not any(u.role == "owner" and u.is_active for u in store.all()):
                raise Refusal(
                    "last-owner",
                    say("The shop would have no owner."),
                    AS_IT_WAS,
                    say("Make somebody else an owner first."),
                )
            if password is not None or is_active is False:
                store.end(self._base.now(), user_id=user_id, but=keep)

    def like(self, now: SignedIn, liking: dict[str, Any]) -> None:
        """Units and theme, kept with the person."""
        with self._base.session() as session, session.begin():
            PeopleStore(session).change(now.user.id, liking=liking)

    def _was_here(self, token: str, name: str) -> bool:
        if not token:
            return False
        with self._base.session() as session:
            return PeopleStore(session).was_opened_by(_hash(token)) == name

    def _guarded(self, guards: dict[str, Waits], name: str, which: str, secret: str) -> User:
        """The person whose secret this is; every failure is counted before the answer goes out.

        Guesses at one person wait for each other at the person's row, so that a burst of them is counted one by one.
        """
        now = self._base.now()
        with self._base.session() as session, session.begin():
            store = PeopleStore(session)
            user = store.named(name, lock=True)
            wait = max(self._still(store, k, waits, now) for k, waits in guards.items())
            if wait > timedelta(0):
                raise Refusal("too-many-tries", say("Too many wrong tries."), AS_IT_WAS,
                              say("Wait {long}", long=_long(wait)) + (say(", or sign in with your password.") if which == "pin_hash" else "."))  # fmt: skip
            is_right = (
                _is(getattr(user, which, "") or _nobody(), secret)
                and user is not None
                and user.is_active
                and bool(getattr(user, which))
            )
            if is_right:
                # Of this person alone: one right word does not forgive an address its guesses at others.
                store.forgive(next(iter(guards)))
            for key in guards if not is_right else ():
                store.failed(key, now)
        if not is_right or user is None:
            raise Refusal("wrong-sign-in", say("Name and PIN do not belong together.") if which == "pin_hash" else say("Name and password do not belong together."),
                          AS_IT_WAS, say("Try once more."))  # fmt: skip
        return user

    @staticmethod
    def _still(store: PeopleStore, key: str, waits: Waits, now: datetime) -> timedelta:
        """How long the next try at this has to wait."""
        wrong, last = store.tries(key, now - WINDOW)
        return timedelta(0) if last is None else last + waits.after(wrong) - now

    def _made(self, name: str, role: Role, password: str, pin: str) -> User:
        name = " ".join(name.split())
        if not 1 <= len(name) <= 60:
            raise Refusal("bad-name", say("A name has 1 to 60 letters."), AS_IT_WAS, say("Give another name."))
        return User(id=secrets.token_hex(8), name=name, role=role, password_hash=_HASHER.hash(_password(password)),
                    pin_hash=_HASHER.hash(_pin(pin)) if pin else "", is_active=True, liking={})  # fmt: skip

    def _open(self, store: PeopleStore, user: User, device: str) -> str:
        token = secrets.token_urlsafe(32)
        store.open_session(_hash(token), secrets.token_hex(8), user.id, device, self._base.now())
        return token


def _long(wait: timedelta) -> str:
    seconds = max(1, ceil(wait.total_seconds()))
    if seconds < 100:
        return say_many(seconds, "{count} second", "{count} seconds")
    return (
        say("{ceil} minutes", ceil=ceil(seconds / 60))
        if seconds < 5400
        else say("{ceil} hours", ceil=ceil(seconds / 3600))
    )


def name_taken(taken: NameTaken) -> Refusal:
    return Refusal(
        "name-taken",
        say("There is a “{taken}” already.", taken=taken),
        AS_IT_WAS,
        say("Give another name: acts are told apart by it."),
    )


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _is(kept: str, secret: str) -> bool:
    try:
        return _HASHER.verify(kept, secret)
    except (VerificationError, InvalidHashError):
        return False


def _password(password: str) -> str:
    if not SHORTEST_PASSWORD <= len(password) <= 200:
        raise Refusal(
            "bad-password",
            say("A password has at least {shortest_password} letters.", shortest_password=SHORTEST_PASSWORD),
            AS_IT_WAS,
            say("Take a longer one: three words do."),
        )
    return password


def _pin(pin: str) -> str:
    if not re.fullmatch(r"\d{4,8}", pin):
        raise Refusal("bad-pin", say("A PIN has 4 to 8 digits."), AS_IT_WAS, say("Give digits alone."))
    return pin
