"""The server over the real database, and small requests that read like the counter's."""

import io
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from standins.serving import Machines

from offsetter.core.compute import gang
from offsetter.web.app import create_app
from tests.conftest import stocked
from tests.core.shapes import disc


@pytest.fixture(scope="session")
def machines() -> Iterator[Machines]:
    """Probes, and no printers."""
    made = Machines(names=())
    yield made
    made.close()


@pytest.fixture(scope="session", autouse=True)
def short_searches() -> Iterator[None]:
    """How well a sheet is laid is measured in tests/core and bench."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(gang, "TRIES", 5_000)
        patch.setattr(gang, "SHAPES_S", 1)
        yield


@pytest.fixture(scope="session")
def app(app_url, machines, tmp_path_factory):
    dist = tmp_path_factory.mktemp("dist")
    (dist / "index.html").write_text('<meta nonce="__NONCE__">')
    made = create_app(
        app_url, tmp_path_factory.mktemp("data"), dist, is_demo=True, loopback_ports=frozenset({machines.port})
    )
    welcome_people(made.state.services.people)
    return made


@contextmanager
def shop_of_its_own(database, name: str, shop_rows, tmp_path_factory, data=None, **more) -> Iterator[tuple]:
    """Services and client of the demo's shop without other tests' jobs. data: its folder, where something lies in it already."""
    dist = tmp_path_factory.mktemp("dist")
    (dist / "index.html").write_text('<meta nonce="__NONCE__">')
    app = create_app(
        stocked(database, name, shop_rows), data or tmp_path_factory.mktemp("data"), dist, is_demo=True, **more
    )
    welcome_people(app.state.services.people)
    with TestClient(app, "http://127.0.0.1", raise_server_exceptions=False) as client:
        yield app.state.services, client


PEOPLE = (
    ("Ada", "owner", "1357"),
    ("Noor", "technician", "2468"),
    ("Mika", "technician", ""),
    ("Sami", "technician", ""),
    ("Visitor", "viewer", ""),
)
PASSWORD = "three words do"


def welcome_people(people) -> None:
    for name, role, pin in PEOPLE:
        people.add(name, role, PASSWORD, pin)


@pytest.fixture(scope="session")
def client(app) -> Iterator[TestClient]:
    with TestClient(app, "http://127.0.0.1", raise_server_exceptions=False) as made:
        yield made


def png(rgba: np.ndarray, **saved) -> bytes:
    data = io.BytesIO()
    Image.fromarray(rgba).save(data, "PNG", **saved)
    return data.getvalue()


def give_probes(owner: "Counter", machines) -> None:
    """The shop's probes, at the simulated ones."""
    for probe, measures in (("kittiwake", "colour"), ("whimbrel", "heat")):
        address = f"http://127.0.0.1:{machines.port}/probe/{measures}"
        answer = owner.client.put(f"/api/machines/probes/{probe}", json={"address": address}, headers=owner.headers)
        assert answer.status_code == 200, answer.text


class Counter:
    """Somebody at the counter, by name, signed in by the demo's one click."""

    def __init__(self, client: TestClient, name: str = "Ada") -> None:
        answer = client.post("/api/welcome/demo", json={"name": name})
        assert answer.status_code == 200, answer.text
        self.client, self.cookie = client, answer.cookies["offsetter"]
        self.headers = {"cookie": f"offsetter={self.cookie}"}
        client.cookies.clear()

    def as_person(self, name: str) -> "Counter":
        return Counter(self.client, name)

    def get(self, path: str, **more):
        return self.client.get(path, headers=self.headers, **more)

    def post(self, path: str, **more):
        return self.client.post(path, headers=self.headers, **more)

    def order(self, counts: dict[str, int] | None = None, **changed) -> str:
        due = (datetime.now(UTC) + timedelta(days=4)).isoformat()
        order = {"title": "Test tees", "customer": "Someone", "due": due, "quoted": 9.5,
                 "lines": [{"blank": "tee-black", "counts": counts or {"S": 2, "M": 4}}], **changed}  # fmt: skip
        answer = self.client.post("/api/jobs", json={"order": order}, headers=self.headers)
        assert answer.status_code == 201, answer.text
        return answer.json()["id"]

    def upload(self, data: bytes, name: str = "art.png"):
        return self.client.post("/api/artworks", files={"file": (name, data)}, headers=self.headers)

    def job(self, job: str, print: str = "") -> dict:
        return self.get(f"/api/jobs/{job}", params={"print": print}).json()

    def decide(self, job: str, station: str, base: int | None = None, *, print: str = "", **changes):
        seen = self.job(job, print)
        body = {**(seen["line"]["decisions"][station] or seen["line"]["way"]), **changes}
        base = seen["revisions"].get(station, 0) if base is None else base
        return self.client.put(
            f"/api/jobs/{job}/decisions/{station}",
            json={"base": base, "body": body, "print": print},
            headers=self.headers,
        )

    def place(self, job: str, width_mm: float = 60, *, print: str = "", colour=(40, 120, 200)) -> dict:
        file = self.upload(png(disc(170, 400, colour))).json()["file"]
        answer = self.decide(job, "place", print=print, file=file, width_um=round(width_mm * 1000))
        assert answer.status_code == 200, answer.text
        return answer.json()

    def plates(self, job: str) -> str:
        return self.follow(self.client.post(f"/api/jobs/{job}/plates", headers=self.headers).json()["key"])

    def follow(self, key: str) -> str:
        """Until the work is done."""
        end = time.monotonic() + 90
        while time.monotonic() < end:
            with self.client.stream("GET", f"/api/long-work/{key}/events", headers=self.headers) as events:
                last = [line for line in events.iter_lines() if line.startswith("data:")][-1]
            if '"done"' in last or '"failed"' in last:
                assert '"stage":"done"' in last, last
                return key
        raise AssertionError(f"{key} was never done")

    def release(self, job: str):
        return self.client.post(f"/api/jobs/{job}/runs", headers=self.headers)

    def act(self, job: str, act_id: str | None = None, **body):
        act = {"id": act_id or uuid.uuid4().hex, "job": job, "at": datetime.now(UTC).isoformat(), "body": body}
        return self.client.post("/api/acts", json=act, headers=self.headers)

    def printed(self, job: str) -> str:
        """A job with its run released and printed; gives the run."""
        self.place(job)
        self.plates(job)
        run = self.release(job).json()["runs"][-1]
        assert self.act(job, kind="printed", run=run["id"], count=run["copies"]).status_code == 200
        return run["id"]


@pytest.fixture
def counter(client) -> Counter:
    return Counter(client)
