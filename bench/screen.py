"""What a hand feels: a moved slider until the new picture, from the server and in the browser; the first page.

In the browser the slider is kept moving, as a hand keeps it: nothing is saved until it rests.
The demo shop in a folder of its own, the demo order, the picture at bench size. The server's time is one question and one
picture, one after the other, over loopback.
"""

import gzip
import shutil
import tempfile
import time
from pathlib import Path

from shop import ROOT, browser_in, close_shop, job_called, open_shop, page_of, row, signed_in

MOVES = 60
GESTURES = (
    ("white", "level_pct", "White level", "white", range(20, 20 + MOVES)),
    ("white", "choke_um", "Choke", "white", range(100, 100 + 5 * MOVES, 5)),
    ("colour", "ink_limit_pct", "Ink limit", "cloth", range(150, 150 + MOVES)),
    ("place", "width_um", "Print width", "cloth", range(150_000, 150_000 + 1000 * MOVES, 1000)),
)
STATION = {"place": "order"}
PAINTED = """
([label, moves]) => new Promise(resolve => {
  const thumb = [...document.querySelectorAll('[role=slider]')].find(
    t => document.getElementById(t.getAttribute('aria-labelledby'))?.innerText === label);
  if (!thumb) throw new Error('no slider ' + label);
  const bench = document.querySelector('main svg');
  const seen = () => [...bench.querySelectorAll('image')].map(i => i.getAttribute('href')).join();
  const times = [];
  const step = () => {
    if (times.length === moves) return resolve(times);
    const before = seen(), began = performance.now();
    thumb.focus();
    thumb.dispatchEvent(new KeyboardEvent('keydown', {key: times.length < moves / 2 ? 'ArrowRight' : 'ArrowLeft', bubbles: true}));
    const watch = () => {
      if (seen() === before && performance.now() - began < 3000) return requestAnimationFrame(watch);
      // The frame after the one that holds the new picture is the one that shows it.
      requestAnimationFrame(() => { times.push(performance.now() - began); setTimeout(step, 40); });
    };
    requestAnimationFrame(watch);
  };
  setTimeout(step, 300);
})
"""


def bench_screen() -> None:
    from database import free_port

    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-bench-")), free_port()
    address = f"http://127.0.0.1:{port}"
    try:
        demo = open_shop(folder, port, address)
        try:
            _server(address)
            _browser(address)
        finally:
            close_shop(demo)
        began = time.perf_counter()
        demo = open_shop(folder, port, address)
        first = time.perf_counter() - began
        close_shop(demo)
        print(f"Warm start to the first page: {first:.1f} s  bound 6")
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    _first_view()


def _server(address: str) -> None:
    client = signed_in(address)
    job = job_called(client, "Comet tees")
    decisions = client.get(f"/api/jobs/{job}").json()["line"]["decisions"]
    print("A slider moved: question and picture from the server, ms")
    for station, field, name, picture, values in GESTURES:
        times = []
        for value in values:
            began = time.perf_counter()
            tried = client.post(
                f"/api/jobs/{job}/try", json={"station": station, "body": {**decisions[station], field: value}}
            ).json()
            client.get(tried["pictures"][picture]).raise_for_status()
            times.append((time.perf_counter() - began) * 1000)
        row(name, times[3:], 100)


def _browser(address: str) -> None:
    from playwright.sync_api import sync_playwright

    client = signed_in(address)
    job = job_called(client, "Comet tees")
    print("A slider moved: until it is painted in the browser, ms")
    with sync_playwright() as playwright:
        browser = browser_in(playwright)
        page = page_of(browser, client)
        for station, _, name, _, _ in GESTURES:
            page.goto(f"{address}/jobs/{job}/{STATION.get(station, station)}")
            page.locator("main svg image").first.wait_for(state="attached")
            page.wait_for_timeout(500)
            times = page.evaluate(PAINTED, [name, 32])
            row(name, times[2:], 150)
        browser.close()


CHANGED = """
([buttons, watched, rounds]) => new Promise(resolve => {
  const times = [];
  // The figure before stands beside a reading: only the figure now counts.
  const seen = () => document.querySelector(watched).innerText.split('was')[0].trim();
  const step = () => {
    if (times.length === rounds) return resolve(times);
    const wanted = buttons(times.length), before = seen(), began = performance.now();
    wanted();
    const watch = () => {
      if (seen() === before && performance.now() - began < 3000) return requestAnimationFrame(watch);
      requestAnimationFrame(() => { times.push(performance.now() - began); setTimeout(step, 400); });
    };
    requestAnimationFrame(watch);
  };
  setTimeout(step, 300);
})
"""
SCHOOL = "n => () => document.querySelectorAll('input[name=film-transfer]')[(n + 1) % 2].click()"
PIECES = """n => () => {
  const field = [...document.querySelectorAll('input')].find(i => i.labels?.[0]?.innerText === 'Size M' || i.getAttribute('aria-label') === 'Size M');
  field.focus();
  Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(field, String(12 + (n % 2 ? 0 : 6)));
  field.dispatchEvent(new Event('input', {bubbles: true}));
  field.dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true}));
  field.blur();
}"""


def bench_schools() -> None:
    """A school chosen, pieces changed: until the line is drawn anew in the browser, saved meanwhile."""
    from database import free_port
    from playwright.sync_api import sync_playwright

    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-bench-")), free_port()
    address = f"http://127.0.0.1:{port}"
    try:
        demo = open_shop(folder, port, address)
        try:
            client = signed_in(address)
            job = job_called(client, "Comet tees")
            print("A decision changed: until the line is drawn anew in the browser, ms")
            with sync_playwright() as playwright:
                browser = browser_in(playwright)
                page = page_of(browser, client)
                for name, station, click, watched in (
                    ("School", "method", SCHOOL, "main h1 + p"),
                    ("Pieces", "order", PIECES, "[data-reading=hands]"),
                ):
                    page.goto(f"{address}/jobs/{job}/{station}")
                    page.locator("[data-reading=hands]").wait_for()
                    page.wait_for_timeout(500)
                    row(name, page.evaluate(CHANGED.replace("buttons(", f"({click})("), [None, watched, 32])[2:], 150)
                browser.close()
        finally:
            close_shop(demo)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _first_view() -> None:
    """Everything that Jobs loads first, as it goes over the wire: text gzipped, fonts as they are."""
    assets = ROOT / "frontend" / "dist" / "assets"
    page = (ROOT / "frontend" / "dist" / "index.html").read_bytes()
    whole = len(gzip.compress(page, 6))
    for file in assets.iterdir():
        loaded = file.name in page.decode() or file.suffix == ".css" or ("-latin-wght" in file.name)
        if loaded:
            data = file.read_bytes()
            whole += len(data) if file.suffix == ".woff2" else len(gzip.compress(data, 6))
    print(f"First view: {whole / 1000:.0f} kB  bound 250")
