"""One moment from the counter to the logbook, by keyboard alone."""

import re

from playwright.sync_api import Page, expect

from tests.browser.hands import ready, until

ART = "demo/artwork/orbit.png"
TITLE = "Keyboard tees"


def state(page: Page, station: str):
    return page.get_by_role("navigation", name="Stations").get_by_role("link", name=re.compile(f"^{station}"))


def fill(page: Page, label: str, text: str) -> None:
    """Into a field reached with Tab, as hands without a mouse do."""
    for _ in range(40):
        page.keyboard.press("Tab")
        named = page.evaluate(
            "(() => { const a = document.activeElement; return a.labels?.[0]?.innerText ?? a.getAttribute('aria-label') ?? a.innerText })()"
        )
        if named.strip().startswith(label):
            page.keyboard.press("Control+A")
            page.keyboard.type(text)
            return
    raise AssertionError(f"no field “{label}” is reached by Tab")


def press_button(page: Page, label: str) -> None:
    for _ in range(60):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.innerText ?? ''").strip().startswith(label):
            page.keyboard.press("Enter")
            return
    raise AssertionError(f"no button “{label}” is reached by Tab")


def test_an_order_goes_the_whole_line_by_keyboard(page: Page):
    page.goto("/jobs")
    page.get_by_role("heading", level=1).wait_for()
    page.keyboard.press("n")
    fill(page, "Job", TITLE)
    fill(page, "Customer", "Harbour Club")
    fill(page, "Blank", "Crew tee, black")
    fill(page, "S", "1")
    fill(page, "M", "1")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("the artwork is still missing")

    # The file picker is the system's own: the key opens it, the test answers it.
    with page.expect_file_chooser() as chooser:
        page.keyboard.press("u")
    chooser.value.set_files(ART)
    expect(page.get_by_role("heading", level=1)).to_contain_text("print 210 x", timeout=60_000)
    fill(page, "Width", "100")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("print 100 x 100 mm")
    page.evaluate("document.activeElement.blur()")

    # What asks nothing is accepted with the station before it: two keys, and the job stands at the printer.
    for name in ("Order", "Method"):
        expect(page.get_by_role("heading", level=2, name=name)).to_be_visible()
        page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=2, name="Print")).to_be_visible()
    expect(page.get_by_text("Asked nothing, accepted with it: Artwork, Colour, White, Sheet.")).to_be_visible()
    expect(state(page, "White")).to_contain_text("done")

    press_button(page, "Make the print files")
    expect(page.get_by_text("2. Release.")).to_be_visible(timeout=60_000)
    expect(page.locator("[data-reading=white]")).to_have_text(re.compile(r"^\d"))
    press_button(page, "Release the run")
    expect(page.get_by_text(re.compile(r"Run \d+: 0 of 3 printed"))).to_be_visible()
    press_button(page, "They are printed")
    expect(page.get_by_role("heading", level=1)).to_contain_text("All 3 transfers are printed")

    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("8")
    expect(page.get_by_text("Wear the dust mask")).to_be_visible()
    press_button(page, "Powder: next length")
    expect(page.get_by_role("button", name=re.compile("Cure in the oven: next length"))).to_be_visible()
    press_button(page, "Cure in the oven: next length")
    expect(page.get_by_role("heading", level=1)).to_contain_text("All 3 transfers are cured")

    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("9")
    expect(page.get_by_role("button", name=re.compile("Open press mode"))).to_be_enabled()
    page.clock.install()
    page.keyboard.press("p")
    ready(page)
    said = until(page, "All pieces are pressed")
    assert [s for s in said if s.startswith(("Empty", "Print", "Peel", "Parchment"))][:2] == [
        "Empty blank, NO film yet",
        "Print face DOWN",
    ]
    press_button(page, "Go to Inspect")

    expect(page.get_by_role("heading", level=1)).to_contain_text("2 pressed pieces wait")
    press_button(page, "It is good")
    expect(page.get_by_role("heading", level=1)).to_contain_text("1 pressed piece waits")
    press_button(page, "It is good")
    expect(page.get_by_role("heading", level=1)).to_contain_text("All 2 are good")
    press_button(page, "Close the job")
    expect(page.get_by_role("heading", level=1)).to_contain_text("written to the logbook")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("l")
    entry = page.get_by_role("article").filter(has_text=TITLE)
    expect(entry).to_contain_text("2 of 2 good")
    expect(entry).to_contain_text("Nothing spoiled")
