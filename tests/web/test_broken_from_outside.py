"""What was broken from outside once: each is refused in three parts now, and nothing is closed by it."""

import errno
import re
from pathlib import Path

import pytest

from tests.core.shapes import disc
from tests.web.conftest import png

LONG = "x" * 5_000
WRONG = {
    "an oven nobody owns": ("method", {"oven": "nobody"}),
    "a printer nobody owns": ("method", {"printer": "nobody"}),
    "a press nobody owns": ("method", {"press": "nobody"}),
    "a mode the printer lacks": ("method", {"mode": "nobody"}),
    "a recipe nobody wrote": ("method", {"recipe": "nobody"}),
    "a version nobody wrote": ("method", {"recipe_version": 10**12}),
    "a profile nobody added": ("method", {"profile": "../../etc"}),
    "a school with a long name": ("method", {"schools": {"film-cure": LONG}}),
    "a calibration nobody made": ("method", {"calibration": 10**18}),
    "a blank nobody owns": ("order", {"lines": [{"id": "a", "blank": "nobody", "counts": {"M": 1}}]}),
    "a size nobody cuts": ("order", {"lines": [{"id": "a", "blank": "tee-black", "counts": {LONG: 1}}]}),
    "a print of a long name": ("order", {"prints": ["front", LONG]}),
    "a malformed file": ("place", {"file": "../../../etc/passwd"}),
    "a file too long to be one": ("place", {"file": LONG}),
    "a place off any blank": ("place", {"place": "moon"}),
    "a place of odd letters": ("place", {"place": "<b>"}),
    "widths of a size with a long name": ("place", {"widths_um": {LONG: 60_000}}),
    "lines with long names": ("place", {"lines": [LONG]}),
}


@pytest.mark.parametrize("name", list(WRONG))
def test_a_wrong_decision_is_refused_in_three_parts_tried_or_kept(counter, name):
    document, changes = WRONG[name]
    job = counter.order()
    counter.place(job)
    seen = counter.job(job)
    body = {**(seen["line"]["decisions"][document] or seen["line"]["way"]), **changes}
    tried = counter.post(f"/api/jobs/{job}/try", json={"station": document, "body": body})
    kept = counter.decide(job, document, **changes)
    for answer in (tried, kept):
        assert answer.status_code in (404, 409, 422), (name, answer.status_code, answer.text[:200])
        assert set(answer.json()) >= {"code", "happened", "kept", "to_do"}
    assert counter.job(job)["line"]["decisions"][document] == seen["line"]["decisions"][document]
    assert counter.get("/api/jobs").status_code == 200


@pytest.mark.parametrize("changes", [
    {"sizes": {"": {"width_mm": 10, "height_mm": 10}}}, {"sizes": {LONG: {"width_mm": 10, "height_mm": 10}}}, {"name": LONG},
    {"price": "1e400"}, {"price": "NaN"}, {"thickness_mm": "Infinity"}, {"items": 10**9}, {"fibres": {LONG: 1}},
])  # fmt: skip
def test_a_wrong_blank_is_refused(counter, changes):
    plain = {"name": "Odd plate", "kind": "hard", "coated": True, "colour": "#FFFFFF", "colour_name": "white", "thickness_mm": 3, "scorch_c": 240,
             "price": "1", "sizes": {"one": {"width_mm": 75, "height_mm": 75}}}  # fmt: skip
    answer = counter.post("/api/blanks", json=plain | changes)
    assert answer.json()["code"] in ("bad-blank", "not-valid"), answer.text[:200]
    assert counter.get("/api/shop").status_code == 200


def test_a_body_is_refused_by_its_length_before_it_is_kept_and_by_its_sender_before_it_is_read(counter, client):
    answer = client.post("/api/acts", content=b"[" + b" " * 2_000_000, headers=counter.headers)
    assert (answer.status_code, answer.json()["code"]) == (413, "too-large")
    read = []

    def endless():
        for n in range(1_000):
            read.append(n)
            yield b" " * 100_000

    answer = client.post("/api/acts", content=endless())
    assert (answer.status_code, answer.json()["code"]) == (401, "not-signed-in")
    answer = counter.client.post("/api/acts", content=endless(), headers=counter.headers)
    assert (answer.status_code, answer.json()["code"]) == (413, "too-large")


def test_errors_carry_the_headers_and_three_parts(counter, client):
    for answer in (
        counter.get("/api/nowhere"),
        client.delete("/api/jobs", headers=counter.headers),
        counter.get("/api/jobs/none"),
    ):
        assert answer.status_code in (404, 405)
        assert set(answer.json()) >= {"code", "happened", "kept", "to_do"}
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert "frame-ancestors 'none'" in answer.headers["content-security-policy"]


def test_a_page_of_another_scheme_is_another_sites(client):
    answer = client.post("/api/welcome/demo", json={"name": "Ada"}, headers={"origin": "https://127.0.0.1"})
    assert answer.json()["code"] == "other-site"


def test_prices_and_customers_colours_are_the_owners_and_it_is_kept_who_changed_what(counter):
    noor = counter.as_person("Noor")
    made = counter.post("/api/blanks", json={"name": "Priced plate", "kind": "hard", "coated": True, "colour": "#FFFFFF", "colour_name": "white",
                                             "thickness_mm": 3, "scorch_c": 240, "price": "1", "sizes": {"one": {"width_mm": 75, "height_mm": 75}}}).json()  # fmt: skip
    put = noor.client.put
    told = put(f"/api/blanks/{made['id']}", json={**made, "price": "0.10"}, headers=noor.headers).json()
    assert told["code"] == "owner-prices"
    assert put(f"/api/blanks/{made['id']}", json={**made, "thickness_mm": 4}, headers=noor.headers).status_code == 200
    seen = counter.get(f"/api/blanks/{made['id']}").json()
    assert (seen["blank"]["price"], seen["changed_by"]) == (made["price"], "Noor")
    feed = next(f for p in counter.get("/api/shop").json()["printers"] if p["id"] == "petrel" for f in p["feeds"])
    assert (
        put("/api/printers/petrel/feeds", json={**feed, "price": "99"}, headers=noor.headers).json()["code"]
        == "owner-prices"
    )
    assert noor.client.delete("/api/colour/brands/house-blue", headers=noor.headers).status_code == 403


def test_a_full_disk_keeps_nobody_from_looking_and_says_what_was_not_kept(counter, app, monkeypatch):
    job = counter.order(title="On a full disk")
    counter.place(job)
    before = set(app.state.services.base.files.derived("x", "yy").parents[2].rglob("*.part"))

    def full(*_, **__):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(Path, "rename", full)
    # A decision is kept, its new pictures are shown, and nothing of it wants the disk.
    answer = counter.decide(job, "place", width_um=77_000)
    assert answer.status_code == 200
    picture = answer.json()["line"]["pictures"]["cloth"]
    assert counter.get(picture).status_code == 200
    assert counter.get("/api/jobs").status_code == 200
    # A file that cannot be kept is refused as that.
    told = counter.upload(png(disc(31, 90, (9, 8, 7))))
    assert (told.status_code, told.json()["code"]) == (507, "disk-full")
    assert re.search(r"\d+ MB are free, and it wants 1 MB", told.json()["to_do"])
    monkeypatch.undo()
    assert set(app.state.services.base.files.derived("x", "yy").parents[2].rglob("*.part")) == before
    assert counter.job(job)["line"]["decisions"]["place"]["width_um"] == 77_000
    assert counter.upload(png(disc(31, 90, (9, 8, 7)))).status_code == 201
