"""Moments on the floor: a changed width after printing, the press's clock, a server that goes away."""

import re
import time

from playwright.sync_api import Page, Route, expect

from tests.browser.hands import sent
from tests.web.conftest import Counter


def heading(page: Page):
    return page.get_by_role("heading", level=1)


def test_a_changed_width_marks_what_was_printed_and_offers_three_ways(page: Page, counter: Counter):
    job = counter.order({"S": 2})
    counter.printed(job)
    page.goto(f"/jobs/{job}/order")
    page.get_by_label("Width", exact=True).fill("70")
    page.get_by_label("Width", exact=True).press("Enter")
    line = page.get_by_role("navigation", name="Stations")
    expect(line.get_by_role("link", name=re.compile("^Print"))).to_contain_text("out of date")
    page.goto(f"/jobs/{job}/print")
    for way in ("Use as printed", "Reprint the rest", "Reprint all"):
        expect(page.get_by_role("radio", name=re.compile(way))).to_be_visible()
    # Using them as they are needs a reason.
    expect(page.get_by_role("button", name="Use as printed")).to_be_disabled()
    page.get_by_role("textbox", name="Reason").fill("the customer likes it smaller")
    page.get_by_role("button", name="Use as printed").click()
    expect(line.get_by_role("link", name=re.compile("^Print"))).to_contain_text("done")


def test_a_slider_moves_the_readings_with_the_value_before_beside_them(page: Page, counter: Counter):
    job = counter.order()
    counter.place(job)
    page.goto(f"/jobs/{job}/white")
    white = page.locator("[data-reading=white]")
    before = white.inner_text().split("%")[0].strip()
    slider = page.get_by_role("slider", name="White level")
    slider.press("End")
    expect(page.get_by_role("region", name="Readings")).to_contain_text(f"was {before.removeprefix('~')}")
    expect(slider).to_have_attribute("aria-valuetext", "100 %")
    slider.evaluate("e => e.blur()")
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_be_enabled()
    page.keyboard.press("z")
    expect(white).to_contain_text(before)


def test_figures_follow_a_hand_that_goes_on_and_it_leaves_the_others_their_turn(page: Page, counter: Counter):
    job = counter.order()
    counter.place(job)
    page.goto(f"/jobs/{job}/white")
    asked: list[tuple[float, Route]] = []
    page.route("**/try", lambda route: asked.append((time.monotonic(), route)))
    box = page.get_by_role("slider", name="White level").bounding_box()
    page.mouse.move(box["x"] + 10, box["y"] + 10)
    page.mouse.down()
    page.mouse.move(box["x"] - 60, box["y"] + 10)
    page.mouse.move(box["x"] - 90, box["y"] + 10)
    while not asked:
        page.wait_for_timeout(10)
    # The hand is elsewhere by now; what is answered is shown all the same.
    found = asked[0][1].fetch()
    assert "turn;dur=" in found.headers["server-timing"]
    answered = time.monotonic()
    asked[0][1].fulfill(response=found, headers={**found.headers, "server-timing": "turn;dur=200"})
    expect(page.get_by_role("region", name="Readings")).to_contain_text("was")
    assert len(asked) == 1
    # It waited 0.2 s for its turn: the others go first, twice as long.
    while len(asked) < 2:
        page.wait_for_timeout(10)
    assert asked[1][0] - answered > 0.35
    asked[1][1].continue_()
    page.unroute("**/try")
    page.mouse.up()
    sent(page)


def test_the_print_is_dragged_and_snaps_to_the_fold(page: Page, counter: Counter):
    job = counter.order()
    counter.place(job, width_mm=120)
    page.goto(f"/jobs/{job}/order")
    picture = page.get_by_role("button", name=re.compile("^Print, 85 mm below"))
    box = picture.bounding_box()
    page.mouse.move(box["x"] + 20, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] + 60, box["y"] + 45, steps=5)
    page.mouse.up()
    expect(page.get_by_text("to the wearer's left")).to_be_visible()
    sent(page)
    moved = counter.job(job)["line"]["decisions"]["place"]
    assert moved["offset_um"] > 20_000
    assert moved["below_collar_um"] > 95_000
    page.get_by_role("button", name="Centre it").click()
    expect(page.get_by_text("centred on the fold")).to_be_visible()


