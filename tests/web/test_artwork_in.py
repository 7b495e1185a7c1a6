"""What comes in: accepted with a finding, or refused in three parts; decoded in a process of its own."""

import io
import json
import struct
import zlib

import numpy as np
import pytest
from PIL import Image, ImageChops, ImageCms, ImageDraw, ImageFont

from offsetter.intake.names import FONT
from tests.core.shapes import disc
from tests.web.conftest import png
from tests.web.test_decisions import parts


def saved(image: Image.Image, kind: str, **options) -> bytes:
    data = io.BytesIO()
    image.save(data, kind, **options)
    return data.getvalue()


def chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def png_header(width: int, height: int, bits: int = 8, kind: int = 6) -> bytes:
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, bits, kind, 0, 0, 0))


def png16() -> bytes:
    rows = b"".join(b"\0" + struct.pack(">HHHH", 40000, 20000, 100, 65535) * 64 for _ in range(64))
    return png_header(64, 64, 16) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


def bomb() -> bytes:
    return png_header(30_000, 30_000) + chunk(b"IDAT", zlib.compress(b"\0" * 10_000_000)) + chunk(b"IEND", b"")


def animated(kind: str) -> bytes:
    frames = [Image.new("RGBA", (64, 64), (200, i * 60, 40, 255)) for i in range(3)]
    return saved(frames[0], kind, save_all=True, append_images=frames[1:], duration=100, lossless=True)


def turned() -> bytes:
    exif = Image.Exif()
    exif[0x0112] = 6
    return saved(Image.new("RGB", (120, 80), (200, 60, 40)), "JPEG", exif=exif)


def odd_profile() -> bytes:
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
    return saved(Image.new("RGB", (64, 64), (200, 60, 40)), "PNG", icc_profile=lab)


def broken_profile() -> bytes:
    return saved(Image.new("RGB", (64, 64), (200, 60, 40)), "PNG", icc_profile=b"not a profile at all")


ACCEPTED = {
    "16-bit PNG": (png16, "a.png", "sixteen-bit"),
    "CMYK JPEG": (lambda: saved(Image.new("CMYK", (64, 64), (200, 40, 20, 10)), "JPEG"), "a.jpg", "cmyk-unnamed"),
    "one pixel": (lambda: png(np.full((1, 1, 4), 255, np.uint8)), "a.png", "tiny"),
    "embedded odd profile": (odd_profile, "a.png", "odd-profile"),
    "embedded broken profile": (broken_profile, "a.png", "odd-profile"),
    "EXIF turned": (turned, "a.jpg", "turned"),
    "animated WebP": (lambda: animated("WEBP"), "a.webp", "first-frame"),
    "animated PNG": (lambda: animated("PNG"), "a.png", "first-frame"),
}
REFUSED = {
    "fully transparent": (lambda: png(np.zeros((64, 64, 4), np.uint8)), "a.png", "nothing-visible"),
    "empty": (lambda: b"", "a.png", "empty-file"),
    "text named .png": (lambda: b"dear printer, the logo is blue" * 40, "logo.png", "not-a-picture"),
    "truncated": (lambda: png(disc(80, 200))[:900], "a.png", "broken-file"),
    "truncated JPEG": (lambda: turned()[:300], "a.jpg", "broken-file"),
    "a bomb of 30,000 x 30,000": (bomb, "a.png", "too-many-pixels"),
    "a web page": (lambda: b"<!doctype html><html><body>our logo</body></html>", "a.svg", "not-a-picture"),
}


@pytest.mark.parametrize("what", ACCEPTED)
def test_it_is_accepted_with_a_finding(counter, what):
    make, name, code = ACCEPTED[what]
    answer = counter.upload(make(), name)
    assert answer.status_code == 201, answer.text
    job = counter.order()
    seen = counter.decide(job, "place", file=answer.json()["file"]).json()
    artwork = next(s for s in seen["line"]["stations"] if s["station"] == "artwork")
    assert code in {f["code"] for f in artwork["findings"]}
    assert {f["code"] for f in artwork["findings"] if f["why"] == ""} == set()


@pytest.mark.parametrize("what", REFUSED)
def test_it_is_refused_in_three_parts(counter, what):
    make, name, code = REFUSED[what]
    answer = counter.upload(make(), name)
    assert answer.status_code == 409, answer.text
    parts(answer)
    assert answer.json()["code"] == code


def test_exif_turn_is_applied(counter):
    assert counter.upload(turned(), "a.jpg").json()["pixels"] == [80, 120]


