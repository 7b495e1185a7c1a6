"""What a hand feels: a moved slider until the new picture, from the server and in the browser; the first page.

In the browser the slider is kept moving, as a hand keeps it: nothing is saved until it rests.
The demo shop in a folder of its own, the demo order, the picture at bench size. The server's time is one question and one
picture, one after the other, over loopback.
"""

import gzip
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path
from statistics import median

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tools"))

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
        demo = _open(folder, port, address)
        try:
            _server(address)
            _browser(address)
        finally:
            _close(demo)
        began = time.perf_counter()
        demo = _open(folder, port, address)
        first = time.perf_counter() - began
        _close(demo)
        print(f"Warm start to the first page: {first:.1f} s  bound 6")
    finally:
        shutil.rmtree(folder, ignore_errors=True)
    _first_view()


def _open(folder: Path, port: int, address: str) -> "subprocess.Popen[bytes]":
    demo = subprocess.Popen([sys.executable, str(ROOT / "tools" / "demo.py"), "--port", str(port), "--data", str(folder)],
                            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, env=os.environ)  # fmt: skip
    end = time.monotonic() + 240
    while time.monotonic() < end and demo.poll() is None:
        try:
            urllib.request.urlopen(f"{address}/jobs", timeout=5).close()
            return demo
        except OSError:
            time.sleep(0.05)
    raise SystemExit("the demo did not open")


def _close(demo: "subprocess.Popen[bytes]") -> None:
    demo.send_signal(signal.SIGTERM)
    demo.wait(30)


def _server(address: str) -> None:
    import httpx

    client = httpx.Client(base_url=address, timeout=30)
    job = _comet(client)
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
        _row(name, times[3:], 100)


def _browser(address: str) -> None:
    import httpx
    from playwright.sync_api import sync_playwright

    job = _comet(httpx.Client(base_url=address))
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    print("A slider moved: until it is painted in the browser, ms")
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=path, args=["--no-sandbox", "--disable-gpu"])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for station, _, name, _, _ in GESTURES:
            page.goto(f"{address}/jobs/{job}/{STATION.get(station, station)}")
            page.locator("main svg image").first.wait_for(state="attached")
            page.wait_for_timeout(500)
            times = page.evaluate(PAINTED, [name, 32])
            _row(name, times[2:], 150)
        browser.close()


def _comet(client) -> str:
    return next(j["id"] for j in client.get("/api/jobs").json() if j["title"] == "Comet tees")


def _row(name: str, times: list[float], bound: float) -> None:
    ranked = sorted(times)
    p95 = ranked[int(0.95 * (len(ranked) - 1))]
    print(f"  {name:14} median {median(times):6.1f}   p95 {p95:6.1f}   of bound {p95 / bound:.2f}  ({bound})")


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
