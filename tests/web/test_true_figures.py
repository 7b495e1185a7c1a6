"""Figures that agree wherever they stand, and states that say when something got worse than was accepted."""

import io
import itertools
import math
import uuid
from datetime import UTC, datetime, timedelta
from decimal import Decimal

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont

from offsetter.core.facts import profile_bytes
from offsetter.web.acts import by_our_clock
from tests.conftest import ROOT
from tests.outside.test_drawings import with_picture
from tests.web.conftest import png
from tests.web.test_inventory import BLANK, put

FONT = ROOT / "src" / "offsetter" / "intake" / "fonts"
WAYS = {"scarf": {"one": 12}, "apron-navy": {"one": 8}, "coaster": {"one": 24}, "waistcoat": {"M": 4}, "tee-black": {"M": 3}, "mug": {"one": 6}}  # fmt: skip


def station(job: dict, name: str) -> dict:
    return next(s for s in job["line"]["stations"] if s["station"] == name)


def reading(job: dict, key: str) -> dict:
    return next(r for r in job["line"]["readings"] if r["key"] == key)


def settle(counter, job: str, *documents: str) -> None:
    for document in documents:
        assert counter.decide(job, document, settled=True).status_code == 200


def words(text: str, ink: str, ground: str | None = None, *, size: int = 120) -> bytes:
    font = ImageFont.truetype(str(next(FONT.glob("*.ttf"))), size)
    made = Image.new("RGBA", (int(size * 0.75 * len(text)), int(size * 1.8)), ground or (0, 0, 0, 0))
    ImageDraw.Draw(made).text((size * 0.3, size * 0.2), text, ink, font=font)
    data = io.BytesIO()
    made.save(data, "PNG")
    return data.getvalue()


def test_a_worse_finding_than_was_accepted_needs_the_person_again_and_is_said(counter):
    """Accepted at 200 mm, then made so wide that the same picture is too coarse."""
    job = counter.order()
    counter.place(job, 35)
    settle(counter, job, "artwork")
    assert station(counter.job(job), "artwork")["state"] == "done"
    counter.decide(job, "place", width_um=90_000)
    art = station(counter.job(job), "artwork")
    assert art["state"] == "needs you"
    assert art["verdict"].startswith("New since you said yes")
    (new,) = [f for f in art["findings"] if f["is_new"]]
    assert new["code"] == "coarse"
    settle(counter, job, "artwork")
    assert station(counter.job(job), "artwork")["state"] == "done", "seen and taken, it is done again"
    counter.decide(job, "place", width_um=95_000)
    assert station(counter.job(job), "artwork")["state"] == "needs you", "worse still is new again"
    counter.decide(job, "place", width_um=88_000)
    assert station(counter.job(job), "artwork")["state"] == "done", "better than was accepted is no news"


def test_what_a_fix_brings_to_light_is_not_accepted_with_it(counter):
    """The ground taken out at a station that was done: cropped to its content the picture turns out coarse."""
    job = counter.order()
    flat = np.full((600, 600, 4), 255, np.uint8)
    flat[260:340, 260:340] = (40, 120, 200, 255)
    file = counter.upload(png(flat)).json()["file"]
    counter.decide(job, "place", file=file, width_um=50_000)
    settle(counter, job, "artwork")
    fix = next(f for f in station(counter.job(job), "artwork")["findings"] if f["code"] == "background-box")
    counter.decide(job, "artwork", **fix["patch"]["changes"])
    art = station(counter.job(job), "artwork")
    assert art["state"] in ("needs you", "blocked")
    assert any(f["is_new"] and f["code"] == "coarse" for f in art["findings"])


