"""Programs that may bring orders, and the orders that they brought."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from offsetter.store.tables import BroughtRow, TokenRow


@dataclass(frozen=True, slots=True)
class Token:
    id: str
    name: str
    rights: tuple[str, ...]
    made_by: str
    made_at: datetime
    used_at: datetime | None
    ended_at: datetime | None


class TokenStore:
    def __init__(self, session: Session) -> None:
        self._session = session

    def add(self, token: Token, token_hash: str) -> None:
        self._session.add(TokenRow(id=token.id, name=token.name, token_hash=token_hash, rights=list(token.rights), made_by=token.made_by, made_at=token.made_at))  # fmt: skip
        self._session.flush()

    def all(self) -> tuple[Token, ...]:
        """The newest first."""
        return tuple(_token(r) for r in self._session.scalars(select(TokenRow).order_by(TokenRow.made_at.desc()).limit(200)))  # fmt: skip

    def find(self, token_hash: str) -> Token | None:
        row = self._session.scalar(select(TokenRow).where(TokenRow.token_hash == token_hash))
        return _token(row) if row else None

    def used(self, token_id: str, at: datetime) -> None:
        self._session.execute(update(TokenRow).where(TokenRow.id == token_id).values(used_at=at))

    def end(self, token_id: str, at: datetime) -> bool:
        found = self._session.get(TokenRow, token_id)
        if found is None:
            return False
        found.ended_at = found.ended_at or at
        return True

    def job_of(self, source: str, reference: str) -> str | None:
        asked = select(BroughtRow.job_id).where(BroughtRow.source == source, BroughtRow.reference == reference)
        return self._session.scalar(asked)

    def brought(self, job_id: str, source: str, reference: str) -> None:
        self._session.add(BroughtRow(job_id=job_id, source=source, reference=reference))
        self._session.flush()


def _token(row: TokenRow) -> Token:
    return Token(id=row.id, name=row.name, rights=tuple(row.rights), made_by=row.made_by, made_at=row.made_at, used_at=row.used_at, ended_at=row.ended_at)  # fmt: skip
