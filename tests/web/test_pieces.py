"""Pieces with several prints, names, leftovers, proofs, holds, codes and photographs: whole ways through the API."""

import io
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from PIL import Image

from tests.web.conftest import Counter

NAMES = b"name,size,colour\nOrla,S,black\nTomas,S,black\nKit,M,navy\n"


def parts(answer) -> dict:
    told = answer.json()
    assert all(told[p] for p in ("happened", "kept", "to_do")), told
    return told


def names(counter: Counter, job: str, data: bytes):
    return counter.post(f"/api/jobs/{job}/names", files={"file": ("names.csv", data)})


def two_colours(counter: Counter) -> str:
    """Black and navy tees with a picture in front, narrower on S, and everyone's name on the back."""
    job = counter.order(lines=[
        {"id": "a", "blank": "tee-black", "counts": {"S": 2}}, {"id": "b", "blank": "tee-navy", "counts": {"M": 1}},
    ])  # fmt: skip
    counter.place(job, 70)
    counter.decide(job, "place", widths_um={"S": 50_000})
    back = counter.post(f"/api/jobs/{job}/prints", json={"place": "back"}).json()
    assert [p["name"] for p in back["prints"]] == ["Front chest", "Back"]
    assert counter.decide(job, "place", print="p2", text={"height_um": 20_000, "colour": "#FFFFFF"}).status_code == 200
    assert names(counter, job, NAMES).status_code == 200
    return job


def cured(counter: Counter, job: str) -> str:
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.act(job, kind="printed", run=run["id"], count=run["copies"])
    prepare = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "prepare")
    assert "wet" in {f["code"] for f in prepare["findings"]}, "powder holds on wet ink alone"
    for stage in ("powder", "cure-oven"):
        counter.act(job, kind="prepared", run=run["id"], stage=stage, count=run["copies"])
    return run["id"]


