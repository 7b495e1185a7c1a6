"""A printer of more than four inks through the real server: set up, given its maker's profile, planned, priced, printed, looked after."""

import io

import pytest
import tifffile
from standins.many_inks import profile

from tests.core.shapes import disc
from tests.web.conftest import Counter, png, shop_of_its_own

SIX = ["C", "M", "Y", "K", "O", "G"]
ORANGE = (255, 110, 0)


@pytest.fixture(scope="module")
def bare(database, shop_rows, tmp_path_factory):
    with shop_of_its_own(database, "six_inks", shop_rows, tmp_path_factory) as (_, client):
        yield Counter(client)


@pytest.fixture
def owner(bare):
    """Petrel holds six inks and a light cyan, and prints with its maker's profile, whichever test came first."""
    brought = bare.post("/api/colour/profiles", files={"file": ("six.icc", profile())}).json()
    assert holds(bare, [*SIX, "LC"]).status_code == 200
    assert assigned(bare, brought["id"]).status_code == 200
    return bare


def put(counter: Counter, path: str, body: dict):
    return counter.client.put(path, json=body, headers=counter.headers)


def holds(counter: Counter, inks: list[str]):
    return put(counter, "/api/machines/printers/petrel", {"inks": inks})


def assigned(counter: Counter, profile_id: str):
    done = [put(counter, "/api/colour/conditions", {"printer": "petrel", "media": "film-460-matte", "mode": m["id"], "profile": profile_id})
            for printer in counter.get("/api/shop").json()["printers"] if printer["id"] == "petrel" for m in printer["modes"]]  # fmt: skip
    return done[0]


def an_orange_disc(counter: Counter) -> dict:
    job = counter.order()
    file = counter.upload(png(disc(170, 400, ORANGE))).json()["file"]
    answer = counter.decide(job, "place", file=file, width_um=60_000)
    assert answer.status_code == 200, answer.text
    return answer.json()


def station(job: dict, name: str) -> dict:
    return next(s for s in job["line"]["stations"] if s["station"] == name)


def codes(found: dict) -> set[str]:
    return {f["code"] for f in found["findings"]}


def test_a_profile_goes_only_where_its_inks_are(bare: Counter):
    owner = bare
    film = next(p for p in owner.get("/api/colour").json()["profiles"] if p["space"] == "CMYK")
    assigned(owner, film["id"])
    assert holds(owner, SIX[:4]).status_code == 200
    brought = owner.post("/api/colour/profiles", files={"file": ("six.icc", profile())}).json()
    assert (brought["space"], brought["inks"]) == ("6CLR", SIX)
    refused = assigned(owner, brought["id"]).json()
    assert refused["code"] == "wrong-profile"
    assert "orange, green, and Petrel holds cyan, magenta, yellow, black" in refused["happened"]
    for wrong in (["C", "M", "Y"], [*SIX, "O"], ["M", "C", "Y", "K"], [*SIX, "Q"], [*SIX, "W"]):
        assert holds(owner, wrong).status_code == 409, wrong
    before = an_orange_disc(owner)
    assert "inks-idle" not in codes(station(before, "colour"))
    assert holds(owner, [*SIX, "LC"]).status_code == 200
    idle = owner.job(before["id"])
    assert {"inks-idle", "light-inks"} <= codes(station(idle, "colour"))
    assert list(station(idle, "colour")["drawing"]["colours"][0]["ink_pct"]) == ["C", "M", "Y", "K", "LC"]
    fits = {c["printer"]: brought["id"] in c["fits"] for c in owner.get("/api/colour").json()["conditions"]}
    assert fits["petrel"]
    assert sum(fits.values()) == 1
    assert assigned(owner, brought["id"]).status_code == 200
    assert holds(owner, ["C", "M", "Y", "K"]).json()["code"] == "profile-needs-inks"
    assert codes(station(owner.job(before["id"]), "colour")) == {"light-inks"}, "no way was decided yet: it follows"


def test_its_orders_are_separated_priced_and_printed_ink_by_ink(owner: Counter):
    job = an_orange_disc(owner)
    colour = station(job, "colour")
    assert not codes(colour) & {"inks-idle", "profile-stands-in"}
    (step,) = colour["drawing"]["colours"]
    assert list(step["ink_pct"]) == [*SIX, "LC"]
    assert step["ink_pct"]["O"] > 50
    assert step["delta_e_2000"] < 2, "four inks miss this orange by more"
    ink = next(r for r in job["line"]["readings"] if r["key"] == "ink")
    assert "colours" in ink["note"]
    owner.plates(job["id"])
    printed = station(owner.job(job["id"]), "print")["drawing"]
    assert list(printed["ink_ml"]) == [*SIX, "LC", "W"]
    # 60 mm across, of an orange laid at the same volume as the other inks.
    share = printed["measure"]["coverage_pct"]["O"] / 100
    assert printed["ink_ml"]["O"] == pytest.approx(
        printed["ink_ml"]["K"] / printed["measure"]["coverage_pct"]["K"] * share * 100, rel=0.02
    )
    run = owner.release(job["id"]).json()["runs"][-1]
    planes = tifffile.imread(io.BytesIO(owner.get(f"/api/runs/{run['id']}/print.tif").content))
    assert planes.shape[2] == 8


def test_its_other_inks_are_stocked_priced_and_checked_like_the_four(owner: Counter):
    prices = owner.get("/api/prices").json()["prices"]["ink_ml"]
    assert list(prices) == ["C", "M", "Y", "K", "O", "G", "LC", "W"]
    assert prices["LC"] == prices["C"]
    assert put(owner, "/api/prices", {"ink_ml": {**prices, "O": "0.500"}}).status_code == 200
    assert owner.get("/api/prices").json()["prices"]["ink_ml"]["O"] == "0.500"
    shelves = {s["item"]: s["name"] for s in owner.get("/api/stock").json()["shelves"]}
    assert shelves["ink/petrel/LC"] == "light cyan ink, Petrel"
    assert "ink/cormorant/LC" not in shelves
    seen = owner.get("/api/nozzles/petrel").json()
    assert seen["channels"] == [*SIX, "LC", "W"]
    planes = tifffile.imread(io.BytesIO(owner.get("/api/nozzles/petrel/sheet.tif").content))
    assert planes.shape[2] == 8
    assert all((planes[..., c] > 250).any() for c in range(8))
