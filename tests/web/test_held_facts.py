"""Facts are versions: a job goes on with the measures it was decided with, says what is otherwise today, and takes it by one key."""

from collections.abc import Iterator

import pytest

from tests.web.conftest import Counter, shop_of_its_own


@pytest.fixture(scope="module")
def own(database, shop_rows, tmp_path_factory) -> Iterator[Counter]:
    with shop_of_its_own(database, "held", shop_rows, tmp_path_factory) as (_, client):
        yield Counter(client)


def decided(own: Counter) -> str:
    """A film job with its order and way said to be right."""
    job = own.order({"M": 4})
    own.place(job, 90)
    for station in ("method", "order", "place"):
        assert own.decide(job, station, settled=True).status_code == 200
    return job


def station(own: Counter, job: str, name: str) -> dict:
    return next(s for s in own.job(job)["line"]["stations"] if s["station"] == name)


def changed_since(own: Counter, job: str, name: str) -> list[dict]:
    return [f for f in station(own, job, name)["findings"] if f["code"].startswith("measures-")]


def take(own: Counter, job: str, finding: dict) -> None:
    patch = finding["patch"]
    assert own.decide(job, patch["station"], settled=True, **patch["changes"]).status_code == 200


def fact(own: Counter, sort: str, fact_id: str) -> dict:
    return next(m for m in own.get("/api/shop").json()[sort] if m["id"] == fact_id)


def put(own: Counter, path: str, body: dict) -> None:
    answer = own.client.put(path, json=body, headers=own.headers)
    assert answer.status_code == 200, answer.text


def test_a_printer_set_up_otherwise_leaves_decided_jobs_as_they_were_until_somebody_takes_it(own: Counter):
    job = decided(own)
    way = own.job(job)["line"]["decisions"]["method"]
    assert way["pins"] == {i: 1 for i in (way["printer"], way["press"], way["oven"]) if i}
    printer = fact(own, "printers", way["printer"])
    before = station(own, job, "sheet")["drawing"]
    path = f"/api/machines/printers/{printer['id']}"
    # What no station reckons with is as it is today: nothing is asked.
    put(own, path, {"name": "Old Auk", "care_before": "Shake the white."})
    assert not changed_since(own, job, "method")
    assert "Old Auk" in station(own, job, "method")["telling"]
    feeds = [{**f, "printable_mm": f["printable_mm"] / 2, "margin_mm": 21.0} if f["method"] == way["method"] else f for f in printer["feeds"]]  # fmt: skip
    put(own, path, {"name": "Old Auk", "feeds": feeds, "plate_shift_mm": printer["plate_shift_mm"] + 0.4})
    assert station(own, job, "sheet")["drawing"] == before
    (said,) = changed_since(own, job, "method")
    assert station(own, job, "method")["state"] == "needs you"
    for word in ("Old Auk", "plates' shift", "printed width", "margin", "now 21.0 mm"):
        assert word in said["message"]
    # A job decided today is worked out with the new measures, and so is the old one made again.
    other = decided(own)
    assert not changed_since(own, other, "method")
    assert station(own, other, "sheet")["drawing"] != before
    due = own.job(job)["line"]["decisions"]["order"]["due"]
    again = own.post(f"/api/jobs/{job}/again", json={"due": due})
    assert again.status_code < 300, again.text
    assert not changed_since(own, again.json()["id"], "method")
    take(own, job, said)
    assert not changed_since(own, job, "method")
    assert station(own, job, "sheet")["drawing"] == station(own, other, "sheet")["drawing"]
    # Undo takes the taking back.
    assert own.post(f"/api/jobs/{job}/undo").status_code == 200
    assert station(own, job, "sheet")["drawing"] == before
    assert len(changed_since(own, job, "method")) == 1


def test_a_blank_measured_anew_leaves_ordered_pieces_as_they_were(own: Counter):
    job = decided(own)
    before = station(own, job, "order")["drawing"]["garment"]
    blank = fact(own, "blanks", "tee-black")
    m = blank["sizes"]["M"]
    new = {**blank, "sizes": {**blank["sizes"], "M": {**m, "chest_mm": m["chest_mm"] + 40}, "5XL": {**m, "chest_mm": 800.0}}, "scorch_c": blank["scorch_c"] - 5}  # fmt: skip
    put(own, "/api/blanks/tee-black", new)
    assert station(own, job, "order")["drawing"]["garment"] == before
    (said,) = changed_since(own, job, "order")
    assert "size M" in said["message"]
    assert "scorching" in said["message"]
    told = own.client.get(f"/api/jobs/{job}", headers={"cookie": f"offsetter={own.cookie}; offsetter-units=in-F"}).text
    assert f"scorching {round(blank['scorch_c'] * 9 / 5 + 32)} °F, now {round((blank['scorch_c'] - 5) * 9 / 5 + 32)} °F" in told  # fmt: skip
    # A size that came since can be ordered all the same.
    lines = [{"id": "a", "blank": "tee-black", "counts": {"M": 4, "5XL": 1}}]
    assert own.decide(job, "order", lines=lines).status_code == 200
    (said,) = changed_since(own, job, "order")
    take(own, job, said)
    assert not changed_since(own, job, "order")
    assert station(own, job, "order")["drawing"]["garment"] != before


def test_a_pin_that_names_no_version_is_as_today(own: Counter):
    job = decided(own)
    way = own.job(job)["line"]["decisions"]["method"]
    assert own.decide(job, "method", pins={way["printer"]: 900, "no-such-thing": 3}).status_code == 200
    kept = own.job(job)["line"]["decisions"]["method"]["pins"]
    assert "no-such-thing" not in kept
    assert kept[way["printer"]] < 900
    assert not changed_since(own, job, "method")
    assert own.decide(job, "method", pins={way["printer"]: 0}).status_code == 422
