"""Orders on the counter, each from the advice to a pressed piece; and a recipe that would press the wrong face."""

import json
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import ready, recorded, sent, until
from tests.conftest import ROOT
from tests.web.conftest import Counter

ART = ROOT / "demo" / "artwork"
ORDERS = {
    # blank, size, artwork, print width, the way, what the press says on the way, what the line shows
    "aprons": ("apron-navy", "one", "lab", 200, "Direct to garment", ["Let the ink SET"], "White holds"),
    "waistcoats": ("waistcoat", "M", "watch", 260, "Film", ["Print face DOWN"], "White holds"),
    "two sheets": ("apron-navy", "one", "lab", 180, "White toner, two sheets", ["Printed film UP", "Rub 5 s", "Trim", "Print face DOWN"], "White holds"),
}  # fmt: skip


def heading(page: Page):
    return page.get_by_role("heading", level=1)


def stations(page: Page) -> list[str]:
    strip = page.get_by_role("navigation", name="Stations").get_by_role("link")
    return [(link.inner_text().split("\n")[0]) for link in strip.all()]


@pytest.mark.parametrize("name", list(ORDERS))
def test_an_order_from_the_advice_to_a_pressed_piece(page: Page, counter: Counter, name: str):
    blank, size, art, width, way, says, white = ORDERS[name]
    job = counter.order(title=f"The {name}", lines=[{"blank": blank, "counts": {size: 1}}], quoted=30)
    file = counter.upload((ART / f"{art}.png").read_bytes(), f"{art}.png").json()["file"]
    assert counter.decide(job, "place", file=file, width_um=width * 1000).status_code == 200

    page.goto(f"/jobs/{job}/method")
    heading(page).wait_for()
    page.keyboard.press("f")
    ways = page.get_by_role("region", name="All ways")
    expect(ways).to_contain_text("ways fit 1 piece")
    card = ways.get_by_role("listitem").filter(has=page.get_by_text(way, exact=True)).first
    go = card.get_by_role("button", name=f"Go this way: {way}")
    if go.count():
        go.click()
    else:
        expect(card).to_contain_text("This job goes this way")
        page.keyboard.press("f")
    expect(heading(page)).to_contain_text(f"{way} fits")
    if name == "waistcoats":
        # Softshell does not stand the usual heat, and the zip wants a pad.
        expect(page.get_by_text("Put a pad under the print, to clear the zip")).to_be_visible()
        expect(page.get_by_role("radio", name=re.compile("141 °C, 15 s"))).to_be_checked()
    page.keyboard.press("Enter")
    page.goto(f"/jobs/{job}/white")
    expect(heading(page)).to_contain_text(white)

    if name == "aprons":
        assert stations(page)[6:8] == ["Prepare", "Print"]
        page.goto(f"/jobs/{job}/prepare")
        expect(page.get_by_text("before Print, because")).to_be_visible()
        for stage in ("Roll off lint", "Pre-treat", "Dry"):
            page.get_by_role("button", name=f"{stage}: one more").click()
        expect(heading(page)).to_contain_text("ready to print")
    else:
        assert stations(page)[6:8] == ["Print", "Prepare"]
    page.goto(f"/jobs/{job}/print")
    page.get_by_role("button", name="Make the print files").click()
    page.get_by_role("button", name="Release the run").click(timeout=90_000)
    page.get_by_role("button", name="They are printed").click()
    expect(heading(page)).to_contain_text(re.compile("(transfers are|garment is) printed"))
    if name not in ("aprons", "two sheets"):
        page.goto(f"/jobs/{job}/prepare")
        stages = [
            s["name"]
            for s in next(s for s in counter.job(job)["line"]["stations"] if s["station"] == "prepare")["drawing"][
                "stages"
            ]
        ]
        for stage in stages:
            page.get_by_role("button", name=re.compile(f"^{stage}: next")).click()
        expect(heading(page)).to_contain_text(re.compile("cured|prepared"))

    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    if name == "waistcoats":
        expect(page.get_by_role("region", name="Stack").get_by_role("img")).to_have_attribute(
            "aria-label", re.compile("Foam pad under the print")
        )
    said = until(page, "All pieces are pressed")
    for wanted in says:
        assert any(s.startswith(wanted) for s in said), (wanted, said)
    recorded(page)
    done = counter.job(job)
    assert sum(p["complete"] for p in done["ledger"]["books"]["pieces"]) == 1
    page.goto(f"/jobs/{job}/inspect")
    page.get_by_role("button", name=re.compile("^It is good")).click()
    expect(heading(page)).to_contain_text("good: close the job")


def test_a_recipe_that_would_press_the_wrong_face_is_refused(page: Page, counter: Counter, tmp_path):
    page.allowed |= {409}
    recipe = counter.get("/api/recipes/self-weed-house/recipe.json").json()["recipe"]
    for stage in recipe["stages"]:
        for layer in stage["stack"]:
            if layer["what"] == "Toner paper" and stage["id"] == "transfer":
                layer["printed_face"] = "up"
    wrong = tmp_path / "wrong-face.json"
    wrong.write_text(json.dumps({"recipe": recipe}))
    page.goto("/recipes/self-weed-house")
    heading(page).wait_for()
    page.get_by_label("Recipe file").set_input_files(wrong)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("turn it over")
    expect(dialog).to_contain_text("No version was added.")
    assert counter.get("/api/recipes/self-weed-house").json()["newest"] == 1


def test_a_missing_value_is_asked_for_at_method_and_the_job_goes_on_with_it(page: Page, counter: Counter):
    job = counter.order(title="Opaque", lines=[{"blank": "tee-navy", "counts": {"M": 1}}])
    counter.place(job)
    way = counter.get(f"/api/jobs/{job}/advice").json()["ways"]["toner-opaque"]
    counter.decide(job, "method", **way)
    page.goto(f"/jobs/{job}/method")
    expect(heading(page)).to_contain_text("does not go")
    form = page.get_by_role("form", name="Values that nobody gave")
    for field in form.get_by_role("textbox").all():
        label = field.evaluate("e => e.labels[0].innerText")
        field.fill("165" if "°" in label else "medium")
    form.get_by_role("button", name="Enter them").click()
    expect(heading(page)).to_contain_text("Opaque toner paper fits")
    sent(page)
    assert counter.job(job)["line"]["way"]["recipe_version"] == way["recipe_version"] + 1


def test_a_blank_of_our_own_with_fibres_that_make_120_per_cent_is_refused_then_saved(page: Page, counter: Counter):
    page.allowed |= {409}
    page.goto("/blanks")
    heading(page).wait_for()
    page.get_by_role("button", name="A blank of our own").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name", exact=True).fill("Harbour towel")
    dialog.get_by_label("Fibres, in per cent").fill("80 cotton, 40 polyester")
    dialog.get_by_role("button", name="Save it").click()
    expect(dialog.get_by_role("alert")).to_contain_text("120 %, not 100 %")
    dialog.get_by_label("Fibres, in per cent").fill("80 cotton, 20 polyester")
    dialog.get_by_role("button", name="Save it").click()
    expect(heading(page)).to_contain_text("Harbour towel")
    assert counter.get("/api/blanks/harbour-towel-white").json()["blank"]["fibres"] == {"cotton": 0.8, "polyester": 0.2}
