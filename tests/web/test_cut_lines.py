"""A printed film cut round: seen at Sheet, frozen with the run, sent to the cutter as files that others read."""

import io
import math
from urllib.parse import unquote

import ezdxf
import numpy as np
import pikepdf
import pypdfium2 as pdfium
import pytest
from ezdxf import path as ezpath
from PIL import ImageCms
from shapely import Polygon

from tests.core.shapes import disc
from tests.web.conftest import png

DPMM = 10


def vinyl(counter, colour=(200, 60, 40), **sheet) -> str:
    """A disc of 60 mm on printable film."""
    job = counter.order({"M": 3})
    file = counter.upload(png(disc(200, 400, colour))).json()["file"]
    counter.decide(job, "place", file=file, width_um=60_000)
    way = counter.get(f"/api/jobs/{job}/advice").json()["ways"]["print-cut"]
    assert counter.decide(job, "method", 0, **way).status_code == 200
    if sheet:
        assert counter.decide(job, "sheet", **sheet).status_code == 200
    return job


def of_layer(drawing, layer: str) -> list[Polygon]:
    return [
        Polygon([(v.x, v.y) for v in ezpath.make_path(e).flattening(0.001)])
        for e in drawing.modelspace()
        if e.dxf.layer == layer
    ]


def test_a_run_of_film_carries_its_cut_lines_where_its_prints_lie(app, counter):
    job = vinyl(counter)
    (seen,) = counter.get(f"/api/jobs/{job}/cut").json()
    assert seen["pieces"] == 1
    assert seen["long_mm"] == pytest.approx(2 * math.pi * (_radius(app, job) + 1.0), rel=0.01)
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    assert run["is_cut"]
    counter.follow(f"run-{run['id']}")
    answer = counter.get(f"/api/runs/{run['id']}/cut.dxf")
    assert f"Test tees R{run['number']} cut 1.dxf" in unquote(answer.headers["content-disposition"])
    drawing = ezdxf.read(io.StringIO(answer.text))
    assert not drawing.audit().errors
    cuts, boxes, tests = (of_layer(drawing, layer) for layer in ("CUT", "WEED", "TEST"))
    assert len(cuts) == len(boxes) == run["copies"]
    assert sorted(round(t.area, 1) for t in tests) == [round(math.pi * 16, 1), 144.0], (
        "a circle of 8 mm in a square of 12 mm"
    )
    layout = app.state.services.jobs.look(job).line.layout
    radius = _radius(app, job) + 1.0
    for place, cut in zip(
        layout.places, sorted(cuts, key=lambda c: (round(c.centroid.y), round(c.centroid.x))), strict=True
    ):
        size = layout.sorts[place.sort]
        assert cut.centroid.x == pytest.approx((place.x_um + size.width_um / 2) / 1000, abs=0.1)
        assert cut.centroid.y == pytest.approx((place.y_um + size.height_um / 2) / 1000, abs=0.1)
        assert cut.area == pytest.approx(math.pi * radius**2, rel=0.005)
    for box in boxes:
        assert all(t.disjoint(box) for t in tests)
    svg = counter.get(f"/api/runs/{run['id']}/cut.svg").text
    assert svg.count("<path") == len(cuts) + len(boxes) + len(tests)
    with pikepdf.open(io.BytesIO(counter.get(f"/api/runs/{run['id']}/run.pdf").content)) as pdf:
        assert pdf.pages[0].Resources.ColorSpace.Cut[1] == "/Cut"
        (intent,) = pdf.Root.OutputIntents
        meant = ImageCms.ImageCmsProfile(io.BytesIO(intent.DestOutputProfile.read_bytes()))
        assert (meant.profile.xcolor_space.strip(), intent.S) == ("CMYK", "/GTS_PDFX"), "what the inks' figures mean"


def _radius(app, job: str) -> float:
    """Of the disc, in mm, as it is printed: from the picture's own dots."""
    ctx = app.state.services.jobs.look(job).line
    spec = ctx.spec
    left, _, right, _ = spec.crop_px
    return 200 * (spec.width_um / 1000) / (right - left)


