"""A shop in its folder, opened as its owner opens it: once, again after a kill, kept in a file and brought back from it."""

import io
import json
import os
import signal
import socket
import ssl
import subprocess
import sys
import threading
import time
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import httpx
import pymysql
import pytest
from database import free_port
from network import addresses, certificates
from sqlalchemy.engine import make_url

from tests.core.shapes import disc
from tests.web.conftest import PASSWORD, png

TOOLS = Path(__file__).resolve().parents[2] / "tools"


class OpenShop:
    def __init__(self, data: Path, *more: str, scheme: str = "http") -> None:
        self.data, self.port = data, free_port()
        told = [sys.executable, str(TOOLS / "open.py"), "--data", str(data), "--port", str(self.port), *more]
        self.process = subprocess.Popen(
            told, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, env={**os.environ, "OFFSETTER_LOOKERS": "0"}
        )  # fmt: skip
        self.client = httpx.Client(base_url=f"{scheme}://127.0.0.1:{self.port}", timeout=60, verify=False)
        end = time.monotonic() + 60
        while time.monotonic() < end:
            try:
                if self.client.get("/api/welcome").status_code == 200:
                    return
            except httpx.HTTPError:
                assert self.process.poll() is None, self.process.communicate()[0]
                time.sleep(0.1)
        raise AssertionError("the shop did not open")

    def close(self) -> None:
        self.process.terminate()
        self.process.wait(30)


def tool(name: str, *told: str) -> subprocess.CompletedProcess:
    return subprocess.run([sys.executable, str(TOOLS / name), *told], capture_output=True, text=True, timeout=120, check=False, stdin=subprocess.DEVNULL)  # fmt: skip


def order(client: httpx.Client, blank: str, number: int) -> None:
    due = (datetime.now(UTC) + timedelta(days=3)).isoformat()
    made = {"title": f"Order {number}", "customer": "Ida", "due": due, "lines": [{"blank": blank, "counts": {"M": 2}}]}
    answer = client.post("/api/jobs", json={"order": made})
    assert answer.status_code == 201, answer.text
    file = client.post("/api/artworks", files={"file": ("a.png", png(disc(60 + number, 200, (40, 120, 200))))}).json()[
        "file"
    ]
    job = answer.json()["id"]
    body = client.get(f"/api/jobs/{job}").json()["line"]["decisions"]["place"] | {"file": file, "width_um": 60_000}
    client.put(f"/api/jobs/{job}/decisions/place", json={"base": 0, "body": body}).raise_for_status()


def titles(client: httpx.Client) -> set[str]:
    return {j["title"] for j in client.get("/api/jobs").json()["cards"]}


@pytest.mark.timeout(400)
def test_a_shop_is_opened_killed_kept_under_load_and_brought_back_on_another_network(tmp_path):
    shop, folder = None, tmp_path / "shop"
    try:
        early = tool("open.py", "--data", str(folder), "--port", str(free_port()), "--network")
        assert early.returncode == 1
        assert "Nobody owns this shop yet" in early.stderr
        shop = OpenShop(folder)
        assert shop.client.get("/api/welcome/authority.crt").json()["code"] == "no-authority"
        shop.client.post(
            "/api/welcome/owner", json={"name": "Ann", "password": PASSWORD, "shop": "North Wall"}
        ).raise_for_status()
        for sort, kind, name in (("printers", "film-roll", "Dora"), ("presses", "swing-away-38x38", "The press")):
            shop.client.post(f"/api/machines/{sort}", json={"kind": kind, "name": name}).raise_for_status()
        blank = shop.client.post("/api/blanks/starter", json={"kind": "tee", "colours": ["black"]}).json()[0]["id"]
        order(shop.client, blank, 0)

        second = tool("open.py", "--data", str(folder), "--port", str(free_port()))
        assert second.returncode == 1
        assert f"open already at http://127.0.0.1:{shop.port}" in second.stderr
        inside = tool("open.py", "--data", str(TOOLS / "shop"))
        assert "inside the program's own folder" in inside.stderr

        # Killed without a word: its server goes with it, and what was ordered is there at the next opening.
        cookies = shop.client.cookies
        shop.process.send_signal(signal.SIGKILL)
        shop.process.wait(10)
        shop = OpenShop(folder)
        shop.client.cookies = cookies
        assert titles(shop.client) == {"Order 0"}

        # Kept while orders come in: those that were answered before it began are in it.
        more, stop = [0], threading.Event()

        def keep_ordering() -> None:
            while not stop.is_set():
                more[0] += 1
                order(shop.client, blank, more[0])

        hand = threading.Thread(target=keep_ordering)
        hand.start()
        while more[0] < 4:
            time.sleep(0.05)
        file, before = tmp_path / "kept.zip", more[0] - 1
        kept = tool("backup.py", "backup", str(file), "--data", str(folder))
        stop.set()
        hand.join()
        assert kept.returncode == 0, kept.stderr
        assert "read back" in kept.stdout
        assert not list(tmp_path.glob("*.part"))

        back = tmp_path / "back"
        assert tool("backup.py", "restore", str(file), "--data", str(back)).returncode == 0
        refused = tool("backup.py", "restore", str(file), "--data", str(back))
        assert refused.returncode == 1
        assert "There is a shop in" in refused.stderr
        again = OpenShop(back, "--network", scheme="https")
        again.client.post("/api/welcome/sign-in", json={"name": "Ann", "password": PASSWORD}).raise_for_status()
        assert {f"Order {n}" for n in range(before + 1)} <= titles(again.client) <= titles(shop.client)
        # Of those that were whole when it began, the picture is there too: it is drawn from its file.
        for job in (j for j in again.client.get("/api/jobs").json()["cards"] if int(j["title"].split()[1]) <= before):
            seen, there = (c.get(f"/api/jobs/{job['id']}").json()["line"] for c in (again.client, shop.client))
            assert seen["decisions"]["place"] == there["decisions"]["place"]
            assert seen["stations"][0]["state"] == "ready"
        settings = {"OFFSETTER_DATABASE_URL": (back / "url").read_text(), "OFFSETTER_DATA_FOLDER": str(back / "files")}
        folded = subprocess.run([sys.executable, str(TOOLS / "refold.py")], env={**os.environ, **settings}, capture_output=True, text=True, check=False)  # fmt: skip
        assert "nothing differed" in folded.stdout, folded.stdout
        trusted_by_its_own_authority_and_by_nothing_else(again, back / "network")
        again.close()

        # A folder that a newer Offsetter opened is left alone.
        url = make_url((folder / "url").read_text())
        secret = (folder / "database" / "owner.secret").read_text()
        with pymysql.connect(
            host="127.0.0.1", port=url.port, user="owner", password=secret, database="offsetter", autocommit=True
        ) as sql:
            sql.cursor().execute("UPDATE alembic_version SET version_num = '9999'")
        shop.close()
        newer = tool("open.py", "--data", str(folder))
        assert newer.returncode == 1
        assert "newer Offsetter" in newer.stderr
        ahead = tmp_path / "ahead.zip"
        assert tool("backup.py", "backup", str(ahead), "--data", str(folder)).returncode == 1
        assert not ahead.exists(), "what this version could not read back is not called a backup"
    finally:
        if shop is not None:
            shop.close()


