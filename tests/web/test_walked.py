"""Jobs as they are done every week, from the order to the logbook, with the values that practice gives (common practice, no source)."""

import re

import pytest

from offsetter.core.facts import ColouredSheet, Levels
from offsetter.core.levels import short_coloured
from offsetter.core.sentences import shown
from tests.web.conftest import shop_of_its_own
from tests.web.test_methods import fill_missing, station, strangers, taken, through


@pytest.fixture(scope="module")
def client(database, shop_rows, tmp_path_factory):
    with shop_of_its_own(database, "walked", shop_rows, tmp_path_factory) as (_, made):
        yield made


TEE = {"kind": "cloth", "thickness_mm": 0.4, "scorch_c": 205, "price": "2.25",
       "sizes": {"M": {"chest_mm": 520, "length_mm": 720, "collar_width_mm": 180, "collar_drop_mm": 95, "sleeve_mm": 200}}}  # fmt: skip
FLAT = {
    "kind": "hard",
    "coated": True,
    "colour": "#FFFFFF",
    "colour_name": "white",
    "thickness_mm": 3,
    "scorch_c": 240,
    "price": "0.80",
}
OWN = {
    "white tee": TEE | {"name": "Plain tee", "fibres": {"cotton": 1}, "colour": "#FCFCFA", "colour_name": "white"},
    "white polyester tee": TEE | {"name": "Sports tee", "fibres": {"polyester": 1}, "colour": "#FDFDFD", "colour_name": "bright white"},
    "thick hooded top": TEE | {"name": "Hooded top", "fibres": {"cotton": 0.8, "polyester": 0.2}, "colour": "#1E2A44", "colour_name": "night blue", "thickness_mm": 1.4},
    "key tag": FLAT | {"name": "Key tag", "material": "plastic", "sizes": {"one": {"width_mm": 75, "height_mm": 75}}},
    "plaque": FLAT | {"name": "Plaque", "material": "hardboard", "up_by": "stand", "sizes": {"one": {"width_mm": 120, "height_mm": 120}}},
    "panel": FLAT | {"name": "Panel", "material": "coated metal", "sizes": {"one": {"width_mm": 200, "height_mm": 250}}},
    "string bag": {"name": "String bag", "kind": "cloth", "fibres": {"polyester": 1}, "colour": "#20242A", "colour_name": "dark grey", "thickness_mm": 0.3,
                   "scorch_c": 205, "price": "1.10", "sizes": {"one": {"width_mm": 340, "height_mm": 420}}},
    "backpack": {"name": "Backpack", "kind": "cloth", "fibres": {"polyester": 1}, "colour": "#2A3340", "colour_name": "slate", "thickness_mm": 1.2, "scorch_c": 205,
                 "price": "6.50", "sizes": {"one": {"width_mm": 300, "height_mm": 420}},
                 "obstacles": [{"kind": "zip", "x_mm": -150, "y_mm": 100, "width_mm": 300, "height_mm": 220, "stands_mm": 4}]},
    "nylon jacket": TEE | {"name": "Rain jacket", "fibres": {"nylon": 1}, "colour": "#1C2A4A", "colour_name": "navy", "scorch_c": 180},
    "zipped top": TEE | {"name": "Zipped top", "fibres": {"cotton": 0.8, "polyester": 0.2}, "colour": "#1E2A44", "colour_name": "night blue", "thickness_mm": 1.4,
                         "obstacles": [{"kind": "zip", "x_mm": -10, "y_mm": 0, "width_mm": 20, "height_mm": 700, "stands_mm": 3}]},
    "wood-grain panel": FLAT | {"name": "Grain panel", "material": "wood-grain", "up_by": "hanger", "sizes": {"one": {"width_mm": 150, "height_mm": 200}}},
    "towel": {"name": "Towel", "kind": "cloth", "fibres": {"cotton": 1}, "colour": "#F0EDE4", "colour_name": "natural", "thickness_mm": 0.9, "scorch_c": 205,
              "price": "1.40", "sizes": {"one": {"width_mm": 480, "height_mm": 700}}},
}  # fmt: skip