@pytest.mark.parametrize(("blank", "counts"), WAYS.items())
def test_every_kind_of_job_can_be_made_again_whole(counter, blank, counts):
    job = counter.order(title=f"Again {blank}", lines=[{"blank": blank, "counts": counts}])
    counter.place(job, 50)
    before = counter.job(job)
    due = (datetime.now(UTC) + timedelta(days=5)).isoformat()
    answer = counter.post(f"/api/jobs/{job}/again", json={"due": due})
    assert answer.status_code == 201, answer.text
    after = counter.job(answer.json()["id"])
    assert after["line"]["decisions"]["place"] == before["line"]["decisions"]["place"]
    assert reading(after, "cost")["value"] == reading(before, "cost")["value"]


def test_one_costing_says_the_same_in_readings_quotation_and_all_ways(counter):
    job = counter.order({"M": 12}, title="One sum")
    counter.place(job, 60)
    seen = counter.job(job)
    cost = Decimal(str(reading(seen, "cost")["value"]))
    row = next(r for r in counter.get(f"/api/jobs/{job}/price").json() if r["is_ordered"])
    parts = {k: Decimal(v) for k, v in row["parts"].items()}
    assert sum(parts.values()) == cost, "a person's own sum of the parts comes to the same"
    assert Decimal(row["cost"]) == cost.quantize(Decimal("0.01"))
    assert Decimal(row["without_blank"]) == (cost - parts["blank"]).quantize(Decimal("0.01"))
    advice = counter.get(f"/api/jobs/{job}/advice").json()
    ours = {a["method"]: a for a in advice["advice"]["ranked"] if a["is_ours"]}
    assert Decimal(ours["film"]["cost_with_blank"]) == cost.quantize(Decimal("0.01"))
    assert ours["film"]["minutes_per_piece"] == pytest.approx(reading(seen, "hands")["value"] / 12, abs=0.01)
    assert ours["film"]["machines_per_piece"] == pytest.approx(reading(seen, "machines")["value"] / 12, abs=0.01)
    # Whatever way is chosen costs what All ways said that it would.
    for method in [m for m in ours if m != "film"][:3]:
        counter.decide(job, "method", **advice["ways"][method])
        then = Decimal(str(reading(counter.job(job), "cost")["value"])).quantize(Decimal("0.01"))
        assert then == Decimal(ours[method]["cost_with_blank"]), method


def test_the_logbook_charges_direct_printing_no_film(counter):
    """Eight aprons printed one by one: no medium was used, and none is charged."""
    job = counter.order(title="Aprons, direct", lines=[{"blank": "apron-navy", "counts": {"one": 2}}])
    counter.place(job, 60)
    counter.decide(job, "method", **counter.get(f"/api/jobs/{job}/advice").json()["ways"]["direct"])
    for stage in station(counter.job(job), "prepare")["drawing"]["stages"]:
        answer = counter.act(job, kind="prepared", stage=stage["id"], count=2)
        assert answer.status_code == 200, answer.text
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]["id"]
    assert counter.act(job, kind="printed", run=run, count=2).status_code == 200
    for _ in range(2):
        assert counter.act(job, kind="pressed", run=run, size="one").status_code == 200
    counter.act(job, kind="good", size="one", count=2)
    counter.act(job, kind="closed", short=False)
    (entry,) = [
        e for e in counter.get("/api/logbook", params={"words": "aprons direct"}).json()["entries"] if e["job"] == job
    ]
    money = {f["label"]: f for f in entry["money"]}
    assert "Media" not in money
    assert {f["label"] for f in entry["figures"]}.isdisjoint({"Film", "Sheets"})
    assert money["Blanks"]["actual"] == pytest.approx(2 * 5.20)
    parts = sum(f["actual"] for label, f in money.items() if label != "All together")
    assert parts == pytest.approx(money["All together"]["actual"], abs=0.02)


