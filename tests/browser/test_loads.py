"""At the press: several things in one pressing, and what is prepared under heat by the clock."""

from playwright.sync_api import Page, expect

from tests.browser.hands import ready, recorded, say, until
from tests.web.conftest import Counter
from tests.web.test_methods import taken


def bodies(counter: Counter, job: str, kind: str) -> list[dict]:
    acts = counter.job(job)["acts"]
    voided = {a["body"]["voids"] for a in acts if a["body"]["kind"] == "voided"}
    return [a["body"] for a in acts if a["body"]["kind"] == kind and a["id"] not in voided]


def printed(counter: Counter, job: str) -> None:
    counter.plates(job)
    run = counter.release(job).json()["runs"][-1]
    assert counter.act(job, kind="printed", run=run["id"], count=run["copies"]).status_code == 200


def test_twelve_coasters_go_under_the_press_together_and_one_spoiled_is_pressed_again_alone(
    page: Page, counter: Counter
):
    job = taken(counter, "sub-ink-hard", "coaster", 14)
    assert counter.decide(job, "sheet", spares=1).status_code == 200  # else as many as this shop has spoiled lately
    printed(counter, job)
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    expect(page.get_by_role("img", name="12 in one pressing")).to_be_visible()
    page.keyboard.press("-")
    expect(page.get_by_label("Clock")).to_contain_text("11 x Coaster")
    page.keyboard.press("+")
    said = until(page, "Shut. Wait.")
    page.clock.run_for(61_000)
    page.keyboard.press("f")
    dialog = page.get_by_role("dialog")
    # One of the twelve is spoiled; the other eleven go on.
    dialog.get_by_label("Or in your words").fill("a speck")
    dialog.get_by_role("button", name="is spoiled, print and all").click()
    expect(page.get_by_label("Clock")).to_contain_text("11 x Coaster")
    said += until(page, "All pieces are pressed")
    for wanted in ("Panel face UP, print DOWN", "Lift it STRAIGHT"):
        assert any(s.startswith(wanted) for s in said), (wanted, said)
    recorded(page)
    acts = bodies(counter, job, "pressed")
    assert [(a["count"], a["together"]) for a in acts[:2]] == [(1, 12), (11, 11)]
    assert sum(a["count"] for a in acts[2:]) == 3
    books = counter.job(job)["ledger"]["books"]["pieces"][0]
    assert (books["complete"], books["spoiled_pieces"]) == (14, 1)


def test_a_hover_cure_runs_on_the_presss_clock_and_is_recorded_print_by_print(page: Page, counter: Counter):
    job = taken(counter, "film", "tee-black", 2)
    way = counter.job(job)["line"]["way"]
    assert counter.decide(job, "method", schools={**way["schools"], "film-cure": "hover"}).status_code == 200
    printed(counter, job)
    copies = counter.job(job)["runs"][-1]["copies"]
    page.clock.install()
    page.goto(f"/jobs/{job}/prepare")
    expect(page.get_by_role("button", name="by the clock")).to_be_enabled()
    page.keyboard.press("p")
    expect(say(page)).to_contain_text("read it back")
    expect(page.get_by_label("Change over")).to_contain_text("141 °C")
    ready(page)
    said = until(page, "Nothing waits to be prepared")
    assert said.count("Open. Nothing touches.") == copies
    recorded(page)
    cured = [a for a in bodies(counter, job, "prepared") if a["stage"] == "cure-hover"]
    assert [a["count"] for a in cured] == [1] * copies
    assert all(a["ran"]["planned_s"] == 90 and a["ran"]["ran_s"] >= 90 for a in cured)
    page.keyboard.press("Space")
    expect(page.get_by_role("heading", name="Press", exact=True)).to_be_visible()


def test_a_cut_length_lies_in_the_oven_while_the_next_is_powdered(page: Page, counter: Counter):
    job = taken(counter, "film", "tee-black", 6)
    assert counter.decide(job, "sheet", rows_per_cut=1).status_code == 200
    printed(counter, job)
    cuts = counter.job(job)["runs"][-1]["copies_per_cut"]
    assert len(cuts) > 1
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode?part=prepare")
    ready(page)
    until(page, "Cure until it looks GLAZED")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="1 ").first).to_contain_text("transfers")
    expect(say(page)).to_have_text("Powder while the ink is WET")
    said = until(page, "Nothing waits to be prepared")
    assert "Is it GLAZED all over?" in said
    recorded(page)
    cured = [a for a in bodies(counter, job, "prepared") if a["stage"] == "cure-oven"]
    assert [a["count"] for a in cured] == cuts