def trusted_by_its_own_authority_and_by_nothing_else(networked: OpenShop, folder: Path) -> None:
    trusted = ssl.create_default_context(cadata=networked.client.get("/api/welcome/authority.crt").text)
    for name in (*addresses(), "localhost"):
        with (
            socket.create_connection((name, networked.port), 10) as raw,
            trusted.wrap_socket(raw, server_hostname=name) as told,
        ):
            assert told.version() in ("TLSv1.2", "TLSv1.3")
    stranger = socket.create_connection(("127.0.0.1", networked.port), 10)
    with pytest.raises(ssl.SSLCertVerificationError):
        ssl.create_default_context().wrap_socket(stranger, server_hostname="localhost")
    stranger.close()
    assert (folder / "authority.key").stat().st_mode & 0o077 == 0
    kept = (folder / "shop.crt").read_bytes()
    certificates(folder, (*addresses(), "localhost"))
    assert (folder / "shop.crt").read_bytes() == kept, "made once"
    certificates(folder, ("10.9.8.7",))
    assert (folder / "shop.crt").read_bytes() != kept, "made anew for another address"


def made_of(members: dict[str, bytes]) -> bytes:
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as into:
        for name, body in members.items():
            into.writestr(name, body)
    return data.getvalue()


def test_files_of_a_shop_whose_database_is_elsewhere_are_not_restored_over(tmp_path):
    kept = tmp_path / "into" / "files" / "originals" / "ab" / "abcd"
    kept.parent.mkdir(parents=True)
    kept.write_bytes(b"a picture")
    (tmp_path / "any.zip").write_bytes(made_of({"readme": b"hello"}))
    done = tool("backup.py", "restore", str(tmp_path / "any.zip"), "--data", str(tmp_path / "into"))
    assert done.returncode == 1
    assert "There is a shop in" in done.stderr
    assert kept.read_bytes() == b"a picture"


MANIFEST = {
    "form": 1,
    "migration": "0001",
    "made_at": "2026-01-01T00:00:00Z",
    "database_sha256": "0" * 64,
    "files": 0,
    "bytes": 0,
}


@pytest.mark.parametrize(("data", "said"), [
    (b"PK\x03\x04 and then nothing", "cut short or changed"), (made_of({"readme": b"hello"}), "no manifest"),
    (made_of({"manifest.json": json.dumps(MANIFEST | {"migration": "9999"}).encode(), "database.sql": b""}), "newer Offsetter"),
    (made_of({"manifest.json": json.dumps(MANIFEST).encode(), "database.sql": b"DROP TABLE acts"}), "not what was kept"),
    (made_of({"manifest.json": json.dumps(MANIFEST | {"files": 1}).encode(), "database.sql": b"", "originals/../../x": b"out"}), "originals/../../x"),
    (made_of({"manifest.json": b"{}", "database.sql": b""}), "cut short or changed"),
    (made_of({"manifest.json": b"[" * 100_000, "database.sql": b""}), "cut short or changed"),
])  # fmt: skip
def test_what_is_no_whole_backup_is_refused_and_no_shop_begins(tmp_path, data, said):
    (tmp_path / "bad.zip").write_bytes(data)
    done = tool("backup.py", "restore", str(tmp_path / "bad.zip"), "--data", str(tmp_path / "into"))
    assert done.returncode == 1
    assert said in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1, done.stderr
    assert not (tmp_path / "into" / "database" / "data").exists()
    assert not (tmp_path / "into" / "files").exists()
    assert not (tmp_path / "x").exists()
