"""A table as CSV: commas, semicolons or tabs, in UTF-8, its first row naming the columns."""

import csv
import io
from typing import NamedTuple

from offsetter.core.sentences import say
from offsetter.core.values import Refusal


class Table(NamedTuple):
    heads: tuple[str, ...]
    """As they are looked for; empty where nobody knows the column."""
    rows: tuple[tuple[int, dict[str, str]], ...]
    """Its number in the file, from 1, and column to cell."""


class Limits(NamedTuple):
    what: str
    """Begins the codes of refusals."""
    bytes: int
    rows: int
    kept: str
    of: str = "rows"


def read_table(data: bytes, columns: dict[str, str], limits: Limits) -> Table:
    """columns: a head as it may be written to what it is looked for as. Raises Refusal for what is no such table."""

    def refused(code: str, happened: str, to_do: str) -> Refusal:
        return Refusal(f"{limits.what}-{code}", happened, limits.kept, to_do)

    if len(data) > limits.bytes:
        raise refused("too-large", say("The list is larger than {bytes} kB.", bytes=limits.bytes // 1000), say("Send at most {rows} {of} in a file.", rows=limits.rows, of=limits.of))  # fmt: skip
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as broken:
        row = data[: broken.start].count(b"\n") + 1
        raise refused("broken-text", say("Row {row} holds letters that cannot be read.", row=row), say("Save the list as CSV in UTF-8 and send it again.")) from broken  # fmt: skip
    if "\0" in text:
        raise refused(
            "broken-text", say("The file is not a text list."), say("Save the list as CSV in UTF-8 and send it again.")
        )
    head = text.lstrip().split("\n", 1)[0]
    between = max(",;\t", key=head.count)
    try:
        rows = [(n, r) for n, r in enumerate(csv.reader(io.StringIO(text), delimiter=between), 1) if any(c.strip() for c in r)]  # fmt: skip
    except csv.Error as broken:
        raise refused(
            "broken-text", say("The list cannot be read as CSV: {broken}.", broken=broken), say("Save it as CSV again.")
        ) from broken
    heads = tuple(columns.get(h.strip().lower(), "") for h in rows[0][1]) if rows else ()
    if len(rows) - 1 > limits.rows:
        raise refused("too-many", say("The list has {rows} {of}; {rows2} are taken at a time.", rows=len(rows) - 1, of=limits.of, rows2=limits.rows), say("Split it."))  # fmt: skip
    return Table(heads, tuple((n, dict(zip(heads, row, strict=False))) for n, row in rows[1:]))
