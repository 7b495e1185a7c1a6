"""A label held before the tablet's camera opens its run: a real browser with a camera that sees a picture of ours."""

import re
import shutil

import cv2
import numpy as np
import resvg_py
from playwright.sync_api import Browser, expect

from tests.browser.conftest import ARGUMENTS, audit, screen
from tests.served import Server
from tests.web.conftest import Counter


def camera_that_sees(svg: str, path) -> None:
    """Some frames as YUV4MPEG2: the code, turned a little and not filling the picture, as a hand holds it."""
    png = bytes(resvg_py.svg_to_bytes(svg_string=svg, width=260))
    code = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_GRAYSCALE)
    frame = np.full((480, 640), 190, np.uint8)
    high, wide = code.shape
    frame[100 : 100 + high, 180 : 180 + wide] = code
    turn = cv2.getRotationMatrix2D((320, 240), 7, 1.0)
    frame = cv2.GaussianBlur(cv2.warpAffine(frame, turn, (640, 480), borderValue=190), (0, 0), 0.8)
    grey = np.full(640 * 480 // 2, 128, np.uint8).tobytes()
    with path.open("wb") as out:
        out.write(b"YUV4MPEG2 W640 H480 F10:1 Ip A1:1 C420jpeg\n")
        for _ in range(10):
            out.write(b"FRAME\n" + frame.tobytes() + grey)


def test_the_camera_reads_a_label_and_opens_how_it_was_made(
    browser: Browser, server: Server, counter: Counter, tmp_path
):
    job = counter.order({"S": 2}, title="Seen by camera")
    counter.printed(job)
    run = counter.job(job)["runs"][-1]
    code = f"R{run['number']}-1"
    camera_that_sees(counter.get(f"/api/codes/{code}/qr.svg").text, tmp_path / "camera.y4m")
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    eyes = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream", f"--use-file-for-fake-video-capture={tmp_path / 'camera.y4m'}"]  # fmt: skip
    own = browser.browser_type.launch(executable_path=path, args=[*ARGUMENTS, *eyes])
    try:
        page = screen(own, server, counter.cookie)
        page.context.grant_permissions(["camera"])
        page.goto("/codes")
        look = page.get_by_role("button", name="Use the camera")
        expect(look).to_be_visible()
        assert audit(page) == []
        look.click()
        expect(page).to_have_url(re.compile(f"/codes/{code}$"))
        expect(page.get_by_role("heading", level=1)).to_have_text(f"{code}: Seen by camera")
        assert page.wrong == [], page.wrong
    finally:
        own.close()
