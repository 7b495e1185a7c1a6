"""No violation in an automated audit, on any view, in both themes; the views that test_language walks are audited there."""

import json
import re

from playwright.sync_api import Page

from tests.browser.conftest import audit
from tests.web.conftest import Counter

SHOP = (
    "/machines/guillemot", "/machines/petrel", "/machines/fulmar", "/machines/whimbrel", "/blanks/waistcoat", "/recipes/toner-opaque-house", "/first-day",
)  # fmt: skip


def look(page: Page, views: list[str] | tuple[str, ...]) -> dict[str, list[str]]:
    """What the audit finds, by view."""
    found = {}
    for view in views:
        page.goto(view)
        page.get_by_role("main").wait_for()
        page.wait_for_load_state("networkidle")
        if wrong := audit(page):
            found[view] = wrong
    return found


def test_one_of_each_and_the_dialogs_pass_the_audit(page: Page, counter: Counter, job: str):
    closed = counter.order({"S": 1})
    counter.printed(closed)
    counter.act(closed, kind="closed", short=True)
    found = look(page, SHOP)
    for view, button in (
        ("/blanks/waistcoat", "Change it"),
        ("/recipes/toner-opaque-house", re.compile("^(Enter|Change) its values")),
        ("/machines/gannet", "Measure it again"),
    ):
        page.goto(view)
        page.get_by_role("button", name=button).click()
        if wrong := audit(page):
            found[f"{view}: {button}"] = wrong
    page.goto("/jobs")
    for key in ("?", "y", "n"):
        page.get_by_role("heading", level=1).wait_for()
        page.keyboard.press(key)
        page.get_by_role("dialog").wait_for()
        if wrong := audit(page):
            found[f"dialog {key}"] = wrong
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="hidden")
    assert found == {}, json.dumps(found, indent=1)


def test_the_stations_of_other_ways_pass_the_audit(page: Page, counter: Counter):
    empty = counter.order()
    found = look(page, [f"/jobs/{empty}/order", f"/jobs/{empty}/white"])
    for blank, method, stations in (
        ("apron-navy", "direct", ("sheet", "prepare")),
        ("coaster", "sub-ink-hard", ("method", "white", "print")),
    ):
        other = counter.order(lines=[{"blank": blank, "counts": {"one": 2}}])
        counter.place(other)
        counter.decide(other, "method", **counter.get(f"/api/jobs/{other}/advice").json()["ways"][method])
        found |= look(page, [f"/jobs/{other}/{s}" for s in stations])
    assert found == {}, json.dumps(found, indent=1)


def test_what_stations_and_the_press_show_on_the_way_passes_the_audit(page: Page, counter: Counter, job: str):
    last = counter.job(job)["runs"][-1]["number"]
    found = look(page, [f"/jobs/{job}/press-mode", f"/codes/R{last}-1"])
    page.goto(f"/jobs/{job}/method")
    page.get_by_role("main").wait_for()
    page.keyboard.press("f")
    page.get_by_text("Ruled out", exact=True).wait_for()
    if wrong := audit(page):
        found["all ways"] = wrong
    page.goto(f"/jobs/{job}/press")
    page.get_by_role("main").wait_for()
    for _ in range(2):
        page.keyboard.press("f")
    page.get_by_text("How the batch is pressed").wait_for()
    if wrong := audit(page):
        found["the batch"] = wrong
    page.goto(f"/jobs/{job}/press-mode")
    page.get_by_role("button", name="It stands as the card says").click()
    page.get_by_role("timer").wait_for()
    page.keyboard.press("Space")
    if wrong := audit(page):
        found["a stage runs"] = wrong
    page.keyboard.press("f")
    page.get_by_role("dialog").wait_for()
    if wrong := audit(page):
        found["trouble"] = wrong
    page.context.clear_cookies()
    page.goto("/jobs")
    page.get_by_role("button", name="Ada, owner").wait_for()
    if wrong := audit(page):
        found["who is here"] = wrong
    page.get_by_role("button", name="Ada, owner").click()
    counter.decide(job, "place", width_um=66_000)
    page.goto(f"/jobs/{job}/print")
    page.get_by_text("What becomes of them?").wait_for()
    if wrong := audit(page):
        found["out of date"] = wrong
    assert found == {}, json.dumps(found, indent=1)
