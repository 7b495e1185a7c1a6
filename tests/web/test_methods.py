"""Every method through the whole line over the wire, and the sixteenth, which is a file and no code."""

import re
import uuid

import numpy as np
import pypdfium2
import pytest

from offsetter.core import facts
from tests.web.conftest import png, shop_of_its_own

BLANK = {"sub-ink-fabric": "scarf", "sub-ink-hard": "coaster", "sub-toner": "clipboard", "toner-self-weed": "scarf", "toner-trim": "cushion", "toner-hard": "mug",
         "toner-opaque": "tee-navy", "inkjet-light": "jersey-white", "inkjet-opaque": "apron-navy", "toner-white-coat": "tee-black", "direct": "apron-navy",
         "print-cut": "pennant", "toner-two-sheet": "apron-navy", "toner-colour-sheet": "apron-navy", "film": "waistcoat"}  # fmt: skip
CARD = {"temperature_c": 165, "time_s": 20, "pressure": "medium", "peel": "Cold peel."}
"""What a medium's own card would say, where practice gave no value."""

SIXTEENTH = """
[method]
id = "foil-gilded"
rank = 16
name = "Gilded toner"
marking = "CMYK laser"
carrier = "image sheet and foil sheet"
blanks = "smooth cotton of any colour"
mirror = true
white = "none"
plate_order = ["colour"]
why_mirror = "the image sheet's printed face goes down on the cloth"
medium = "image sheet"
dpi = 600
ink_limit_pct = 240
min_stroke_mm = 0.8
leaves_out = { white = "the foil covers by itself" }
composite_black = true
kinds = ["cloth"]
lies = "film"
fibre = "cotton"
fibre_least = 0.5
fibre_full = 0.8
colours = 1
largest_mm = [202, 289]
sources = { min_stroke_mm = "memory", dpi = "memory", ink_limit_pct = "memory" }
cost = { sheet = [210, 297], sheet_price = 3.1, colour_m2 = 8.0, setup_min = 9 }

[recipes.gilded-house]
name = "Gilded toner, house"
method = "foil-gilded"
version = 1
source = "house"
lay_out = ["foil sheet", "parchment"]

[[recipes.gilded-house.stages]]
id = "transfer"
name = "Transfer"
part = "press"
temperature_c = 150
time_s = 20
pressure = "firm"
say = "Printed face DOWN"
then = "Cold peel."
hands_s = 20
source = "house"
stack = [
  { what = "Heat platen", kind = "platen" },
  { what = "Parchment", kind = "cover" },
  { what = "Image sheet", kind = "carrier", printed_face = "down" },
  { what = "Garment, front", kind = "blank" },
  { what = "Lower platen", kind = "platen" },
]
"""


@pytest.fixture(scope="module")
def client(database, shop_rows, tmp_path_factory):
    with shop_of_its_own(database, "methods", shop_rows, tmp_path_factory) as made:
        yield made[1]


def taken(counter, method: str, blank: str, pieces: int = 2) -> str:
    """An order for a blank, its artwork placed, and this method chosen; gives the job."""
    sizes = next(b for b in counter.get("/api/shop").json()["blanks"] if b["id"] == blank)["sizes"]
    job = counter.order(lines=[{"blank": blank, "counts": {next(iter(sizes)): pieces}}])
    counter.place(job, 60)
    way = counter.get(f"/api/jobs/{job}/advice").json()["ways"][method]
    answer = counter.decide(job, "method", **way)
    assert answer.status_code == 200, answer.text
    return job


def station(seen: dict, name: str) -> dict:
    return next(s for s in seen["line"]["stations"] if s["station"] == name)


def fill_missing(counter, job: str) -> None:
    """Enter what the recipe asks for, and take the version it becomes."""
    seen = counter.job(job)
    missing = station(seen, "method")["drawing"]["missing"]
    if not missing:
        return
    way = seen["line"]["way"]
    assert station(seen, "method")["state"] == "blocked"
    values = {m["stage"]: {f: CARD[f] for f in m["fields"]} for m in missing}
    made = counter.post(f"/api/recipes/{way['recipe']}/versions",
                        json={"base": counter.get(f"/api/recipes/{way['recipe']}").json()["newest"], "values": values, "source": "maker", "why": "the packet's card"})  # fmt: skip
    assert made.status_code == 201, made.text
    assert counter.decide(job, "method", recipe_version=made.json()["version"]).status_code == 200


