"""Nozzle checks over the API: a printer's own sheet, its scan, the ladder, and scans of something else."""

import io

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image
from standins.scanner import scanned

from tests.web.conftest import Counter, png


@pytest.fixture
def sheet(counter: Counter) -> np.ndarray:
    answer = counter.get("/api/nozzles/petrel/sheet.png")
    assert answer.status_code == 200, answer.text
    picture = Image.open(io.BytesIO(answer.content))
    assert [round(v) for v in picture.info["dpi"]] == [600, 600]
    return np.asarray(picture.convert("RGB"))


def scan(counter: Counter, printed: np.ndarray, name: str = "scan.png", printer: str = "petrel"):
    data = cv2.imencode(".png", scanned(printed, 600, 300, 3, skew_deg=0.7)[:, :, ::-1])[1].tobytes()
    return counter.client.post(f"/api/nozzles/{printer}/scans", files={"file": (name, data)}, headers=counter.headers)


def without(sheet: np.ndarray, counter: Counter, lines: dict[str, list[int]]) -> np.ndarray:
    from offsetter.core.compute.nozzles import sheet_for

    made, rows = sheet.copy(), {r.channel: r.lines_mm for r in sheet_for(("C", "M", "Y", "K", "W"), 96, "petrel").rows}
    for channel, numbers in lines.items():
        for n in numbers:
            x, y = (round(v / 25.4 * 600) for v in rows[channel][n - 1])
            made[y - 2 : y + 4, x - 2 : x + 76] = made[y - 6, x]
    return made


def test_a_check_leads_up_the_ladder_and_then_to_rest(counter: Counter, sheet: np.ndarray):
    first = counter.get("/api/nozzles/petrel").json()
    assert (first["channels"], first["next"]["said"]) == (["C", "M", "Y", "K", "W"], "Print a nozzle sheet")
    spoiled = without(sheet, counter, {"M": [7], "W": [90, 91]})
    for rung in ("light", "normal", "strong"):
        seen = scan(counter, spoiled).json()
        assert seen["history"][-1]["missing"] == {"C": [], "M": [7], "Y": [], "K": [], "W": [90, 91]}
        assert seen["next"]["rung"]["id"] == rung
        assert "3 lines of 480 are missing" in seen["next"]["why"]
        cleaned = counter.client.post("/api/nozzles/petrel/cleanings", json={"cleaning": rung}, headers=counter.headers)
        assert cleaned.json()["next"]["said"] == "Print a nozzle sheet again"
    rest = scan(counter, spoiled).json()["next"]
    assert (rest["rung"], rest["said"][:10]) == (None, "Let it res")
    picture = counter.get("/api/nozzles/petrel").json()["history"][-1]["picture"]
    assert counter.get(f"/api/photos/{picture}.jpg").headers["content-type"] == "image/jpeg"
    assert scan(counter, sheet).json()["next"]["said"] == "All nozzles print"
    assert [c["kind"] for c in counter.get("/api/nozzles/petrel").json()["history"]] == ["check", "cleaning"] * 3 + ["check", "check"]  # fmt: skip


def test_the_plates_carry_each_line_in_its_own_ink(counter: Counter):
    data = counter.get("/api/nozzles/petrel/sheet.tif").content
    planes = tifffile.imread(io.BytesIO(data))
    assert planes.shape[2] == 5
    solid = [(planes[:, :, c] > 250).sum() for c in range(5)]
    # Each ink prints 96 lines of 3 mm by two dots and a patch of 4 mm; black carries marks and grounds besides.
    ink = 96 * 71 * 2 + 94 * 94
    assert all(s == pytest.approx(ink, rel=0.02) for s in (solid[0], solid[1], solid[2], solid[4]))
    assert solid[3] > ink


def test_a_scan_of_something_else_is_refused_and_nothing_is_kept(counter: Counter, sheet: np.ndarray):
    before = len(counter.get("/api/nozzles/petrel").json()["history"])

    def refused(answer) -> str:
        assert answer.status_code in (409, 422, 404), answer.text
        return answer.json()["code"]

    blank = png(np.full((500, 400, 4), 255, np.uint8))
    for data, code in ((blank, "no-marks"), (b"", "bad-scan"), (b"GIF89a nothing", "not-a-picture")):
        answer = counter.client.post("/api/nozzles/petrel/scans", files={"file": ("x.png", data)}, headers=counter.headers)  # fmt: skip
        assert refused(answer) == code
    small = cv2.resize(sheet, None, fx=0.25, fy=0.25, interpolation=cv2.INTER_AREA)
    soft = cv2.GaussianBlur(sheet, (0, 0), 5)
    for printed, code in ((small, "too-coarse"), (soft, "too-weak")):
        data = cv2.imencode(".png", printed[:, :, ::-1])[1].tobytes()
        answer = counter.client.post("/api/nozzles/petrel/scans", files={"file": ("x.png", data)}, headers=counter.headers)  # fmt: skip
        assert refused(answer) == code
    assert refused(scan(counter, sheet, printer="shearwater")) in ("wrong-sheet", "no-marks")
    assert refused(counter.get("/api/nozzles/dunlin/sheet.png")) == "no-nozzles"
    assert counter.get("/api/nozzles/dunlin").json()["channels"] == []
    assert refused(counter.get("/api/nozzles/nobody")) == "no-such-printer"
    assert len(counter.get("/api/nozzles/petrel").json()["history"]) == before
