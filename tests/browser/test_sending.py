"""A run sent from Print to a printer on the network: what is asked for first, how far it is, and where a person must look."""

import re
import uuid

import pytest
from playwright.sync_api import Page, expect
from standins.serving import Machines

from tests.browser.conftest import audit, screen
from tests.conftest import stocked
from tests.served import Server
from tests.web.conftest import give_probes
from tests.web.test_probes import lived


@pytest.fixture(scope="module")
def machines():
    made = Machines(speed=400, names=("petrel",))
    made.engines["petrel"].fill("W")
    yield made
    made.close()


@pytest.fixture(scope="module")
def own(database, shop_rows, machines, tmp_path_factory):
    made = Server(stocked(database, "sending-browser", shop_rows), tmp_path_factory.mktemp("files"), ports=(machines.port,))  # fmt: skip
    made.start()
    ada = made.counter()
    assert ada.client.put("/api/links/petrel", json={"address": machines.uri("petrel")}, headers=ada.headers).status_code == 200  # fmt: skip
    yield made
    made.stop()


@pytest.fixture
def at(browser, own):
    ada = own.counter()
    made = screen(browser, own, ada.cookie)
    yield made, ada
    made.context.close()
    assert made.wrong == [], made.wrong


def test_a_run_is_sent_after_its_care_watched_and_counted(at, machines):
    page: Page
    page, ada = at
    engine = machines.engines["petrel"]
    job = ada.order({"S": 30, "M": 30}, title="Sent tees")
    ada.place(job)
    ada.plates(job)
    run = ada.release(job).json()["runs"][-1]
    ada.follow(f"run-{run['id']}")
    page.goto(f"/jobs/{job}/print")
    at_petrel = page.get_by_role("region", name="At Petrel")
    send = at_petrel.get_by_role("button", name=re.compile("Send .* to Petrel"))
    expect(at_petrel).to_contain_text("Petrel: ready")
    expect(send).to_be_disabled()
    at_petrel.get_by_role("button", name="Stir the white: done").click()
    at_petrel.get_by_role("button", name="Put off: Nozzle check").click()
    at_petrel.get_by_label("Why").fill("looked at it by eye")
    page.keyboard.press("Enter")
    expect(send).to_be_enabled()
    assert audit(page) == []
    # It stops for want of film: said, and it goes on when somebody has been there.
    engine.fail("media-empty", on=True)
    page.get_by_role("heading", level=1).first.click()
    page.keyboard.press("x")
    expect(at_petrel.get_by_role("status")).to_contain_text("is held up")
    expect(at_petrel).to_contain_text("out of paper")
    engine.fail("media-empty", on=False)
    expect(page.get_by_role("region", name=f"Run {run['number']}")).to_contain_text(f"{run['copies']} of {run['copies']} printed")  # fmt: skip
    assert ada.job(job)["runs"][0]["printed"] == run["copies"]


def test_a_machine_shows_what_it_holds_and_what_it_wants_done(at):
    page, ada = at
    for pct in (80, 60):
        body = {"kind": "levels", "pct": {"W": pct}}
        assert ada.post("/api/at-work/petrel/acts", json={"id": uuid.uuid4().hex, "body": body}).status_code == 200
    page.goto("/machines/petrel")
    white = page.get_by_role("button", name=re.compile(r"^White \d+ mL"))
    expect(white).to_be_visible()
    white.click()
    expect(page.get_by_role("heading", name="What a print really took: white")).to_be_visible()
    care = page.get_by_role("region", name="Care")
    care.get_by_role("button", name="Skip it").first.click()
    care.get_by_label("Why").fill("first thing tomorrow")
    page.keyboard.press("Enter")
    expect(care).to_contain_text("Skipped today: first thing tomorrow.")
    page.get_by_role("button", name="Ink was filled in").click()
    page.get_by_role("textbox", name="Lot").first.fill("W-81")
    page.get_by_role("button", name="Note it").click()
    expect(page.get_by_role("button", name="Ink was filled in")).to_be_visible()
    assert audit(page) == []
    page.set_viewport_size({"width": 1024, "height": 768})
    assert audit(page) == []


def test_a_press_is_fitted_from_the_log_of_a_probe(at, machines):
    page: Page
    page, ada = at
    give_probes(ada, machines)
    machines.hall = lived()
    page.goto("/machines/whimbrel")
    expect(page.get_by_text("It holds a whole heating and cooling.")).to_be_visible()
    page.goto("/machines/gannet")
    page.get_by_role("button", name="Measure it again").click()
    before = {name: page.get_by_label(name).input_value() for name in ("Heating run", "Cooling run")}
    page.get_by_role("button", name="Take the log of Whimbrel").click()
    # The room may read the same before: the log is there once both runs are others.
    for name, was in before.items():
        expect(page.get_by_label(name)).not_to_have_value(was)
    expect(page.get_by_label("Room, °C")).to_have_value(re.compile(r"^21\.\d$"))
    readings = len(page.get_by_label("Heating run").input_value().split("\n")) + len(page.get_by_label("Cooling run").input_value().split("\n"))  # fmt: skip
    page.get_by_role("button", name="Fit it to these").click()
    expect(page.get_by_role("region", name="How it heats")).to_contain_text(f"Fitted to {readings} readings of a probe")
