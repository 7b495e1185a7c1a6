"""The shop's colour over the real server and database: profiles in and out, a printer corrected by a probe, what jobs say of it."""

import io
import struct
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pikepdf
import pytest
import tifffile
from PIL import Image, ImageCms

from offsetter.core.compute.cielab import SRGB_TO_XYZ_D50, delta_e_2000, lab_of_xyz, xyz_of_lab
from offsetter.core.facts import profile_bytes
from tests.conftest import ROOT
from tests.core.shapes import disc
from tests.web.conftest import Counter, give_probes, png

DYE = (ROOT / "demo" / "profile" / "dye.icc").read_bytes()
FILM = {"printer": "petrel", "media": "film-460-matte"}
weeks = [0.0]


@pytest.fixture(scope="module")
def probe(client, machines) -> None:
    machines.weeks = lambda: weeks[0]
    give_probes(Counter(client), machines)


def put(counter: Counter, path: str, body: dict):
    return counter.client.put(path, json=body, headers=counter.headers)


def add(counter: Counter, data: bytes, name: str = "p.icc"):
    return counter.post("/api/colour/profiles", files={"file": (name, data)})


def own_profile(counter: Counter) -> str:
    return counter.get("/api/colour").json()["own_profile"]


def condition(counter: Counter, printer: str, mode: str) -> dict:
    return next(
        c for c in counter.get("/api/colour").json()["conditions"] if (c["printer"], c["mode"]) == (printer, mode)
    )


def measured(counter: Counter, mode: str) -> dict:
    chart = counter.post("/api/colour/charts", json={**FILM, "mode": mode})
    assert chart.status_code == 201, chart.text
    answer = counter.post(f"/api/colour/charts/{chart.json()['chart']['id']}/probe", json={"probe": "kittiwake"})
    assert answer.status_code == 201, answer.text
    return answer.json()


def broken_tag(data: bytes) -> bytes:
    """The first tag reaches beyond the end of the file."""
    return data[:136] + struct.pack(">I", len(data)) + data[140:]


def hollow(data: bytes) -> bytes:
    """Every table filled with nonsense, the header and the list of tags left whole."""
    count = struct.unpack(">I", data[128:132])[0]
    start = 132 + 12 * count
    return data[:start] + b"\xa5" * (len(data) - start)


SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
UNFIT = {
    "empty": (b"", "empty-file"), "text": (b"# not a profile " * 30, "no-profile"), "cut off": (DYE[:3000], "broken-profile"),
    "tags beyond its end": (broken_tag(DYE), "broken-profile"), "hollow": (hollow(DYE), "broken-profile"), "a screen's": (SRGB, "wrong-class"),
    "a camera's": (DYE[:12] + b"scnr" + DYE[16:], "wrong-class"), "six inks over three": (DYE[:16] + b"6CLR" + DYE[20:], "broken-profile"),
    "of grey": (DYE[:16] + b"GRAY" + DYE[20:], "wrong-space"),
    "one direction": (DYE.replace(b"B2A0", b"X2A0", 1), "tags-missing"), "endless": (DYE[:128] + b"\xff" * 400, "broken-profile"),
    "huge": (DYE + bytes(20 * 2**20), "too-large"),
}  # fmt: skip


@pytest.mark.parametrize("what", UNFIT)
def test_an_unfit_profile_is_refused_with_the_reason(counter, what):
    data, code = UNFIT[what]
    before = len(counter.get("/api/colour").json()["profiles"])
    told = add(counter, data)
    assert (told.status_code, told.json()["code"]) == (409, code), told.text
    assert all(told.json()[part] for part in ("happened", "kept", "to_do"))
    assert len(counter.get("/api/colour").json()["profiles"]) == before


def test_a_profile_is_kept_with_what_its_header_tells_and_assigned_where_it_fits(counter):
    kept = add(counter, DYE, "dye.icc").json()
    opened = ImageCms.ImageCmsProfile(io.BytesIO(DYE)).profile
    assert (kept["space"], kept["device_class"], kept["name"]) == ("RGB", "prtr", opened.profile_description)
    tags = struct.unpack(">I", DYE[128:132])[0]
    assert len(kept["tags"]) == tags
    assert kept["white_lab"][0] == pytest.approx(95, abs=0.3), "the invented ground"
    wrong = put(counter, "/api/colour/conditions", {**FILM, "mode": "fine", "profile": kept["id"]})
    assert wrong.json()["code"] == "wrong-profile", "film is sent ink shares"
    given = put(
        counter,
        "/api/colour/conditions",
        {"printer": "plover", "media": "light-transfer-paper", "mode": "best", "profile": kept["id"]},
    )
    assert given.status_code == 200, given.text
    used = counter.client.delete(f"/api/colour/profiles/{kept['id']}", headers=counter.headers)
    assert used.json()["code"] == "profile-in-use"
    ours = counter.client.delete(f"/api/colour/profiles/{own_profile(counter)}", headers=counter.headers)
    assert ours.status_code == 409


