"""Over the wire: blanks of one's own, a press measured, a recipe's card, what advice says of the store and the clock."""

import subprocess
from datetime import UTC, datetime, timedelta

import pytest

BLANK = {"name": "Tea towel", "kind": "cloth", "fibres": {"cotton": 1.0}, "colour": "#F0EDE4", "colour_name": "natural", "thickness_mm": 0.6,
         "scorch_c": 210, "price": "1.40", "sizes": {"one": {"width_mm": 480, "height_mm": 700}}}  # fmt: skip


def put(counter, path, body):
    return counter.client.put(path, json=body, headers=counter.headers)


@pytest.mark.parametrize(("changed", "said"), [
    ({"fibres": {"cotton": 0.9, "polyester": 0.3}}, "120 %, not 100 %"), ({"colour": "red"}, "colour"), ({"thickness_mm": -1}, "thickness_mm"),
    ({"sizes": {}}, "sizes"), ({"sparkle": 1}, "sparkle"), ({"sizes": {"one": {"width_mm": 99_999, "height_mm": 3}}}, "sizes"),
])  # fmt: skip
def test_a_blank_that_cannot_be_is_refused_in_three_parts(counter, changed, said):
    answer = counter.post("/api/blanks", json=BLANK | changed)
    assert answer.status_code == 409
    assert said in answer.json()["happened"]
    assert answer.json()["kept"] == "Nothing was saved."
    assert answer.json()["to_do"]
    assert "Tea towel" not in {b["name"] for b in counter.get("/api/shop").json()["blanks"]}


def test_a_blank_of_our_own_is_ordered_and_keeps_its_sizes(counter):
    towel = counter.post("/api/blanks", json=BLANK).json()["id"]
    seen = counter.get(f"/api/blanks/{towel}").json()
    assert seen["drawing"]["bounds_mm"] == [-240, 0, 240, 700]
    assert {f["method"]: f["verdict"] for f in seen["fits"]}["direct"] == "good"
    job = counter.order(lines=[{"blank": towel, "counts": {"one": 5}}])
    assert counter.job(job)["line"]["decisions"]["place"]["place"] == "front"
    gone = put(counter, f"/api/blanks/{towel}", BLANK | {"sizes": {"large": {"width_mm": 500, "height_mm": 800}}})
    assert gone.json()["code"] == "size-in-use"


def test_a_press_is_measured_and_a_run_that_makes_no_sense_leaves_it_as_it_was(counter):
    before = counter.get("/api/presses/gannet/heat").json()
    assert before["model"]["q_c_per_min"] == pytest.approx(13.2, rel=0.03), (
        "the demo's readings come from 13.2 K/min and noise"
    )
    assert before["worst_k"] < 2.5
    assert before["minutes"]["160-140"] > before["minutes"]["160-180"]
    flat = {
        "room_c": 21,
        "readings": [{"run": r, "minute": m, "celsius": 80} for r in ("heating", "cooling") for m in range(6)],
    }
    assert put(counter, "/api/presses/gannet/readings", flat).json()["kept"]
    few = {"room_c": 21, "readings": [{"run": "heating", "minute": 0, "celsius": 20}]}
    assert put(counter, "/api/presses/gannet/readings", few).json()["code"] == "too-few-readings"
    assert counter.get("/api/presses/gannet/heat").json() == before
    assert counter.get("/api/presses/guillemot/heat").json()["model"] is None


def test_a_recipes_card_is_a_pdf_with_every_stage_and_face(counter, tmp_path):
    answer = counter.get("/api/recipes/two-sheet-house/card.pdf", params={"school": "finish-heat=low"})
    file = tmp_path / "card.pdf"
    file.write_bytes(answer.content)
    # Read back by Ghostscript, which had no part in writing it.
    text = subprocess.run(
        ["gs", "-q", "-dNOPAUSE", "-dBATCH", "-sDEVICE=txtwrite", "-o", "-", file],
        capture_output=True,
        check=True,
        text=True,
    ).stdout
    # Ghostscript writes the degree sign in its own code page: figures are looked for without it.
    for said in ("Marry", "Printed film: print UP", "(270", "20 s", "Caution", "come first"):
        assert said in text, said


def test_advice_says_what_the_store_lacks_and_what_the_clock_does_not_leave(counter):
    soon = (datetime.now(UTC) + timedelta(hours=3)).isoformat()
    job = counter.order(lines=[{"blank": "apron-navy", "counts": {"one": 300}}], due=soon)
    counter.place(job, 150)
    ranked = {a["method"]: a for a in counter.get(f"/api/jobs/{job}/advice").json()["advice"]["ranked"]}
    said = " ".join(r["said"] for r in ranked["toner-two-sheet"]["reasons"])
    assert "38 of its sheets are in store" in said
    assert "left until it is due" in said
    assert ranked["toner-two-sheet"]["verdict"] == "caution"
