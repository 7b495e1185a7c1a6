"""Over the wire: blanks of one's own, a press measured, a recipe's card, what advice says of the store and the clock."""

import io
import math
import subprocess
from datetime import UTC, datetime, timedelta

import pytest
from PIL import Image
from shapely import Polygon
from svgelements import Path

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


def test_a_mediums_card_tells_its_faces_apart_where_it_is_loaded(counter):
    job = counter.order()
    counter.place(job)
    load = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "print")["drawing"]
    media = load["media"]
    assert load["card"]["print_photo"] == ""
    photograph = io.BytesIO()
    Image.new("RGB", (60, 40), (200, 190, 180)).save(photograph, "JPEG")
    sent = counter.post(
        "/api/media/photos/print", params={"media": media}, files={"file": ("face.jpg", photograph.getvalue())}
    )
    assert sent.status_code == 200, sent.text
    card = {"media": media, "print_face": "matte, rough to a wet finger", "back_face": "glossy", "thickness_um": 75}
    assert put(counter, "/api/media", card).status_code == 200
    shown = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "print")["drawing"]["card"]
    assert (shown["print_face"], shown["thickness_um"]) == ("matte, rough to a wet finger", 75)
    assert counter.get(f"/api/photos/{shown['print_photo']}.jpg").headers["content-type"] == "image/jpeg", (
        "words left it"
    )
    assert put(counter, "/api/media", {**card, "media": "moon-cheese"}).json()["code"] == "no-such-item"
    assert put(counter, "/api/media", {**card, "thickness_um": -1}).status_code == 422
    text = counter.post("/api/media/photos/back", params={"media": media}, files={"file": ("x.jpg", b"no picture")})
    assert text.status_code == 409
    assert counter.get("/api/media", params={"media": media}).json()["back_photo"] == ""


def test_a_word_for_a_pressure_is_what_this_persons_hands_make_of_it(counter):
    job = counter.order()
    counter.place(job)
    word = next(
        s["pressure"] for s in counter.get(f"/api/jobs/{job}/press-card").json()["stages"] if s["temperature_c"]
    )
    own = {"gauge_of": {"Noor": {word: "7"}}}
    assert put(counter, "/api/machines/presses/gannet", own).status_code == 200
    gauges = {n: counter.as_person(n).get(f"/api/jobs/{job}/press-card").json()["gauge"] for n in ("Ada", "Noor")}
    assert gauges["Noor"][word] == "7"
    assert gauges["Ada"][word] != "7"
    assert {k: v for k, v in gauges["Noor"].items() if k != word} == {
        k: v for k, v in gauges["Ada"].items() if k != word
    }
    row = next(
        r
        for r in counter.as_person("Noor").get(f"/api/jobs/{job}/press-card").json()["rows"]
        if r["what"] == "Pressure"
    )
    assert row["wanted"] == f"{word}, gauge 7"


def test_a_blank_with_an_outline_of_its_own_is_drawn_and_keeps_its_zone(counter):
    """A hexagon of 100 x 86.6 mm: its area is 3/4 of its box, its zone lies 3 mm inside every side."""
    corners = [[0.25, 0], [0.75, 0], [1, 0.5], [0.75, 1], [0.25, 1], [0, 0.5]]
    hexagon = {"name": "Honey plaque", "kind": "hard", "coated": True, "material": "hardboard", "colour": "#FFFFFF", "colour_name": "white", "thickness_mm": 3,
               "scorch_c": 240, "price": "0.9", "sizes": {"one": {"width_mm": 100, "height_mm": 86.6025, "outline": corners}}}  # fmt: skip
    made = counter.post("/api/blanks", json=hexagon)
    assert made.status_code == 201, made.text
    drawing = counter.get(f"/api/blanks/{made.json()['id']}").json()["drawing"]
    whole, safe = (Polygon([(p.x, p.y) for p in Path(drawing[k]).as_points()]) for k in ("outline", "safe"))
    assert whole.area == pytest.approx(0.75 * 100 * 86.6025, rel=1e-3)
    assert whole.contains(safe)
    assert whole.exterior.distance(safe.exterior) == pytest.approx(3, abs=0.02)
    assert safe.area == pytest.approx(1.5 * math.sqrt(3) * (50 - 3 / math.cos(math.pi / 6)) ** 2, rel=2e-3)
    for wrong, said in (
        ([[0, 0], [1, 0], [0.3, 1], [1, 1], [0, 0.5]], "crosses itself"), ([[0, 0], [0.4, 0], [0.4, 0.4]], "four edges"), ([[0, 0], [1, 1]], "goes round something"),
    ):  # fmt: skip
        answer = counter.post(
            "/api/blanks",
            json={**hexagon, "name": "Another", "sizes": {"one": {"width_mm": 100, "height_mm": 90, "outline": wrong}}},
        )
        assert (answer.status_code, said in answer.json()["happened"]) == (409, True), answer.text