# Blank, method, what a person chooses, mirrored, stage to Celsius and seconds from and to, and words that must stand at their moment.
WALKED = {
    "two-sheet": ("tee-navy", "toner-two-sheet", {}, True,
                  {"warm-bed": (154, 120, 120), "marry": (154, 120, 120), "pre-press": (154, 1, 10), "transfer": (154, 40, 40), "finish": (154, 20, 20)},
                  ["glossy", "Trim the glue", "very light", "COLD"]),
    "two-sheet, cooler": ("tee-navy", "toner-two-sheet", {"marry-values": "cooler", "transfer-card": "cooler", "finish-heat": "low"}, True,
                          {"marry-cooler": (149, 120, 120), "pre-press-cooler": (149, 1, 10), "transfer-cooler": (149, 30, 30), "finish-low": (132, 20, 20)}, ["very firm", "COLD"]),
    "coloured sheet": ("string bag", "toner-colour-sheet", {}, True, {"warm-bed": (143, 15, 20), "marry": (143, 120, 120), "transfer": (143, 30, 30), "cool": (0, 120, 180)},
                       ["knots and handles OFF", "Rub, fold right over", "Roll it back FLAT", "Trim round"]),
    "vinyl over a zip": ("backpack", "print-cut", {}, False, {"transfer": (160, 15, 20)}, ["CENTRE outwards", "BOTH come out", "Peel the mask HOT", "clears the zip"]),
    "vinyl on nylon": ("nylon jacket", "print-cut", {"cutting": "separate"}, False, {"transfer-nylon": (0, 0, 600)}, ["Lift away what is NOT wanted", "As the medium says"]),
    "zipped top": ("zipped top", "direct", {}, False, {"dry-long": (166, 90, 90), "cure": (166, 90, 90)},
                   ["Risers beside the zip", "wipe the platen after each piece", "flap flat"]),
    "wood-grain": ("wood-grain panel", "sub-ink-hard", {"hold-down": "spray"}, True, {"transfer-wood": (0, 0, 600)}, ["which way is UP: find its hanger", "Open SLOWLY", "MIST the paper", "no flame near", "foil OFF"]),
    "white-coated": ("tee-black", "toner-white-coat", {}, True,
                     {"marry": (166, 15, 15), "pre-press": (166, 10, 10), "transfer": (166, 25, 25), "finish": (166, 5, 5)}, ["mat OUT", "Image sheet ON TOP"]),
    "self-weeding": ("white tee", "toner-self-weed", {}, True, {"transfer": (149, 10, 10), "finish": (149, 30, 30)},
                     ["BEFORE the picture is loaded", "two sheets or more", "ONE pull", "500 uses"]),
    "trimmed": ("white tee", "toner-trim", {}, True, {"transfer": (182, 10, 15), "finish": (182, 10, 15)}, ["EDGE of the picture", "STRETCH", "heavy"]),
    "towel": ("towel", "toner-opaque", {}, False, {"transfer": (165, 30, 40)}, ["WHITE border", "down its middle", "A wrong timer is cured by pressing again"]),
    "film, hovered": ("tee-navy", "film", {"film-cure": "hover", "film-transfer": "low"}, True,
                      {"cure-hover": (141, 60, 120), "transfer-low": (141, 15, 15), "finish-low": (141, 5, 15)}, ["HOVER, never touch", "LOW, one movement"]),
    "film, on the roll": ("tee-black", "film", {}, True,
                          {"cure-oven": (165, 120, 300), "pre-press": (160, 2, 5), "transfer": (160, 15, 20), "finish": (160, 10, 15)}, ["while it is wet", "COLD"]),
    "polyester tee": ("white polyester tee", "sub-ink-fabric", {"hold-down": "spray"}, True, {"transfer": (204, 60, 60)}, ["Roll it TWICE", "TEAR", "no flame near", "STRAIGHT up"]),
    "socks": ("socks", "sub-ink-fabric", {"dye-card": "mixed"}, True, {"transfer-mixed": (199, 50, 50)}, ["tape", "inside it, smooth"]),
    "panel": ("panel", "sub-ink-hard", {}, True, {"transfer": (204, 60, 60)}, ["foil OFF", "then TAPE", "Panel face UP", "STRAIGHT up"]),
    "plaques": ("plaque", "sub-ink-hard", {}, True, {"transfer-plaque": (204, 80, 90)}, ["foil OFF", "find its stand", "then FLIP"]),
    "key tags": ("key tag", "sub-toner", {}, True, {"transfer": (200, 60, 60)}, ["DYE cartridges", "soft silicone mat", "before rings are fitted"]),
    "mugs": ("mug", "toner-hard", {}, True, {"transfer": (170, 180, 180)}, ["foam round it", "DIP", "Cool 2 min"]),
    "hooded top": ("thick hooded top", "direct", {}, False, {"dry-long": (166, 90, 90), "cure": (166, 90, 90)}, ["Roll it NOW", "flap flat", "test patches", "Let the ink SET"]),
    "dark tee": ("tee-navy", "direct", {}, False, {"dry": (166, 20, 30), "cure": (166, 90, 90)}, ["press it DRY", "White first, colour on top"]),
    "inkjet, dark": ("tee-navy", "inkjet-opaque", {}, False, {"transfer": (177, 30, 30)}, ["WHITE border", "COLD", "which face the printer prints"]),
}  # fmt: skip


