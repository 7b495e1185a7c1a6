"""Hands at the press: they read the one instruction and do it, by keyboard alone."""

import re

from playwright.sync_api import Page, expect

SLOWEST_S = 240
SLOWEST_SEND_MS = 120_000
"""A hundred acts on a machine that is short of time."""


def say(page: Page):
    return page.locator("[data-say]")


def ready(page: Page) -> None:
    """Read the change-over card back."""
    expect(say(page)).to_contain_text(re.compile("read (it|.+) back", re.I))
    page.keyboard.press("Space")
    expect(say(page)).not_to_contain_text("back")


def until(page: Page, wanted: str, *, warm: tuple[int, ...] = ()) -> list[str]:
    """Go on, stage after stage, until the screen says what is wanted; gives every instruction on the way.

    warm: touches, counted from one, that find a piece still warm.
    """
    said, touches = [], 0
    main = page.get_by_role("main").get_by_role("button").filter(has_text="Space")
    for _ in range(SLOWEST_S):
        now = say(page).inner_text()
        if now.startswith(wanted):
            return said
        if not said or said[-1] != now:
            said.append(now)
        label = main.inner_text()
        if label.startswith(("Running", "Wait")):
            page.clock.run_for(5_000)
            continue
        if now.startswith("Touch"):
            touches += 1
            if touches in warm:
                page.keyboard.press("w")
                continue
        page.keyboard.press("Space")
        page.clock.run_for(200)
    raise AssertionError(f"“{wanted}” was never said: {said}")


def sent(page: Page) -> None:
    """Until the server holds everything that was done here."""
    page.wait_for_function("() => document.documentElement.dataset.unsent === '0'", timeout=SLOWEST_SEND_MS)


def recorded(page: Page) -> None:
    """The same where the page's clock stands still."""
    page.clock.run_for(3_000)
    sent(page)