def test_two_colours_two_prints_and_a_name_for_everyone_go_the_whole_way(counter):
    job = two_colours(counter)
    seen = counter.job(job)
    (front, back) = seen["passes"]
    assert (front["turn"], back["number"], back["of"]) == ("", 2, 2)
    assert "Turn the piece" in back["turn"]
    stack = counter.get(f"/api/jobs/{job}/press-card", params={"print": "p2"}).json()["stages"][0]["stack"]
    assert "Garment, back" in [layer["what"] for layer in stack]
    at_back = counter.job(job, "p2")["line"]["stations"]
    assert "lay" in {f["code"] for s in at_back if s["station"] == "press" for f in s["findings"]}
    for picture in counter.job(job)["line"]["run_pictures"]:
        assert counter.get(picture).status_code == 200, "every name is drawn, looked at or not"
    run = cured(counter, job)
    rows = {(t["print"], s["slot"]): t for t in counter.job(job)["ledger"]["books"]["transfers"] for s in t["slots"]}
    assert {k: v["width_mm"] for k, v in rows.items() if k[0] == "front"} == {
        ("front", "a/S"): 50.0,
        ("front", "b/M"): 70.0,
    }
    # A name fits one piece alone: it has no spare. Black and navy are knocked out differently: they share nothing.
    assert {s for p, s in rows if p == "p2"} == {"a/S#1", "a/S#2", "b/M#3"}
    assert all(v["printed"] == 1 for k, v in rows.items() if k[0] == "p2")

    piece = {"kind": "pressed", "run": run, "press": "gannet", "stages": []}
    for line, size, number in (("a", "S", 1), ("a", "S", 2), ("b", "M", 3)):
        assert counter.act(job, **piece, line=line, size=size, print="front").status_code == 200
        whole = counter.job(job)["ledger"]["to_inspect"].get(f"{line}/{size}", 0)
        early = counter.act(job, kind="good", line=line, size=size, count=whole + 1)
        assert early.json()["code"] == "more-than-pressed", "a piece without its back is not complete"
        assert counter.act(job, **piece, line=line, size=size, print="p2", number=number).status_code == 200
    twice = counter.act(job, **piece, line="a", size="S", print="p2", number=1)
    assert (twice.status_code, twice.json()["code"]) == (409, "no-transfer")
    spoiled = {"kind": "spoiled", "what": "piece", "count": 1, "stage": "peel", "cause": "slipped"}
    assert counter.act(job, **spoiled, line="a", size="S").json()["code"] == "which-piece"
    assert counter.act(job, **spoiled, line="b", size="M").status_code == 200
    books = counter.job(job)["ledger"]["books"]
    navy = next(p for p in books["pieces"] if p["kind"] == "b/M")
    assert (navy["spoiled_pieces"], navy["blanks_to_find"], navy["complete"]) == (1, 1, 0)
    # The spoiled piece needs its own name again, and a front: the one spare was made for black cloth.
    assert {(t["print"], t["slots"][0]["slot"]): t["to_print"] for t in books["transfers"] if t["to_print"]} == {
        ("front", "b/M"): 1, ("p2", "b/M#3"): 1,
    }  # fmt: skip
    assert counter.act(job, kind="good", line="a", size="S", count=2).status_code == 200


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"name,size\n" + b"Orla,S\n" * 5_000, "names-too-many"),
        (b"name,size\nOrla,S\nT\xff\xfemas,S\n", "names-broken-text"),
        (b"name,size\n=1+1,S\n", "names-formula"),
        (b"name,size\n@home,S\n", "names-formula"),
        (b"who,size\nOrla,S\n", "names-no-head"),
        (b"name,size\nOrla,XXS\n", "names-size"),
        (b"name,size\n" + b"x" * 41 + b",S\n", "names-row"),
        (b"name,size\n,S\n", "names-row"),
        ("name,size\n漢,S\n".encode(), "names-letters"),
        (b"name,size\n", "names-empty"),
        (b"", "names-no-head"),
        (b"\0\0\0", "names-broken-text"),
        (b"x" * 300_000, "names-too-large"),
    ],
    ids=lambda v: v if isinstance(v, str) else "",
)
def test_a_list_of_names_that_cannot_be_is_refused_and_the_job_stays(counter, data, code):
    job = counter.order()
    before = counter.job(job)["line"]["decisions"]["order"]
    told = names(counter, job, data)
    assert (told.status_code, told.json()["code"]) == (409, code)
    parts(told)
    assert counter.job(job)["line"]["decisions"]["order"] == before


def test_a_name_that_cannot_be_drawn_is_refused_where_it_is_typed(counter):
    job = two_colours(counter)
    listed = counter.job(job)["line"]["decisions"]["order"]["names"]
    answer = counter.decide(job, "order", names=[{**listed[0], "text": "Мария"}, *listed[1:]])
    assert (answer.status_code, answer.json()["code"]) == (409, "names-letters"), "it would print as nothing"
    assert counter.job(job)["line"]["decisions"]["order"]["names"] == listed


def test_a_list_sets_the_counts_and_reads_what_spreadsheets_write(counter):
    job = counter.order({"S": 9, "M": 9})
    data = "\ufeffName;Size\r\nOrla;s\r\nÅsa;M\r\n\r\nO'Neil, R.;M\r\n".encode()
    assert names(counter, job, data).status_code == 200
    order = counter.job(job)["line"]["decisions"]["order"]
    assert order["lines"][0]["counts"] == {"S": 1, "M": 2}
    assert [(n["number"], n["text"], n["size"]) for n in order["names"]] == [
        (1, "Orla", "S"),
        (2, "Åsa", "M"),
        (3, "O'Neil, R.", "M"),
    ]


