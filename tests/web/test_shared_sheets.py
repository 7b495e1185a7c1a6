"""One run for several jobs: laid together, moved by hand, released, printed and cured once, counted at each job."""

import time
import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from urllib.parse import unquote

import numpy as np
import pypdfium2
import pytest

from offsetter.web.services import Services
from tests.web.conftest import png, shop_of_its_own


@pytest.fixture(scope="module")
def own(database, shop_rows, tmp_path_factory):
    """A shop in which these orders alone could share a sheet."""
    with shop_of_its_own(database, "shared-sheets", shop_rows, tmp_path_factory) as made:
        yield made


@pytest.fixture(scope="module")
def client(own):
    return own[1]


def searches(own) -> list[str]:
    """Under way, or waiting."""
    work = own[0].base.work
    return [t.key for t in list(work._tasks.values()) if t.name == "gang" and not t.events[-1].is_last]


def ready(counter, title: str, counts: dict[str, int], width_mm: float, **order) -> str:
    job = counter.order(counts, title=title, **order)
    counter.place(job, width_mm)
    counter.decide(job, "sheet", spares=0)
    # The picture's own resolution is a caution at these widths: somebody looked.
    counter.decide(job, "artwork", settled=True)
    return job


@pytest.fixture
def two(counter) -> tuple[str, str]:
    return ready(counter, "Lamp tees", {"S": 2, "M": 3}, 62), ready(counter, "Rope tees", {"L": 4}, 48)


def lots_of(counter, *jobs: str) -> list[dict]:
    beds = counter.get("/api/sheets").json()["ready"]
    found = [lot for bed in beds for lot in bed["lots"] if lot["job"] in jobs]
    assert [lot["waits"] for lot in found] == [""] * len(jobs)
    return [{k: lot[k] for k in ("job", "print", "slot", "copies")} for lot in found]


def made(counter, *jobs: str) -> dict:
    answer = counter.post("/api/sheets", json={"lots": lots_of(counter, *jobs)})
    assert answer.status_code == 201, answer.text
    return answer.json()


def released(counter, sheet: dict) -> dict:
    counter.follow(counter.post(f"/api/sheets/{sheet['id']}/plates").json()["key"])
    answer = counter.post(f"/api/sheets/{sheet['id']}/run", json={"base": sheet["revision"]})
    assert answer.status_code == 201, answer.text
    return answer.json()


def shared(counter, run: str) -> dict:
    return next(r for r in counter.get("/api/shared-runs").json() if r["id"] == run)