def test_marks_come_with_a_cutter_that_stands_apart_and_the_line_is_part_of_the_piece(counter):
    job = vinyl(counter)
    before = counter.job(job)
    counter.decide(job, "method", schools={**before["line"]["way"]["schools"], "cutting": "separate"})
    cut = next(b for b in counter.get("/api/today").json()["blocks"] if b["job"] == job and b["station"] == "cut")
    assert (cut["machine"], cut["name"][:4]) == ("turnstone", "Cut ")

    def retire(is_it: bool) -> None:
        counter.client.put("/api/machines/cutters/turnstone", json={"retired": is_it}, headers=counter.headers)

    retire(True)
    assert "no-cutter" in {f["code"] for s in counter.job(job)["line"]["stations"] for f in s["findings"]}
    retire(False)
    assert "no-cutter" not in {f["code"] for s in counter.job(job)["line"]["stations"] for f in s["findings"]}
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.follow(f"run-{run['id']}")
    drawing = ezdxf.read(io.StringIO(counter.get(f"/api/runs/{run['id']}/cut.dxf").text))
    marks = of_layer(drawing, "MARK")
    assert len(marks) == 3
    middle = np.mean([(m.centroid.x, m.centroid.y) for m in marks], axis=0)
    around = [(2 * middle[0] - m.centroid.x, 2 * middle[1] - m.centroid.y) for m in marks]
    assert not all(any(m.centroid.distance(m.centroid.__class__(p)) < 5 for m in marks) for p in around), (
        "turned half round they do not fall on themselves"
    )
    assert all(c.distance(m) >= 5 for c in of_layer(drawing, "CUT") for m in marks)
    counter.act(job, kind="printed", run=run["id"], count=run["copies"])
    # Its blade is looked after by how far it travelled.
    assert counter.get("/api/at-work/turnstone").json()["totals"]["cut_m"] == pytest.approx(run["copies"] * 0.24 * 1.5, rel=0.01)  # fmt: skip
    counter.decide(job, "sheet", cut_offset_um=3_000)
    assert any(s["state"] == "out of date" for s in counter.job(job)["line"]["stations"]), (
        "what was printed was cut otherwise"
    )


def test_what_cannot_be_cut_is_said(counter):
    job = vinyl(counter, gap_um=4_000, cut_offset_um=2_500)
    sheet = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "sheet")
    assert "cuts-meet" in {f["code"] for f in sheet["findings"]}
    counter.decide(job, "sheet", gap_um=8_000)
    assert counter.decide(job, "sheet", cut_offset_um=900_000).status_code == 422
    counter.decide(job, "sheet", cut_offset_um=-10_000)
    film = counter.order({"M": 1})
    counter.place(film, 60)
    assert counter.get(f"/api/jobs/{film}/cut").json() == []
    counter.plates(film)
    run = counter.release(film).json()["runs"][-1]
    assert counter.get(f"/api/runs/{run['id']}/cut.svg").json()["code"] == "nothing-to-cut"


def test_a_plain_shape_is_cut_and_the_prints_come_apart(counter):
    job = vinyl(counter, cut_shape="box", cut_through=True, cut_turns="against", gap_um=4_000)
    sheet = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "sheet")
    found = {f["code"]: f for f in sheet["findings"]}
    assert counter.decide(job, "sheet", **found["no-room-through"]["patch"]["changes"]).status_code == 200
    sheet = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "sheet")
    assert "no-room-through" not in {f["code"] for f in sheet["findings"]}
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.follow(f"run-{run['id']}")
    drawing = ezdxf.read(io.StringIO(counter.get(f"/api/runs/{run['id']}/cut.dxf").text))
    cuts, through = of_layer(drawing, "CUT"), of_layer(drawing, "THROUGH")
    assert len(cuts) == len(through) == run["copies"]
    for line in cuts:
        left, low, right, high = line.bounds
        assert line.area == pytest.approx((right - left) * (high - low), rel=1e-3), "a box, not the disc"
        assert sum(t.contains(line) for t in through) == 1
    assert all(a is b or a.disjoint(b) for a in through for b in through)
    layers = [e.dxf.layer for e in drawing.modelspace()]
    assert layers.index("THROUGH") > max(i for i, layer in enumerate(layers) if layer == "CUT"), "last of all"


