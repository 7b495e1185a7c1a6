"""Deciding, undoing, and two people at the same station."""

from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient

from offsetter.web.app import create_app
from tests.web.conftest import Counter


def parts(answer) -> set[str]:
    """Every refusal has three parts and shows no trace."""
    body = answer.json()
    assert body["happened"], body
    assert body["kept"], body
    assert body["to_do"], body
    assert "Traceback" not in answer.text
    return set(body)


def test_a_line_is_tried_without_being_saved(counter):
    job = counter.order()
    counter.place(job)
    body = {**counter.job(job)["line"]["decisions"]["white"], "level_pct": 100}
    tried = counter.client.post(
        f"/api/jobs/{job}/try", json={"station": "white", "body": body}, headers=counter.headers
    ).json()
    white = {r["key"]: r["value"] for r in tried["readings"]}["white"]
    saved = {r["key"]: r["value"] for r in counter.job(job)["line"]["readings"]}["white"]
    assert white > saved
    assert "white" not in counter.job(job)["revisions"]


def test_advice_follows_the_job_and_accounts_for_every_method(counter):
    job = counter.order({"S": 2, "M": 4})
    counter.place(job)
    told = counter.get(f"/api/jobs/{job}/advice").json()
    assert (told["asked"]["quantity"], told["asked"]["width_mm"], told["asked"]["blank"]["colour"]) == (
        6,
        60.0,
        "#17181B",
    )
    by_method = {a["method"]: a for a in told["advice"]["ranked"]}
    assert len(by_method) == 15
    assert by_method["sub-ink-fabric"]["verdict"] == "ruled-out"
    assert all(look["is_here"] for look in told["looks"].values())
    assert set(told["ways"]) == set(by_method)
    counter.decide(job, "place", width_um=440_000)
    wider = {a["method"]: a for a in counter.get(f"/api/jobs/{job}/advice").json()["advice"]["ranked"]}
    assert "do not fit" in " ".join(r["said"] for r in wider["inkjet-opaque"]["reasons"])


def test_two_people_who_change_the_same_station(counter):
    job = counter.order()
    counter.place(job)
    noor = counter.as_person("Noor")
    assert counter.decide(job, "white", base=0, level_pct=70).status_code == 200
    told = noor.decide(job, "white", base=0, level_pct=20)
    assert told.status_code == 409
    assert {"theirs", "mine", "author"} <= parts(told)
    assert (told.json()["theirs"]["level_pct"], told.json()["mine"]["level_pct"], told.json()["author"]) == (
        70,
        20,
        "Ada",
    )
    assert counter.job(job)["line"]["decisions"]["white"]["level_pct"] == 70
    # Other stations are not in each other's way.
    assert noor.decide(job, "colour", base=0, intent="perceptual").status_code == 200


def test_the_same_save_sent_twice_is_one_revision(counter):
    job = counter.order()
    for _ in range(2):
        assert counter.decide(job, "white", base=0, level_pct=70).status_code == 200
    assert counter.job(job)["revisions"]["white"] == 1


def test_undo_and_redo_go_through_ones_own_steps(counter):
    job = counter.order()
    counter.place(job)
    for level in (70, 80, 90):
        counter.decide(job, "white", level_pct=level)
    undo = lambda: counter.client.post(f"/api/jobs/{job}/undo", headers=counter.headers)  # noqa: E731
    redo = lambda: counter.client.post(f"/api/jobs/{job}/redo", headers=counter.headers)  # noqa: E731
    level = lambda answer: answer.json()["line"]["decisions"]["white"]["level_pct"]  # noqa: E731
    assert [level(undo()), level(undo())] == [80, 70]
    assert level(redo()) == 80
    assert level(undo()) == 70
    assert level(undo()) is None, "back to what the line proposes"
    assert level(redo()) == 70
    counter.decide(job, "white", level_pct=33)
    assert redo().status_code == 409, "a new decision leaves nothing to redo"


def test_undo_is_refused_with_both_values_when_somebody_saved_since(counter):
    job = counter.order()
    counter.decide(job, "white", level_pct=70)
    counter.as_person("Noor").decide(job, "white", level_pct=25)
    told = counter.client.post(f"/api/jobs/{job}/undo", headers=counter.headers)
    assert told.status_code == 409
    assert told.json()["theirs"]["level_pct"] == 25
    assert counter.job(job)["line"]["decisions"]["white"]["level_pct"] == 25