METRIC_LEFT = re.compile(r"[^\"]*\d (?:mm|m|m²|°C)(?![a-z0-9²)])[^\"]*|\ue000")
"""Of a sentence that is said to somebody who reads inches; degrees of the other kind stand in brackets."""


def in_inches(counter, *paths: str) -> str:
    headers = {"cookie": f"{counter.headers['cookie']}; offsetter-units=in-F"}
    answers = [counter.client.get(p, headers=headers) for p in paths]
    assert [a.status_code for a in answers] == [200] * len(paths)
    return "".join(a.text for a in answers)


def with_braces(told) -> list[str]:
    """Texts in which a value was never filled in."""
    if isinstance(told, dict):
        return [t for v in told.values() for t in with_braces(v)]
    if isinstance(told, list):
        return [t for v in told for t in with_braces(v)]
    return [told] if isinstance(told, str) and ("{" in told or "}" in told) else []


@pytest.mark.parametrize("name", list(WALKED))
def test_a_job_is_walked_from_the_order_to_the_logbook(counter, name):
    blank, method, schools, mirrored, stages, words = WALKED[name]
    if blank in OWN:
        made = counter.post("/api/blanks", json=OWN[blank])
        blank = (
            made.json()["id"]
            if made.status_code == 201
            else next(b["id"] for b in counter.get("/api/shop").json()["blanks"] if b["name"] == OWN[blank]["name"])
        )
    job = taken(counter, method, blank)
    if schools:
        way = counter.job(job)["line"]["way"]
        assert counter.decide(job, "method", schools={**way["schools"], **schools}).status_code == 200
    fill_missing(counter, job)
    seen = counter.job(job)
    assert [s["verdict"] for s in seen["line"]["stations"] if s["state"] == "blocked"] == []
    assert station(seen, "sheet")["drawing"]["mirrored"] is mirrored
    prepared = station(seen, "prepare")["drawing"]["stages"]
    card = through(counter, job)
    ran = {s["id"]: s for s in (*prepared, *card["stages"])}
    for stage, (celsius, least, most) in stages.items():
        assert stage in ran, (stage, list(ran))
        # Zero: the shop's own value, asked for where nobody gave one, or no heat at all.
        assert celsius == 0 or round(ran[stage]["temperature_c"]) == celsius, stage
        assert least <= ran[stage]["time_s"] <= most, stage
    said = repr((seen["line"]["stations"], card))
    assert [w for w in words if w not in said] == []
    assert with_braces([seen["line"]["stations"], card, counter.get(f"/api/jobs/{job}/advice").json()]) == []
    assert (
        METRIC_LEFT.findall(
            in_inches(counter, f"/api/jobs/{job}", f"/api/jobs/{job}/press-card", f"/api/jobs/{job}/advice")
        )
        == []
    )
    assert strangers(method, seen["line"]["stations"], card) == set()
    assert counter.act(job, kind="closed", short=False, note="").status_code == 200
    entry = next(e for e in counter.get("/api/logbook").json()["entries"] if e["job"] == job)
    assert (entry["good"], entry["ordered"]) == (2, 2)


def test_forty_key_tags_take_two_pressings_and_not_forty(counter):
    made = counter.post("/api/blanks", json=OWN["key tag"] | {"name": "Key tag, large lot"}).json()["id"]
    one_by_one = taken(counter, "sub-toner", made)
    order = counter.job(one_by_one)["line"]["decisions"]["order"]
    lines = [{**order["lines"][0], "counts": {"one": 40}}]
    assert counter.decide(one_by_one, "order", lines=lines).status_code == 200
    fill_missing(counter, one_by_one)
    seen = counter.job(one_by_one)
    reading = next(r for r in seen["line"]["readings"] if r["key"] == "machines")
    # Heat-up from memory is 13 minutes; two loads of a minute each come on top, and no fortyfold.
    assert "15 press" in reading["note"]
    assert "20 key tag, large lots go under" in str(station(seen, "press")["findings"])
    card = through(counter, one_by_one)
    assert card["at_once"] == len(card["platen"]["spots"]) == 20
    assert counter.act(one_by_one, kind="closed", short=False, note="").status_code == 200
    entry = next(e for e in counter.get("/api/logbook").json()["entries"] if e["job"] == one_by_one)
    heat = next(f for f in entry["figures"] if f["label"] == "Stages under heat")
    assert (heat["planned"], heat["actual"]) == (2.0, 2.0)


def test_a_pair_of_socks_takes_two_transfers_a_side(counter):
    job = taken(counter, "sub-ink-fabric", "socks")
    row = counter.job(job)["ledger"]["books"]["transfers"][0]
    assert row["slots"][0]["ordered"] == 4
    card = counter.get(f"/api/jobs/{job}/press-card").json()
    assert card["at_once"] == 4


