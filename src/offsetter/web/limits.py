"""How large a request's body may be. It is counted as it comes in; what is more is refused before it is kept."""

from typing import Annotated

from fastapi import Path

JSON_BYTES = 1_000_000
"""Of what is not a file; routes that take one have a limit of their own."""
FORM_BYTES = 100_000
"""Of the form around a file."""
FactId = Annotated[str, Path(min_length=1, max_length=40)]
"""Of a thing in the shop's own tables: as long as a row's key may be."""
