"""What is kept of a job is what folding it anew gives, whatever was done to it; lists are found, filtered and paged."""

import uuid
from datetime import UTC, datetime, timedelta

import pytest
from sqlalchemy import text

from offsetter.core.acts import Act, Held
from offsetter.core.sentences import shown
from offsetter.desk import bench_plates, colours_told
from offsetter.desk.base import Base
from offsetter.store.shop import ShopStore
from offsetter.web.services import Services
from tests.web.conftest import Counter, shop_of_its_own


def cards(counter, **asked) -> list[dict]:
    answer = counter.get("/api/jobs", params=asked)
    assert answer.status_code == 200, answer.text
    return answer.json()["cards"]


def test_what_is_kept_never_differs_from_folding_anew(app, counter):
    """A job taken through all that changes one; with it every job that this worker's other tests left behind."""
    job = counter.order({"S": 3}, title="Folded anew")
    run = counter.printed(job)
    for stage in ("powder", "cure-oven"):
        assert counter.act(job, kind="prepared", run=run, stage=stage, count=3).status_code == 200
    ran = [{"stage": "finish", "temperature_c": 160, "planned_s": 12, "ran_s": 12, "covers": ["finishing sheet"]}]
    pressed = [uuid.uuid4().hex for _ in range(3)]
    for act in pressed:
        assert counter.act(job, act, kind="pressed", run=run, size="S", press="gannet", stages=ran).status_code == 200
    assert counter.act(job, kind="renewed", press="gannet", cover="finishing sheet").status_code == 200
    assert counter.act(job, kind="voided", voids=pressed[-1], reason="counted twice").status_code == 200
    counter.act(job, kind="held", reason="waits for blanks")
    counter.act(job, kind="resumed")
    counter.decide(job, "white", level_pct=40)
    counter.post(f"/api/jobs/{job}/undo")
    counter.post(f"/api/jobs/{job}/names", files={"file": ("names.csv", b"name,size\nOrla,S\n")})
    counter.act(job, kind="good", size="S", count=2)
    counter.act(job, kind="closed", short=True, note="")
    due = (datetime.now(UTC) + timedelta(days=5)).isoformat()
    assert counter.post(f"/api/jobs/{job}/again", json={"due": due}).status_code == 201
    app.state.services.base.memo.clear()
    services = app.state.services
    lost = {c["id"] for c in cards(counter, words="Lost file")}
    differing = [d for d in services.standings.refold() if not any(i in d.what for i in lost)]
    assert not differing, differing


def test_a_server_that_has_just_begun_draws_nothing_to_record_an_act(app, counter, monkeypatch):
    counter.printed(job := counter.order({"S": 3}, title="Not drawn again"))
    running = app.state.services.base
    begun = Services(Base(running.engine, running.files))

    def drawn(*_, **__):
        raise AssertionError("plates were made")

    for module in (bench_plates, colours_told):
        monkeypatch.setattr(module, "make_plates", drawn)
    held = Act(id=uuid.uuid4().hex, job=job, at=datetime.now(UTC), actor="Ada", signature="", body=Held(reason="waits"))
    begun.acts.record(held)
    assert begun.standings.again(job)  # as after a change of the shop's facts
    assert next(c for c in cards(counter, which="held") if c["id"] == job)["stands"] == "held"
    with begun.base.session() as session, pytest.raises(AssertionError, match="plates were made"):
        begun.jobs.standing(session, job, anew=True)
    with begun.base.session() as session, session.begin():  # another version's, or a hand's
        session.execute(text('UPDATE standings SET measured = \'{"front": {"on": 7}}\' WHERE job_id = :j'), {"j": job})
        held_now = begun.jobs.kept.held(session, job)
    assert held_now.measured == {}


def test_refolding_says_what_differed_and_puts_it_right(database, shop_rows, tmp_path_factory):
    with shop_of_its_own(database, "meddled", shop_rows, tmp_path_factory) as (services, client):
        told_and_put_right(services, Counter(client).order({"S": 1}, title="Meddled with"))


def told_and_put_right(services: Services, job: str) -> None:
    assert services.standings.refold() == []
    with services.base.session() as session, session.begin():
        session.execute(text("UPDATE standings SET body = JSON_SET(body, '$.good', 7) WHERE job_id = :j"), {"j": job})
    (differs,) = services.standings.refold()
    assert job in differs.what
    assert "7 of 1 good" in shown(differs.kept)
    assert "0 of 1 good" in shown(differs.anew)
    assert services.standings.refold() == []


