"""A language that nobody speaks, for who looks whether any text escapes the catalogue: what is said stands in brackets, its values outside of them."""

import re
from pathlib import Path

from babel.messages.pofile import read_po, write_po

from offsetter.formats.catalogue import SHIPPED


def bracketed(text: str) -> str:
    return "".join(p if p.startswith("{") else f"«{p}»" if p else "" for p in re.split(r"(\{\w+\})", text))


def without_said(text: str) -> str:
    """What is left of a text: values, and what stands in no catalogue."""
    return re.sub(r"«[^»]*»", "\n", text)


def lay_catalogue(folder: Path) -> None:
    """Into a shop's folder of texts, as Esperanto."""
    folder.mkdir(parents=True, exist_ok=True)
    with (SHIPPED / "offsetter.pot").open("rb") as file:
        told = read_po(file, locale="eo")
    for message in told:
        if message.id:
            message.string = (
                tuple(map(bracketed, message.id)) if isinstance(message.id, tuple) else bracketed(message.id)
            )
    with (folder / "eo.po").open("wb") as file:
        write_po(file, told)
