"""Sheets in the browser: two orders laid on one roll, one print moved by hand, released, printed and cured as one."""

import re

from playwright.sync_api import APIResponse, Page, Route, expect

from tests.browser.conftest import audit
from tests.web.conftest import Counter
from tests.web.test_shared_sheets import ready


def test_two_orders_on_one_roll_from_laying_to_curing(page: Page, counter: Counter):
    jobs = [ready(counter, "Lamp tees", {"S": 2, "M": 3}, 62), ready(counter, "Rope tees", {"L": 4}, 48)]
    page.goto("/jobs")
    page.get_by_role("heading", level=1).wait_for()
    page.keyboard.press("End")
    expect(page).to_have_url(re.compile("/sheets$"))
    film = page.get_by_role("region", name=re.compile("^Film on Petrel"))
    # Other tests' jobs could lie here as well.
    for box in film.get_by_role("checkbox").all():
        if box.is_enabled():
            box.uncheck()
    for title in ("Lamp tees", "Rope tees"):
        film.get_by_role("checkbox", name=re.compile(title)).check()
    assert audit(page) == []
    film.get_by_role("button", name="Lay 9 prints together").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("9 prints of 2 jobs on")
    drawing = page.get_by_role("group", name="9 prints as they lie")
    one = drawing.get_by_role("button", name=re.compile("^.1 Lamp tees$"))
    expect(page.get_by_text("is being searched for")).not_to_be_visible(timeout=60_000)
    # Onto its neighbour it cannot be let go; beyond the last print it can, and stays there.
    box, other = one.bounding_box(), drawing.get_by_role("button", name=re.compile("^.1 Rope tees$")).bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(other["x"] + other["width"] / 2, other["y"] + other["height"] / 2, steps=4)
    expect(
        drawing.get_by_text(re.compile("it lies on another print|too near to the edge|of the gap are missing"))
    ).to_be_visible()
    page.allowed |= {409}
    # Refused, the sheet is read again; that reading comes late, after the pin that is set meanwhile.
    late: list[tuple[Route, APIResponse]] = []
    held = re.compile("/api/sheets/[0-9a-f]+$")
    page.route(held, lambda route: late.append((route, route.fetch())))
    page.mouse.up()
    expect(page.get_by_role("alert")).to_contain_text("It cannot lie there")
    while not late:  # worked out before the pin, shown after it
        page.wait_for_timeout(10)
    one.focus()
    card = page.get_by_role("complementary", name="The sheet")
    pinned = drawing.get_by_role("button", name=re.compile("1 Lamp tees, pinned"))
    page.keyboard.press("p")
    expect(pinned).to_be_visible()
    for route, was in late:
        route.fulfill(response=was)
    page.unroute(held)
    page.wait_for_load_state("networkidle")
    expect(pinned).to_be_visible()
    expect(card.get_by_role("button", name="Take the pin out")).to_be_visible()
    for theme in ("light", "dark"):
        page.evaluate(f"document.documentElement.dataset.theme = '{theme}'")
        assert audit(page) == [], theme
    page.keyboard.press("n")
    card.get_by_role("button", name="Make the print files at full size").click()
    card.get_by_role("button", name="Release it as one run").click()
    going = page.get_by_role("region", name="Released, to print and to cure")
    expect(page.get_by_role("heading", level=1)).to_contain_text("carries 2 jobs: load Petrel")
    run = going.get_by_role("article").filter(has_text="Lamp tees")
    run.get_by_role("button", name=re.compile("printed$")).click()
    expect(run).to_contain_text("9 of 9 printed")
    for stage in ("powder", "cure in the oven"):
        run.get_by_role("button", name=re.compile(f"went through {stage}")).click()
        expect(page.get_by_role("article").filter(has_text="Lamp tees")).to_contain_text(f"9 through {stage}")
    assert [counter.job(j)["ledger"]["in_hand"] for j in jobs] == [5, 4]
    # The job's own Print says where it lies.
    page.goto(f"/jobs/{jobs[0]}/print")
    expect(page.get_by_role("region", name=re.compile("^Run"))).to_contain_text("It lies on one roll with Rope tees")