@pytest.mark.parametrize(("kind", "name"), [("PNG", "a.png"), ("TIFF", "a.tif"), ("WEBP", "a.webp")])
def test_the_same_picture_is_the_same_in_every_format(counter, kind, name):
    rgba = disc(80, 200, (40, 120, 200))
    rgba[rgba[..., 3] == 0] = 0
    options = {"lossless": True, "exact": True} if kind == "WEBP" else {}
    seen = counter.upload(saved(Image.fromarray(rgba), kind, **options), name).json()
    assert seen["pixels"] == [200, 200]
    assert seen["content_px"] == counter.upload(png(rgba)).json()["content_px"]


def test_a_wide_colour_space_becomes_srgb(tmp_path):
    from offsetter.intake.decode import decode

    # Linear-light primaries of another space: the same numbers are another colour.
    wide = ImageCms.ImageCmsProfile(ImageCms.createProfile("XYZ")).tobytes()
    data = saved(Image.new("RGB", (32, 32), (120, 60, 40)), "TIFF", icc_profile=wide)
    (tmp_path / "a.tif").write_bytes(data)
    picture = decode(tmp_path / "a.tif", "a.tif")
    assert "odd-profile" in {f.code for f in picture.notes} or "converted" in {f.code for f in picture.notes}
    assert picture.profile


def test_a_page_is_chosen_its_facts_follow_and_a_page_that_is_not_there_is_refused(counter):
    from tests.outside.test_drawings import pdf

    file = counter.upload(pdf(), "logo.pdf").json()["file"]
    job = counter.order()
    first = counter.decide(job, "place", file=file).json()
    second = counter.decide(job, "place", page=2).json()
    wide = [
        next(s for s in seen["line"]["stations"] if s["station"] == "artwork")["drawing"]["content_px"]
        for seen in (first, second)
    ]
    assert wide[0] != wide[1]
    assert second["line"]["stations"][0]["drawing"]["pages"] == 2
    art = counter.get(second["line"]["pictures"]["art"])
    assert art.status_code == 200
    refused = counter.decide(job, "place", page=3)
    assert refused.json()["code"] == "no-such-page"
    assert counter.job(job)["line"]["decisions"]["place"]["page"] == 2
    counter.plates(job)
    assert counter.release(job).status_code == 201


def artwork_of(seen: dict) -> tuple[set[str], dict]:
    station = next(s for s in seen["line"]["stations"] if s["station"] == "artwork")
    return {f["code"] for f in station["findings"]}, station["drawing"]


def boxed(ground: tuple[int, int, int]) -> bytes:
    """A blue disc on a flat ground that goes to the file's edge."""
    picture = Image.new("RGB", (600, 600), ground)
    ImageDraw.Draw(picture).ellipse((150, 150, 449, 449), fill=(30, 60, 200))
    return saved(picture, "PNG")


def test_a_fix_is_a_decision_it_holds_for_the_next_file_and_is_undone(counter):
    job = counter.order()
    white, grey = (counter.upload(boxed(c), f"{c[0]}.png").json()["file"] for c in ((255,) * 3, (180,) * 3))
    found, _ = artwork_of(counter.decide(job, "place", file=white).json())
    assert "background-box" in found
    found, drawing = artwork_of(counter.decide(job, "artwork", fixes={"ground": 8}).json())
    assert "background-box" not in found
    assert "fixed-ground" in found
    assert drawing["crop_px"] == [150, 150, 450, 450]
    found, drawing = artwork_of(counter.decide(job, "place", file=grey).json())
    assert "background-box" not in found
    assert drawing["crop_px"] == [150, 150, 450, 450]
    counter.plates(job)
    counter.post(f"/api/jobs/{job}/undo")
    counter.post(f"/api/jobs/{job}/undo")
    found, drawing = artwork_of(counter.job(job))
    assert "background-box" in found
    assert drawing["crop_px"] == [0, 0, 600, 600]
    assert counter.decide(job, "artwork", fixes={"ground": 500}).status_code == 422


def unmarked_cmyk(inks: tuple[int, int, int, int], counts_inverted: bool) -> bytes:
    """A JPEG of four inks without the marker that says which way they count. Pillow always writes them inverted."""
    picture = Image.new("CMYK", (400, 300), (0, 0, 0, 0))
    picture.paste(inks, (50, 50, 350, 250))
    data = saved(picture if counts_inverted else ImageChops.invert(picture), "JPEG", quality=98)
    at = data.index(b"\xff\xee")
    return data[:at] + data[at + 2 + int.from_bytes(data[at + 2 : at + 4], "big") :]


