"""What commands read and say alike."""

import csv
import json
import math
from pathlib import Path
from typing import Any

from offsetter.core import facts
from offsetter.core.values import Finding, Refusal

MOST_READINGS, MOST_TEXT_BYTES = 5_000, 1_000_000


def json_file(path: Path) -> Any:
    try:
        return json.loads(text_of(path))
    except ValueError:
        raise Refusal(
            "not-json", f"“{path.name}” is not JSON.", "", "Give a JSON file such as the contract describes."
        ) from None


def columns_of(path: Path) -> list[dict[str, str]]:
    """A table's rows by its first row's names. Raises Refusal."""
    rows = list(csv.DictReader(text_of(path).splitlines()))
    if not 1 <= len(rows) <= MOST_READINGS:
        raise Refusal("no-rows", f"“{path.name}” has {len(rows)} rows.", "", f"Give 1 to {MOST_READINGS}.")
    if any(None in r or None in r.values() for r in rows):
        raise Refusal(
            "ragged", f"A row of “{path.name}” has more or fewer values than its first.", "", "Give one value a column."
        )
    return rows


def number_in(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise Refusal("no-number", f"“{text[:40]}” is no number.", "", "Put a number there.")
    return value


def text_of(path: Path) -> str:
    try:
        if path.stat().st_size > MOST_TEXT_BYTES:
            raise Refusal(
                "too-large", f"“{path.name}” is larger than {MOST_TEXT_BYTES // 1000} kB.", "", "Give a smaller file."
            )
        return path.read_text("utf-8-sig")
    except OSError as missing:
        raise Refusal(
            "no-file", f"“{path.name}” cannot be read: {missing.strerror}.", "", "Give the path of a file."
        ) from missing
    except UnicodeDecodeError as broken:
        raise Refusal("not-text", f"“{path.name}” is not text.", "", "Save it as text in UTF-8.") from broken


def in_words(answer: dict[str, Any]) -> str:
    """The answer for a person: a line a key; findings as sentences."""
    lines = []
    for key, value in answer.items():
        if key == "findings":
            lines += [f"{f['severity']}: {f['message']}. {f['why']} {f['fix']}".rstrip() for f in value]
        elif isinstance(value, list) and value and isinstance(value[0], dict):
            lines += [f"{key}:"] + [
                "  " + ", ".join(f"{k} {v}" for k, v in row.items() if not isinstance(v, list | dict)) for row in value
            ]
        else:
            lines.append(f"{key.replace('_', ' ')}: {value}")
    return "\n".join(lines)


def findings_told(found: tuple[Finding, ...]) -> list[dict[str, str]]:
    return [
        {"code": f.code, "severity": f.severity, "message": f.message, "why": f.why, "fix": f.fix_text} for f in found
    ]


def method_called(method_id: str) -> facts.Method:
    known = facts.methods()
    if method_id not in known:
        raise Refusal("unknown-method", f"“{method_id}” is no method.", "", f"Choose one of {', '.join(known)}.")
    return known[method_id]
