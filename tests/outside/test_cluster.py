"""The shop on a cluster of two database servers that copy every transaction to each other (Galera, Debian's package): one of them
is killed in mid-work, and the other has all that was acknowledged."""

import os
import shutil
import threading
import time
import uuid
from collections import Counter as Count
from collections.abc import Iterator
from contextlib import ExitStack
from datetime import UTC, datetime
from pathlib import Path

import httpx
import pytest
from database import Database, free_port

from tests.conftest import stocked
from tests.served import Server

PROVIDER = "/usr/lib/galera/libgalera_smm.so"
SETTLES_S = 30


def node(port: int, others: tuple[int, ...]) -> tuple[str, ...]:
    """Options of one server of the cluster. port: where it speaks to the others."""
    return (
        "--wsrep-on=ON", f"--wsrep-provider={PROVIDER}", f"--wsrep-cluster-address=gcomm://{','.join(f'127.0.0.1:{o}' for o in others)}",
        "--wsrep-cluster-name=shop", "--wsrep-sst-method=alike", "--binlog-format=ROW", "--innodb-autoinc-lock-mode=2", f"--wsrep-node-address=127.0.0.1:{port}",
        f"--wsrep-provider-options=gmcast.listen_addr=tcp://127.0.0.1:{port};ist.recv_addr=127.0.0.1:{free_port()};gcache.size=32M;pc.weight={2 if not others else 1}",
    )  # fmt: skip


HANDED_OVER = """#!/bin/bash
# What a joining server is given before it catches up: nothing, for it began as a copy.
while [ $# -gt 0 ]; do case "$1" in --role) role=$2; shift ;; --gtid) at=$2; shift ;; esac; shift; done
if [ "$role" = donor ]; then echo "$at" >"$0.at"; echo "done $at"; exit 0; fi
echo "ready 127.0.0.1:4444/alike"
for _ in $(seq 300); do [ -s "$0.at" ] && break; sleep 0.1; done
cat "$0.at"
"""


def asked(database: Database, sql: str) -> str:
    with database._connect() as connection, connection.cursor() as cursor:
        cursor.execute(sql)
        return str(cursor.fetchone()[1])


@pytest.fixture
def cluster(tmp_path: Path, shop_rows, monkeypatch) -> Iterator[tuple[Database, Database, str, str]]:
    """Two nodes that begin with the same data, and the addresses of one database on each."""
    programs = tmp_path / "programs"
    programs.mkdir()
    (programs / "wsrep_sst_alike").write_text(HANDED_OVER)
    for path, mode in ((programs / "wsrep_sst_alike", 0o755), (programs, 0o777)):
        path.chmod(mode)
    monkeypatch.setenv("PATH", f"{programs}:{os.environ['PATH']}")
    with ExitStack() as running:
        first = Database(tmp_path / "first", throwaway=True)
        running.callback(first.stop)
        ports = (free_port(), free_port())
        first.start(*node(ports[0], ()), "--wsrep-new-cluster")
        url = stocked(first, "shop", shop_rows)
        first.stop()
        shutil.copytree(
            tmp_path / "first",
            tmp_path / "second",
            ignore=shutil.ignore_patterns("tmp", "pid", "started", "log", "gvwstate.dat"),
        )
        second = Database(tmp_path / "second", throwaway=True)
        running.callback(second.stop)
        first.start(*node(ports[0], ()), "--wsrep-new-cluster")
        if os.geteuid() == 0:
            for path in (tmp_path / "second" / "data", *(tmp_path / "second" / "data").rglob("*")):
                shutil.chown(path, "mysql", "mysql")
        second.start(*node(ports[1], (ports[0],)))
        end = time.monotonic() + SETTLES_S
        while any(asked(d, "SHOW STATUS LIKE 'wsrep_local_state_comment'") != "Synced" for d in (first, second)):
            assert time.monotonic() < end, "the nodes did not find each other"
            time.sleep(0.2)
        assert asked(second, "SHOW STATUS LIKE 'wsrep_cluster_size'") == "2"
        yield first, second, url, second.url("shop")


@pytest.mark.timeout(240)
def test_a_shop_on_a_cluster_loses_nothing_with_the_server_that_it_wrote_to(cluster, tmp_path):
    _, second, here, there = cluster
    data = tmp_path / "files"
    server = Server(there, data)
    server.start()
    counter = server.counter()
    job = counter.order({"S": 200})
    run = counter.printed(job)
    acknowledged: set[str] = set()

    def press() -> None:
        try:
            while True:
                act = {
                    "id": uuid.uuid4().hex,
                    "job": job,
                    "at": datetime.now(UTC).isoformat(),
                    "body": {"kind": "pressed", "run": run, "size": "S", "stages": []},
                }
                if counter.post("/api/acts", json=act).status_code == 200:
                    acknowledged.add(act["id"])
                else:
                    return
        except httpx.HTTPError:
            return

    hand = threading.Thread(target=press)
    hand.start()
    end = time.monotonic() + 60
    while len(acknowledged) < 10:
        assert time.monotonic() < end
        time.sleep(0.02)
    second._process.kill()  # the machine that the shop wrote to is gone
    hand.join(60)
    server.kill()
    other = Server(here, data)
    other.start()
    try:
        counter = other.counter()
        seen = counter.job(job)
        held = Count(a["id"] for a in seen["acts"] if a["body"]["kind"] == "pressed")
        assert acknowledged <= set(held)
        assert set(held.values()) == {1}
        assert seen["ledger"]["pressed"] == {"front": len(held)}
        # It goes on there.
        assert counter.act(job, kind="pressed", run=run, size="S", stages=[]).status_code == 200
        assert counter.order({"M": 1})
    finally:
        other.kill()
