"""Units of one's own, a card of one's own for a roll, a picture of one's own for the white, an outline of one's own for a blank."""

import re

import numpy as np
from playwright.sync_api import Page, expect

from tests.browser.conftest import audit
from tests.browser.hands import sent
from tests.web.conftest import Counter, png

HEART = '<svg xmlns="http://www.w3.org/2000/svg"><path d="M50 90L5 40C-10 10 30 -15 50 15C70 -15 110 10 95 40Z"/></svg>'


def test_who_reads_inches_reads_them_in_every_sentence_at_once(page: Page, counter: Counter):
    job = counter.order()
    counter.place(job, 254)
    page.goto(f"/jobs/{job}/order")
    expect(page.get_by_role("heading", level=1)).to_contain_text("254 x ")
    expect(page.locator("[data-scale]")).to_have_text(re.compile(r"^\d+ mm$"))
    page.get_by_role("button", name="Ada · °C · mm").click()
    for wanted in ("inches", "°F first"):
        page.get_by_role("radio", name=wanted).click()
        expect(page.get_by_role("radio", name=wanted)).to_be_checked()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("print 10.00 x ")
    expect(page.get_by_role("heading", level=1)).to_contain_text(" in on the chest")
    expect(page.locator("[data-scale]")).to_have_text(re.compile(r"^[\d.]+ in$"))
    expect(page.locator("[data-reading=film]")).to_contain_text("yd")
    page.goto(f"/jobs/{job}/method")
    expect(page.get_by_role("main")).to_contain_text("°F (")
    page.reload()
    expect(page.get_by_role("main")).to_contain_text("°F (")
    page.get_by_role("button", name="Ada · °F · in").click()
    page.get_by_role("radio", name="millimetres").click()
    page.get_by_role("radio", name="°C first").click()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_role("main")).to_contain_text("°C (")


def test_what_somebody_likes_outlives_a_page_that_is_left_before_the_answer(page: Page, counter: Counter):
    def liked() -> tuple[str, str]:
        page.wait_for_function("() => localStorage.getItem('offsetter.settings.untold') === null")
        found = counter.get("/api/welcome").json()["me"]["liking"]
        return found["length"], found["heat"]

    held = []
    page.route("**/api/me/liking", lambda route: held.append(route))
    page.goto("/jobs")
    page.get_by_role("button", name="Ada · °C · mm").click()
    for wanted in ("inches", "°F first"):
        page.get_by_role("radio", name=wanted).click()
        expect(page.get_by_role("radio", name=wanted)).to_be_checked()
    page.wait_for_timeout(200)
    assert [r.request.post_data_json["length"] for r in held] == ["in"]  # the second waits until the first is answered
    page.unroute("**/api/me/liking")
    page.goto("/recipes")
    page.get_by_role("button", name="Ada · °F · in").click()
    assert liked() == ("in", "F")
    for wanted in ("millimetres", "°C first"):  # as it was before this page was opened elsewhere
        page.get_by_role("radio", name=wanted).click()
    assert liked() == ("mm", "C")


def test_a_rolls_card_is_written_in_the_store_and_read_where_it_is_loaded(page: Page, counter: Counter):
    page.goto("/stores")
    page.get_by_label("Find what lies here").fill("film 460")
    page.get_by_role("button", name="Card: film 460 matte").click()
    card = page.get_by_role("dialog")
    card.get_by_label("Photograph the face that takes the print").set_input_files(
        {"name": "face.png", "mimeType": "image/png", "buffer": png(np.full((60, 90, 4), 200, np.uint8))}
    )
    expect(card.get_by_role("img", name="The face that takes the print")).to_be_visible()
    card.get_by_label("The face that takes the print", exact=True).fill("matte to a wet finger")
    assert audit(page) == []
    card.get_by_role("button", name="Keep the card").click()
    expect(card).to_be_hidden()
    job = counter.order()
    counter.place(job)
    page.goto(f"/jobs/{job}/print")
    expect(page.get_by_label("Its two faces")).to_contain_text("takes the print: matte to a wet finger")
    expect(page.get_by_role("img", name="The face that takes the print")).to_be_visible()


def test_white_follows_a_picture_of_its_own_until_it_is_told_otherwise(page: Page, counter: Counter):
    job = counter.order()
    art = np.full((300, 300, 4), 255, np.uint8)
    art[..., :3] = (200, 60, 40)
    counter.decide(job, "place", file=counter.upload(png(art)).json()["file"], width_um=50_000)
    page.goto(f"/jobs/{job}/white")
    half = np.full((300, 300, 4), 255, np.uint8)
    half[:, 150:, :3] = 0
    page.get_by_label("A picture for the white").set_input_files(
        {"name": "white.png", "mimeType": "image/png", "buffer": png(half)}
    )
    expect(page.get_by_text("White lies where its own picture is light")).to_be_visible()
    expect(page.get_by_label("White level")).to_have_count(0)
    expect(page.get_by_role("main")).to_contain_text("49 % of the print's area")
    page.get_by_role("radio", name="its lights").click()
    expect(page.get_by_text("White lies under what is lighter than L* 60 alone")).to_be_visible()
    page.get_by_role("slider", name="Lights begin at").press("End")
    expect(page.get_by_text("White lies under what is lighter than L* 95 alone")).to_be_visible()
    expect(page.get_by_role("main")).to_contain_text("0 % of the print's area")
    page.get_by_role("radio", name="the picture").click()
    expect(page.get_by_label("White level")).to_be_visible()
    sent(page)
    white = counter.job(job)["line"]["decisions"]["white"]
    assert (white["mask"], white["lights_from"]) == (None, None)


def test_a_blank_takes_its_outline_from_a_drawing(page: Page, counter: Counter):
    page.goto("/blanks")
    page.get_by_role("button", name="A blank of our own").click()
    form = page.get_by_role("dialog")
    form.get_by_label("Name", exact=True).fill("Heart ornament")
    form.get_by_label("It is", exact=True).select_option("hard")
    form.get_by_label("Made of").select_option("hardboard")
    form.get_by_label("Which way is up is told by").select_option("hanger")
    form.get_by_label("Shape").select_option("flat")
    form.get_by_label("Outline as SVG").set_input_files(
        {"name": "heart.svg", "mimeType": "image/svg+xml", "buffer": HEART.encode()}
    )
    expect(form.get_by_role("img", name="Its outline")).to_be_visible()
    assert audit(page) == []
    form.get_by_role("button", name="Save").click()
    expect(form).to_be_hidden()
    made = next(b for b in counter.get("/api/shop").json()["blanks"] if b["name"] == "Heart ornament")
    assert (len(made["sizes"]["one"]["outline"]), made["up_by"]) == (240, "hanger")
    expect(page.locator("[data-up=hanger]")).to_be_visible()