def test_colours_of_an_article_are_variants_and_no_blank_overwrites_another(counter):
    red = BLANK | {"name": "Crew neck", "colour": "#AA1122", "colour_name": "red", "article": "crew-neck"}
    first = counter.post("/api/blanks", json=red)
    assert first.status_code == 201, first.text
    second = counter.post("/api/blanks", json=red | {"colour": "#112233", "colour_name": "navy"})
    assert second.json()["id"] != first.json()["id"]
    assert counter.get(f"/api/blanks/{first.json()['id']}").json()["blank"]["colour"] == "#AA1122"
    again = counter.post("/api/blanks", json=red)
    assert again.json()["code"] == "blank-known"
    unknown = put(counter, "/api/blanks/never-made", red)
    assert unknown.json()["code"] == "no-such-blank"
    other = put(
        counter,
        f"/api/blanks/{second.json()['id']}",
        red | {"id": first.json()["id"], "colour_name": "navy", "colour": "#223344"},
    )
    assert other.json()["id"] == second.json()["id"], "the address says which one, whatever the body claims"


def test_the_ground_inside_letters_is_counted_and_taken_out_by_one_key(counter):
    job = counter.order()
    file = counter.upload(words("aboe", "#2060C0", "#FFFFFF")).json()["file"]
    counter.decide(job, "place", file=file, width_um=60_000)
    box = next(f for f in station(counter.job(job), "artwork")["findings"] if f["code"] == "background-box")
    counter.decide(job, "artwork", **box["patch"]["changes"])
    inside = next(f for f in station(counter.job(job), "artwork")["findings"] if f["code"] == "ground-inside")
    assert inside["message"].startswith("4 pieces of the ground are left inside")
    counter.decide(job, "artwork", **inside["patch"]["changes"])
    codes = {f["code"] for f in station(counter.job(job), "artwork")["findings"]}
    assert "ground-inside" not in codes
    assert {"fixed-ground", "fixed-inside"} <= codes


def test_lettering_as_dark_as_its_cloth_is_said_at_artwork_and_colour(counter):
    for blank, is_said in (("tee-blend", True), ("jersey-white", False)):
        size = next(iter(counter.get(f"/api/blanks/{blank}").json()["blank"]["sizes"]))
        job = counter.order(lines=[{"blank": blank, "counts": {size: 2}}])
        file = counter.upload(words("Harbour", "#1C2A4A")).json()["file"]
        counter.decide(job, "place", file=file, width_um=90_000)
        counter.follow(counter.post(f"/api/jobs/{job}/lettering").json()["key"])
        seen = counter.job(job)
        for name in ("artwork", "colour"):
            codes = {f["code"] for f in station(seen, name)["findings"]}
            assert ("hard-to-read" in codes) is is_said, (blank, name)


def test_a_lost_profile_is_refused_and_never_replaced_by_our_own(app, counter):
    job = counter.order(lines=[{"blank": "scarf", "counts": {"one": 2}}], title="Lost profile")
    counter.place(job, 60)
    files = app.state.services.base.files
    other = files.keep(profile_bytes() + b"\0" * 4)
    assert counter.decide(job, "method", profile=other).status_code == 200
    files.original(other).rename(files.original(other).with_suffix(".gone"))
    seen = counter.job(job)
    method = station(seen, "method")
    assert method["state"] == "blocked"
    lost = next(f for f in method["findings"] if f["code"] == "profile-lost")
    assert station(seen, "colour")["waits_for"] == "its colour profile"
    assert job in {c["id"] for c in counter.get("/api/jobs", params={"words": "lost profile"}).json()["cards"]}
    counter.decide(job, "method", **lost["patch"]["changes"])
    assert station(counter.job(job), "colour")["state"] != "open"


def test_acts_are_dated_by_the_shops_clock_whatever_a_tablet_says():
    now = datetime(2030, 5, 6, 12, tzinfo=UTC)
    hour = timedelta(hours=1)
    done = now - timedelta(minutes=5)
    assert by_our_clock(done, now, now) == done, "clocks that agree"
    assert by_our_clock(done + hour, now + hour, now) == done, "an hour ahead"
    assert by_our_clock(done - hour, now - hour, now) == done, "an hour behind"
    assert by_our_clock(done - hour, now, now) == done - hour, "kept in the browser for an hour by a true clock"
    assert by_our_clock(now + hour, None, now) == now, "nothing is done in the future"