def through(counter, job: str) -> dict:
    """Plates, a run, preparing, printing, pressing and a look: as hands would do it."""
    seen = counter.job(job)
    stages = station(seen, "prepare")["drawing"]["stages"]
    first = station(seen, "prepare")["drawing"]["comes_first"]
    pieces = seen["ledger"]["ordered"]
    for stage in stages if first else ():
        assert counter.act(job, kind="prepared", stage=stage["id"], count=pieces).status_code == 200
    counter.plates(job)
    released = counter.release(job)
    assert released.status_code == 201, released.text[:300]
    run = released.json()["runs"][-1]
    assert counter.act(job, kind="printed", run=run["id"], count=run["copies"]).status_code == 200
    for stage in () if first else stages:
        assert (
            counter.act(job, kind="prepared", run=run["id"], stage=stage["id"], count=run["copies"]).status_code == 200
        )
    card = counter.get(f"/api/jobs/{job}/press-card").json()
    ran = [{"stage": s["id"], "temperature_c": s["temperature_c"], "planned_s": s["time_s"], "ran_s": s["time_s"],
            "covers": sorted({x["what"].lower() for x in s["stack"] if x["kind"] == "cover"})} for s in card["stages"]]  # fmt: skip
    (slot,) = card["slots"]
    line, size = slot["slot"].split("/")
    left = slot["to_press"]
    while left:
        load = min(left, card["at_once"])
        answer = counter.act(job, kind="pressed", run=run["id"], size=size, line=line, press=card["press"], stages=ran,
                             count=load, together=load)  # fmt: skip
        assert answer.status_code == 200, answer.text
        left -= load
    assert counter.act(job, kind="good", size=size, line=line, count=pieces).status_code == 200
    return card


LASER = {
    "sub-toner",
    "toner-self-weed",
    "toner-trim",
    "toner-hard",
    "toner-opaque",
    "toner-white-coat",
    "toner-two-sheet",
    "toner-colour-sheet",
}
DYE = {"sub-ink-fabric", "sub-ink-hard", "sub-toner"}
HARD = {"sub-ink-hard", "sub-toner", "toner-hard"}
EVERY = set(facts.methods())
OWN_WORDS = [
    (r"\binks?\b|nozzle|\bheads?\b", EVERY - LASER),
    (r"\btoners?\b|fuser", LASER),
    (r"powder|glazed|\boven\b", {"film"}),
    (r"pre-?treat|sprayer|\bplaten height", {"direct"}),
    (r"becomes gas|ghost|dye paper", DYE),
    (r"\bgarments? (is|are) printed|the garment itself", {"direct"}),
    (r"transfers?\b", EVERY - {"direct"}),
    (r"\bfilm\b", {"film", "toner-two-sheet", "print-cut"}),
    (r"\bvinyl\b|(?<!dust )(?<!Mist: )\bmask\b(?!ed)|weed(ing)? hook|every inner piece", {"print-cut"}),
    (r"marry|adhesive sheet|\brub\b", {"toner-two-sheet", "toner-white-coat", "toner-colour-sheet"}),
    (r"rubber mat|white-coated sheet", {"toner-white-coat"}),
    (r"coloured sheet", {"toner-colour-sheet"}),
    (r"finishing sheet", {"toner-self-weed", "toner-two-sheet"}),
    (r"white border|\bbacking\b", {"toner-opaque", "inkjet-opaque", "inkjet-light", "print-cut"}),
    (r"stretch", {"toner-trim", "direct"}),
    (r"\bmug\b|in water", {"toner-hard"}),
    (r"\b(cloth|garment|yarns?|collar|crease|fibre|shirt)\b(?<!lint-free cloth)", EVERY - HARD),
]
"""A word to the methods in whose work it belongs: in nobody else's sentences."""
NOT_SPOKEN = {
    "id",
    "kind",
    "code",
    "sizes",
    "method",
    "recipe",
    "signature",
    "cloth",
    "href",
    "schools",
    "profile_name",
    "pictures",
    "order",
    "decisions",
}


def sentences(seen):
    """Everything a result says in words, what it is known by left out."""
    if isinstance(seen, str):
        if " " in seen:
            yield re.sub(r"“[^”]*”", "", seen)
    elif isinstance(seen, dict):
        for key, part in seen.items():
            if key not in NOT_SPOKEN:
                yield from sentences(part)
    elif isinstance(seen, list):
        for part in seen:
            yield from sentences(part)


def strangers(method: str, *seen) -> set[tuple[str, str]]:
    """Words of other methods' work, each with the sentence it stands in."""
    said = {s for part in seen for s in sentences(part)}
    return {
        (word, s)
        for word, owners in OWN_WORDS
        if method not in owners
        for s in said
        if re.search(word, s, re.IGNORECASE)
    }