def test_two_jobs_share_a_run_and_each_counts_its_own(counter, two):
    one, other = two
    sheet = made(counter, one, other)
    assert [(lot["title"], lot["copies"]) for lot in sheet["lots"]] == [("Lamp tees", 5), ("Rope tees", 4)]
    assert sheet["bound_um"] <= sheet["length_um"] <= sheet["alone_um"]
    end = time.monotonic() + 60
    while sheet["is_searching"] and time.monotonic() < end:
        time.sleep(0.2)
        sheet = counter.get(f"/api/sheets/{sheet['id']}").json()
    assert not sheet["is_searching"]
    assert not sheet["problems"]
    assert Decimal(sheet["saved"]) > 0
    early = counter.post(f"/api/sheets/{sheet['id']}/run", json={"base": sheet["revision"]}).json()
    assert early["code"] == "preview-only"
    run = released(counter, sheet)
    assert counter.get(f"/api/sheets/{sheet['id']}").json()["code"] == "no-such-sheet"
    # Each job has its part of it, and its share of the film; together they are the whole.
    parts = {job: next(r for r in counter.job(job)["runs"] if r["id"] == run["id"]) for job in two}
    assert {job: (p["copies"], p["others"]) for job, p in parts.items()} == {
        one: (5, ["Rope tees"]),
        other: (4, ["Lamp tees"]),
    }
    assert sum(p["length_um"] for p in parts.values()) == pytest.approx(sheet["length_um"], abs=2)
    # It is one file, with the labels of both.
    counter.follow(f"run-{run['id']}")
    file = counter.get(f"/api/runs/{run['id']}/run.pdf")
    assert "and 1 other job R" in unquote(file.headers["content-disposition"])
    pages = pypdfium2.PdfDocument(file.content)
    said = "".join(pages[i].get_textpage().get_text_range() for i in range(len(pages)))
    assert said.count("Lamp tees") == 5
    assert said.count("Rope tees") == 4
    assert f"R{run['number']}-9" in said
    assert sum(pages[i].get_height() for i in range(len(pages))) / 72 * 25.4 == pytest.approx(
        sheet["length_um"] / 1000, abs=0.2
    )
    beyond = {"id": uuid.uuid4().hex, "cuts": 99}
    assert counter.post(f"/api/shared-runs/{run['id']}/printed", json=beyond).json()["code"] == "no-such-length"
    # A label leads to its own job.
    leads = {counter.get(f"/api/codes/R{run['number']}-{n}").json()["title"] for n in range(1, 10)}
    assert leads == {"Lamp tees", "Rope tees"}
    # Printed once, and said twice by a hand that is not sure.
    mark = uuid.uuid4().hex
    for _ in range(2):
        answer = counter.post(
            f"/api/shared-runs/{run['id']}/printed",
            json={"id": mark, "cuts": len(parts[one]["copies_per_cut"]), "lot": "F-7"},
        )
        assert answer.status_code == 200, answer.text
    assert shared(counter, run["id"])["printed"] == 9
    for stage in [s["id"] for s in shared(counter, run["id"])["stages"]]:
        answer = counter.post(
            f"/api/shared-runs/{run['id']}/prepared", json={"id": uuid.uuid4().hex, "stage": stage, "cuts": 1}
        )
        assert answer.status_code == 200, answer.text
    for job, n in ((one, 5), (other, 4)):
        ledger = counter.job(job)["ledger"]
        assert (ledger["printed"], ledger["in_hand"], ledger["to_print"]) == (n, n, 0)
        assert set(ledger["prepared"].values()) == {n}
    late = counter.client.delete(f"/api/shared-runs/{run['id']}", headers=counter.headers)
    assert late.json()["code"] == "printed-already"


def test_a_print_is_moved_pinned_and_refused(counter, two):
    sheet = made(counter, *two)
    path, piece = f"/api/sheets/{sheet['id']}", sheet["pieces"][0]
    last = max(sheet["pieces"], key=lambda p: (p["y_um"], p["x_um"]))
    to = {"piece": piece["id"], "cut": 1, "x_um": last["x_um"], "y_um": last["y_um"]}
    assert counter.post(f"{path}/try", json=to).json()["refused"] == "it lies on another print or its label"
    assert counter.post(f"{path}/move", json={**to, "base": sheet["revision"]}).json()["code"] == "lies-badly"
    free = {**to, "x_um": sheet["room"]["media_um"] - piece["width_um"] - 40_000, "y_um": 500_000}
    moved = counter.post(f"{path}/move", json={**free, "base": sheet["revision"]}).json()
    now = next(p for p in moved["pieces"] if p["id"] == piece["id"])
    assert now["pinned"]
    assert moved["by_hand"]
    assert (now["x_um"], now["y_um"]) != (piece["x_um"], piece["y_um"])
    assert moved["length_um"] > sheet["length_um"]
    nothing = {"piece": f"{piece['id']}9", "base": moved["revision"]}
    assert counter.post(f"{path}/pins", json=nothing).json()["code"] == "no-such-piece"
    # Somebody who has not seen that changes nothing.
    stale = counter.post(f"{path}/again", json={"base": sheet["revision"]})
    assert (stale.status_code, stale.json()["code"]) == (409, "changed-elsewhere")
    anew = counter.post(f"{path}/again", json={"base": moved["revision"]}).json()
    assert next(p for p in anew["pieces"] if p["id"] == piece["id"]) == now
    unpinned = counter.post(f"{path}/again", json={"base": anew["revision"], "unpinned": True}).json()
    assert not any(p["pinned"] for p in unpinned["pieces"])
    assert unpinned["length_um"] == sheet["length_um"]
    fewer = [{**{k: lot[k] for k in ("job", "print", "slot")}, "copies": 1} for lot in sheet["lots"]]
    small = counter.client.put(
        path, json={"lots": fewer, "gap_um": 20_000, "base": unpinned["revision"]}, headers=counter.headers
    ).json()
    assert len(small["pieces"]) == 2
    assert small["room"]["gap_um"] == 20_000