def test_an_act_of_a_tablet_whose_clock_is_ahead_counts_from_when_it_was_done(counter):
    job = counter.order({"S": 1})
    ahead = datetime.now(UTC) + timedelta(hours=2)
    act = {
        "id": uuid.uuid4().hex,
        "job": job,
        "at": ahead.isoformat(),
        "sent_at": ahead.isoformat(),
        "body": {"kind": "held", "reason": "waits"},
    }
    answer = counter.client.post("/api/acts", json=act, headers=counter.headers)
    assert answer.status_code == 200, answer.text
    (told,) = answer.json()["acts"]
    assert abs(datetime.fromisoformat(told["at"]) - datetime.now(UTC)) < timedelta(minutes=1)
    other = counter.client.post("/api/acts", json=act | {"body": {"kind": "resumed"}}, headers=counter.headers)
    assert other.json()["code"] == "id-used"


def test_white_follows_the_cloth_and_not_a_question(counter):
    """Direct printing on a navy tee gets pre-treatment and white, a white one neither: common practice, no source."""
    white = BLANK | {
        "name": "Crew tee",
        "colour": "#FBFBF9",
        "colour_name": "white",
        "sizes": {"M": {"width_mm": 500, "height_mm": 700}},
    }
    tee = counter.post("/api/blanks", json=white).json()["id"]
    for blank, size, is_dark in (("tee-navy", "M", True), (tee, "M", False)):
        job = counter.order(lines=[{"blank": blank, "counts": {size: 2}}])
        counter.place(job, 60)
        way = counter.get(f"/api/jobs/{job}/advice").json()["ways"]["direct"]
        counter.decide(job, "method", **way)
        seen = counter.job(job)
        prepared = {s["id"] for s in station(seen, "prepare")["drawing"]["stages"]}
        assert ("spray" in prepared) is is_dark
        assert (station(seen, "white")["state"] != "not needed") is is_dark
        method = station(seen, "method")
        assert ("white carries the colour" in method["verdict"]) is is_dark
        assert any(layer["role"] == "white" for layer in method["drawing"]["layers"]) is is_dark
        other = {**way["schools"], "pretreat": "none" if is_dark else "dark"}
        counter.decide(job, "method", **{**way, "schools": other})
        method = station(counter.job(job), "method")
        if is_dark:  # what cannot work is refused
            assert method["state"] == "blocked"
            assert "white-missing" in {f["code"] for f in method["findings"]}
            continue
        assert method["state"] == "needs you"
        assert "white-idle" in {f["code"] for f in method["findings"]}
        assert station(counter.job(job), "white")["state"] == "not needed", "until somebody says why"
        counter.decide(job, "method", **{**way, "schools": other, "because": "the sample was made so"})
        method = station(counter.job(job), "method")
        assert "white-otherwise" in {f["code"] for f in method["findings"]}
        assert method["state"] == "ready"
        assert station(counter.job(job), "white")["state"] != "not needed"


def test_thick_cloth_is_dried_longer(counter):
    thick = BLANK | {"name": "Hooded top", "colour": "#1C2A4A", "colour_name": "navy", "thickness_mm": 1.2}
    hood = counter.post("/api/blanks", json=thick).json()["id"]
    for blank, size, stage in ((hood, "one", "dry-long"), ("tee-navy", "M", "dry")):
        job = counter.order(lines=[{"blank": blank, "counts": {size: 1}}])
        counter.place(job, 60)
        counter.decide(job, "method", **counter.get(f"/api/jobs/{job}/advice").json()["ways"]["direct"])
        assert stage in {s["id"] for s in station(counter.job(job), "prepare")["drawing"]["stages"]}