@pytest.mark.parametrize("method", list(facts.methods()))
def test_a_method_goes_from_the_order_to_a_good_piece(counter, method):
    known = facts.methods()[method]
    job = taken(counter, method, BLANK[method])
    fill_missing(counter, job)
    seen = counter.job(job)
    assert [s["state"] for s in seen["line"]["stations"] if s["state"] == "blocked"] == [], [
        f["message"] for s in seen["line"]["stations"] for f in s["findings"]
    ]
    names = [s["station"] for s in seen["line"]["stations"]]
    assert (names.index("prepare") < names.index("print")) == bool(known.prepares_first)
    white = station(seen, "white")
    assert (white["state"] == "not needed") == (known.white != "plate")
    if known.leaves_out:
        assert known.leaves_out["white"] in white["verdict"]
    sheet = station(seen, "sheet")["drawing"]
    assert sheet["mirrored"] is known.mirror
    card = through(counter, job)
    # Read as the person at that bench reads it: before the printer starts, at the press, and when all is done.
    assert strangers(method, seen["line"]["stations"], card, counter.job(job)["line"]["stations"]) == set()
    assert all(s["stack"] for s in card["stages"])
    assert all(f["cure"] for f in card["faults"])
    befalls = {f["seen"] for f in card["faults"]} | {
        c for at in station(seen, "inspect")["drawing"]["causes"].values() for c in at
    }
    assert ("ghost image" in befalls) == (known.lies == "in")
    assert ("toner does not fix" in befalls) == ("laser" in known.marking)
    assert ("letters lifted" in befalls) == any(
        s["id"] == "weed" for s in station(seen, "prepare")["drawing"]["stages"]
    )
    assert ("white through the colours" in befalls) == (method == "direct")
    assert not (known.prepares_first and befalls & {"wrong face down", "part stayed on the carrier", "peeled warm"})
    done = counter.job(job)
    assert station(done, "inspect")["state"] == "done"
    assert done["ledger"]["good"] == 2


def test_a_sixteenth_method_is_a_file_and_goes_the_whole_way(counter):
    added = counter.post("/api/methods", files={"file": ("gilded.toml", SIXTEENTH)})
    assert added.json() == {"id": "foil-gilded"}
    shop = counter.get("/api/shop").json()
    dunlin = next(p for p in shop["printers"] if p["id"] == "dunlin")
    feed = {**dunlin["feeds"][0], "method": "foil-gilded", "media": "image-and-foil"}
    assert counter.client.put("/api/printers/dunlin/feeds", json=feed, headers=counter.headers).status_code == 200
    job = counter.order(lines=[{"blank": "tee-navy", "counts": {"M": 2}}])
    counter.place(job, 60)
    advised = counter.get(f"/api/jobs/{job}/advice").json()
    assert "foil-gilded" in {a["method"] for a in advised["advice"]["ranked"]}
    assert counter.decide(job, "method", **advised["ways"]["foil-gilded"]).status_code == 200
    through(counter, job)
    assert counter.job(job)["ledger"]["good"] == 2


@pytest.mark.parametrize(("spoilt", "said"), [
    (SIXTEENTH.replace("rank = 16", "rank = 16\nglitter = true"), "glitter"),
    (SIXTEENTH.replace("pressure = \"firm\"", "pressure = \"firm\"\nsparkle = 3"), "sparkle"),
    (SIXTEENTH.replace("temperature_c = 150", "temperature_c = 900"), "temperature_c"),
    (SIXTEENTH.replace("time_s = 20", "time_s = -20"), "time_s"),
    (SIXTEENTH.replace('id = "foil-gilded"', 'id = "film"').replace('method = "foil-gilded"', 'method = "film"'), "known already"),
    ("not = [toml", "TOML"), ("", "method"), ("[recipes]\n", "method"),
])  # fmt: skip
def test_a_method_file_that_is_wrong_is_refused_by_its_field(counter, spoilt, said):
    answer = counter.post("/api/methods", files={"file": ("own.toml", spoilt)})
    assert answer.status_code == 409
    assert answer.json()["kept"] == "Nothing was added."
    assert answer.json()["to_do"]
    assert said in answer.json()["happened"]