def test_leftovers_are_offered_to_the_next_job_that_fits_and_given_once(counter):
    job = counter.order({"S": 1})
    counter.place(job, 61)
    counter.decide(job, "sheet", spares=2)
    run = cured(counter, job)
    counter.act(job, kind="pressed", run=run, size="S", stages=[])
    (row,) = counter.job(job)["ledger"]["books"]["transfers"]
    assert row["left_over"] == 2
    assert (
        counter.act(job, "the-drawer-of-61", kind="stored", of=row["signature"], count=3).json()["code"]
        == "more-than-in-hand"
    )
    assert counter.act(job, "the-drawer-of-61", kind="stored", of=row["signature"], count=2).status_code == 200
    lot = next(r for r in counter.get("/api/leftovers").json() if r["id"] == "the-drawer-of-61")
    assert (lot["count"], lot["width_mm"], lot["cloth_name"]) == (2, 61.0, "black crew tee")

    other, fits = counter.order({"S": 3}), counter.order({"S": 3})
    counter.place(other, 62)
    counter.place(fits, 61)
    assert [o["id"] for o in counter.job(other)["offers"]] == []
    assert [o["id"] for o in counter.job(fits)["offers"]] == ["the-drawer-of-61"]
    assert counter.act(other, kind="fetched", stored="the-drawer-of-61", count=1).json()["code"] == "does-not-fit"
    assert counter.act(fits, kind="fetched", stored="the-drawer-of-61", count=3).json()["code"] == "more-than-stored"
    assert counter.act(fits, kind="fetched", stored="the-drawer-of-61", count=2).status_code == 200
    assert "the-drawer-of-61" not in {r["id"] for r in counter.get("/api/leftovers").json()}
    back = counter.act(job, kind="voided", voids="the-drawer-of-61", reason="still wanted here")
    assert back.json()["code"] == "still-used"
    (taken,) = counter.job(fits)["ledger"]["books"]["transfers"]
    assert (taken["fetched"], taken["in_hand"], taken["to_print"]) == (2, 2, 1)


def test_two_jobs_that_want_the_last_of_a_lot_do_not_both_get_it(counter):
    job = counter.order({"S": 1})
    counter.place(job, 59)
    counter.decide(job, "sheet", spares=3)
    run = cured(counter, job)
    counter.act(job, kind="pressed", run=run, size="S", stages=[])
    (row,) = counter.job(job)["ledger"]["books"]["transfers"]
    assert counter.act(job, "the-drawer-of-59", kind="stored", of=row["signature"], count=3).status_code == 200
    wanting = [counter.order({"S": 3}) for _ in range(4)]
    for one in wanting:
        counter.place(one, 59)
    with ThreadPoolExecutor(4) as hands:
        told = list(
            hands.map(lambda one: counter.act(one, kind="fetched", stored="the-drawer-of-59", count=2).json(), wanting)
        )
    assert sorted(t.get("code", "taken") for t in told) == ["more-than-stored"] * 3 + ["taken"]
    (left,) = [r["count"] for r in counter.get("/api/leftovers").json() if r["id"] == "the-drawer-of-59"]
    assert left == 1


def test_printing_waits_for_the_signature_where_the_shop_wants_it(counter):
    job = counter.order({"S": 1})
    counter.place(job, 63)
    counter.plates(job)
    want = lambda wanted: counter.client.put("/api/shop/proof", json={"wanted": wanted}, headers=counter.headers)  # noqa: E731
    assert want(True).status_code == 200
    try:
        refused = counter.release(job)
        assert (refused.status_code, refused.json()["code"]) == (409, "blocked")
        assert "proof" in parts(refused)["happened"].lower()
        signed = counter.post(
            f"/api/jobs/{job}/proof/sign", json={"id": "signed-by-them-1", "by": "E. Lindqvist", "how": "by mail"}
        )
        assert signed.status_code == 200
        proof = counter.get(f"/api/jobs/{job}/proof").json()
        assert (proof["state"]["state"], proof["state"]["by"]) == ("signed", "E. Lindqvist")
        # Words and prices do not touch what was agreed to; the print does.
        order = counter.job(job)["line"]["decisions"]["order"]
        counter.decide(job, "order", **{**order, "quoted": 12.0})
        assert counter.job(job)["proof"]["state"] == "signed"
        counter.decide(job, "place", width_um=64_000)
        changed = counter.job(job)
        assert changed["proof"]["changed"] == ["Front chest"]
        at_print = next(s for s in changed["line"]["stations"] if s["station"] == "print")
        assert "proof-changed" in {f["code"] for f in at_print["findings"]}
        counter.plates(job)
        assert "changed after E. Lindqvist" in counter.release(job).json()["happened"]
        counter.decide(job, "place", width_um=63_000)
        assert counter.release(job).status_code == 201
        pdf = counter.get(f"/api/jobs/{job}/proof.pdf")
        assert pdf.content.startswith(b"%PDF")
    finally:
        want(False)


