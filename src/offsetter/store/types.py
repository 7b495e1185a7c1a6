from datetime import UTC, datetime
from typing import Any

from sqlalchemy import TypeDecorator
from sqlalchemy.dialects import mysql


class UtcDateTime(TypeDecorator[datetime]):
    """Aware times in, aware UTC out; MariaDB's DATETIME has no zone of its own."""

    impl = mysql.DATETIME
    cache_ok = True

    def __init__(self, fsp: int = 6) -> None:
        super().__init__(fsp=fsp)

    def process_bind_param(self, value: datetime | None, dialect: Any) -> datetime | None:
        if value is not None and value.tzinfo is None:
            raise ValueError("a time without a zone cannot be kept")
        return None if value is None else value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Any) -> datetime | None:
        return None if value is None else value.replace(tzinfo=UTC)
