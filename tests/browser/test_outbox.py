"""What hands did reaches the shop's computer once, whatever becomes of the tab, the network or the server."""

import json

from playwright.sync_api import Page, expect

from tests.browser.hands import SLOWEST_SEND_MS, sent
from tests.web.conftest import Counter
from tests.web.test_methods import taken

EACH = 50
CLICKS = """async ([name, n]) => {
  const button = [...document.querySelectorAll('button')].find((b) => b.innerText.startsWith(name));
  for (let i = 0; i < n; i++) { button.click(); await new Promise((r) => setTimeout(r, 4)); }
}"""


def lint_rolled(counter: Counter, job: str) -> list[str]:
    return [a["id"] for a in counter.job(job)["acts"] if a["body"]["kind"] == "prepared"]


def test_two_tabs_offline_one_closed_one_reloaded_and_every_act_arrives_once(page: Page, counter: Counter):
    job = taken(counter, "direct", "tee-navy", 2 * EACH)
    other = page.context.new_page()
    for tab in (page, other):
        tab.goto(f"/jobs/{job}/prepare")
        expect(tab.get_by_role("button", name="Roll off lint: one more")).to_be_visible()
    page.allowed |= {"gone"}
    page.context.set_offline(True)
    for tab in (page, other):
        tab.evaluate(CLICKS, ["Roll off lint: one more", EACH])
    # The store of the browser has them all, whoever put them there.
    page.wait_for_function(f"() => document.documentElement.dataset.unsent === '{2 * EACH}'", timeout=SLOWEST_SEND_MS)
    assert lint_rolled(counter, job) == []
    other.close()
    page.context.set_offline(False)
    page.reload()
    sent(page)
    acts = lint_rolled(counter, job)
    assert len(acts) == len(set(acts)) == 2 * EACH


def test_a_fault_of_the_server_is_no_refusal_and_the_act_is_sent_again(page: Page, counter: Counter):
    job = taken(counter, "direct", "tee-navy", 3)
    answers = []

    def faulty(route):
        answers.append(route.request.post_data_json["id"])
        if len(answers) == 1:
            return route.fulfill(status=500, content_type="application/json", body=json.dumps(
                {"code": "unexpected", "happened": "x", "kept": "x", "to_do": "x"}))  # fmt: skip
        if len(answers) == 2:
            return route.fulfill(status=502, content_type="text/html", body="<h1>Bad gateway</h1>")
        return route.continue_()

    page.allowed |= {500, 502}
    page.route("**/api/acts", faulty)
    page.goto(f"/jobs/{job}/prepare")
    page.get_by_role("button", name="Roll off lint: one more").click()
    sent(page)
    assert len(answers) == 3
    assert lint_rolled(counter, job) == [answers[0]]
    expect(page.get_by_role("dialog")).to_have_count(0)
