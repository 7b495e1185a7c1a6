"""Every pinned dependency with the day since which this project has had that version, oldest first: ./offsetter pins

By the project's own history: what a registry says of a version's age takes a network, and the history does not.
"""

import re
import subprocess
import sys
from datetime import UTC, date, datetime
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
PINNED = {
    "pyproject.toml": re.compile(r'^\s*"([A-Za-z0-9._-]+)(?:\[[a-z,]+\])?==([^"]+)"'),
    "frontend/package.json": re.compile(r'^\s*"([@A-Za-z0-9._/-]+)": "(\d[^"]*)"'),
}


def pins(root: Path = ROOT) -> list[tuple[date, str, str, str]]:
    """Day, file, name and version."""
    found = []
    for file, pin in PINNED.items():
        blamed = subprocess.run(["git", "blame", "--line-porcelain", "--", file], cwd=root, capture_output=True, text=True, check=True)  # fmt: skip
        day = date.min
        for line in blamed.stdout.splitlines():
            if line.startswith("committer-time "):
                day = datetime.fromtimestamp(int(line.split()[1]), UTC).date()
            elif line.startswith("\t") and (match := pin.match(line[1:])) and match[1] != "version":
                found.append((day, file, match[1], match[2]))
    return sorted(found)


def main() -> int:
    today = datetime.now(UTC).date()
    for day, file, name, version in pins():
        print(f"{(today - day).days:5} days   since {day}   {name} {version}   {file}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
