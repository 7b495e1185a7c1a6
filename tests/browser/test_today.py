"""Today in the browser: the day by keys, a pin dragged and let go, a machine that fails, and what is next in whose hands."""

import re
import time
from datetime import UTC, datetime, timedelta

from playwright.sync_api import Page, expect

from tests.browser.conftest import audit
from tests.web.conftest import Counter


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
    """Planned anew behind a screen that nobody touches: what overtakes what is said there."""
    soon = datetime.now(UTC) + timedelta(hours=2)
    jobs = [counter.order({"S": 4}, title=t, due=(soon + timedelta(minutes=m)).isoformat()) for t, m in (("Was first", 0), ("Was second", 30))]  # fmt: skip
    for job in jobs:
        counter.place(job)

    def settled() -> bool:
        end = time.monotonic() + 90
        while time.monotonic() < end and not counter.get("/api/today").json()["is_better"]:
            time.sleep(0.5)
        return time.monotonic() < end

    page.clock.install()
    page.goto("/today")
    assert settled()
    page.clock.fast_forward(31_000)
    page.wait_for_load_state("networkidle")
    expect(page.get_by_text("Was first").first).to_be_visible()
    order = counter.job(jobs[1])["line"]["decisions"]["order"]
    assert (
        counter.decide(jobs[1], "order", **{**order, "due": (soon - timedelta(minutes=60)).isoformat()}).status_code
        == 200
    )
    page.clock.fast_forward(31_000)
    assert settled()
    expect(page.get_by_text(re.compile("On .*, Was second now goes before"))).to_be_visible(timeout=60_000)