def test_direct_is_not_printed_on_a_garment_that_was_not_prepared(counter):
    job = taken(counter, "direct", "apron-navy")
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    assert "prepare-first" in {f["code"] for f in station(counter.job(job), "print")["findings"]}
    refused = counter.act(job, kind="printed", run=run["id"], count=1)
    assert refused.json()["code"] == "not-prepared"
    for stage in ("lint", "spray", "dry"):
        assert counter.act(job, kind="prepared", stage=stage, count=1).status_code == 200
    assert counter.act(job, kind="prepared", stage="dry", count=1).json()["code"] == "more-than-ready"
    assert counter.act(job, kind="printed", run=run["id"], count=1).status_code == 200
    assert counter.act(job, kind="printed", run=run["id"], count=1).json()["code"] == "not-prepared"


def test_a_print_over_a_zip_is_refused_by_a_way_that_needs_it_flat_and_padded_by_one_that_clears_it(counter):
    job = taken(counter, "toner-two-sheet", "waistcoat")
    seen = counter.job(job)
    assert any(o["kind"] == "zip" and o["is_under"] for o in station(seen, "order")["drawing"]["garment"]["obstacles"])
    assert station(seen, "method")["state"] == "blocked"
    assert any("zip" in f["message"] for f in station(seen, "method")["findings"] if f["severity"] == "blocker")
    counter.plates(job)
    assert counter.release(job).json()["code"] == "blocked"
    film = counter.get(f"/api/jobs/{job}/advice").json()["ways"]["film"]
    assert film["schools"]["film-transfer"] == "low", "softshell does not stand the usual heat"
    assert counter.decide(job, "method", **film).status_code == 200
    transfer = next(s for s in station(counter.job(job), "press")["drawing"]["stages"] if s["id"] == "transfer-low")
    assert [x["what"] for x in transfer["stack"] if x["kind"] == "pad"] == ["Foam pad under the print"]
    moved = counter.decide(job, "place", offset_um=120_000)
    assert moved.status_code == 200
    assert not any(
        x["kind"] == "pad" for s in station(counter.job(job), "press")["drawing"]["stages"] for x in s["stack"]
    )


def test_a_job_keeps_the_version_it_pinned(counter):
    job = taken(counter, "toner-colour-sheet", "apron-navy")
    before = next(s for s in station(counter.job(job), "press")["drawing"]["stages"] if s["id"] == "transfer")
    base = counter.get("/api/recipes/colour-sheet-house").json()["newest"]
    made = counter.post("/api/recipes/colour-sheet-house/versions",
                        json={"base": base, "values": {"transfer": {"time_s": 34}}, "source": "trial", "why": "five washes held"})  # fmt: skip
    assert made.json()["version"] == base + 1
    twice = counter.post("/api/recipes/colour-sheet-house/versions",
                         json={"base": base, "values": {"transfer": {"time_s": 40}}, "source": "trial", "why": "another"})  # fmt: skip
    assert twice.json()["code"] == "newer-version"
    seen = counter.job(job)
    assert next(s for s in station(seen, "press")["drawing"]["stages"] if s["id"] == "transfer") == before
    newer = next(f for f in station(seen, "method")["findings"] if f["code"] == "newer-recipe")
    assert counter.decide(job, "method", **newer["patch"]["changes"]).status_code == 200
    assert (
        next(s for s in station(counter.job(job), "press")["drawing"]["stages"] if s["id"] == "transfer")["time_s"]
        == 34
    )
    told = counter.get("/api/recipes/colour-sheet-house/compare", params={"left": base, "right": base + 1}).json()
    assert told == [{"stage": "Transfer", "what": "time", "left": "30 s", "right": "34 s"}]


@pytest.mark.parametrize(
    ("values", "said"), [({"temperature_c": 900}, "900"), ({"time_s": -4}, "-4"), ({"temperature_c": 2}, "2")]
)
def test_values_that_cannot_be_are_refused_and_nothing_is_added(counter, values, said):
    base = counter.get("/api/recipes/self-weed-house").json()["newest"]
    answer = counter.post("/api/recipes/self-weed-house/versions",
                          json={"base": base, "values": {"transfer": values}, "source": "house", "why": "a slip of the hand"})  # fmt: skip
    assert answer.status_code == 409
    assert said in answer.json()["happened"]
    assert answer.json()["to_do"].startswith("Give ")
    assert counter.get("/api/recipes/self-weed-house").json()["newest"] == base


