"""At the press: pieces one after the other on the keyboard, sleep, another screen, a network that goes away."""

import re
import time
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy.orm import Session

from offsetter.core import facts
from offsetter.store.engine import engine_for
from offsetter.store.shop import ShopStore
from tests.browser.conftest import screen
from tests.browser.hands import ready, recorded, say, until
from tests.web.conftest import Counter


def cured(counter: Counter, counts: dict[str, int]) -> str:
    """A job whose transfers are printed and cured."""
    job = counter.order(counts)
    run = counter.printed(job)
    count = counter.job(job)["runs"][-1]["copies"]
    for stage in ("powder", "cure-oven"):
        assert counter.act(job, kind="prepared", run=run, stage=stage, count=count).status_code == 200
    return job


def pressed(counter: Counter, job: str) -> list[dict]:
    acts = counter.job(job)["acts"]
    voided = {a["body"]["voids"] for a in acts if a["body"]["kind"] == "voided"}
    return [a for a in acts if a["body"]["kind"] == "pressed" and a["id"] not in voided]


@contextmanager
def house(browser_url: str, stage: str, **changed: float) -> Iterator[None]:
    """The shop's own recipe for a while: one of its stages is another."""
    recipe = facts.recipes()["film-house"].model_dump()
    stages = [{**s, **changed} if s["id"] == stage else s for s in recipe["stages"]]
    engine = engine_for(browser_url)
    for body in ({**recipe, "version": 4, "stages": stages}, recipe):
        with Session(engine) as session, session.begin():
            ShopStore(session).change("recipes", "film-house", **body)
        if body is not recipe:
            yield
    engine.dispose()


@pytest.fixture
def cooler_finish(browser_url) -> Iterator[None]:
    with house(browser_url, "finish", temperature_c=150.0):
        yield


@pytest.fixture
def long_transfer(browser_url) -> Iterator[None]:
    """Long enough that a slow machine's own seconds, which the page's clock counts too, do not end it."""
    with house(browser_url, "transfer", time_s=300.0):
        yield


def test_five_pieces_by_keyboard_alone_with_one_spoiled(page: Page, counter: Counter):
    job = cured(counter, {"S": 2, "M": 3})
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    said = until(page, "Touch it")
    # The next blank is pressed while the first one cools: the rack rolls.
    assert said.count("Empty blank, NO film yet") >= 3
    page.keyboard.press("f")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("What went wrong, and with which?")
    for _ in range(40):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.innerText").startswith("slipped"):
            page.keyboard.press("Enter")
        if "is spoiled, print and all" in page.evaluate("document.activeElement.innerText"):
            page.keyboard.press("Enter")
            break
    expect(dialog).to_be_hidden()
    said = until(page, "All pieces are pressed", warm=(1,))
    assert [s for s in said if s.startswith("Touch")], said
    recorded(page)
    books = counter.job(job)["ledger"]["books"]
    # Five ordered, one of them spoiled and pressed again with the spare.
    assert len(pressed(counter, job)) == 6
    assert sum(p["complete"] for p in books["pieces"]) == 5
    assert sum(p["spoiled_pieces"] for p in books["pieces"]) == 1
    assert books["transfers"][0]["in_hand"] == books["transfers"][0]["printed"] - 6
    cause = [a["body"] for a in counter.job(job)["acts"] if a["body"]["kind"] == "spoiled"]
    assert [(c["what"], c["cause"]) for c in cause] == [("piece", "slipped")]
    touched = [s for a in pressed(counter, job) for s in a["body"]["stages"] if s["stage"] == "cool" and s["warm_at_s"]]
    assert touched, "the touch that found it warm is kept with the piece"


def left(page: Page) -> int:
    """What the clock shows, in s."""
    minutes, seconds = page.locator("[data-clock]").inner_text().split(":")
    return int(minutes) * 60 + int(seconds)


def test_the_clock_survives_a_reload_a_sleep_and_space_does_nothing_while_it_runs(
    page: Page, counter: Counter, long_transfer
):
    job = cured(counter, {"S": 1})
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    until(page, "Print face DOWN")
    began = time.monotonic()
    page.keyboard.press("Space")
    page.clock.run_for(6_000)
    for _ in range(3):
        page.keyboard.press("Space")
    expect(say(page)).to_have_text("Shut. Wait.")
    before = left(page)
    page.reload()
    expect(say(page)).to_have_text("Shut. Wait.")
    # Held for a second it asks; No leaves the clock alone.
    page.keyboard.down("Space")
    page.clock.run_for(1_100)
    page.keyboard.up("Space")
    expect(page.get_by_role("alert")).to_contain_text("Ended early?")
    page.keyboard.press("n")
    after = left(page)
    # The page's clock goes on by itself beside what it is moved by.
    own = time.monotonic() - began + 1
    assert 294 - own <= before <= 295
    assert 293 - own <= after <= min(before - 1, 294)
    # Asleep for ten minutes: it says by how much the stage ran over, and the act keeps it.
    page.clock.fast_forward(600_000)
    page.clock.run_for(200)
    said = page.get_by_text(re.compile(r"It ran \d+ s over 300 s"))
    expect(said).to_be_visible()
    over = int(said.inner_text().split()[2])
    until(page, "All pieces are pressed")
    recorded(page)
    own = time.monotonic() - began + 2
    (stages,) = [a["body"]["stages"] for a in pressed(counter, job)]
    transfer = next(s for s in stages if s["stage"] == "transfer")
    assert transfer["planned_s"] == 300
    assert 607 <= transfer["ran_s"] <= 608 + own
    assert 307 <= over <= transfer["ran_s"] - 299


