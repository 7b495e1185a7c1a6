"""Colour as a hand feels it: a change of the proof until its picture, the glass's figures; and a file's header until it is said."""

import itertools
import shutil
import tempfile
import time
from pathlib import Path

import cv2
from intake import poster
from shop import close_shop, job_called, open_shop, row, signed_in

INTENTS = ("relative", "perceptual", "saturation", "absolute")


def bench_colour() -> None:
    from database import free_port

    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-bench-")), free_port()
    address = f"http://127.0.0.1:{port}"
    try:
        demo = open_shop(folder, port, address)
        try:
            client = signed_in(address)
            job = job_called(client, "Comet tees")
            _proof(client, job)
            _header(client, job, folder)
        finally:
            close_shop(demo)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _proof(client, job: str) -> None:
    print("A proof changed: question and picture from the server, ms")
    decided = client.get(f"/api/jobs/{job}").json()["line"]["decisions"]["colour"]
    asked = [
        {"intent": intent, "black_point": black, "ink_limit_pct": limit}
        for limit, black, intent in itertools.product(range(200, 240, 5), (True, False), INTENTS)
    ]
    times, key = [], ""
    for change in asked:
        began = time.perf_counter()
        line = client.post(f"/api/jobs/{job}/try", json={"station": "colour", "body": {**decided, **change}}).json()
        client.get(line["pictures"]["cloth"]).raise_for_status()
        times.append((time.perf_counter() - began) * 1000)
        key = line["pictures"]["key"]
    row("intent, black point, limit", times[3:], 100)
    times = []
    for n in range(60):
        began = time.perf_counter()
        client.get(f"/api/pictures/{key}/point", params={"x": n / 60, "y": 0.5}).raise_for_status()
        times.append((time.perf_counter() - began) * 1000)
    row("figures of a point", times[3:], 100)


def _header(client, job: str, folder: Path) -> None:
    print("A file sent: until its header is said, ms (A3 at 300 dpi)")
    source = folder / "poster.png"
    cv2.imwrite(str(source), poster())
    data = source.read_bytes()
    times = []
    for n in range(12):
        # Each is a new file: what stands behind the picture's end is left alone by every reader.
        began = time.perf_counter()
        said = client.post(f"/api/jobs/{job}/artworks", files={"file": ("poster.png", data + bytes([n]))}).json()
        times.append((time.perf_counter() - began) * 1000)
        assert said["header"]["pixels"] == [3508, 4961]
        client.delete(f"/api/long-work/{said['key']}").raise_for_status()
    row("size, profile, ppi", times, 300)
