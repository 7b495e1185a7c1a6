"""A technician's first quiet morning: an empty folder, then this shop's own machines, blanks and prices, and an order on the line."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.outside.test_own_folder import OpenShop

MOST_INPUTS = 40


@pytest.fixture
def opened(tmp_path):
    shop = OpenShop(tmp_path / "shop")
    yield shop
    shop.close()


class Hands:
    """Every touch and every field counted, as a person would."""

    def __init__(self, page: Page) -> None:
        self.page, self.inputs = page, 0

    def touch(self, name: str | re.Pattern, within=None) -> None:
        self.inputs += 1
        (within or self.page).get_by_role("button", name=name).first.click()

    def write(self, label: str, text: str, within=None) -> None:
        self.inputs += 1
        (within or self.page).get_by_label(label, exact=True).first.fill(text)

    def row(self, text: str):
        return self.page.get_by_role("listitem").filter(has_text=text).first

    def add(self, kind: str, name: str) -> None:
        row = self.row(kind)
        self.touch("We have one", row)
        self.write("What is it called in the shop?", name, row)
        self.touch("Add it", row)
        expect(row.get_by_text(f"✓ {name}")).to_be_visible()


@pytest.mark.timeout(240)
def test_from_an_empty_folder_to_the_first_order_on_the_line(opened, browser):
    page = browser.new_context(
        viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB"
    ).new_page()
    wrong: list[str] = []
    page.on("pageerror", lambda e: wrong.append(str(e)))
    hands = Hands(page)
    page.goto(str(opened.client.base_url))
    hands.write("The shop is called", "North Wall Prints")
    hands.write("Your name", "Ann")
    hands.write("Password", "three words do")
    hands.touch("Open the shop")
    hands.touch(re.compile("Film coated"))
    hands.touch(re.compile("Dye on hard goods"))
    hands.touch("Go on")
    hands.add("Film printer, roll 46 cm", "Dora")
    hands.add("Desktop dye printer, A4", "Little blue")
    expect(page.get_by_role("button", name="Take the first order")).to_be_disabled()
    hands.touch("Go on")
    hands.add("Swing-away press, 38 x 38 cm", "The press")
    hands.add("Mug press", "Mugger")
    hands.touch("Go on")
    for colour in ("black", "white"):
        hands.touch(colour, hands.row("cotton tee"))
    hands.touch("white", hands.row("coated ceramic"))
    expect(page.get_by_text("3 blanks")).to_be_visible()
    hands.touch("Take the first order")
    order = page.get_by_role("dialog")
    hands.write("Job", "Tees for Ida", order)
    hands.write("Customer", "Ida", order)
    hands.write("M", "4", order)
    hands.inputs += 1
    order.locator("button[type=submit]").click()
    expect(page.get_by_text("4 crew tees ordered; the artwork is still missing")).to_be_visible()
    assert hands.inputs < MOST_INPUTS
    # What a general kind said is marked until somebody has looked; what is put right is the shop's own.
    page.goto(f"{opened.client.base_url}/machines/dora")
    page.get_by_role("button", name="Look at them").click()
    expect(page.get_by_text("6 values come from memory")).to_be_visible()
    shift = page.get_by_label("Plates shift up to")
    shift.fill("0.3")
    shift.press("Enter")
    expect(page.get_by_text("5 values come from memory")).to_be_visible()
    page.get_by_role("button", name="All of it is so here").click()
    expect(page.get_by_text("come from memory")).to_have_count(0)
    assert not wrong
    page.context.close()