def test_a_printer_is_measured_corrected_and_watched_and_jobs_keep_what_they_pinned(counter, probe):
    weeks[0] = 0.0
    assert (
        put(counter, "/api/colour/conditions", {**FILM, "mode": "fine", "profile": own_profile(counter)}).status_code
        == 200
    )
    job = counter.order()
    counter.place(job)
    counter.decide(job, "method", settled=True)
    dots = counter.job(job)["line"]["plates_key"]
    before = measured(counter, "fine")
    made = counter.post(f"/api/colour/measurements/{before['id']}/correction")
    assert made.status_code == 201, made.text
    assert len(made.json()["curves"]) == 4
    assert 200 <= made.json()["ink_limit_pct"] <= 260, "this printer pools over 230 %"
    twice = counter.post(f"/api/colour/measurements/{before['id']}/correction")
    assert twice.json()["code"] == "cannot-correct"

    after = measured(counter, "fine")
    view = counter.get(f"/api/colour/measurements/{after['id']}").json()
    assert view["before"]["id"] == before["id"]
    assert before["mean"] > 2 > 0.6 > after["mean"], "what was wrong is right"
    assert view["report"]["p95"] < view["before_report"]["p95"] / 3
    assert after["drift"] is None
    assert not condition(counter, "petrel", "fine")["drift"]["wants_correction"]
    weeks[0] = 8.0
    late = measured(counter, "fine")
    assert late["drift"] > 2
    assert condition(counter, "petrel", "fine")["drift"]["wants_correction"]

    seen = counter.job(job)["line"]
    assert seen["plates_key"] == dots, "a decided way prints what it printed"
    colour = next(s for s in seen["stations"] if s["station"] == "colour")
    newer = next(f for f in colour["findings"] if f["code"] == "newer-condition")
    assert any(f["code"] == "drifted" for f in colour["findings"])
    taken = counter.decide(job, "method", **newer["patch"]["changes"])
    assert taken.status_code == 200, taken.text
    now = counter.job(job)["line"]
    codes = {f["code"] for s in now["stations"] for f in s["findings"]}
    assert now["plates_key"] != dots
    assert "corrected" in codes
    assert "newer-condition" not in codes


def test_measurements_by_hand_are_the_charts_own_or_refused(counter, probe):
    put(counter, "/api/colour/conditions", {**FILM, "mode": "finest", "profile": own_profile(counter)})
    chart = counter.post("/api/colour/charts", json={**FILM, "mode": "finest"}).json()
    at = f"/api/colour/charts/{chart['chart']['id']}"
    assert counter.get(f"{at}/chart.pdf").content.startswith(b"%PDF")
    labels = [p["label"] for p in chart["chart"]["patches"]]
    rows = "\n".join(f"{label};50,0;{i % 7},5;-3" for i, label in enumerate(labels))
    whole = counter.post(f"{at}/measurements", files={"file": ("m.csv", f"label;L;a;b\n{rows}".encode())})
    assert whole.status_code == 201, whole.text
    assert whole.json()["count"] == len(labels)
    text = counter.get(f"{at}/chart.txt").text
    for data, code in ((text.encode(), "no-colours"), (b"label;L;a;b\nA1;50;0\n", "bad-row"),
                       ("label;L;a;b\n" + "\n".join(rows.splitlines()[:9]), "patches-missing")):  # fmt: skip
        told = counter.post(f"{at}/measurements", files={"file": ("m.csv", data)})
        assert (told.status_code, told.json()["code"]) == (409, code), told.text
    flat = counter.post(f"/api/colour/measurements/{whole.json()['id']}/correction")
    assert flat.json()["code"] == "not-a-ramp"
    assert counter.post(f"{at}/probe", json={"probe": "nobody"}).json()["code"] == "no-such-probe"