def test_a_jpeg_that_counts_its_inks_the_other_way_is_turned_round_with_one_fix(counter):
    """Both ways of counting occur in real files; which one it is, only the eye can say."""
    inverted, straight = (
        counter.upload(unmarked_cmyk((200, 30, 0, 10), way), "a.jpg").json()["file"] for way in (True, False)
    )

    def middle(seen) -> np.ndarray:
        art = Image.open(io.BytesIO(counter.get(seen["line"]["pictures"]["art"]).content)).convert("RGB")
        return np.asarray(art)[art.height // 2, art.width // 2].astype(int)

    right = counter.order()
    blue = middle(counter.decide(right, "place", file=inverted).json())
    assert blue[2] > blue[0] + 60
    job = counter.order()
    seen = counter.decide(job, "place", file=straight).json()
    assert np.abs(middle(seen) - blue).max() > 60
    caution = next(f for s in seen["line"]["stations"] for f in s["findings"] if f["code"] == "cmyk-inverted")
    fixed = counter.decide(job, "artwork", **caution["patch"]["changes"]).json()
    assert np.abs(middle(fixed) - blue).max() <= 3
    assert "cmyk-inverted" not in artwork_of(fixed)[0]


def test_lettering_is_read_off_the_request_and_said_in_the_line(counter):
    picture = Image.new("RGBA", (1200, 300))
    ImageDraw.Draw(picture).text((40, 60), "Quiet harbuor", font=ImageFont.truetype(FONT, 150), fill=(30, 60, 120))
    backwards = saved(picture.transpose(Image.Transpose.FLIP_LEFT_RIGHT), "PNG")
    job = counter.order()
    assert counter.post(f"/api/jobs/{job}/lettering").json()["code"] == "no-artwork"
    counter.decide(job, "place", file=counter.upload(backwards, "a.png").json()["file"])
    assert artwork_of(counter.job(job))[1]["lettering"] is None
    work = counter.post(f"/api/jobs/{job}/lettering")
    assert work.status_code == 202
    counter.follow(work.json()["key"])
    found, drawing = artwork_of(counter.job(job))
    assert drawing["lettering"] == {"text": "Quiet harbuor", "mirrored": True, "misspelt": ["harbuor"]}
    assert {"reads", "reads-backwards", "spelling"} <= found


def test_a_worn_pictures_own_holes_are_said_at_artwork_and_again_at_inspect(counter):
    rgba = disc(180, 400, (40, 120, 200))
    rgba[100:300:20, 100:300:20, 3] = 0
    seen = counter.decide(counter.order(), "place", file=counter.upload(png(rgba)).json()["file"]).json()
    said = {
        s["station"]: [f["message"] for f in s["findings"] if f["code"] == "own-holes"]
        for s in seen["line"]["stations"]
    }
    assert said["artwork"] == said["inspect"] == ["100 holes under 2 mm² belong to the picture"]


def followed(counter, key: str) -> list[dict]:
    """Every event of a work, to its last."""
    with counter.client.stream("GET", f"/api/long-work/{key}/events", headers=counter.headers) as events:
        return [json.loads(line[5:]) for line in events.iter_lines() if line.startswith("data:")]


def begun(counter, job: str, data: bytes, name: str = "art.png"):
    return counter.client.post(f"/api/jobs/{job}/artworks", files={"file": (name, data)}, headers=counter.headers)


def test_a_header_is_said_at_once_and_findings_as_they_are_found(counter):
    job = counter.order()
    counter.decide(job, "place", width_um=100_000)
    art = disc(300, 700, (40, 120, 200))
    art[345:351, 100:600, 3] = 0
    art[100:600:11, 340:344, 3] = 0
    said = begun(counter, job, png(art)).json()
    assert (said["header"]["pixels"], said["header"]["kind"], said["header"]["mode"]) == ([700, 700], "PNG", "RGBA")
    assert said["ppi"] == pytest.approx(700 / 100 * 25.4)
    events = followed(counter, said["key"])
    assert events[-1]["stage"] == "done"
    looks = [e for e in events if e["whole"]]
    found = [(e["done"], s) for e in looks for s in e["said"]]
    assert len({at for at, _ in found}) > 1, "not all in one go"
    assert counter.decide(job, "place", file=said["file"]).status_code == 200
    station = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "artwork")
    assert {s for _, s in found} == {f["message"] for f in station["findings"]}, "what was said is what stands there"
    assert begun(counter, job, png(art)).json()["key"] is None, "the picture is known: nothing to wait for"