def test_a_step_is_taken_back_within_ten_seconds_and_a_recorded_piece_too(page: Page, counter: Counter):
    job = cured(counter, {"S": 2})
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    page.keyboard.press("Space")
    expect(say(page)).to_have_text("Shut. Wait.")
    page.keyboard.press("z")
    expect(say(page)).to_have_text("Empty blank, NO film yet")
    # Both pieces go to the rack, then the first one all the way through.
    until(page, "Parchment ON the print")
    page.keyboard.press("Space")
    page.clock.run_for(13_000)
    page.keyboard.press("Space")
    expect(page.get_by_text("1 of 2 pressed")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Take back .*S is through"))).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_text("0 of 2 pressed")).to_be_visible()
    recorded(page)
    assert pressed(counter, job) == []
    until(page, "All pieces are pressed")
    recorded(page)
    assert len(pressed(counter, job)) == 2


def test_another_screen_follows_the_press_and_takes_it_over(page: Page, counter: Counter, browser, server):
    page.allowed |= {409}
    job = cured(counter, {"S": 2})
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    until(page, "Wait: place 1 cools")
    noor = screen(browser, server, counter.as_person("Noor").cookie)
    noor.clock.install()
    noor.goto(f"/jobs/{job}/press-mode")
    expect(say(noor)).to_have_text("Ada leads this press")
    noor.get_by_role("button", name="Follow it").click()
    expect(noor.get_by_text(re.compile(r"Rack: 1 \(S\), 2 \(S\)"))).to_be_visible()
    noor.get_by_role("button", name="Take it over").click()
    expect(noor.locator("[data-place]")).to_have_count(2)
    page.clock.run_for(3_000)
    expect(say(page)).to_have_text("Following Noor")
    until(noor, "All pieces are pressed")
    recorded(noor)
    assert {a["actor"] for a in pressed(counter, job)} == {"Noor"}
    assert len(pressed(counter, job)) == 2
    assert noor.wrong == [] or all("409" in w for w in noor.wrong)
    noor.context.close()


def test_with_the_network_cut_keys_answer_and_every_piece_arrives_once(page: Page, counter: Counter):
    page.allowed |= {"gone"}
    job = counter.order({"S": 1, "M": 1})
    assert counter.decide(job, "sheet", spares=1).status_code == 200
    run = counter.printed(job)
    for stage in ("powder", "cure-oven"):
        assert counter.act(job, kind="prepared", run=run, stage=stage, count=3).status_code == 200
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    # What it lives on is kept once the service worker answers for it.
    kept = "() => caches.open('at-press').then((c) => c.keys()).then((k) => k.map((r) => new URL(r.url).pathname))"
    end = time.monotonic() + 30
    while not {"/api/welcome", f"/api/jobs/{job}", f"/api/jobs/{job}/press-card"} <= set(page.evaluate(kept)):
        assert time.monotonic() < end, page.evaluate(kept)
        time.sleep(0.1)
    page.context.set_offline(True)
    page.reload()
    expect(page.get_by_text("0 of 2 pressed")).to_be_visible()
    # One is spoiled meanwhile: the spare takes its place, though no server knows of either.
    until(page, "Touch it")
    page.keyboard.press("f")
    page.get_by_role("dialog").get_by_label("Or in your words").fill("a speck")
    page.get_by_role("button", name="is spoiled, print and all").click()
    until(page, "All pieces are pressed")
    expect(page.get_by_role("status").filter(has_text="kept in this browser")).to_be_visible()
    expect(page.get_by_text("2 of 2 pressed")).to_be_visible()
    assert pressed(counter, job) == []
    page.context.set_offline(False)
    recorded(page)
    assert {a["body"]["size"] for a in pressed(counter, job)} == {"M", "S"}
    assert len(pressed(counter, job)) == 3, "the two, and the one that was spoiled"
    assert sum(p["complete"] for p in counter.job(job)["ledger"]["books"]["pieces"]) == 2
    assert all(job in path or path == "/api/welcome" for path in page.evaluate(kept) if "/presses/" not in path)
    # Whoever signs out takes it along.
    page.goto("/jobs")
    page.get_by_role("heading", level=1).wait_for()
    page.allowed |= {401}  # what was still under way is refused
    page.keyboard.press("y")
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("button", name="Sign out")).to_be_hidden()
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    assert page.evaluate("() => caches.has('at-press')") is False


def test_a_change_of_heat_is_announced_and_made_once_for_all_pieces(page: Page, counter: Counter, cooler_finish):
    job = cured(counter, {"S": 3})
    page.clock.install()
    page.goto(f"/jobs/{job}/press-mode")
    ready(page)
    expect(page.get_by_role("status").filter(has_text="In 3 pieces the press goes to 150 °C (302 °F)")).to_be_visible()
    said = until(page, "Set the press to 150")
    assert said.count("Peel LOW, one movement") >= 1
    # All three are peeled and lie aside before the heat is changed once.
    expect(page.get_by_text("waits for heat")).to_have_count(3)
    assert "Parchment ON the print" not in said
    said = until(page, "All pieces are pressed")
    assert not [s for s in said if s.startswith("Set the press to 160")]
    recorded(page)
    heats = [[s["temperature_c"] for s in a["body"]["stages"] if s["temperature_c"]] for a in pressed(counter, job)]
    assert heats == [[160, 160, 150]] * 3
    assert [a["body"]["temperature_c"] for a in counter.job(job)["acts"] if a["body"]["kind"] == "set-up"] == [160, 150]