def test_a_counted_sheet_counts_down_and_is_taken_new(counter):
    job = taken(counter, "toner-opaque", "tee-navy", 2)
    fill_missing(counter, job)
    press = counter.job(job)["line"]["way"]["press"]
    counter.act(job, kind="renewed", press=press, cover="release sheet")
    card = through(counter, job)
    release = next(c for c in card["covers"] if c["cover"] == "release sheet")
    assert (release["uses"], release["used"], release["is_known"]) == (10, 0, True)
    used = next(c for c in counter.get(f"/api/jobs/{job}/press-card").json()["covers"] if c["cover"] == "release sheet")
    assert used["used"] == 2
    counter.act(job, act_id=uuid.uuid4().hex, kind="renewed", press=press, cover="release sheet")
    assert (
        next(c for c in counter.get(f"/api/jobs/{job}/press-card").json()["covers"] if c["cover"] == "release sheet")[
            "used"
        ]
        == 0
    )


def test_a_cup_that_tapers_gets_its_print_bent(client, counter):
    cup = {"name": "Latte cup", "kind": "hard", "coated": True, "material": "ceramic", "colour": "#FFFFFF", "colour_name": "white", "thickness_mm": 3,
           "scorch_c": 240, "price": "2", "sizes": {"one": {"diameter_mm": 88, "base_diameter_mm": 60, "height_mm": 105, "handle_mm": 40}}}  # fmt: skip
    steep = counter.post(
        "/api/blanks", json={**cup, "sizes": {"one": {**cup["sizes"]["one"], "base_diameter_mm": 250}}}
    )
    assert "tapers by more than its height" in steep.json()["happened"]
    made = counter.post("/api/blanks", json=cup)
    assert made.status_code == 201, made.text
    job = counter.order(title="Cups", lines=[{"blank": made.json()["id"], "counts": {"one": 3}}])
    counter.place(job, 120)
    seen = counter.decide(job, "place", below_collar_um=20_000).json()
    line = seen["line"]
    note = next(f for s in line["stations"] if s["station"] == "sheet" for f in s["findings"] if f["code"] == "bent")
    # R = slant x rim / (rim - foot) = 105.93 x 88 / 28, less the 20 mm below the rim: of solid geometry.
    assert "a circle of 313 mm" in note["message"]
    layout = next(s for s in line["stations"] if s["station"] == "sheet")["drawing"]["layout"]
    sides = sorted((layout["sorts"][0]["width_um"], layout["sorts"][0]["height_um"]))
    order = next(s for s in line["stations"] if s["station"] == "order")["drawing"]["garment"]["box"]
    straight = sorted((round(order["width_mm"] * 1000), round(order["height_mm"] * 1000)))
    assert sides[0] > straight[0]
    assert sides[1] > straight[1]
    for address in (line["pictures"]["on_cup"], line["pictures"]["carrier"]):
        assert counter.get(address).headers["content-type"] == "image/png"
    before = next(r for r in line["readings"] if r["key"] == "ink")["value"]
    key = counter.plates(job)
    after = next(r for r in counter.job(job)["line"]["readings"] if r["key"] == "ink")["value"]
    assert after == pytest.approx(before, rel=0.03)
    page = pypdfium2.PdfDocument(client.app.state.services.runs.plate_file(key, "print.pdf"))[0]
    assert sorted(round(v / 72 * 25_400) for v in page.get_size()) == pytest.approx(sides, abs=200)
    # A straight mug stays as it was.
    plain = counter.order(title="Mugs", lines=[{"blank": "mug", "counts": {"one": 2}}])
    counter.place(plain, 120)
    assert not [f for s in counter.job(plain)["line"]["stations"] for f in s["findings"] if f["code"] == "bent"]


def test_a_coloured_sheet_gives_the_colour_whatever_the_picture_asks(counter):
    """Sentences of inks that reach or miss a colour belong to ways that print it."""
    job = taken(counter, "toner-colour-sheet", next(b["id"] for b in counter.get("/api/shop").json()["blanks"] if b["id"] == "tee-black"))  # fmt: skip
    colour = station(counter.job(job), "colour")
    assert colour["telling"] == "yellow sheet"
    assert colour["verdict"] == "All of it comes out yellow: the coloured sheet gives the colour"
    codes = {f["code"] for f in colour["findings"]}
    assert not codes & {"out-of-reach", "profile-stands-in", "looks-like-photograph", "one-colour"}
    two = np.zeros((300, 300, 4), np.uint8)
    two[40:150, 40:260] = (200, 40, 40, 255)
    two[150:260, 40:260] = (30, 60, 200, 255)
    counter.decide(job, "place", file=counter.upload(png(two), "two.png").json()["file"])
    (said,) = [f for f in station(counter.job(job), "colour")["findings"] if f["code"] == "one-colour"]
    assert (said["severity"], said["message"]) == ("caution", "All 2 colours of the picture come out yellow")