def test_a_job_on_hold_takes_no_work_until_it_is_taken_up_again(counter):
    job = counter.order({"S": 2})
    run = counter.printed(job)
    at_the_press = datetime.now(UTC).isoformat()
    assert counter.act(job, kind="held", reason="the customer looks again").status_code == 200
    told = counter.act(job, kind="pressed", run=run, size="S", stages=[])
    assert (told.status_code, told.json()["code"]) == (409, "job-held")
    assert "looks again" in parts(told)["happened"]
    assert counter.release(job).json()["code"] == "not-open"
    # Pressed before it was held, told only now: it was done, and it counts.
    late = {
        "id": "pressed-before-hold",
        "job": job,
        "at": at_the_press,
        "body": {"kind": "pressed", "run": run, "size": "S", "stages": []},
    }
    assert counter.post("/api/acts", json=late).status_code == 200
    assert counter.act(job, kind="resumed").status_code == 200
    assert counter.act(job, kind="pressed", run=run, size="S", stages=[]).status_code == 200
    assert counter.act(job, kind="cancelled", reason="not wanted any more").status_code == 200
    assert counter.act(job, kind="resumed").json()["code"] == "job-cancelled"
    due = (datetime.now(UTC) + timedelta(days=3)).isoformat()
    again = counter.post(f"/api/jobs/{job}/again", json={"due": due}).json()["id"]
    old, new = counter.job(job), counter.job(again)
    assert (new["standing"], new["acts"], old["standing"]) == ("open", [], "cancelled")
    assert new["line"]["decisions"]["place"]["file"] == old["line"]["decisions"]["place"]["file"]


def test_an_empty_run_is_not_released(counter):
    job = counter.order({"S": 1})
    told = counter.release(job)
    assert told.status_code == 409
    parts(told)
    assert counter.job(job)["runs"] == []


def test_from_a_code_back_to_the_making(counter):
    job = counter.order({"S": 1}, title="Traced tees")
    counter.place(job, 65)
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.act(job, kind="printed", run=run["id"], count=run["copies"], lot="F-2291")
    ran = [{"stage": "transfer", "temperature_c": 160, "planned_s": 15, "ran_s": 17.0}]
    counter.as_person("Noor").act(job, kind="pressed", run=run["id"], size="S", press="gannet", stages=ran)
    made = counter.get(f"/api/codes/r{run['number']}-1").json()
    assert (made["title"], made["lots"], made["printer"], made["recipe_version"]) == (
        "Traced tees",
        ["F-2291"],
        "Petrel",
        3,
    )
    assert [(p["by"], p["press"], p["stages"]) for p in made["pieces"]] == [
        ("Noor", "Gannet", ["Transfer 17 s at 160 °C"])
    ]
    for code in ("R999999", "hello", "R1'--"):
        told = counter.get(f"/api/codes/{code}")
        assert told.status_code == 404
        parts(told)


def test_a_photograph_loses_where_it_was_taken_and_keeps_its_act(counter):
    job = counter.order({"S": 1})
    photo, out = Image.fromarray(np.full((40, 60, 3), 120, np.uint8)), io.BytesIO()
    exif = Image.Exif()
    exif[0x010E] = "a secret place"
    exif.get_ifd(0x8825)[2] = (56.0, 7.0, 30.0)  # GPS latitude
    photo.save(out, "JPEG", exif=exif)
    assert b"secret place" in out.getvalue()
    sent = {"act_id": "photo-of-the-tee-1", "of": "", "note": "the hem"}
    answer = counter.post(f"/api/jobs/{job}/photos", data=sent, files={"file": ("../../x.jpg", out.getvalue())})
    assert answer.status_code == 200
    (body,) = [a["body"] for a in answer.json()["acts"]]
    kept = counter.get(f"/api/photos/{body['file']}.jpg").content
    assert b"secret place" not in kept
    assert dict(Image.open(io.BytesIO(kept)).getexif()) == {}
    told = counter.post(
        f"/api/jobs/{job}/photos",
        data=sent | {"act_id": "photo-of-the-tee-2"},
        files={"file": ("x.jpg", b"not a photo")},
    )
    assert told.status_code == 409
    parts(told)


