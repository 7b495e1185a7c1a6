"""A real server on a free port, a real browser, and one page that fails on any error it logs."""

import re
import shutil
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright
from standins.serving import Machines

from tests.abroad import lay_catalogue
from tests.conftest import ROOT
from tests.served import Server
from tests.web.conftest import Counter, give_probes

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--font-render-hinting=none", "--force-color-profile=srgb", "--hide-scrollbars",
]  # fmt: skip
# A machine that is short of time is not a failure: what is awaited is awaited longer.
expect.set_options(timeout=20_000)
AXE = (ROOT / "frontend" / "node_modules" / "axe-core" / "axe.min.js").read_text()


@pytest.fixture(scope="session")
def server(browser_url, tmp_path_factory) -> Iterator[Server]:
    machines = Machines(names=())
    files = tmp_path_factory.mktemp("files")
    lay_catalogue(files / "texts")
    made = Server(browser_url, files, (machines.port,))
    made.start()
    give_probes(made.counter(), machines)
    yield made
    made.stop()
    machines.close()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path=path, args=ARGUMENTS)
        yield made
        made.close()


def screen(browser: Browser, server: Server, cookie: str | None) -> Page:
    """A browser of its own, signed in by the cookie of somebody at the counter; every error it logs is kept.

    A test says in `allowed` which refusals (a status, or "gone" for a server that is away) it is about: the browser logs them.
    """
    context = browser.new_context(
        base_url=server.address, viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB", timezone_id="UTC",
        permissions=["screen-wake-lock"],
    )  # fmt: skip
    if cookie:
        context.add_cookies([{"name": "offsetter", "value": cookie, "url": server.address}])
    made = context.new_page()
    wrong: list[str] = []
    allowed: set[int | str] = set()

    def logged(message) -> None:
        if message.type != "error":
            return
        status = re.search(r"status of (\d+)", message.text)
        what = int(status[1]) if status else "gone" if "net::ERR_" in message.text else None
        if not message.text.startswith("Failed to load resource") or what not in allowed:
            wrong.append(message.text)

    made.on("console", logged)
    made.on("pageerror", lambda e: wrong.append(str(e)))
    made.wrong, made.allowed = wrong, allowed
    # From the start: switched on only when a chooser is awaited, it can come after the key that opens one.
    made.on("filechooser", lambda _: None)
    return made


@pytest.fixture
def page(browser: Browser, server: Server, counter: Counter) -> Iterator[Page]:
    made = screen(browser, server, counter.cookie)
    yield made
    made.context.close()
    assert made.wrong == [], made.wrong


@pytest.fixture(autouse=True)
def nobody_at_the_press(counter: Counter) -> None:
    """The shop has one press and one oven: what the test before left there is over."""
    for machine in ("gannet", "fulmar"):
        left = counter.get(f"/api/presses/{machine}/session").json()
        if left:
            counter.client.delete(f"/api/presses/{machine}/session/{left['holder']}", headers=counter.headers)


@pytest.fixture
def counter(server: Server) -> Counter:
    return server.counter()


@pytest.fixture
def job(counter: Counter) -> str:
    """A job with something of everything in its ledger."""
    job = counter.order()
    run = counter.printed(job)
    for stage in ("powder", "cure-oven"):
        counter.act(job, kind="prepared", run=run, stage=stage, count=4)
    for _ in range(2):
        counter.act(job, kind="pressed", run=run, size="S", stages=[])
    counter.act(job, kind="good", size="S", count=1)
    counter.act(job, kind="spoiled", what="piece", size="S", count=1, stage="peel", cause="peeled warm")
    return job


TAGS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
RUN = """what => axe.run(document, what).then(r => r.violations.map(
    v => v.id + ': ' + v.nodes.map(n => n.target + ' ' + n.failureSummary).join(' | ')))"""
WRONG = {"resultTypes": ["violations"]}
"""What passes is not told of in full: that takes as long as looking."""
PAINT = "theme => { const was = document.documentElement.dataset.theme; document.documentElement.dataset.theme = theme; return was }"


def audit(page: Page) -> list[str]:
    """WCAG 2.2 AA violations that axe finds, each with the elements it points at; in the other theme, those of colour."""
    page.evaluate(AXE)
    found = list(page.evaluate(RUN, WRONG | {"runOnly": TAGS}))
    was = page.evaluate(PAINT, "dark")
    other = "light" if was == "dark" else "dark"
    page.evaluate(PAINT, other)
    found += [f"{other}: {wrong}" for wrong in page.evaluate(RUN, WRONG | {"runOnly": ["color-contrast"]})]
    page.evaluate(PAINT, was)
    return found