@pytest.mark.parametrize(
    ("data", "name", "kind", "pages"),
    [(lambda: saved(Image.new("CMYK", (90, 60)), "JPEG", dpi=(200, 200)), "a.jpg", "JPEG", 1), (lambda: two_pages(), "a.pdf", "PDF", 2),
     (lambda: b"<svg xmlns='http://www.w3.org/2000/svg' width='10' height='10'><rect width='5' height='5'/></svg>", "a.svg", "SVG", 1),
     (lambda: b"no picture at all", "a.png", "", 1)],
)  # fmt: skip
def test_a_header_of_every_kind(counter, data, name, kind, pages):
    job = counter.order()
    said = begun(counter, job, data(), name).json()
    assert (said["header"]["kind"], said["header"]["pages"]) == (kind, pages)
    last = followed(counter, said["key"])[-1]
    if not kind:
        assert last["stage"] == "failed"
        assert all(last["problem"][part] for part in ("happened", "kept", "to_do"))


def two_pages() -> bytes:
    pages = [Image.new("RGB", (100, 140), colour) for colour in ("red", "blue")]
    return saved(pages[0], "PDF", save_all=True, append_images=pages[1:])


def test_a_coarse_picture_is_enlarged_by_one_fix_and_says_so(counter):
    job = counter.order()
    file = counter.upload(png(disc(60, 150, (40, 120, 200)))).json()["file"]
    counter.decide(job, "place", file=file, width_um=60_000)

    def artwork():
        return next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "artwork")

    fix = next(f for f in artwork()["findings"] if f["code"] == "enlarge")
    assert counter.decide(job, "artwork", **fix["patch"]["changes"]).status_code == 200
    now = artwork()
    assert now["verdict"].startswith("Enlarged 4 times")
    assert int(now["verdict"].split()[-1]) < 60, "the file's own detail is not hidden"
    assert "coarse" not in {f["code"] for f in now["findings"]}
    undo = next(f for f in now["findings"] if f["code"] == "fixed-enlarge")
    counter.decide(job, "artwork", **undo["patch"]["changes"])
    assert "coarse" in {f["code"] for f in artwork()["findings"]}


def test_a_worn_pictures_holes_are_marked_where_they_are(counter):
    art = disc(170, 400, (40, 120, 200))
    holes = [(150, 150), (200, 230), (260, 180)]
    for x, y in holes:
        art[y : y + 4, x : x + 4, 3] = 0
    job = counter.order()
    counter.decide(job, "place", file=counter.upload(png(art)).json()["file"], width_um=60_000)
    line = counter.job(job)["line"]
    left, top, right, bottom = next(s for s in line["stations"] if s["station"] == "artwork")["drawing"]["content_px"]
    mask = np.asarray(Image.open(io.BytesIO(counter.get(line["pictures"]["holes"]).content)))
    scale = mask.shape[1] / (right - left)
    for x, y in holes:
        assert mask[round((y + 2 - top) * scale), round((x + 2 - left) * scale)] == 255
    assert (mask > 0).mean() == pytest.approx(3 * 16 / ((right - left) * (bottom - top)), rel=0.3)


def test_a_fix_is_tried_on_the_picture_before_it_is_decided(counter):
    job = counter.order()
    assert counter.post(f"/api/jobs/{job}/artworks/fixed", json={}).json()["key"] == "", (
        "no picture, nothing to wait for"
    )
    boxed = np.asarray(
        Image.alpha_composite(Image.new("RGBA", (500, 500), "white"), Image.fromarray(disc(160, 500, (40, 120, 200))))
    )
    counter.decide(job, "place", file=counter.upload(png(boxed)).json()["file"], width_um=60_000)

    def found():
        station = next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "artwork")
        return {f["code"]: f for f in station["findings"]}

    patch = found()["background-box"]["patch"]["changes"]
    began = counter.post(f"/api/jobs/{job}/artworks/fixed", json=patch).json()
    events = followed(counter, began["key"])
    assert events[-1]["stage"] == "done"
    said = [s for e in events for s in e["said"]]
    assert "The flat ground is taken out" in said
    assert not any("flat ground (" in s for s in said), "what is said is of the picture as it will be"
    assert "background-box" in found(), "nothing is decided yet"
    assert counter.decide(job, "artwork", **patch).status_code == 200
    assert "background-box" not in found()
    assert counter.post(f"/api/jobs/{job}/artworks/fixed", json=patch).json()["key"] == ""
    # Another file of the same job is looked at with what was decided for it.
    again = begun(counter, job, png(boxed[20:-20, 20:-20])).json()
    assert "The flat ground is taken out" in [s for e in followed(counter, again["key"]) for s in e["said"]]
