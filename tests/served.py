"""The server as a shop runs it: a process of its own over a database of its own, that can be killed."""

import json
import os
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import httpx
from database import free_port

from offsetter.desk.base import Base
from offsetter.desk.people import People
from offsetter.store.engine import engine_for
from offsetter.store.files import FileStore
from tests.web.conftest import Counter, welcome_people

ANSWERS_WITHIN_S = 60


class Server:
    def __init__(self, database_url: str, data: Path, ports: tuple[int, ...] = (), processes: int = 1) -> None:
        """ports: of this machine that machines may answer at."""
        port = free_port()
        self.address = f"http://127.0.0.1:{port}"
        self._settings = {"OFFSETTER_DATABASE_URL": database_url, "OFFSETTER_DATA_FOLDER": str(data), "OFFSETTER_PORT": str(port),
                          "OFFSETTER_DEMO": "true", "OFFSETTER_LOOPBACK_PORTS": json.dumps(ports), "OFFSETTER_PROCESSES": str(processes),
                          "OFFSETTER_LOOKERS": "1"}  # fmt: skip  # two workers of the tests have two cores
        people = People(Base(engine_for(database_url), FileStore(data)))
        if people.is_empty():
            welcome_people(people)
        self.process: subprocess.Popen[bytes]

    def start(self) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "offsetter.web"], env={**os.environ, **self._settings}, stdin=subprocess.DEVNULL
        )
        end = time.monotonic() + ANSWERS_WITHIN_S
        while time.monotonic() < end:
            try:
                urllib.request.urlopen(f"{self.address}/api/welcome", timeout=2).close()
                return
            except OSError:
                assert self.process.poll() is None, "the server stopped"
                time.sleep(0.1)
        raise AssertionError("the server did not answer")

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(15)

    def kill(self) -> None:
        """As a power cut does: nothing is said to it first."""
        self.process.kill()
        self.process.wait(15)

    def counter(self) -> Counter:
        return Counter(httpx.Client(base_url=self.address, timeout=60))
