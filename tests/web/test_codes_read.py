"""Codes on labels and screens, read back by a reader that shares nothing with what drew them (OpenCV)."""

import cv2
import numpy as np
import pypdfium2
import pytest
import resvg_py

from tests.web.conftest import Counter


def read(picture: np.ndarray) -> set[str]:
    # The older detector of the two misses one code in twelve at one resolution or another, this one none of 290.
    ok, texts, _, _ = cv2.QRCodeDetectorAruco().detectAndDecodeMulti(picture)
    return {t for t in texts if t} if ok else set()


def test_every_label_of_a_run_carries_its_code_for_a_camera(counter: Counter):
    job = counter.order({"S": 2, "M": 1})
    counter.place(job, 60)
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    counter.follow(f"run-{run['id']}")
    pdf = pypdfium2.PdfDocument(counter.get(f"/api/runs/{run['id']}/run.pdf").content)
    found = set()
    for page in pdf:
        # As a tablet sees it from a hand's breadth away.
        seen = np.squeeze(page.render(scale=500 / 72, grayscale=True).to_numpy())
        for at in range(0, seen.shape[1], 700):
            found |= read(np.ascontiguousarray(seen[:, max(0, at - 250) : at + 950]))
    assert found == {f"R{run['number']}-{n}" for n in range(1, run["copies"] + 1)}


@pytest.mark.parametrize("code", ["R1", "R12-7", "R123456789-123456"])
def test_a_code_on_the_screen_reads_as_itself(counter: Counter, code: str):
    svg = counter.get(f"/api/codes/{code}/qr.svg").text
    png = bytes(resvg_py.svg_to_bytes(svg_string=svg, width=300))
    assert read(cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_GRAYSCALE)) == {code}


def test_only_codes_are_drawn(counter: Counter):
    assert counter.get("/api/codes/https:--elsewhere/qr.svg").status_code == 422


def test_a_ticket_says_what_hands_need_and_its_code_opens_the_job(counter: Counter):
    job = counter.order({"S": 2, "M": 1}, title="Ticket tees", customer="Mill Street Bakery")
    assert counter.get(f"/api/jobs/{job}/ticket.pdf").json()["code"] == "no-artwork"
    counter.place(job, 60)
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    pdf = pypdfium2.PdfDocument(counter.as_person("Visitor").get(f"/api/jobs/{job}/ticket.pdf").content)
    said = " ".join(" ".join(page.get_textpage().get_text_range() for page in pdf).split())
    stages = [s for s in counter.job(job)["line"]["stations"] if s["station"] in ("prepare", "press")]
    for stage in (s for station in stages for s in station["drawing"]["stages"]):
        assert stage["name"] in said
    for words in (
        "Ticket tees",
        "Mill Street Bakery",
        "3 pieces",
        f"R{run['number']}",
        "Petrel",
        "the printer's own OFF",
        "160 °C (320 °F)",
    ):
        assert words in said
    seen = np.squeeze(pdf[0].render(scale=300 / 72, grayscale=True).to_numpy())
    (code,) = read(np.ascontiguousarray(seen[: seen.shape[0] // 5]))
    found = counter.get("/api/find", params={"words": code}).json()
    assert [(f["kind"], f["id"]) for f in found] == [("job", job)]