def test_a_pdf_that_holds_only_a_picture_is_no_drawing(counter):
    """60 x 60 pixels in a PDF were judged sharp at every size: at 60 mm they are 25 ppi, and no print."""
    job = counter.order()
    file = counter.upload(with_picture(60, 60.0, text=False), "logo.pdf").json()["file"]
    counter.decide(job, "place", file=file, width_um=60_000)
    seen = counter.job(job)
    art = station(seen, "artwork")
    assert art["state"] == "blocked"
    assert "coarse" in {f["code"] for f in art["findings"]}
    assert "sharp at every size" not in art["verdict"]
    assert reading(seen, "resolution")["value"] == pytest.approx(25.4, rel=0.05)


def test_a_resolution_is_the_same_on_the_strip_as_among_the_readings(counter):
    """82.52 was 82.5, and then 82, on the strip; 83 among the readings."""
    job = counter.order()
    counter.place(job)
    place = counter.job(job)["line"]["decisions"]["place"]
    told = []
    for width_um in range(200_000, 230_000, 1_000):
        body = {"station": "place", "body": {**place, "width_um": width_um}}
        line = {"line": counter.post(f"/api/jobs/{job}/try", json=body).json()}
        told.append((reading(line, "resolution")["value"], station(line, "artwork")["telling"]))
    assert any(f"{ppi:.1f}".endswith(".5") and ppi % 1 > 0.5 and int(ppi) % 2 == 0 for ppi, _ in told)
    assert [said for _, said in told] == [f"{ppi:.0f} ppi" for ppi, _ in told]


HARD = {"name": "Plaque", "kind": "hard", "colour": "#FDFDFB", "colour_name": "white", "thickness_mm": 3, "scorch_c": 230, "coated": True,
        "price": "1.10", "sizes": {"one": {"width_mm": 200, "height_mm": 250}}}  # fmt: skip
PRESSED = {"coated metal": (60, "Panel face UP"), "hardboard": (85, "Paper on TOP")}


def test_what_a_hard_blank_is_made_of_picks_its_pressing_and_unknown_is_asked(counter):
    """Metal 60 s with the panel face up; hardboard 80 to 90 s, taped and flipped: common practice, no source."""
    plaque = counter.post("/api/blanks", json=HARD).json()["id"]
    job = counter.order(lines=[{"blank": plaque, "counts": {"one": 2}}])
    counter.place(job, 120)
    counter.decide(job, "method", **counter.get(f"/api/jobs/{job}/advice").json()["ways"]["sub-ink-hard"])
    method = station(counter.job(job), "method")
    assert method["state"] == "blocked"
    assert "material-unknown" in {f["code"] for f in method["findings"]}
    for material, (seconds, says) in PRESSED.items():
        assert put(counter, f"/api/blanks/{plaque}", HARD | {"material": material}).status_code == 200
        method = station(counter.job(job), "method")
        other = next((f for f in method["findings"] if f["code"] == "material-otherwise"), None)
        if other:  # the way was decided for another material: said, and put right by one key
            assert method["state"] == "needs you"
            counter.decide(job, "method", **other["patch"]["changes"])
        stages = station(counter.job(job), "press")["drawing"]["stages"]
        hot = next(s for s in stages if s["temperature_c"])
        assert (hot["time_s"], says in hot["say"]) == (seconds, True), hot
        assert ("flip" in {s["id"] for s in stages}) is (material == "hardboard")
        assert "foil" in {s["id"] for s in stages}, "one a piece, as it comes under the press"
    put(counter, f"/api/blanks/{plaque}", HARD | {"material": "hardboard", "foil": False})
    assert "foil" in {s["id"] for s in station(counter.job(job), "press")["drawing"]["stages"]}, "as it was ordered"
    (taken,) = [f for f in station(counter.job(job), "order")["findings"] if f["code"].startswith("measures-")]
    counter.decide(job, "order", **taken["patch"]["changes"])
    assert "foil" not in {s["id"] for s in station(counter.job(job), "press")["drawing"]["stages"]}


