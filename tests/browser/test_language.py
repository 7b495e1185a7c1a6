"""Every screen, by a reader of another language and by an automated audit: no word stands outside of the catalogue, and nothing bars anybody."""

import json
import re
from contextlib import suppress

import pytest
from playwright.sync_api import Error, Page, Request, Response, expect

from tests.abroad import without_said
from tests.browser.conftest import audit
from tests.browser.hands import say, sent
from tests.conftest import ROOT
from tests.web.conftest import Counter

SEEN = """() => { const found = [];
  const see = t => { if (t && t.trim()) found.push(t.trim()) };
  for (const e of document.querySelectorAll("body *")) {
    for (const n of e.childNodes) if (n.nodeType === 3) see(n.textContent);
    for (const a of ["aria-label", "title", "placeholder", "alt"]) see(e.getAttribute(a));
  }
  see(document.title);
  return found }"""
WORD = re.compile(r"[A-Za-z]{3,}")
STATIONS = ("order", "method", "artwork", "colour", "white", "sheet", "print", "prepare", "press", "inspect")
AREAS = ("today", "jobs", "sheets", "machines", "blanks", "stores", "recipes", "colour", "prices", "customers", "logbook", "people", "codes")  # fmt: skip
QUIET = 4
"""Tenths of a second without a request: a screen that came is drawn."""
OF_ALL = {"offsetter", "enter", "space", "min", "ppi", "dpi"}
"""The product's name, keys as they are marked, and units."""
DAYS = re.compile(r"(Mon|Tue|Wed|Thu|Fri|Sat|Sun)?( ?(Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec))?")
"""As the browser writes them, which does not know this language."""


def words_of_the_interface() -> set[str]:
    """What the server's own description lets a field be, such as "needs you": a page says it as people read it."""
    found: set[str] = set()

    def look(value) -> None:
        if isinstance(value, dict):
            found.update(map(str, value.get("enum", ())) if isinstance(value.get("enum"), list) else ())
            found.update([str(value["const"])] if "const" in value else ())
            any(look(v) for v in value.values())
        elif isinstance(value, list):
            any(look(v) for v in value)

    look(json.loads((ROOT / "frontend/src/api/openapi.json").read_text()))
    return found


class Data:
    """Strings that the server gave, without what it said from the catalogue: names, and what the shop wrote itself."""

    def __init__(self, page: Page) -> None:
        self._page, self._fixed, self._told = page, words_of_the_interface(), set[str]()
        self._under_way = 0
        page.on("response", self._heard)
        page.on("request", lambda asked: self._count(asked, 1))
        for over in ("requestfinished", "requestfailed"):
            page.on(over, lambda asked: self._count(asked, -1))

    def at(self, path: str) -> None:
        """Go there as a press of a key does, without loading the page anew, and wait until nothing more is on its way."""
        self._page.evaluate(
            "path => { history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate')) }", f"/{path}"
        )
        quiet = 0
        while quiet < QUIET:
            self._page.wait_for_timeout(100)
            quiet = 0 if self._under_way else quiet + 1
        expect(self._page.get_by_role("main")).to_contain_text("«")

    def _count(self, asked: Request, by: int) -> None:
        if not asked.url.endswith("/events"):
            self._under_way += by

    def _heard(self, answer: Response) -> None:
        if "/api/" in answer.url and "/texts/" not in answer.url and "json" in answer.headers.get("content-type", ""):
            # What was still on its way when the page was left holds nothing of what is looked at.
            with suppress(Error):
                self._learn(answer.json())

    def _learn(self, value) -> None:
        if isinstance(value, dict | list):
            for inner in value.values() if isinstance(value, dict) else value:
                self._learn(inner)
        elif isinstance(value, str) and value not in self._fixed:
            # A medium is called by its id, written apart.
            self._told |= {without_said(value).lower(), value.lower().replace("-", " ")}

    def escaped(self, texts: list[str]) -> set[str]:
        known = "\n".join(self._told)
        parts = {part.strip(" .,:;()·“”'?%+-~/#") for text in texts for part in re.split(r" · |, |: |; |\n|\d+|\b[A-Z] |\bmm\b", without_said(text))}  # fmt: skip
        return {
            p
            for p in parts
            if WORD.search(p)
            and p.lower() not in known
            and not DAYS.fullmatch(p)
            and not set(p.lower().split()) <= OF_ALL
        }


@pytest.fixture
def english_after(counter: Counter):
    yield
    was = counter.get("/api/welcome").json()["me"]["liking"] or {}
    answer = counter.client.put("/api/me/liking", json={**was, "language": ""}, headers=counter.headers)
    assert answer.status_code == 200


@pytest.mark.usefixtures("english_after")
def test_no_word_of_a_page_escapes_the_catalogue_and_every_screen_passes_the_audit(
    page: Page, counter: Counter, job: str
):
    closed = counter.order({"S": 1})
    counter.printed(closed)
    counter.act(closed, kind="closed", short=True)
    data = Data(page)
    page.goto("/jobs")
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.keyboard.press("y")
    language = page.get_by_role("dialog").get_by_role("radiogroup", name="Language")
    expect(language.get_by_role("radio", name="English")).to_be_checked()
    language.get_by_role("radio", name="Esperanto").click()
    expect(page.get_by_role("heading", name="«", exact=False).first).to_be_visible()
    assert page.evaluate("document.documentElement.lang") == "eo"
    left: dict[str, set[str] | list[str]] = {}
    seen: list[str] = []
    for path in (*(f"jobs/{job}/{s}" for s in (*STATIONS, "ledger", "proof")), *AREAS):
        data.at(path)
        before, seen = seen, page.evaluate(SEEN)
        assert seen != before, path
        assert sum("«" in text for text in seen) > 10, path
        if wrong := data.escaped(seen) or audit(page):
            left[path] = wrong
    data.at(f"jobs/{job}/press-mode")
    expect(say(page)).to_contain_text("«")
    if escaped := data.escaped(page.evaluate(SEEN)):
        left["press-mode"] = escaped
    assert left == {}, left
    data.at("jobs")
    page.keyboard.press("y")
    page.get_by_role("dialog").get_by_role("radio", name="«English»").click()
    expect(page.get_by_role("heading", level=1)).not_to_contain_text("«")
    assert page.evaluate("document.documentElement.lang") == "en"
    sent(page)