def test_a_marked_test_sheet_settles_which_face_this_printer_prints(counter):
    job = taken(counter, "toner-opaque", "tee-black")
    seen = counter.job(job)
    printer, load = seen["line"]["way"]["printer"], station(seen, "print")["drawing"]
    assert load["prints"] == ""
    told = counter.client.put(
        f"/api/printers/{printer}/feeds/toner-opaque/face", json={"prints": "down"}, headers=counter.headers
    )
    assert told.status_code == 200
    after = station(counter.job(job), "print")["drawing"]
    assert after["prints"] == "down"
    assert after["steps"][1].endswith("face DOWN in the tray: a marked test sheet showed it.")
    assert "face up" not in " ".join(after["steps"]).lower()


def test_shorts_have_a_leg_of_their_own_and_the_second_print_begins_with_the_first_ones_picture(counter):
    shorts = {
        **OWN["white polyester tee"],
        "name": "Shorts",
        "places": [{"name": "left leg", "width_mm": 140, "height_mm": 180}],
    }
    made = counter.post("/api/blanks", json=shorts)
    assert made.status_code == 201, made.text
    job = taken(counter, "sub-ink-fabric", made.json()["id"])
    first = counter.job(job)["line"]["decisions"]["place"]
    assert "left leg" in station(counter.job(job), "order")["drawing"]["garment"]["places"]
    seen = counter.post(f"/api/jobs/{job}/prints", json={"place": "left leg"}).json()
    place = seen["line"]["decisions"]["place"]
    assert (place["file"], place["place"]) == (first["file"], "left leg")
    assert place["width_um"] <= 140_000
    drawing = station(seen, "order")["drawing"]
    assert drawing["garment"]["bounds_mm"] == [-70, 0, 70, 180]
    assert [s["verdict"] for s in seen["line"]["stations"] if s["state"] == "blocked"] == []
    assert "left leg flat on the platen" in seen["passes"][1]["turn"]
    card = counter.get(f"/api/jobs/{job}/press-card", params={"print": seen["print"]}).json()
    assert "below the upper edge of the left leg" in card["placings"][0]["below"]
    # The largest that fits there, in one touch.
    (largest,) = [f for f in drawing["fits"] if f["name"] == "largest"]
    assert largest["width_mm"] == 140
    refused = counter.decide(job, "place", place="right leg", print=seen["print"])
    assert refused.json()["code"] == "no-such-place"


def test_the_coloured_sheet_is_chosen_from_those_in_store_and_named_at_the_press(counter):
    job = taken(counter, "toner-colour-sheet", "tee-black")
    sheets = station(counter.job(job), "colour")["drawing"]["sheets"]
    gold = next(s for s in sheets if s["name"] == "gold")
    assert counter.decide(job, "colour", sheet_colour=gold["colour"]).status_code == 200
    seen = counter.job(job)
    assert "Coloured sheet: gold" in repr(station(seen, "press")["drawing"])
    levels = Levels(sheets={"coloured-sheet-gold": 1})
    (short,) = short_coloured(levels, ColouredSheet(**gold), 2)
    assert short.code == "coloured-short"
    assert "1 gold sheet is in store, this run takes 2" in shown(short.message)
    assert short_coloured(Levels(), ColouredSheet(**gold), 2) == ()


def test_two_prints_share_a_side_and_are_told_apart(counter):
    job = taken(counter, "film", "tee-black")
    seen = counter.post(f"/api/jobs/{job}/prints", json={"place": "front chest"}).json()
    second = seen["print"]
    assert [p["name"] for p in seen["prints"]] == ["Front chest", "Front chest 2"]
    (beside,) = station(seen, "order")["drawing"]["garment"]["others"]
    box = station(seen, "order")["drawing"]["garment"]["box"]
    assert (beside["name"], beside["is_first"]) == ("Front chest", True)
    assert box["y_mm"] == pytest.approx(beside["box"]["y_mm"] + beside["box"]["height_mm"] + 10, abs=1)
    over = {"below_collar_um": round(box["y_mm"] * 1000) - 25_000}
    assert counter.decide(job, "place", print=second, **over).status_code == 200
    found = {f["code"]: f for f in station(counter.job(job, second), "order")["findings"]}
    assert found["over-print"]["message"] == "It lies 15 mm over “Front chest”"
    assert "over-print" not in {f["code"] for f in station(counter.job(job), "order")["findings"]}, "said once"
    assert counter.decide(job, "place", print=second, **found["over-print"]["patch"]["changes"]).status_code == 200
    after = counter.job(job, second)
    assert "over-print" not in {f["code"] for f in station(after, "order")["findings"]}
    assert "parchment over the finished front chest." in after["passes"][1]["shield"]
    assert {t["name"].split(":")[0] for t in after["ledger"]["books"]["transfers"]} == {"Front chest", "Front chest 2"}