def lead(counter: Counter, job: str, holder: str, seq: int, pieces: int = 0, started_at: float | None = None, **more):
    piece = {"slot": "a/S", "order": 1, "stage": 2, "ran": [], "where": "rack", "place": 1, "since": 1.0}
    state = {
        "dial_c": 160,
        "pieces": [{"id": f"piece-{n}", **piece} for n in range(pieces)],
        "done": 0,
        "started_at": started_at,
    }
    body = {"job": job, "print": "front", "holder": holder, "seq": seq, "state": state, **more}
    return counter.client.put("/api/presses/gannet/session", json=body, headers=counter.headers)


def test_one_screen_leads_a_press_and_another_takes_it_over(counter):
    job, noor = counter.order({"S": 2}), counter.as_person("Noor")
    assert lead(counter, job, "screen-one", 1, pieces=1, take_over=True).status_code == 200
    refused = lead(noor, job, "screen-two", 1)
    assert (refused.status_code, refused.json()["code"]) == (409, "press-taken")
    assert "Ada" in parts(refused)["happened"]
    # An answer that comes late says nothing new.
    assert lead(counter, job, "screen-one", 0).json()["seq"] == 1
    followed = noor.get("/api/presses/gannet/session").json()
    assert (followed["person"], len(followed["state"]["pieces"])) == ("Ada", 1)
    assert lead(noor, job, "screen-two", 2, pieces=1, take_over=True).status_code == 200
    assert lead(counter, job, "screen-one", 3).json()["code"] == "press-taken"
    # The one that lost it cannot end it either.
    counter.client.delete("/api/presses/gannet/session/screen-one", headers=counter.headers)
    assert counter.get("/api/presses/gannet/session").json()["person"] == "Noor"
    noor.client.delete("/api/presses/gannet/session/screen-two", headers=noor.headers)
    assert counter.get("/api/presses/gannet/session").json() is None


@pytest.mark.parametrize(("started_at", "code"), [(None, None), (1.0, "press-taken")])
def test_a_press_that_its_screen_left_is_free_unless_a_stage_runs(counter, client, monkeypatch, started_at, code):
    left, other = counter.order({"S": 2}), counter.order({"S": 2})
    kept = lead(counter, left, "screen-three", 1, pieces=1, started_at=started_at, take_over=True)
    assert kept.status_code == 200
    assert lead(counter, other, "screen-four", 1).json()["code"] == "press-taken"
    base = client.app.state.services.base
    now = base.now
    monkeypatch.setattr(base, "now", lambda: now() + timedelta(minutes=2))
    # What lies on that screen's rack stays with its own work.
    assert lead(counter, left, "screen-four", 2).json()["code"] == "press-taken"
    assert lead(counter, other, "screen-four", 3).json().get("code") == code
    lead(counter, left, "screen-three", 4, take_over=True)
    counter.client.delete("/api/presses/gannet/session/screen-three", headers=counter.headers)


def test_the_card_says_only_what_differs_from_how_the_press_was_left(counter):
    job = counter.order({"S": 2})
    counter.printed(job)
    card = counter.get(f"/api/jobs/{job}/press-card").json()
    left = {**card["wanted"], "time_s": 40, "pressure": "light"}
    assert counter.act(job, **left).status_code == 200
    rows = {r["what"]: (r["left"], r["wanted"]) for r in counter.get(f"/api/jobs/{job}/press-card").json()["rows"]}
    assert rows["Timer"] == ("40 s", "15 s")
    assert set(rows) == {"Timer", "Pressure"}
    counter.act(job, **card["wanted"])
    assert counter.get(f"/api/jobs/{job}/press-card").json()["rows"] == []
