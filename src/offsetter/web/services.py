from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header, Request

from offsetter.desk.artwork import Artworks
from offsetter.desk.base import Base
from offsetter.desk.jobs import Jobs
from offsetter.desk.pictures import Pictures
from offsetter.desk.work_done import WorkDone


class Services:
    """The desk's use cases, made once a server."""

    def __init__(self, base: Base) -> None:
        self.base = base
        self.pictures = Pictures(base.files)
        self.jobs = Jobs(base, self.pictures)
        self.artworks = Artworks(base, self.pictures)
        self.work_done = WorkDone(base, self.jobs)


def _services(request: Request) -> Services:
    found: Services = request.app.state.services
    return found


def _person(x_person: Annotated[str, Header()] = "Counter") -> str:
    # Names may hold any letter; header values may not, so the browser sends them percent-encoded.
    return unquote(x_person).strip()[:80] or "Counter"


Desk = Annotated[Services, Depends(_services)]
Person = Annotated[str, Depends(_person)]