@pytest.mark.parametrize(
    ("station", "changes", "field"),
    [
        ("place", {"width_um": 0}, "width_um"),
        ("place", {"width_um": -1000}, "width_um"),
        ("place", {"width_um": 10**12}, "width_um"),
        ("place", {"width_um": "wide"}, "width_um"),
        ("order", {"lines": [{"blank": "tee-black", "counts": {"S": 0}}]}, "lines.0.counts"),
        ("order", {"lines": [{"blank": "tee-black", "counts": {"S": -3, "M": 5}}]}, "lines.0.counts"),
        ("white", {"level_pct": 140}, "level_pct"),
        ("white", {"colour": "blue"}, "colour"),
    ],
)
def test_a_value_that_cannot_be_is_refused_at_its_field(counter, station, changes, field):
    job = counter.order()
    before = counter.job(job)
    told = counter.decide(job, station, **changes)
    assert told.status_code == 422
    assert "fields" in parts(told)
    assert field in told.json()["fields"]
    assert counter.job(job)["revisions"] == before["revisions"]


def test_due_in_the_past_and_unknown_blanks_are_refused(counter):
    job = counter.order()
    past = (datetime.now(UTC) - timedelta(minutes=1)).isoformat()
    told = counter.decide(job, "order", due=past)
    assert (told.status_code, told.json()["code"]) == (409, "due-in-the-past")
    parts(told)
    told = counter.decide(job, "order", line={"blank": "tee-black", "counts": {"XXS": 3}})
    assert told.json()["code"] == "no-such-blank"
    told = counter.decide(job, "method", printer="not-ours")
    assert told.json()["code"] == "not-owned"
    told = counter.get("/api/jobs/none-such")
    assert told.status_code == 404
    parts(told)


def test_pages_carry_a_strict_policy_and_no_address_escapes_the_front_end(client):
    page = client.get("/jobs/anything/white")
    assert "'unsafe-inline'" not in page.headers["content-security-policy"]
    assert "__NONCE__" not in page.text
    for outside in ("/../pyproject.toml", "/%2e%2e/pyproject.toml", "/assets/none.js", "/api/none"):
        assert client.get(outside).status_code == 404


def test_a_database_that_is_away_is_said_in_three_parts(tmp_path):
    from database import free_port

    away = create_app(f"mariadb+pymysql://app:x@127.0.0.1:{free_port()}/shop", tmp_path, tmp_path)
    with TestClient(away, raise_server_exceptions=False) as client:
        told = client.put(
            "/api/jobs/any/decisions/white", json={"base": 0, "body": {}}, headers={"cookie": "offsetter=some-token"}
        )
    assert (told.status_code, told.json()["code"]) == (503, "database-away")
    parts(told)
    assert "kept in this browser" in told.json()["kept"]


def test_a_change_that_another_one_stands_in_the_way_of_is_not_called_a_database_that_is_away(
    app, counter, app_url, database, tmp_path
):
    job = counter.order()
    with database._connect() as owner, owner.cursor() as cursor:
        cursor.execute("SET GLOBAL innodb_lock_wait_timeout = 1")
        try:
            cursor.execute("BEGIN")
            cursor.execute("SELECT id FROM shop.jobs WHERE id = %s FOR UPDATE", (job,))
            waits = create_app(app_url, tmp_path, tmp_path, is_demo=True)
            with TestClient(waits, "http://127.0.0.1", raise_server_exceptions=False) as client:
                told = Counter(client).decide(job, "white", base=0, level_pct=70)
        finally:
            cursor.execute("ROLLBACK")
            cursor.execute("SET GLOBAL innodb_lock_wait_timeout = 50")
    assert (told.status_code, told.json()["code"]) == (503, "changes-met")
    parts(told)
    assert counter.decide(job, "white", base=0, level_pct=70).status_code == 200


@pytest.mark.parametrize(
    ("settings", "said"),
    [
        ({"OFFSETTER_ADDRESS": "0.0.0.0"}, "in the open"),
        ({"OFFSETTER_DATA_FOLDER": "src/data"}, "inside the program's own folder"),
        ({"OFFSETTER_DATABASE_URL": None}, "OFFSETTER_DATABASE_URL must be set"),
    ],
)
def test_a_start_that_would_not_be_safe_is_refused(settings, said, tmp_path):
    import os
    import subprocess
    import sys

    usual = {"OFFSETTER_DATABASE_URL": "mariadb+pymysql://x@127.0.0.1/x", "OFFSETTER_DATA_FOLDER": str(tmp_path)}
    given = {k: v for k, v in {**os.environ, **usual, **settings}.items() if v is not None}
    done = subprocess.run(
        [sys.executable, "-m", "offsetter.web", "--shop"],
        env=given,
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode == 2
    assert said in done.stderr
