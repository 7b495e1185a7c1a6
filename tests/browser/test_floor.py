"""Moments on the floor: a changed width after printing, the press's clock, a server that goes away."""

import re

from playwright.sync_api import Page, expect

from tests.web.conftest import Counter


def recorded(page: Page) -> None:
    """Until the server holds everything that was done here."""
    page.wait_for_function("() => (JSON.parse(localStorage.getItem('offsetter.outbox') ?? '[]')).length === 0")


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
    expect(white).to_contain_text(f"was {before}")
    expect(slider).to_have_attribute("aria-valuetext", "100 %")
    slider.evaluate("e => e.blur()")
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_be_enabled()
    page.keyboard.press("z")
    expect(white).to_contain_text(before)


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
    recorded(page)
    moved = counter.job(job)["line"]["decisions"]["place"]
    assert moved["offset_um"] > 20_000
    assert moved["below_collar_um"] > 95_000
    page.get_by_role("button", name="Centre it").click()
    expect(page.get_by_text("centred on the fold")).to_be_visible()


def test_the_clock_survives_a_reload_and_space_does_nothing_while_it_runs(page: Page, counter: Counter):
    job = counter.order({"S": 1})
    run = counter.printed(job)
    for stage in ("powder", "cure-oven"):
        counter.act(job, kind="prepared", run=run, stage=stage, count=2)
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    say, clock = page.locator("[data-say]"), page.locator("[data-clock]")
    expect(say).to_have_text("Empty tee, NO film yet")
    page.keyboard.press("Space")
    page.clock.run_for(5_000)
    page.keyboard.press("Space")
    expect(say).to_have_text("Print face DOWN")
    page.keyboard.press("Space")
    page.clock.run_for(6_000)
    for _ in range(3):
        page.keyboard.press("Space")
    expect(clock).to_have_text("0:09")
    page.reload()
    expect(clock).to_have_text(re.compile("0:0[89]"))
    # Held for a second it asks; No leaves the clock alone.
    page.keyboard.down("Space")
    page.clock.run_for(1_100)
    page.keyboard.up("Space")
    expect(page.get_by_role("alert")).to_contain_text("Ended early?")
    page.keyboard.press("n")
    # Asleep for a minute: it says by how much the stage ran over.
    page.clock.fast_forward(60_000)
    page.clock.run_for(200)
    expect(page.get_by_text(re.compile(r"It ran 5\d s over 15 s"))).to_be_visible()


def test_a_piece_is_taken_back_within_ten_seconds_and_a_spoiled_one_is_told(page: Page, counter: Counter):
    job = counter.order({"S": 2})
    run = counter.printed(job)
    counter.act(job, kind="prepared", run=run, stage="powder", count=3)
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    for stage in ("Empty tee", "Print face DOWN", "Let it go COLD", "Peel LOW", "Parchment ON"):
        expect(page.locator("[data-say]")).to_contain_text(stage)
        page.keyboard.press("Space")
        if stage != "Peel LOW":
            page.clock.run_for(80_000)
            page.keyboard.press("Space")
    expect(page.get_by_text("piece 2 of 2")).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_text("piece 1 of 2")).to_be_visible()
    recorded(page)
    assert counter.job(job)["ledger"]["ledger"]["pressed"] == {}
    page.keyboard.press("f")
    page.get_by_role("button", name="slipped").click()
    page.get_by_role("button", name="Size S is spoiled, print and all").click()
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.clock.run_for(3_000)
    recorded(page)
    assert counter.job(job)["ledger"]["ledger"]["spoiled_pieces"] == {"S": 1}


def test_what_is_done_while_the_server_is_gone_is_kept_and_sent_once(page: Page, counter: Counter, server):
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
    server.process = server.start()
    expect(heading(page)).to_contain_text("transfers are printed", timeout=20_000)
    expect(page.get_by_role("status").filter(has_text="kept in this browser")).to_be_hidden()
    printed = [a for a in counter.job(job)["acts"] if a["body"]["kind"] == "printed"]
    assert len(printed) == 1
    page.wrong.clear()  # the browser logs the refused connections themselves


def test_a_refused_file_says_three_parts_and_changes_nothing(page: Page, counter: Counter):
    job = counter.order()
    page.goto(f"/jobs/{job}/order")
    expect(heading(page)).to_contain_text("artwork is still missing")
    with page.expect_file_chooser() as chooser:
        page.keyboard.press("u")
    chooser.value.set_files({"name": "logo.png", "mimeType": "image/png", "buffer": b"the logo is blue"})
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("not a PNG, JPEG, TIFF or WebP picture")
    expect(dialog).to_contain_text("Nothing was added to the job")
    expect(dialog).to_contain_text("export it as PNG")
    page.keyboard.press("Escape")
    assert counter.job(job)["line"]["decisions"]["place"]["file"] is None
    page.wrong.clear()  # the browser logs the refusal's status itself


def test_two_people_are_told_of_each_other_with_both_values(page: Page, counter: Counter):
    job = counter.order()
    counter.place(job)
    page.goto(f"/jobs/{job}/white")
    slider = page.get_by_role("slider", name="White level")
    expect(slider).to_be_visible()
    counter.as_person("Noor").decide(job, "white", level_pct=22)
    slider.press("End")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Noor changed white")
    expect(dialog.get_by_role("row", name=re.compile("level"))).to_contain_text("22")
    expect(dialog.get_by_role("row", name=re.compile("level"))).to_contain_text("100")
    dialog.get_by_role("button", name="Save mine on top").click()
    expect(dialog).to_be_hidden()
    expect(slider).to_have_attribute("aria-valuetext", "100 %")
    recorded(page)
    assert counter.job(job)["line"]["decisions"]["white"]["level_pct"] == 100
    page.wrong.clear()  # the browser logs the refusal's status itself
