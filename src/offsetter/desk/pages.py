"""Long lists in pages: a page asks for the one after it by the time and id of its last row."""

from datetime import datetime

from offsetter.core.sentences import say
from offsetter.core.values import Refusal


def mark(at: datetime, row: str) -> str:
    return f"{at.isoformat()}~{row}"


def read_mark(after: str) -> tuple[datetime, str] | None:
    """None for the first page. Raises Refusal for what is no mark of ours."""
    if not after:
        return None
    at, _, row = after.partition("~")
    try:
        when = datetime.fromisoformat(at)
        if when.tzinfo is None:
            raise ValueError(say("a mark has its zone"))
    except ValueError as wrong:
        raise Refusal("no-such-page", say("This page of the list is not known."), say("Nothing was changed."),
                      say("Open the list again.")) from wrong  # fmt: skip
    return when, row