def test_a_driver_that_separates_by_itself_gets_its_own_rgb_mirrored(counter, app):
    dye = add(counter, DYE, "dye.icc").json()["id"]
    put(
        counter,
        "/api/colour/conditions",
        {"printer": "razorbill", "media": "plain-office-paper", "mode": "best", "profile": dye},
    )
    job = counter.order(lines=[{"blank": "scarf", "counts": {"one": 2}}])
    half = disc(100, 240, (180, 70, 60))
    half[:, 120:, :3] = (60, 90, 160)
    file = counter.upload(png(half)).json()["file"]
    assert counter.decide(job, "place", file=file, width_um=20_000).status_code == 200
    ways = counter.get(f"/api/jobs/{job}/advice").json()["ways"]
    assert counter.decide(job, "method", **ways["sub-toner"]).status_code == 200
    line = counter.job(job)["line"]
    drawing = next(s for s in line["stations"] if s["station"] == "colour")["drawing"]
    assert drawing["is_driven"]
    said = {f["code"] for s in line["stations"] for f in s["findings"]}
    assert {"own-driver", "driver-colour-off"} <= said
    key = counter.plates(job)
    path = app.state.services.base.files.derived("plates", key) / "print.tif"
    with tifffile.TiffFile(path) as tif:
        page = tif.pages.first
        picture = page.asarray()
        assert page.photometric.name == "RGB"
        assert page.iccprofile == DYE
    assert picture.shape[2] == 3
    row = picture[picture.shape[0] // 2]
    left, right = row[picture.shape[1] // 4].astype(int), row[picture.shape[1] * 3 // 4].astype(int)
    assert left[2] > left[0], "blue comes first: it is mirrored"
    assert right[0] > right[2]
    assert tuple(picture[0, 0]) == (255, 255, 255), "bare paper stays bare"
    # What the driver is sent prints the colour that was asked for: checked by the profile itself, read by Pillow alone.
    lab = ImageCms.applyTransform(
        Image.fromarray(right.astype(np.uint8).reshape(1, 1, 3)),
        ImageCms.buildTransform(
            ImageCms.ImageCmsProfile(io.BytesIO(DYE)),
            ImageCms.createProfile("sRGB"),
            "RGB",
            "RGB",
            ImageCms.Intent.RELATIVE_COLORIMETRIC,
        ),
    )
    assert np.abs(np.asarray(lab)[0, 0].astype(int) - (180, 70, 60)).max() < 12
    point = counter.get(f"/api/pictures/{line['pictures']['key']}/point", params={"x": 0.25, "y": 0.5}).json()
    assert set(point["ink_pct"]) == {"R", "G", "B"}
    run = counter.release(job)
    assert run.status_code == 201, run.text
    counter.follow(f"run-{run.json()['runs'][-1]['id']}")
    with pikepdf.open(app.state.services.runs.run_file(run.json()["runs"][-1]["id"])) as pdf:
        (form,) = (x for n, x in pdf.pages[0].Resources.XObject.items() if n.startswith("/Print"))
        space = form.Resources.XObject.Colour.ColorSpace
        assert (str(space[0]), bytes(space[1].read_bytes())) == ("/ICCBased", DYE)


def test_a_customers_colour_is_found_in_the_artwork_and_brought_nearer_by_one_touch(counter):
    customer = "Brand owner"
    for brand, name, lab in (("b-blue", "House blue", (38, 5, -55)), ("b-green", "Far green", (80, -80, 75))):
        assert (
            put(
                counter,
                f"/api/colour/brands/{brand}",
                {"customer": customer, "name": name, "lab": lab, "within_delta_e": 1},
            ).status_code
            == 200
        )
    job = counter.order(customer=customer)
    counter.place(job, colour=(0, 88, 180))

    def blue():
        return next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "colour")

    drawing = blue()["drawing"]
    assert [b["name"] for b in drawing["brands"]] == ["House blue"], "the other is not in the picture"
    before = drawing["brands"][0]
    assert before["nearest_delta_e"] <= before["delta_e"]
    finding = next(f for f in blue()["findings"] if f["code"] == "brand-house-blue")
    assert finding["patch"], "it can be met better"
    assert counter.decide(job, "colour", **finding["patch"]["changes"]).status_code == 200
    after = blue()["drawing"]["brands"][0]
    assert after["delta_e"] < before["delta_e"]
    assert after["delta_e"] == pytest.approx(before["ask_delta_e"], abs=1.0)
    bad = put(counter, "/api/colour/brands/bad", {"customer": customer, "name": "x", "lab": (120, 0, 0)})
    assert bad.json()["code"] == "bad-colour"
    counter.client.delete("/api/colour/brands/b-blue", headers=counter.headers)
    assert blue()["drawing"]["brands"] == []


def test_a_colour_that_came_out_off_is_moved_and_tried_on_a_strip(counter):
    put(counter, "/api/colour/conditions", {**FILM, "mode": "fine", "profile": own_profile(counter)})
    job = counter.order()
    counter.place(job, colour=(40, 120, 200))
    asked = {"colour": "#2878C8", "seen": (45.0, 2.0, -40.0)}
    told = counter.post(f"/api/jobs/{job}/off-colour/try", json=asked).json()
    strip = counter.post(f"/api/jobs/{job}/off-colour/strip", json=asked).json()["chart"]
    assert strip["patches"][0]["lab"] == pytest.approx(told["shift"]["lab"], abs=0.01)
    assert len({tuple(p["asked"]) for p in strip["patches"]}) > 10, "the neighbours differ"
    before = counter.job(job)["line"]["plates_key"]
    assert counter.decide(job, "colour", shifts=[told["shift"]]).status_code == 200
    line = counter.job(job)["line"]
    assert line["plates_key"] != before
    undo = next(f for s in line["stations"] for f in s["findings"] if f["code"] == "shifted-2878c8")
    assert undo["patch"]["changes"] == {"shifts": []}
    assert counter.decide(job, "colour", shifts=[{"colour": "blue", "lab": (1, 2, 3)}]).status_code == 422


def test_a_photograph_gives_a_colour_against_its_white(counter):
    """Warm light on a sheet and a patch: the sheet's cast is taken out of the patch."""
    picture = np.full((200, 300, 3), 90, np.uint8)
    light = np.array([0.9, 0.75, 0.55])
    linear = lambda v: np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)  # noqa: E731
    shown = lambda v: np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)  # noqa: E731
    sheet = linear(np.array([241, 241, 241]) / 255)
    patch = linear(np.array([60, 110, 180]) / 255)
    picture[20:90, 20:120] = np.rint(shown(sheet * light) * 255)
    picture[20:90, 160:280] = np.rint(shown(patch * light) * 255)
    data = io.BytesIO()
    Image.fromarray(picture).save(data, "PNG")
    spots = {"white_x": 0.2, "white_y": 0.25, "x": 0.7, "y": 0.25}
    lab = counter.post("/api/colour/pick", files={"file": ("p.png", data.getvalue())}, data=spots).json()
    meant = lab_of_xyz(patch / sheet * xyz_of_lab([95.0, 0, 0])[1] @ SRGB_TO_XYZ_D50.T)
    assert delta_e_2000(lab, meant) < 1.0, lab
    dark = counter.post(
        "/api/colour/pick", files={"file": ("p.png", png(np.full((40, 40, 4), 5, np.uint8)))}, data=spots
    )
    assert dark.json()["code"] == "no-white"