def test_jobs_are_found_by_what_they_are_called_and_filtered(app, counter):
    late = counter.order({"S": 1}, title="Überfällige Fähnchen", customer="Möwe und Söhne")
    held = counter.order({"S": 1}, title="Held pennants")
    counter.act(held, kind="held", reason="customer rings back")
    run = counter.printed(printed := counter.order({"S": 1}, title="Found by its code"))
    code = next(f"R{r['number']}" for r in counter.job(printed)["runs"] if r["id"] == run)
    assert [c["id"] for c in cards(counter, which="all", words="uberfallige mowe")] == [late]
    assert [c["id"] for c in cards(counter, words=f"found {code.lower()}")] == [printed]
    assert [c["id"] for c in cards(counter, which="held", words="pennants")] == [held]
    assert not cards(counter, which="closed", words="pennants")
    assert cards(counter, which="all", words="no such word") == []
    services = app.state.services
    now, services.base.now = services.base.now, lambda: datetime.now(UTC) + timedelta(days=9)
    try:
        assert [c.standing.id for c in services.standings.page("late", "fähnchen").cards] == [late]
    finally:
        services.base.now = now
    assert counter.get("/api/jobs", params={"after": "nonsense"}).json()["code"] == "no-such-page"


def test_pages_follow_each_other_without_gap_or_repetition(counter):
    made = {counter.order({"S": 1}, title=f"Paged batch {n}") for n in range(43)}
    seen: list[str] = []
    after = ""
    while after is not None:
        page = counter.get("/api/jobs", params={"which": "all", "words": "paged batch", "after": after}).json()
        seen += [c["id"] for c in page["cards"]]
        after = page["following"]
    assert len(seen) == 43
    assert set(seen) == made


def counted(counter, item: str, amount: float) -> None:
    act = {"id": uuid.uuid4().hex, "item": item, "kind": "counted", "amount": amount}
    assert counter.post("/api/stock/acts", json=act).status_code == 200


def test_a_changed_fact_of_the_shop_reaches_open_jobs_and_leaves_closed_entries(counter):
    """The store lacks blanks all at once: Jobs says so without anybody opening the job."""
    job = counter.order({"S": 2}, title="Sees the store")
    counter.place(job)
    there = next(s["on_hand"] for s in counter.get("/api/stock").json()["shelves"] if s["item"] == "blank/tee-black/S")
    (card,) = cards(counter, words="sees the store")
    assert dict(map(tuple, card["states"]))["order"] == "ready"
    try:
        counted(counter, "blank/tee-black/S", 1)
        (card,) = cards(counter, words="sees the store")
        assert dict(map(tuple, card["states"]))["order"] == "needs you"
        assert card["needs_person"]
    finally:
        counted(counter, "blank/tee-black/S", there)


def test_a_closed_entry_keeps_that_days_prices_and_goes_with_a_closing_taken_back(app, counter):
    job = counter.order({"S": 1}, title="Priced then")
    run = counter.printed(job)
    counter.act(job, kind="pressed", run=run, size="S")
    counter.act(job, kind="good", size="S", count=1)
    closing = uuid.uuid4().hex
    counter.act(job, closing, kind="closed", short=False)

    def entry() -> dict | None:
        found = counter.get("/api/logbook", params={"words": "priced then"}).json()["entries"]
        return found[0] if found else None

    then = entry()["cost_a_piece"]
    services = app.state.services
    with services.base.session() as session, session.begin():
        prices = ShopStore(session).body("prices", "prices")
        ShopStore(session).change("prices", "prices", hands_hour="99")
    try:
        assert entry()["cost_a_piece"] == then
    finally:
        with services.base.session() as session, session.begin():
            ShopStore(session).change("prices", "prices", **prices)
    counter.act(job, kind="voided", voids=closing, reason="one more to press")
    assert entry() is None


def test_a_row_that_another_version_kept_is_worked_out_anew_and_closes_no_screen(app, counter):
    job = counter.order({"S": 1}, title="Kept by another version")
    services = app.state.services
    with services.base.session() as session, session.begin():
        session.execute(
            text("UPDATE standings SET body = JSON_SET(body, '$.sparkle', 1) WHERE job_id = :j"), {"j": job}
        )
    assert [c["id"] for c in cards(counter, words="kept by another version")] == [job]