@pytest.mark.parametrize("cutting", ["hand", "separate"])
def test_a_trimmed_paper_has_its_line_as_a_file_and_not_in_the_print(counter, cutting):
    made = counter.post("/api/blanks", json={"name": f"Plain tee, {cutting}", "kind": "cloth", "fibres": {"cotton": 1}, "colour": "#FCFCFA", "colour_name": "white",
                        "thickness_mm": 0.4, "scorch_c": 205, "price": "2.25", "sizes": {"M": {"width_mm": 400, "height_mm": 500}}}).json()["id"]  # fmt: skip
    job = counter.order(lines=[{"blank": made, "counts": {"M": 2}}])
    counter.decide(
        job, "place", file=counter.upload(png(disc(200, 400, (200, 60, 40)))).json()["file"], width_um=60_000
    )
    way = counter.get(f"/api/jobs/{job}/advice").json()["ways"]["toner-trim"]
    assert counter.decide(job, "method", 0, **{**way, "schools": {"cutting": cutting}}).status_code == 200
    prepared = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "prepare")["drawing"]["stages"]
    assert [s["id"] for s in prepared] == ["trim" if cutting == "hand" else "cut"]
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.follow(f"run-{run['id']}")
    drawing = ezdxf.read(io.StringIO(counter.get(f"/api/runs/{run['id']}/cut.dxf").text))
    assert len(of_layer(drawing, "CUT")) == run["copies"]
    assert len(of_layer(drawing, "MARK")) == (3 if cutting == "separate" else 0)
    assert of_layer(drawing, "WEED") == []
    with pikepdf.open(io.BytesIO(counter.get(f"/api/runs/{run['id']}/run.pdf").content)) as pdf:
        assert b"/Cut CS" not in pdf.pages[0].Contents.read_bytes(), "a line that is printed would be transferred"


def test_crop_marks_stand_in_line_with_every_print_and_in_none(app, counter):
    drawn = {}
    for with_marks in (False, True):
        job = counter.order({"M": 4})
        counter.place(job, 60)
        counter.decide(job, "sheet", crop_marks=with_marks, spares=0)
        counter.plates(job)
        run = counter.release(job).json()["runs"][-1]
        counter.follow(f"run-{run['id']}")
        page = pdfium.PdfDocument(counter.get(f"/api/runs/{run['id']}/run.pdf").content)[0]
        drawn[with_marks] = np.asarray(page.render(scale=DPMM * 25.4 / 72, grayscale=True).to_numpy()).squeeze()
    layout = app.state.services.jobs.look(job).line.layout
    added = drawn[False].astype(int) - drawn[True]
    long_mm = layout.cut_lengths_um[0] / 1000

    def dark(x_mm: float, y_mm: float) -> bool:
        """Near a point in mm from the left and from the leading edge, something is printed that is not without marks."""
        row, column = round((long_mm - y_mm) * DPMM), round(x_mm * DPMM)
        return added[row - 2 : row + 3, column - 2 : column + 3].max() > 60

    for place in (p for p in layout.places if p.cut == 1):
        size = layout.sorts[place.sort]
        left, low = place.x_um / 1000, place.y_um / 1000
        right, up = left + size.width_um / 1000, low + size.height_um / 1000
        for x, away_x in ((left, -1), (right, 1)):
            for y, away_y in ((low, -1), (up, 1)):
                assert dark(x + away_x * 2.5, y)
                assert dark(x, y + away_y * 2.5)
                assert not dark(x - away_x * 2, y - away_y * 2), "nothing inside the print"
