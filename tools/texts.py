"""Writes src/offsetter/formats/texts/offsetter.pot: every text of server and pages, beside which a language's own stand. Found where it is said."""

import ast
import io
import json
import subprocess
import sys
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.pofile import write_po

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "offsetter"
TARGET = SOURCE / "formats" / "texts" / "offsetter.pot"
sys.path.insert(0, str(ROOT / "src"))
from offsetter.core.facts.texts import shipped_texts  # noqa: E402
from offsetter.core.wording import NOUNS, OF_MANY  # noqa: E402


def found() -> Catalog:
    """Every say(), say_many() and several() with a text that stands there."""
    made = Catalog(project="Offsetter", fuzzy=False, charset="utf-8")
    for path in sorted(SOURCE.rglob("*.py")):
        where = path.relative_to(ROOT).as_posix()
        for node in ast.walk(ast.parse(path.read_text())):
            if not isinstance(node, ast.Call):
                continue
            called = node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")
            told = [a.value if isinstance(a, ast.Constant) and isinstance(a.value, str) else None for a in node.args]
            if called == "say" and told and told[0]:
                made.add(told[0], locations=[(where, 0)])
            elif called == "say_many" and len(told) == 3 and told[1] and told[2]:
                made.add((told[1], told[2]), locations=[(where, 0)])
            elif called == "several" and len(told) > 1 and told[1]:
                _counted(made, told[1], told[2] or "" if len(told) > 2 else "", where)
    for text in shipped_texts():
        made.add(text, locations=[("src/offsetter/core/facts/data", 0)])
    for where, one, many in _of_pages():
        made.add((one, many) if many else one, locations=[(where, 0)])
    for noun in NOUNS:
        _counted(made, noun, "", "frontend/src/ui/several.ts")
        for then in ("", *OF_MANY):
            _counted(made, noun, then, "src/offsetter/core/wording.py")
    return made


def _of_pages() -> list[tuple[str, str, str | None]]:
    """File, text, and that of many where it counts; read by the compiler of the pages."""
    read = subprocess.run(["node", str(ROOT / "tools" / "pages.cjs")], capture_output=True, check=True, text=True)
    return [(where, one, many) for where, one, many in json.loads(read.stdout)]


def _counted(made: Catalog, noun: str, then: str, where: str) -> None:
    of_one, of_many = (f" {then}", f" {OF_MANY.get(then, then)}") if then else ("", "")
    made.add((f"{{count}} {noun}{of_one}", f"{{count}} {noun}s{of_many}"), locations=[(where, 0)])


def document() -> bytes:
    out = io.BytesIO()
    write_po(out, found(), width=0, sort_output=True, omit_header=False, include_lineno=False)
    # No date: the same texts make the same file.
    lines = out.getvalue().splitlines(keepends=True)
    return b"".join(
        line
        for line in lines
        if not line.startswith((b'"POT-Creation-Date', b'"Generated-By', b"# Copyright", b"# FIRST", b"#, fuzzy\n"))
    )


if __name__ == "__main__":
    TARGET.parent.mkdir(exist_ok=True)
    TARGET.write_bytes(document())
