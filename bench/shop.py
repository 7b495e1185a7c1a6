"""The demo shop opened for a measurement, in a folder of its own, and somebody signed in."""

import os
import shutil
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from statistics import median

import httpx
from playwright.sync_api import Browser, Page, Playwright

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tools"))


def open_shop(folder: Path, port: int, address: str) -> "subprocess.Popen[bytes]":
    demo = subprocess.Popen([sys.executable, str(ROOT / "tools" / "demo.py"), "--whole", "--port", str(port), "--data", str(folder)],
                            stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, env=os.environ)  # fmt: skip
    end = time.monotonic() + 300
    while time.monotonic() < end and demo.poll() is None:
        try:
            urllib.request.urlopen(f"{address}/jobs", timeout=5).close()
            return demo
        except OSError:
            time.sleep(0.05)
    raise SystemExit("the demo did not open")


def close_shop(demo: "subprocess.Popen[bytes]") -> None:
    demo.send_signal(signal.SIGTERM)
    demo.wait(30)


def signed_in(address: str, name: str = "Ada") -> httpx.Client:
    client = httpx.Client(base_url=address, timeout=60)
    client.post("/api/welcome/demo", json={"name": name}).raise_for_status()
    return client


def job_called(client: httpx.Client, title: str) -> str:
    page = client.get("/api/jobs", params={"words": title.split()[0]}).json()
    return next(j["id"] for j in page["cards"] if j["title"] == title)


def browser_in(playwright: Playwright) -> Browser:
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    return playwright.chromium.launch(executable_path=path, args=["--no-sandbox", "--disable-gpu"])


def page_of(browser: Browser, client: httpx.Client) -> Page:
    """A browser signed in as the client is."""
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    context.add_cookies([{"name": "offsetter", "value": client.cookies["offsetter"], "url": str(client.base_url)}])
    return context.new_page()


def row(name: str, times: list[float], bound: float) -> None:
    ranked = sorted(times)
    p95 = ranked[int(0.95 * (len(ranked) - 1))]
    print(f"  {name:14} median {median(times):6.1f}   p95 {p95:6.1f}   of bound {p95 / bound:.2f}  ({bound})")
