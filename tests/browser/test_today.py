"""Today in the browser: the day by keys, a pin dragged and let go, a machine that fails, and what is next in whose hands."""

import re
from datetime import UTC, datetime, timedelta

from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import audit
from tests.web.conftest import Counter

DAY_MIN = 24 * 60


def test_the_day_by_keys_and_by_hand(page: Page, counter: Counter):
    page.allowed |= {409}
    due = (datetime.now(UTC) + timedelta(hours=1)).isoformat()
    job = counter.order({"S": 4}, title="Due first", due=due)
    counter.place(job)
    page.goto("/")
    expect(page.get_by_role("heading", level=1)).to_contain_text("open")
    page.keyboard.press("Home")
    expect(page).to_have_url(re.compile("/today$"))
    expect(page.get_by_role("heading", level=1)).to_contain_text(re.compile("leave"))
    gannet = page.get_by_role("region", name="Gannet, press")
    # Late in the afternoon it is pressed on the next day that somebody is here.
    blocks = counter.get("/api/today").json()["blocks"]
    days = sorted({b["start_min"] // DAY_MIN for b in blocks})
    if at := days.index(next(b["start_min"] // DAY_MIN for b in blocks if b["job"] == job and b["station"] == "press")):
        page.get_by_label("Which day").get_by_role("radio").nth(at).click()
    expect(gannet.get_by_role("img", name=re.compile("°C from"))).to_be_visible()
    # Other tests' jobs fill the day: close to, what is due first is wide enough to be taken hold of.
    page.keyboard.press("x")
    press = gannet.get_by_role("button", name=re.compile("Due first: Press 4 pieces"))
    press.click()
    card = page.get_by_role("complementary", name="The card")
    expect(card).to_contain_text("Why then:")
    seen = counter.get("/api/today").json()
    block = next(b for b in seen["blocks"] if b["job"] == job and b["station"] == "press")

    def starts() -> int:
        return next(b["start_min"] for b in counter.get("/api/today").json()["blocks"] if b["job"] == job and b["step"] == block["step"])  # fmt: skip

    def sent(key: str) -> None:
        with page.expect_response(lambda r: r.url.endswith("/today/pins")):
            page.keyboard.press(key)

    sent("p")
    expect(card.get_by_role("button", name="Take the pin out")).to_be_visible()
    sent("+")
    expect(gannet.get_by_role("button", name=re.compile("Due first: Press 4 pieces.*pinned"))).to_be_visible()
    assert starts() == block["start_min"] + 5
    # Dragged far to the left it would begin before it is printed: refused, and the plan is as it was.
    box = press.bounding_box()
    page.mouse.move(box["x"] + 3, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] - 60, box["y"] + 5, steps=4)
    # While it is still held, it says why it cannot lie there.
    expect(page.get_by_role("status").filter(has_text=re.compile("cannot begin then|is over"))).to_be_visible()
    page.mouse.up()
    expect(page.get_by_role("alert")).to_contain_text(re.compile("cannot begin then|is over"))
    assert starts() == block["start_min"] + 5
    sent("p")
    expect(card.get_by_role("button", name="Pin it here")).to_be_visible()
    page.get_by_role("button", name="It fails: Gannet").click()
    expect(page.get_by_text(re.compile("fits nowhere: Gannet is away")).first).to_be_visible()
    page.get_by_role("button", name="Back: Gannet").click()
    expect(press).to_be_visible()
    page.keyboard.press("Escape")
    # Care comes before the printer's first run; then what is due first.
    expect(card.get_by_role("listitem").first).to_contain_text("Stir the white")
    expect(card.get_by_role("listitem").filter(has_text="Due first").first).to_be_visible()
    page.keyboard.press("o")
    page.get_by_label("How many").fill("12")
    page.get_by_role("button", name="Try it").click()
    expect(page.get_by_role("dialog").get_by_role("status")).to_contain_text("12 pieces by")
    assert audit(page) == []
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("'s hours")).click()
    page.get_by_label("Saturday").check()
    assert audit(page) == []
    page.get_by_role("button", name="Leave it").click()
    assert audit(page) == []
    page.keyboard.press("v")
    expect(card).to_be_hidden()
    expect(page.get_by_role("button", name="It fails: Gannet")).to_be_hidden()
    assert audit(page) == []
    page.keyboard.press("v")
    page.keyboard.press("/")
    page.get_by_role("combobox", name="What to find").fill("due fir")
    expect(page.get_by_role("option", name=re.compile("Due first")).first).to_be_visible()
    assert audit(page) == []
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(f"/jobs/{job}"))


def test_another_order_of_work_is_said(page: Page, counter: Counter):
    """Planned anew behind a screen that nobody touches: what overtakes what is said there. The server's own plan, two jobs' turns changed."""
    for title in ("Goes first", "Goes second"):
        counter.place(counter.order({"S": 4}, title=title))
    turns = {"swapped": False}

    def planned(route: Route) -> None:
        answer = route.fetch()
        seen = {**answer.json(), "is_better": True}
        first, second = (next(b for b in seen["blocks"] if b["title"] == t and b["machine"] == "gannet") for t in ("Goes first", "Goes second"))  # fmt: skip
        early, late = sorted((first["start_min"], second["start_min"]))
        first["start_min"], second["start_min"] = (late, early) if turns["swapped"] else (early, late)
        route.fulfill(response=answer, json=seen)

    page.route("**/api/today", planned)
    page.clock.install()
    page.goto("/today")
    expect(page.get_by_text("Goes second").first).to_be_visible()
    turns["swapped"] = True
    page.clock.fast_forward(31_000)
    expect(page.get_by_text("On Gannet, Goes second now goes before")).to_be_visible()
