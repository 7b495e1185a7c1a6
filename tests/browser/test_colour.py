"""Colour as a person meets it: a printer measured and corrected, two looks beside each other, a customer's colour, one that came out off."""

import json
import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import audit
from tests.conftest import ROOT
from tests.core.shapes import disc
from tests.web.conftest import Counter, png

CUSTOMER = "Colour house"


def heading(page: Page):
    return page.get_by_role("heading", level=1)


@pytest.fixture
def assigned(counter: Counter) -> None:
    own = counter.get("/api/colour").json()["own_profile"]
    body = {"printer": "petrel", "media": "film-460-matte", "mode": "fine", "profile": own}
    assert counter.client.put("/api/colour/conditions", json=body, headers=counter.headers).status_code == 200


def test_a_printer_is_measured_corrected_and_the_correction_proved(page: Page, counter: Counter, assigned: None):
    job = counter.order()
    counter.place(job)
    counter.decide(job, "method", settled=True)
    page.goto("/colour")
    page.get_by_role("button", name="Petrel film 460 matte, fine,").click()
    page.get_by_role("button", name="Make the test chart").click()
    expect(page.get_by_role("link", name="Chart of 84 patches")).to_be_visible()
    expect(page.get_by_text("The platen burns")).to_be_visible()
    page.get_by_role("button", name="Measure with Kittiwake").click()
    report = page.get_by_role("region", name="The measured chart")
    expect(report).to_contain_text("off on average")
    off = float(report.get_by_role("heading").inner_text().split(": ")[1].split()[0])
    report.get_by_role("button", name="Correct the tones from this").click()
    expect(report.get_by_role("status")).to_contain_text("corrected on")
    expect(heading(page)).to_contain_text("measure its chart once more")
    page.reload()
    page.get_by_role("button", name="Make the test chart").click()
    page.get_by_role("button", name="Measure with Kittiwake").click()
    expect(heading(page)).to_contain_text("keeps within 0.0")
    expect(report.get_by_role("heading")).to_contain_text(re.compile(r": 0\.\d off on average"))
    assert off > 2

    page.goto(f"/jobs/{job}/colour")
    newer = page.get_by_role("button", name="Take the newer one")
    newer.click()
    expect(page.get_by_text("Tones are corrected for this printer")).to_be_visible()
    expect(newer).to_have_count(0)
    page.keyboard.press("z")
    expect(newer).to_be_visible()


def test_two_looks_stand_beside_each_other_and_the_glass_says_its_figures(page: Page, counter: Counter):
    job = counter.order()
    counter.place(job, colour=(40, 120, 200))
    page.goto(f"/jobs/{job}/colour")
    line = page.get_by_role("slider", name="Line between the two looks")
    expect(line).to_have_attribute("aria-valuenow", "50")
    line.focus()
    for _ in range(5):
        page.keyboard.press("ArrowLeft")
    expect(line).to_have_attribute("aria-valuenow", "40")
    middle = line.bounding_box()
    page.mouse.move(middle["x"] + 40, middle["y"] + middle["height"] / 2)
    figures = page.get_by_label("The point under the glass")
    expect(figures).to_contain_text("RGB 40 120 200")
    expect(figures).to_contain_text("ΔE")
    page.get_by_role("slider", name="Glass over the print").focus()
    for _ in range(40):
        page.keyboard.press("Shift+ArrowUp")
        page.keyboard.press("Shift+ArrowLeft")
    expect(page.get_by_text("Nothing is printed there")).to_be_visible()
    page.get_by_label("hatch").select_option("gamut")
    page.get_by_label("left of the line").select_option("carrier")
    assert audit(page) == []


def test_a_customers_colour_is_said_and_a_colour_that_came_out_off_is_put_right(
    page: Page, counter: Counter, assigned: None
):
    page.goto("/colour/customers")
    page.get_by_role("button", name="Add a colour").click()
    for label, value in (
        ("Customer, as the orders name it", CUSTOMER),
        ("The colour's name", "House blue"),
        ("L", "38"),
        ("a", "5"),
        ("b", "-55"),
        ("within ΔE", "1"),
    ):
        page.get_by_label(label, exact=True).fill(value)
    page.get_by_role("button", name="Watch for it").click()
    expect(page.get_by_role("region", name=CUSTOMER)).to_contain_text("House blue")

    job = counter.order(customer=CUSTOMER)
    file = counter.upload(png(disc(170, 400, (0, 88, 180)))).json()["file"]
    counter.decide(job, "place", file=file, width_um=60_000)
    page.goto(f"/jobs/{job}/colour")
    expect(page.get_by_text("“House blue” lands")).to_be_visible()
    page.get_by_role("button", name="came out off").first.click()
    dialog = page.get_by_role("dialog")
    for axis, value in (("L", "30"), ("a", "20"), ("b", "-50")):
        dialog.get_by_label(axis, exact=True).fill(value)
    expect(dialog).to_contain_text("too red by 15")
    dialog.get_by_role("button", name="Test strip first").click()
    expect(dialog.get_by_role("link", name="Open the strip")).to_be_visible()
    assert audit(page) == []
    dialog.get_by_role("button", name="A1", exact=True).click()
    expect(page.get_by_text("#0058B4 is printed as")).to_be_visible()
    page.get_by_role("button", name="As the artwork has it").click()
    expect(page.get_by_text("#0058B4 is printed as")).to_have_count(0)


def test_a_profile_of_a_screen_is_refused_where_it_is_added(page: Page):
    page.allowed |= {409}
    page.goto("/colour/profiles")
    page.get_by_label("Add a profile").set_input_files(
        {"name": "screen.icc", "mimeType": "application/octet-stream", "buffer": b"no profile" * 50}
    )
    expect(page.get_by_role("alert")).to_contain_text("is no ICC profile")
    page.get_by_label("Add a profile").set_input_files(ROOT / "demo" / "profile" / "dye.icc")
    expect(page.get_by_role("heading", name="Invented dye print condition")).to_be_visible()


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_the_colour_area_passes_the_audit(page: Page, counter: Counter, assigned: None, theme: str):
    page.add_init_script(
        f"localStorage.setItem('offsetter.settings', '{json.dumps({'theme': theme, 'length': 'mm', 'heat': 'C'})}')"
    )
    where = {"printer": "petrel", "media": "film-460-matte", "mode": "fine"}
    chart = counter.post("/api/colour/charts", json=where).json()["chart"]["id"]
    counter.post(f"/api/colour/charts/{chart}/probe", json={"probe": "kittiwake"})
    found = {}
    for view in ("/colour", "/colour/profiles", "/colour/customers"):
        page.goto(view)
        heading(page).wait_for()
        page.wait_for_load_state("networkidle")
        if view == "/colour":
            page.get_by_role("button", name="Make the test chart").click()
            page.get_by_role("link", name="Chart of").wait_for()
        if view.endswith("customers"):
            page.get_by_role("button", name="Add a colour").click()
        if wrong := audit(page):
            found[view] = wrong
    assert found == {}