def test_shipped_and_uploaded_film_profiles_are_one(counter):
    kept = add(counter, profile_bytes(), "film.icc").json()
    assert kept["id"] == own_profile(counter)
    assert Path(kept["file_name"]).name == "film.icc"


def test_a_driver_is_measured_and_watched_but_not_bent(counter, probe):
    weeks[0] = 0.0
    dye = add(counter, DYE, "dye.icc").json()["id"]
    where = {"printer": "plover", "media": "opaque-sheet-inkjet", "mode": "best"}
    put(counter, "/api/colour/conditions", {**where, "profile": dye})
    chart = counter.post("/api/colour/charts", json=where).json()["chart"]
    assert (chart["space"], chart["mirrored"], chart["white"]) == ("RGB", False, False), (
        "an opaque sheet is not mirrored"
    )
    assert (chart["width_mm"], chart["height_mm"]) == (216, 279), "the sheet's own size"
    read = counter.post(f"/api/colour/charts/{chart['id']}/probe", json={"probe": "kittiwake"}).json()
    assert read["mean"] < 1.0, "the profile was made of this very driver"
    view = counter.get(f"/api/colour/measurements/{read['id']}").json()
    assert "separates by itself" in view["can_correct"]
    assert counter.post(f"/api/colour/measurements/{read['id']}/correction").json()["code"] == "cannot-correct"


def test_two_people_correct_at_once_and_every_version_is_kept(counter, probe):
    put(counter, "/api/colour/conditions", {**FILM, "mode": "fine", "profile": own_profile(counter)})
    began = condition(counter, "petrel", "fine")["condition"]["version"]
    reads = [measured(counter, "fine") for _ in range(4)]
    others = [counter.as_person(name) for name in ("Noor", "Mika", "Sami", "Ada")]
    with ThreadPoolExecutor(4) as hands:
        told = list(
            hands.map(
                lambda pair: pair[0].post(f"/api/colour/measurements/{pair[1]['id']}/correction"),
                zip(others, reads, strict=True),
            )
        )
    assert [t.status_code for t in told] == [201] * 4, [t.text for t in told]
    assert sorted(t.json()["version"] for t in told) == [began + n for n in range(1, 5)]