def test_a_print_off_its_mug_is_not_released(counter):
    job = counter.order(lines=[{"blank": "mug", "counts": {"one": 2}}])
    seen = counter.place(job, 80)
    assert station(seen, "order")["state"] != "blocked", "it begins in the middle"
    counter.decide(job, "place", below_collar_um=-26_000)
    order = station(counter.job(job), "order")
    assert order["state"] == "blocked"
    off = next(f for f in order["findings"] if f["code"] == "off-blank")
    assert "26 mm" in off["message"] or "29 mm" in off["message"]
    counter.plates(job)
    assert counter.release(job).json()["code"] == "blocked"
    counter.decide(job, "place", **off["patch"]["changes"])
    assert station(counter.job(job), "order")["state"] != "blocked"


def test_a_second_side_begins_at_a_size_that_fits_it(counter):
    """A sock of 88 mm was offered a print of 250 mm."""
    job = counter.order(lines=[{"blank": "socks", "counts": {"39-42": 2}}])
    added = counter.post(f"/api/jobs/{job}/prints", json={"place": "side two"})
    assert added.status_code == 201, added.text
    place = added.json()["line"]["decisions"]["place"]
    assert 5_000 <= place["width_um"] <= 100_000


def test_a_quotation_prices_all_prints_of_a_piece_and_its_blank_once(counter):
    job = counter.order({"M": 10}, title="Two sides", quoted=None)
    assert counter.get(f"/api/jobs/{job}/quotation.pdf").json()["code"] == "no-price"
    counter.place(job, 60)
    back = counter.post(f"/api/jobs/{job}/prints", json={"place": "back"}).json()["print"]
    counter.place(job, 80, print=back)
    rows = [
        {r["quantity"]: r for r in counter.get(f"/api/jobs/{job}/price", params={"print": p}).json()}
        for p in ("front", back)
    ]
    blank = float(rows[0][10]["parts"]["blank"])
    cost = blank + sum(sum(float(v) for k, v in r[10]["parts"].items() if k != "blank") for r in rows)
    pdf = counter.get(f"/api/jobs/{job}/quotation.pdf", params={"days": 14})
    text = words_in(pdf.content)
    each = cost / 0.45  # 55 % of the price are kept
    assert f"{each:.2f}" in text
    assert f"{round(each, 2) * 10:.2f}" in text
    assert "Two sides, for Someone" in text
    assert (datetime.now(UTC) + timedelta(days=14)).strftime("%-d %B %Y") in text
    counter.decide(job, "order", quoted=19.5)
    assert "195.00" in words_in(counter.get(f"/api/jobs/{job}/quotation.pdf").content)


def words_in(pdf: bytes) -> str:
    """Read back by an independent reader."""
    import pypdfium2

    return "\n".join(p.get_textpage().get_text_range() for p in pypdfium2.PdfDocument(pdf))


def test_what_a_level_of_white_costs_is_what_it_lays(counter):
    job = counter.order({"S": 4})
    counter.place(job, 60)
    costs = counter.get(f"/api/jobs/{job}/white-cost").json()
    assert [c["level_pct"] for c in costs] == [0, 25, 50, 75, 100]
    # Solid white lies wherever the disc does: its area by geometry, less a rim as wide as the choke; 20 mL a square metre on film.
    spec = counter.job(job)["line"]["decisions"]["white"]
    choke_mm = (spec["choke_um"] or 250) / 1000
    disc_cm2 = math.pi * (60 / 2 - choke_mm) ** 2 / 100
    assert costs[-1]["area_cm2"] == pytest.approx(disc_cm2, rel=0.03)
    assert costs[-1]["ml"] == pytest.approx(disc_cm2 / 1e4 * 20, rel=0.03)
    # By the formula it grows in a straight line with the level: w = (1 - t) g + t.
    steps = [b["ml"] - a["ml"] for a, b in itertools.pairwise(costs)]
    assert max(steps) == pytest.approx(min(steps), rel=0.05)
    assert all(float(b["money"]) > float(a["money"]) for a, b in itertools.pairwise(costs))
    scarf = counter.order(lines=[{"blank": "scarf", "counts": {"one": 1}}])
    counter.place(scarf, 60)
    assert counter.get(f"/api/jobs/{scarf}/white-cost").json() == []
