"""A file comes in: its header at once, its findings as they are found, each put right by its letter."""

import re

import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.conftest import audit
from tests.core.shapes import disc
from tests.web.conftest import Counter, png


def worn() -> bytes:
    art = disc(700, 1500, (40, 120, 200))
    rng = np.random.default_rng(5)
    for x, y in rng.integers(300, 1200, (80, 2)):
        art[y : y + 5, x : x + 5, 3] = 0
    art[60:62, 500:1000] = (40, 120, 200, 255)
    return png(art)


def test_a_file_is_looked_at_in_the_open_and_put_right_by_a_letter(page: Page, counter: Counter):
    job = counter.order()
    page.goto(f"/jobs/{job}/order")
    page.get_by_role("main").get_by_label("Artwork file").set_input_files(
        {"name": "worn.png", "mimeType": "image/png", "buffer": worn()}
    )
    panel = page.get_by_role("region", name="The file that came in")
    expect(panel).to_contain_text("1500 x 1500 px · PNG · RGBA")
    expect(panel).to_contain_text("read as sRGB")
    expect(panel).to_have_count(0)  # all is known, and it is placed
    page.keyboard.press("3")
    expect(page.get_by_text(re.compile(r"holes under 2 mm² belong to the picture"))).to_be_visible()
    expect(page.get_by_text("the picture's own holes")).to_be_visible()
    fix = page.get_by_role("button", name=re.compile("^Thicken them"))
    letter = fix.locator("kbd").inner_text()
    page.keyboard.press(letter.lower())
    expect(page.get_by_text("Thin strokes are brought to the least that holds")).to_be_visible()
    expect(fix).to_have_count(0)
    page.keyboard.press("z")
    expect(fix).to_be_visible()
    assert audit(page) == []
    page.goto(f"/jobs/{job}/inspect")
    expect(page.get_by_role("img", name="The print, its own holes marked")).to_be_visible()


def test_whoever_goes_on_meanwhile_keeps_the_file(page: Page, counter: Counter):
    job = counter.order()
    page.goto(f"/jobs/{job}/order")
    art = disc(900, 2000, (200, 120, 40))
    page.get_by_role("complementary").get_by_label("Artwork file").set_input_files(
        {"name": "late.png", "mimeType": "image/png", "buffer": png(art)}
    )
    expect(page.get_by_role("region", name="The file that came in")).to_be_visible()
    page.keyboard.press("2")
    expect(page).to_have_url(re.compile("/method"))
    page.keyboard.press("3")
    expect(page.get_by_text("late.png")).to_be_visible()


def test_a_ground_goes_with_as_much_beside_it_as_the_hand_says(page: Page, counter: Counter):
    art = disc(300, 900, (40, 120, 200))
    boxed = np.full((900, 900, 4), 255, np.uint8)
    boxed[200:700, 20:100, :3] = 246  # nearly the ground's own white, and beside it
    inked = art[..., 3] > 127
    boxed[inked] = art[inked]
    job = counter.order()
    counter.decide(job, "place", file=counter.upload(png(boxed)).json()["file"], width_um=100_000)
    page.goto(f"/jobs/{job}/artwork")
    page.get_by_role("button", name="Take the ground out").click()
    slider = page.get_by_role("slider", name="The ground goes with what is near it")
    expect(slider).to_have_attribute("aria-valuetext", "8 in Lab")
    width = counter.job(job)["line"]["stations"][2]["drawing"]["content_px"]
    slider.focus()
    for _ in range(6):
        page.keyboard.press("ArrowLeft")
    expect(slider).to_have_attribute("aria-valuetext", "2 in Lab")
    page.wait_for_function(
        "async ([job, was]) => JSON.stringify((await (await fetch(`/api/jobs/${job}`)).json()).line.stations[2].drawing.content_px) !== JSON.stringify(was)",
        arg=[job, width],
    )
    page.keyboard.press("Escape")
    assert audit(page) == []
