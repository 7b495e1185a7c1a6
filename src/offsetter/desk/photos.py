"""Photographs kept with a job or one of its acts."""

import tempfile
from datetime import datetime
from pathlib import Path

from offsetter.core.acts import Act, Photographed
from offsetter.core.sentences import say
from offsetter.core.values import Refusal
from offsetter.desk.acts import Acts
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.intake.receive import bare_photo

MOST_PHOTO_BYTES = 30 * 1024 * 1024


class Photos:
    def __init__(self, base: Base, jobs: Jobs, acts: Acts) -> None:
        self._base, self._jobs, self._acts = base, jobs, acts

    def attach(
        self, job_id: str, name: str, data: bytes, of: str, note: str, act_id: str, at: datetime, by: str
    ) -> None:
        """A photograph of an act's outcome, kept without its location."""
        self._jobs.kept.read(job_id)
        file = self.bare(name, data)
        self._acts.record(
            Act(id=act_id, job=job_id, at=at, actor=by, signature="", body=Photographed(file=file, of=of, note=note))
        )

    def bare(self, name: str, data: bytes) -> str:
        """Keep a photograph without its location; gives its file. Raises Refusal for what is none."""
        name = name.replace("\\", "/").rsplit("/", 1)[-1][:120] or "photo"
        if not data or len(data) > MOST_PHOTO_BYTES:
            raise Refusal(
                "bad-photo",
                say("“{name}” is {which}.", name=name, which=say("empty") if not data else say("larger than 30 MB")),
                say("Nothing was attached."),
                say("Take a smaller one."),
            )
        with tempfile.TemporaryDirectory() as folder:
            source, bare = Path(folder) / "in", Path(folder) / "out.jpg"
            source.write_bytes(data)
            bare_photo(source, name, bare)
            return self._base.files.keep(bare.read_bytes())

    def path(self, file: str) -> Path:
        path = self._base.files.original(file if file.isalnum() else "none")
        if not path.exists():
            raise Refusal(
                "no-such-picture",
                say("This photograph is not known."),
                say("Nothing was changed."),
                say("Open the job again."),
            )
        return path
