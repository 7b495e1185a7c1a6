"""People and the browsers they are signed in at."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, get_args

from sqlalchemy import delete, func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from offsetter.store.tables import SessionRow, SignInTryRow, UserRow

Role = Literal["owner", "technician", "viewer"]
Right = Literal["prices", "colours"]
"""What is the owner's, and may be given to a technician: what things cost, and taking customers' colours away."""


@dataclass(frozen=True, slots=True)
class User:
    id: str
    name: str
    role: Role
    password_hash: str
    pin_hash: str
    is_active: bool
    liking: dict[str, Any]
    rights: frozenset[Right] = frozenset()

    def may(self, right: Right) -> bool:
        return self.role == "owner" or (self.role == "technician" and right in self.rights)


@dataclass(frozen=True, slots=True)
class SignedIn:
    id: str
    token_hash: str
    user: User
    device: str
    created_at: datetime
    seen_at: datetime


class NameTaken(Exception):
    """Somebody has this name already."""


class PeopleStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def count(self) -> int:
        return self._session.scalar(select(func.count()).select_from(UserRow)) or 0

    def add(self, user: User, at: datetime) -> None:
        try:
            with self._session.begin_nested():
                self._session.add(UserRow(
                    id=user.id, name=user.name, role=user.role, password_hash=user.password_hash, pin_hash=user.pin_hash,
                    is_active=user.is_active, liking=user.liking, created_at=at,
                ))  # fmt: skip
        except IntegrityError as taken:
            raise NameTaken(user.name) from taken

    def change(self, user_id: str, **values: Any) -> None:
        self._session.execute(update(UserRow).where(UserRow.id == user_id).values(**values))

    def all(self) -> list[User]:
        return [_user(r) for r in self._session.scalars(select(UserRow).order_by(UserRow.name))]

    def named(self, name: str, *, lock: bool = False) -> User | None:
        wanted = select(UserRow).where(UserRow.name == name)
        row = self._session.scalar(wanted.with_for_update() if lock else wanted)
        return _user(row) if row else None

    def find(self, user_id: str) -> User | None:
        row = self._session.get(UserRow, user_id)
        return _user(row) if row else None

    def open_session(self, token_hash: str, session_id: str, user_id: str, device: str, at: datetime) -> None:
        self._session.add(SessionRow(token_hash=token_hash, id=session_id, user_id=user_id, device=device[:120],
                                     created_at=at, seen_at=at, ended_at=None))  # fmt: skip
        self._session.flush()

    def session_of(self, token_hash: str) -> SignedIn | None:
        """The live session of a token and its person; None when it ended or the person may not sign in any more."""
        row = self._session.execute(
            select(SessionRow, UserRow).join(UserRow, UserRow.id == SessionRow.user_id)
            .where(SessionRow.token_hash == token_hash, SessionRow.ended_at.is_(None), UserRow.is_active)
        ).first()  # fmt: skip
        return _signed_in(row[0], row[1]) if row else None

    def live_sessions(self, since: datetime) -> list[SignedIn]:
        rows = self._session.execute(
            select(SessionRow, UserRow).join(UserRow, UserRow.id == SessionRow.user_id)
            .where(SessionRow.ended_at.is_(None), SessionRow.seen_at > since).order_by(SessionRow.seen_at.desc())
        )  # fmt: skip
        return [_signed_in(s, u) for s, u in rows]

    def seen(self, token_hash: str, at: datetime) -> None:
        self._session.execute(update(SessionRow).where(SessionRow.token_hash == token_hash).values(seen_at=at))

    def end(
        self, at: datetime, *, token_hash: str = "", session_id: str = "", user_id: str = "", but: str = ""
    ) -> None:
        """End one session, or all of a person (but the one whose token is kept)."""
        which = {"token_hash": token_hash, "id": session_id, "user_id": user_id}
        column, value = next((c, v) for c, v in which.items() if v)
        matching = (
            (getattr(SessionRow, column) == value) & SessionRow.ended_at.is_(None) & (SessionRow.token_hash != but)
        )
        self._session.execute(update(SessionRow).where(matching).values(ended_at=at))

    def tries(self, key: str, since: datetime) -> tuple[int, datetime | None]:
        """Wrong tries since then, and when the last one was."""
        asked = select(func.count(), func.max(SignInTryRow.at))
        found = self._session.execute(asked.where(SignInTryRow.key == key, SignInTryRow.at > since)).one()
        return found[0], found[1]

    def was_opened_by(self, token_hash: str) -> str | None:
        """Who signed in with a token, whether or not its session has ended."""
        asked = select(UserRow.name).join(SessionRow, SessionRow.user_id == UserRow.id)
        return self._session.scalar(asked.where(SessionRow.token_hash == token_hash))

    def failed(self, key: str, at: datetime) -> None:
        self._session.add(SignInTryRow(key=key, at=at))
        self._session.flush()

    def forgive(self, key: str) -> None:
        self._session.execute(delete(SignInTryRow).where(SignInTryRow.key == key))


def _user(row: UserRow) -> User:
    role: Role = row.role  # type: ignore[assignment]
    rights = frozenset(r for r in get_args(Right) if r in (row.rights or ()))
    return User(row.id, row.name, role, row.password_hash, row.pin_hash, row.is_active, row.liking, rights)


def _signed_in(session: SessionRow, user: UserRow) -> SignedIn:
    return SignedIn(session.id, session.token_hash, _user(user), session.device, session.created_at, session.seen_at)
