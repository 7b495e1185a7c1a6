"""Hands a file to the child process and turns its answer into facts or a refusal."""

import json
import os
import subprocess
import sys
from pathlib import Path

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.intake import limits
from offsetter.intake.gate import Gate

GATE = Gate()
"""One file is parsed in one moment, whatever it came in by: each may take as much memory as a file may."""
WAITS_S = 60


def receive(source: Path, name: str, file_hash: str, folder: Path) -> ArtworkFacts:
    """Facts of the file, its bench pictures left in folder; found again when they are there already.

    Raises Refusal for what cannot be printed from, for a file that takes too long or too much memory.
    """
    facts = folder / "facts.json"
    if not facts.exists():
        in_child("child", name, "Nothing was added to the job.", str(source), name, file_hash, str(folder))
    return ArtworkFacts.model_validate_json(facts.read_text()).model_copy(update={"name": name})


def bare_photo(source: Path, name: str, out: Path) -> None:
    """A photograph made small and bare of its location, as JPEG at out. Raises Refusal."""
    in_child("photo", name, "Nothing was attached.", str(source), name, str(out))


def in_child(module: str, name: str, kept: str, *arguments: str) -> None:
    """Run one of our parsers in a process with limits. Raises Refusal when it says so, dies or takes too long."""
    too_much = Refusal("too-much-work", say("“{name}” takes more time or memory to read than a picture may.", name=name),
                       kept, say("Export it as a plain PNG at its print size and send it again."))  # fmt: skip
    single = {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
    with GATE.held(WAITS_S) as mine:
        if not mine:
            raise Refusal(
                "busy",
                say("Other files are being read just now."),
                kept,
                say("Send “{name}” again in a moment.", name=name),
            )
        try:
            done = subprocess.run(
                [sys.executable, "-m", f"offsetter.intake.{module}", *arguments],
                capture_output=True, stdin=subprocess.DEVNULL, timeout=limits.WALL_SECONDS, env={**os.environ, **single}, check=False,
            )  # fmt: skip
        except subprocess.TimeoutExpired as slow:
            raise too_much from slow
    if done.returncode != 0:
        raise too_much
    answer = json.loads(done.stdout.decode().strip().splitlines()[-1])
    if "ok" not in answer:
        raise Refusal(**answer)


def nozzle_scan(source: Path, name: str, sheet: Path, out: Path, picture: Path) -> None:
    """A scan of a nozzle sheet: what it says as JSON at out, and a small picture of it. Raises Refusal."""
    in_child("nozzle_scan", name, "Nothing was kept of it.", str(source), name, str(sheet), str(out), str(picture))


def job_file(source: Path, name: str, folder: Path) -> None:
    """A job's zip from outside: its document and its files left in folder. Raises Refusal."""
    in_child("job_file", name, "Nothing was taken in.", str(source), name, str(folder))