def test_a_shared_run_is_taken_apart_as_a_whole_or_not(counter, two):
    one, other = two
    run = released(counter, made(counter, one, other))
    alone = counter.release(one)
    assert alone.json()["code"] == "on-a-shared-run"
    again = counter.post("/api/sheets", json={"lots": [{"job": one, "print": "front", "slot": "a/S", "copies": 5}]})
    assert again.json()["code"] == "laid-already"
    apart = counter.client.delete(f"/api/shared-runs/{run['id']}", headers=counter.headers)
    assert apart.status_code == 204
    counter.plates(one)
    assert counter.release(one).status_code == 201
    assert [r["state"] for r in counter.job(other)["runs"]] == ["superseded"]


def test_what_one_job_refuses_is_said_and_recorded_at_the_others(counter, two):
    one, other = two
    run = released(counter, made(counter, one, other))
    counter.act(one, kind="closed", short=True, note="cancelled by telephone")
    said = counter.post(f"/api/shared-runs/{run['id']}/printed", json={"id": uuid.uuid4().hex, "cuts": 1})
    assert (said.status_code, said.json()["code"]) == (409, "job-closed")
    assert "Lamp tees" in said.json()["happened"]
    assert [p["printed"] for p in shared(counter, run["id"])["parts"] if p["job"] == other] == [4]


def test_waiting_for_the_whole_sheet_is_said_where_it_makes_a_job_late(counter):
    soon = (datetime.now(UTC) + timedelta(minutes=15)).isoformat()
    hurried = ready(counter, "Due soon", {"S": 1}, 40, due=soon)
    calm = ready(counter, "Due later", {"S": 20, "M": 20}, 62)
    sheet = made(counter, hurried, calm)
    late = {lot["title"]: lot["late"] for lot in sheet["lots"]}
    assert "longer at the printer than alone" in late["Due soon"]
    assert late["Due later"] == ""
    counter.client.delete(f"/api/sheets/{sheet['id']}", headers=counter.headers)


def test_what_changes_after_it_was_laid_is_said_and_not_released(counter, two):
    one, other = two
    sheet = made(counter, one, other)
    counter.decide(one, "place", width_um=64_000)
    counter.act(other, kind="held", reason="waits for the customer")
    problems = counter.get(f"/api/sheets/{sheet['id']}").json()["problems"]
    assert problems == [
        "Lamp tees: its size changed since it was laid",
        "Rope tees: nothing of this is to be printed any more",
    ]
    assert counter.post(f"/api/sheets/{sheet['id']}/run", json={"base": 0}).json()["code"] == "not-ready"
    visitor = counter.as_person("Visitor")
    assert visitor.post(f"/api/sheets/{sheet['id']}/again", json={"base": 0}).status_code == 403


def test_only_what_is_printed_and_cured_alike_shares_a_run(counter, two):
    dye = ready(counter, "Scarves", {}, 60, lines=[{"blank": "scarf", "counts": {"one": 2}}])
    lots = lots_of(counter, two[0], dye)
    beds = counter.get("/api/sheets").json()["ready"]
    assert len({bed["id"] for bed in beds for lot in bed["lots"] if lot["job"] in (two[0], dye)}) == 2
    answer = counter.post("/api/sheets", json={"lots": lots})
    assert answer.json()["code"] == "another-bed"


