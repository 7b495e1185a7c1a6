"""What hands at the press feel: acts from two screens at once, and a key with the network cut.

The demo shop in a folder of its own. Two screens send a hundred acts each, at the same time; every tenth is sent twice, as a
browser does that got no answer. A key counts from the moment it goes down until the frame that shows its effect.
"""

import shutil
import tempfile
import time
import uuid
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from pathlib import Path

from shop import browser_in, close_shop, job_called, open_shop, page_of, row, signed_in

SCREENS, ACTS_EACH, KEYS = 2, 100, 60
KEY = """
(keys) => new Promise(resolve => {
  const times = [];
  const seen = () => document.querySelector('[data-press-mode]').innerText.replace(/[0-9]+/g, '');
  const step = () => {
    if (times.length === keys) return resolve(times);
    const before = seen(), began = performance.now();
    // Begin a stage, take it back: each key changes what the screen says.
    const key = times.length % 2 ? 'z' : ' ';
    window.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true}));
    window.dispatchEvent(new KeyboardEvent('keyup', {key, bubbles: true}));
    const watch = () => {
      if (seen() === before && performance.now() - began < 2000) return requestAnimationFrame(watch);
      requestAnimationFrame(() => { times.push(performance.now() - began); setTimeout(step, 60); });
    };
    requestAnimationFrame(watch);
  };
  step();
})
"""


def bench_hands() -> None:
    from database import free_port

    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-bench-")), free_port()
    address = f"http://127.0.0.1:{port}"
    try:
        demo = open_shop(folder, port, address)
        try:
            _acts(address)
            _keys(address)
        finally:
            close_shop(demo)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _acts(address: str) -> None:
    client = signed_in(address)
    due = (datetime.now(UTC) + timedelta(days=3)).isoformat()
    line = {"id": "a", "blank": "tee-black", "counts": {"S": SCREENS * ACTS_EACH}}
    order = {"title": "Bench tees", "customer": "Bench", "due": due, "lines": [line]}
    job = client.post("/api/jobs", json={"order": order}).json()["id"]

    def screen(name: str) -> tuple[list[float], set[int]]:
        hand, times, answers = signed_in(address, name), [], set()
        for n in range(ACTS_EACH):
            body = {"kind": "spoiled", "what": "blank", "size": "S", "count": 1, "stage": "pre-press", "cause": name}
            act = {"id": uuid.uuid4().hex, "job": job, "at": datetime.now(UTC).isoformat(), "body": body}
            began = time.perf_counter()
            answers.add(hand.post("/api/acts", json=act).status_code)
            times.append((time.perf_counter() - began) * 1000)
            if n % 10 == 0:
                answers.add(hand.post("/api/acts", json=act).status_code)
        return times, answers

    began = time.perf_counter()
    with ThreadPoolExecutor(SCREENS) as hands:
        done = list(hands.map(screen, ("Ada", "Noor")))
    whole = time.perf_counter() - began
    kept = Counter(a["id"] for a in client.get(f"/api/jobs/{job}").json()["acts"])
    wanted = SCREENS * ACTS_EACH
    print(f"{wanted} acts from {SCREENS} screens at once: {len(kept)} kept, {wanted - len(kept)} lost, "
          f"{sum(n - 1 for n in kept.values())} doubled, answers {sorted(set().union(*(a for _, a in done)))}, {whole:.1f} s")  # fmt: skip
    row("an act, ms", [t for times, _ in done for t in times], 500)


def _keys(address: str) -> None:
    from playwright.sync_api import sync_playwright

    client = signed_in(address)
    job = job_called(client, "Open-late tees")
    print("A key in press mode with the network cut, until it is painted, ms")
    with sync_playwright() as playwright:
        browser = browser_in(playwright)
        page = page_of(browser, client)
        page.goto(f"{address}/jobs/{job}/press-mode")
        page.get_by_role("button", name="It stands as the card says").click()
        page.get_by_role("timer").wait_for()
        page.context.set_offline(True)
        row("a key", page.evaluate(KEY, KEYS)[2:], 50)
        browser.close()
