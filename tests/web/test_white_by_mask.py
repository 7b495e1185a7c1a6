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