def test_a_sheet_laid_by_outlines_is_searched_moved_and_released(counter, own):
    buoy = ready(counter, "Buoy tees", {"S": 3}, 30)
    sheet = made(counter, buoy, ready(counter, "Oar tees", {"M": 3}, 24))
    path, lots = f"/api/sheets/{sheet['id']}", sheet["lots"]
    assert all(not p["outline"] for p in sheet["pieces"])

    def change(**other) -> dict:
        body = {"base": sheet["revision"], "lots": [{k: x[k] for k in ("job", "print", "slot", "copies", "turns")} for x in lots], **other}  # fmt: skip
        answer = counter.client.put(path, json=body, headers=counter.headers)
        assert answer.status_code == 200, answer.text
        return answer.json()

    lots[0]["turns"], lots[1]["turns"] = "any", "0"
    boxed = sheet["bound_um"]
    sheet = change(by_outline=True)
    assert sheet["room"]["by_outline"]
    assert sheet["bound_um"] < boxed
    end = time.monotonic() + 90
    while sheet["is_searching"] and time.monotonic() < end:
        time.sleep(0.3)
        sheet = counter.get(path).json()
    assert not sheet["is_searching"]
    assert not sheet["problems"]
    assert all(len(p["outline"]) > 3 for p in sheet["pieces"])
    assert {(p["turned"], p["half"]) for p in sheet["pieces"] if p["lot"] == 1} == {(False, False)}
    # A gap that is changed keeps the way of laying, and nobody goes on searching for how it was before; half round is refused where the label stands below.
    sheet = change(gap_um=9_000)
    assert sheet["room"]["by_outline"]
    piece = sheet["pieces"][0]
    to = {k: piece[k] for k in ("cut", "x_um", "y_um", "turned")} | {"piece": piece["id"], "half": True}
    tried = counter.post(f"{path}/try", json=to).json()
    assert "outlines" not in tried["refused"]
    sheet = change(by_outline=False)
    assert "outlines" in counter.post(f"{path}/try", json=to).json()["refused"]
    sheet = change(by_outline=True)
    assert len(searches(own)) == 1
    # A process that did not begin it ends it as well.
    other = Services(own[0].base).gangs
    began = searches(own)
    sheet = other.pin(sheet["id"], sheet["pieces"][0]["id"], sheet["revision"], out=False).model_dump(mode="json")
    assert len(searches(own)) == 1
    assert searches(own) != began
    # Another picture of the same size: by the old outline its corners would not be printed.
    square = np.full((400, 400, 4), 255, np.uint8)
    square[..., :3] = (40, 120, 200)
    assert counter.decide(buoy, "place", file=counter.upload(png(square)).json()["file"]).status_code == 200
    counter.decide(buoy, "artwork", settled=True)
    assert counter.get(path).json()["problems"] == ["Buoy tees: its picture changed since it was laid"]
    assert counter.post(f"{path}/run", json={"base": sheet["revision"]}).json()["code"] == "not-ready"
    sheet = counter.post(f"{path}/again", json={"base": sheet["revision"]}).json()
    assert not sheet["problems"]
    # One is laid at a slant on a length of its own: it has plates of its own, and counts as any other.
    piece = next(p for p in sheet["pieces"] if p["lot"] == 0)
    room, to = sheet["room"], {"piece": piece["id"], "cut": 2, "slant": 30}
    to |= {"x_um": room["media_um"] // 2, "y_um": 60_000, "turned": False, "half": False}
    sheet = counter.post(f"{path}/move", json={**to, "base": sheet["revision"]}).json()
    assert not searches(own), "what a hand laid is not searched for"
    (slanted,) = [p for p in sheet["pieces"] if p["slant"]]
    lot = sheet["lots"][0]
    assert slanted["width_um"] == pytest.approx(lot["width_um"] * 3**0.5 / 2 + lot["height_um"] / 2, abs=1)
    run = released(counter, sheet)
    assert sorted(f["name"].endswith("turned 30°") for f in shared(counter, run["id"])["files"]) == [False, False, True]
    counter.follow(f"run-{run['id']}")
    pages = pypdfium2.PdfDocument(counter.get(f"/api/runs/{run['id']}/run.pdf").content)
    said = "".join(pages[i].get_textpage().get_text_range() for i in range(len(pages)))
    assert (said.count("Buoy tees"), said.count("Oar tees")) == (3, 3)
