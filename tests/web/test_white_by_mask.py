"""White by a picture of its own: seen on the bench, made at full size, refused where it does not cover the artwork."""

import io
import zipfile

import cv2
import numpy as np
import tifffile

from tests.web.conftest import png
from tests.web.test_methods import station


def test_white_lies_where_its_own_picture_is_light_and_is_mirrored_with_the_print(app, counter):
    job = counter.order()
    art = np.zeros((400, 500, 4), np.uint8)
    art[50:350, 50:450] = (200, 60, 40, 255)  # what is printed is cropped: the mask is cropped with it
    counter.decide(job, "place", file=counter.upload(png(art)).json()["file"], width_um=40_000)
    mask = np.zeros((800, 1000, 4), np.uint8)
    mask[..., 3] = 255
    mask[:, :500, :3] = 255  # the left half, as it is worn
    white = counter.upload(png(mask), "white.png").json()["file"]
    before = station(counter.job(job), "white")
    assert counter.decide(job, "white", mask=white, choke_um=0).status_code == 200
    seen = counter.job(job)
    assert "white-by-mask" in {f["code"] for f in station(seen, "white")["findings"]}
    assert "white-by-mask" not in {f["code"] for f in before["findings"]}
    shown = cv2.imdecode(
        np.frombuffer(counter.get(seen["line"]["pictures"]["white"]).content, np.uint8), cv2.IMREAD_UNCHANGED
    )
    plate = shown[..., -1] if shown.ndim == 3 else shown
    half = plate.shape[1] // 2
    assert plate[:, : half - 2].min() > 250
    assert plate[:, half + 2 :].max() < 5

    counter.plates(job)
    spec = app.state.services.jobs.look(job).line.spec
    made = tifffile.imread(app.state.services.runs.plate_file(spec.key, "print.tif"))
    whites, middle = made[..., 4], made.shape[1] // 2
    assert spec.mirrored
    assert whites[:, middle + 2 :].min() > 250, "mirrored with its print"
    assert whites[:, : middle - 2].max() < 5
    assert made[..., :4].any(axis=2).all(), "the colour is whole"
    assert counter.decide(job, "white", mask_dark=True).status_code == 200
    assert app.state.services.jobs.look(job).line.spec.key != spec.key

    parts = zipfile.ZipFile(io.BytesIO(counter.get(f"/api/jobs/{job}/file.zip").content)).namelist()
    assert any(white in name for name in parts), "the job's file carries it"
    square = counter.upload(png(np.full((300, 300, 4), 255, np.uint8)), "square.png").json()["file"]
    refused = counter.decide(job, "white", mask=square)
    assert (refused.status_code, refused.json()["code"]) == (409, "mask-shape")
    assert counter.decide(job, "white", mask="f" * 32).status_code == 404


def test_the_white_that_a_file_brings_is_used_unless_somebody_says_otherwise(app, counter):
    """A separated picture with an ink of the customer's own called White: it lies where that has it, at full size and mirrored."""
    planes = np.zeros((300, 400, 5), np.uint8)
    planes[50:250, 50:350, 1:3] = 255
    planes[50:250, 50:200, 4] = 255
    told, data = "".join(f"{n}\0" for n in ("Cyan", "Magenta", "Yellow", "Black", "White")), io.BytesIO()
    tags = [(332, 3, 1, 1, True), (334, 3, 1, 5, True), (333, 2, len(told), told, True)]
    tifffile.imwrite(data, planes, photometric="separated", extrasamples=[0], extratags=tags, metadata=None)
    job = counter.order()
    file = counter.upload(data.getvalue(), "badge.tif").json()["file"]
    assert counter.decide(job, "place", file=file, width_um=40_000).status_code == 200
    seen = station(counter.job(job), "white")
    assert (seen["drawing"]["by"], seen["drawing"]["own_white"]) == ("file", "White")
    assert "“White”" in next(f["message"] for f in seen["findings"] if f["code"] == "white-by-file")
    assert "as the file has it" in seen["sub"]
    counter.decide(job, "white", choke_um=0)
    counter.plates(job)
    spec = app.state.services.jobs.look(job).line.spec
    whites = tifffile.imread(app.state.services.runs.plate_file(spec.key, "print.tif"))[..., 4]
    middle = whites.shape[1] // 2
    assert spec.mirrored
    assert whites[:, middle + 3 :].min() > 250
    assert whites[:, : middle - 3].max() < 5
    # Otherwise decided, what the file brings is kept in view.
    assert counter.decide(job, "white", own=False).status_code == 200
    seen = station(counter.job(job), "white")
    assert seen["drawing"]["by"] == "level"
    patch = next(f["patch"] for f in seen["findings"] if f["code"] == "own-white-unused")
    assert counter.decide(job, "white", **patch["changes"]).status_code == 200
    assert station(counter.job(job), "white")["drawing"]["by"] == "file"


def test_white_under_the_lights_alone_follows_the_lightness_above_where_they_begin(counter):
    """Against the published formula: L* (CIE 15) of grey steps, white rising in a straight line from L* 50 to 100."""
    steps = np.linspace(0, 255, 12).astype(np.uint8)
    art = np.full((120, 12 * 40, 4), 255, np.uint8)
    art[..., :3] = np.repeat(steps, 40)[None, :, None]
    job = counter.order()
    counter.decide(job, "place", file=counter.upload(png(art)).json()["file"], width_um=120_000)
    everything = {"choke_um": 0, "knock_out": False, "faint": "keep", "guard": False}
    assert counter.decide(job, "white", **everything, level_pct=0).status_code == 200
    before = {r["key"]: r["value"] for r in counter.job(job)["line"]["readings"]}["white"]
    assert counter.decide(job, "white", **everything, lights_from=50).status_code == 200
    seen = counter.job(job)
    shown = cv2.imdecode(np.frombuffer(counter.get(seen["line"]["pictures"]["white"]).content, np.uint8), cv2.IMREAD_UNCHANGED)  # fmt: skip
    plate = (shown[..., -1] if shown.ndim == 3 else shown)[shown.shape[0] // 2]
    linear = np.where(steps / 255 <= 0.04045, steps / 255 / 12.92, ((steps / 255 + 0.055) / 1.055) ** 2.4)
    lightness = np.where(linear > (6 / 29) ** 3, 116 * np.cbrt(linear) - 16, linear * 24389 / 27)
    wanted = np.clip((lightness - 50) / 50, 0, 1) * 255
    found = [int(plate[round((i + 0.5) / 12 * len(plate))]) for i in range(12)]
    assert np.abs(np.array(found) - wanted).max() <= 2
    assert {r["key"]: r["value"] for r in seen["line"]["readings"]}["white"] < before
    assert station(seen, "white")["drawing"]["by"] == "lights"
    assert counter.decide(job, "white", lights_from=99).status_code == 422
