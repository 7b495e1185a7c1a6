"""Patches as text: CGATS.17 tables as measuring programs write and read them, and plain CSV.

Fields understood: SAMPLE_ID or SAMPLE_NAME or SAMPLE_LOC for the label; LAB_L LAB_A LAB_B or XYZ_X XYZ_Y XYZ_Z (Y = 100, D50) for the
colour. CSV: a first row with label, L, a, b. Anything else in the file is left alone.
"""

import csv
import shlex
from io import StringIO

from offsetter.core.compute.chart import Chart
from offsetter.core.compute.cielab import lab_of_xyz
from offsetter.core.facts import Lab
from offsetter.core.values import Refusal

MOST_BYTES, MOST_ROWS = 2_000_000, 5_000
LABELS = ("SAMPLE_LOC", "SAMPLE_NAME", "SAMPLE_ID", "SAMPLEID")


def write_chart(chart: Chart, measured: dict[str, Lab] | None = None) -> str:
    """The chart's patches with what is printed, and what was measured where it is given."""
    inks = [f"{chart.space}_{n}" for n in (range(1, len(chart.inks) + 1) if chart.inks else chart.space)]
    fields = ["SAMPLE_ID", "SAMPLE_LOC", *inks, *(("LAB_L", "LAB_A", "LAB_B") if measured else ())]
    rows = [(n, p) for n, p in enumerate(chart.patches, 1) if measured is None or p.label in measured]
    lines = [
        "CGATS.17", "", 'ORIGINATOR "Offsetter"', f'DESCRIPTOR "{" ".join(chart.title.split()).replace(chr(34), chr(39))}"', 'KEYWORD "OFFSETTER_CHART"',
        f'OFFSETTER_CHART "{chart.id}"', "", f"NUMBER_OF_FIELDS {len(fields)}", "BEGIN_DATA_FORMAT", " ".join(fields), "END_DATA_FORMAT", "",
        f"NUMBER_OF_SETS {len(rows)}", "BEGIN_DATA",
    ]  # fmt: skip
    for number, patch in rows:
        values = [*patch.printed, *(measured[patch.label] if measured else ())]
        lines.append(" ".join([str(number), patch.label, *(f"{v:.4f}" for v in values)]))
    return "\n".join([*lines, "END_DATA", ""])


def read_measurements(data: bytes, name: str) -> dict[str, Lab]:
    """Label to Lab of a CGATS table or a CSV. Raises Refusal for what holds no colours of patches."""
    if len(data) > MOST_BYTES:
        raise _unfit(
            "measurements-too-large", f"“{name}” is larger than {MOST_BYTES // 10**6} MB", "Give the table of one chart"
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise _unfit("not-text", f"“{name}” is not text", "Export the measurements as CGATS text or as CSV") from None
    if not text.strip():
        raise _unfit("no-measurements", f"“{name}” is empty", "Measure the chart and export it again")
    found = (
        _cgats(text, name)
        if "BEGIN_DATA" in text or text.lstrip().upper().startswith(("CGATS", "CTI", "IT8", "ISO28178"))
        else _csv(text, name)
    )
    if not found:
        raise _unfit("no-measurements", f"“{name}” holds no measured patches", "Measure the chart and export it again")
    return found


def _cgats(text: str, name: str) -> dict[str, Lab]:
    lines = [line.strip() for line in text.splitlines()]
    try:
        fields = _between(lines, "BEGIN_DATA_FORMAT", "END_DATA_FORMAT")
        rows = _between(lines, "BEGIN_DATA", "END_DATA")
    except ValueError as missing:
        raise _unfit(
            "no-measurements", f"“{name}” has no {missing}", "Export the whole table: it may have been cut off"
        ) from None
    columns = {f.upper(): i for i, f in enumerate(" ".join(fields).split())}
    if not rows:
        raise _unfit(
            "no-measurements", f"“{name}” names its columns and holds no row", "Measure the chart and export it again"
        )
    return _table(columns, (_cells(row) for row in rows), len(rows), name)


def _between(lines: list[str], begin: str, end: str) -> list[str]:
    upper = [line.upper() for line in lines]
    if begin not in upper:
        raise ValueError(begin)
    start = upper.index(begin) + 1
    if end not in upper[start:]:
        raise ValueError(end)
    return [line for line in lines[start : upper.index(end, start)] if line and not line.startswith("#")]


def _cells(row: str) -> list[str]:
    return shlex.split(row) if '"' in row else row.split()


def _csv(text: str, name: str) -> dict[str, Lab]:
    first = text.splitlines()[0]
    mark = next((m for m in (";", "\t", ",") if m in first), ",")
    rows = list(csv.reader(StringIO(text), delimiter=mark))
    named = {c.strip().upper(): i for i, c in enumerate(rows[0])}
    columns = {
        "SAMPLE_NAME" if n in ("LABEL", "PATCH", "NAME") else f"LAB_{n}" if n in ("L", "A", "B") else n: i
        for n, i in named.items()
    }
    with_comma = mark != ","
    body = [[c.replace(",", ".") if with_comma else c for c in row] for row in rows[1:] if any(c.strip() for c in row)]
    return _table(columns, iter(body), len(body), name)


def _table(columns: dict[str, int], rows: object, count: int, name: str) -> dict[str, Lab]:
    label = next((columns[n] for n in LABELS if n in columns), None)
    labs, xyzs = [
        [columns.get(n) for n in group] for group in (("LAB_L", "LAB_A", "LAB_B"), ("XYZ_X", "XYZ_Y", "XYZ_Z"))
    ]
    at = labs if None not in labs else xyzs
    if label is None or None in at:
        what = "no column of labels" if label is None else "neither Lab nor XYZ columns"
        raise _unfit(
            "no-colours",
            f"“{name}” has {what}",
            "Export it with SAMPLE_LOC, LAB_L, LAB_A and LAB_B, or as CSV with label, L, a, b",
        )
    if count > MOST_ROWS:
        raise _unfit("measurements-too-large", f"“{name}” holds {count} rows", f"Give one chart: at most {MOST_ROWS}")
    found: dict[str, Lab] = {}
    for number, row in enumerate(rows, 1):  # type: ignore[var-annotated, arg-type]
        try:
            values = [float(row[i]) for i in at]
            key = row[label].strip()
            lab = values if at is labs else [float(v) for v in lab_of_xyz([v / 100 for v in values])]
            if not key or not (-1 <= lab[0] <= 130 and all(-200 <= v <= 200 for v in lab[1:])):
                raise ValueError
        except (IndexError, ValueError):
            raise _unfit(
                "bad-row",
                f"Row {number} of “{name}” is no label with three figures of a colour",
                "Put that row right, or measure the patch again",
            ) from None
        if key in found:
            raise _unfit(
                "label-twice",
                f"“{key}” stands twice in “{name}”",
                "Leave one of the two rows out, or measure the patch again",
            )
        found[key] = (lab[0], lab[1], lab[2])
    return found


def _unfit(code: str, happened: str, to_do: str) -> Refusal:
    return Refusal(code, f"{happened}.", "Nothing was saved.", f"{to_do}.")