def test_what_is_done_while_the_server_is_gone_is_kept_and_sent_once(page: Page, counter: Counter, server):
    page.allowed |= {"gone"}
    job = counter.order({"S": 3})
    counter.place(job)
    counter.plates(job)
    counter.release(job)
    page.goto(f"/jobs/{job}/print")
    button = page.get_by_role("button", name="They are printed")
    expect(button).to_be_visible()
    server.stop()
    button.click()
    expect(page.get_by_role("status").filter(has_text="kept in this browser")).to_be_visible(timeout=15_000)
    server.start()
    expect(heading(page)).to_contain_text("transfers are printed", timeout=20_000)
    expect(page.get_by_role("status").filter(has_text="kept in this browser")).to_be_hidden()
    printed = [a for a in counter.job(job)["acts"] if a["body"]["kind"] == "printed"]
    assert len(printed) == 1


def test_a_refused_file_says_three_parts_and_changes_nothing(page: Page, counter: Counter):
    page.allowed |= {409}
    job = counter.order()
    page.goto(f"/jobs/{job}/order")
    expect(heading(page)).to_contain_text("artwork is still missing")
    with page.expect_file_chooser() as chooser:
        page.keyboard.press("u")
    chooser.value.set_files({"name": "logo.png", "mimeType": "image/png", "buffer": b"the logo is blue"})
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("not a PNG, JPEG, TIFF, WebP, PDF or SVG")
    expect(dialog).to_contain_text("Nothing was added to the job")
    expect(dialog).to_contain_text("export it as PNG")
    page.keyboard.press("Escape")
    assert counter.job(job)["line"]["decisions"]["place"]["file"] is None


def test_two_people_are_told_of_each_other_with_both_values(page: Page, counter: Counter):
    page.allowed |= {409}
    job = counter.order()
    counter.place(job)
    page.goto(f"/jobs/{job}/white")
    slider = page.get_by_role("slider", name="White level")
    expect(slider).to_be_visible()
    counter.as_person("Noor").decide(job, "white", level_pct=22)
    slider.press("End")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Noor changed white")
    expect(dialog.get_by_role("row", name=re.compile("level", re.I))).to_contain_text("22")
    expect(dialog.get_by_role("row", name=re.compile("level", re.I))).to_contain_text("100")
    dialog.get_by_role("button", name="Save mine on top").click()
    expect(dialog).to_be_hidden()
    expect(slider).to_have_attribute("aria-valuetext", "100 %")
    sent(page)
    assert counter.job(job)["line"]["decisions"]["white"]["level_pct"] == 100


def test_on_a_shared_screen_what_somebody_did_waits_for_them(page: Page, counter: Counter, server):
    page.allowed |= {"gone", 401}
    job = counter.order({"S": 3})
    counter.place(job)
    counter.plates(job)
    counter.release(job)
    page.goto(f"/jobs/{job}/print")
    button = page.get_by_role("button", name="They are printed")
    expect(button).to_be_visible()
    page.context.set_offline(True)
    button.click()
    expect(page.get_by_role("status").filter(has_text="kept in this browser")).to_be_visible(timeout=15_000)
    # Ada's session ends before the network is back, and Noor signs in at the same screen.
    counter.client.post("/api/welcome/sign-out", headers=counter.headers)
    page.context.set_offline(False)
    page.get_by_role("button", name="Noor, technician").click()
    expect(page.get_by_role("status").filter(has_text="What Ada did here waits")).to_be_visible(timeout=15_000)
    noor = counter.as_person("Noor")
    assert noor.job(job)["acts"] == []
    page.keyboard.press("y")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("PIN").fill("1111")
    dialog.get_by_role("button", name="Switch").click()
    expect(dialog.get_by_role("alert")).to_contain_text("do not belong together")
    dialog.get_by_label("PIN").fill("1357")
    dialog.get_by_role("button", name="Switch").click()
    expect(heading(page)).to_contain_text("transfers are printed", timeout=20_000)
    assert [(a["actor"], a["body"]["kind"]) for a in noor.job(job)["acts"]] == [("Ada", "printed")]
