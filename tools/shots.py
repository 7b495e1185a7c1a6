"""./offsetter shots: the pictures of docs/screenshots, taken from a fresh demo shop."""

import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

import httpx
from database import free_port
from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
TARGET = ROOT / "docs" / "screenshots"
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--hide-scrollbars",
    "--font-render-hinting=none",
    "--force-color-profile=srgb",
]
COMET = ("artwork", "colour", "white", "print")
DOME = ("inspect",)
GUIDES = ("sheet",)


def main() -> int:
    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-shots-")), free_port()
    address = f"http://127.0.0.1:{port}"
    demo = subprocess.Popen([sys.executable, str(ROOT / "tools" / "demo.py"), "--whole", "--port", str(port), "--data", str(folder)],
                            stdin=subprocess.DEVNULL, env=os.environ)  # fmt: skip
    try:
        _wait(address, demo)
        client = httpx.Client(base_url=address, timeout=60)
        client.post("/api/welcome/demo", json={"name": "Ada"}).raise_for_status()
        jobs = {j["title"]: j["id"] for j in client.get("/api/jobs", params={"which": "all"}).json()["cards"]}
        comet, dome, guides = jobs["Comet tees"], jobs["Open-late tees"], jobs["Night-walk guides"]
        aprons = jobs["Lab aprons"]
        # Two heats against one are worth a picture: the coated sheet has both.
        way = client.get(f"/api/jobs/{aprons}/advice").json()["ways"]["toner-white-coat"]
        client.put(f"/api/jobs/{aprons}/decisions/method", json={"base": 0, "body": way}).raise_for_status()
        client.get(f"/api/jobs/{aprons}/heat").raise_for_status()
        views = {"sheets": f"/sheets/{_shared(client)}", "today": "/today", "jobs": "/jobs", "logbook": "/logbook", "stores": "/stores", "machines": "/machines/petrel", "blanks": "/blanks/waistcoat", "colour-area": "/colour", "recipes": "/recipes/two-sheet-house",
                 **{s: f"/jobs/{comet}/{s}" for s in COMET}, **{s: f"/jobs/{dome}/{s}" for s in DOME},
                 **{s: f"/jobs/{guides}/{s}" for s in GUIDES}, "order": f"/jobs/{jobs['Night-watch waistcoats']}/order", "method": f"/jobs/{jobs['Lab aprons']}/method",
                 "press": f"/jobs/{aprons}/press", "press-mode": f"/jobs/{dome}/press-mode"}  # fmt: skip
        path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
        TARGET.mkdir(parents=True, exist_ok=True)
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=path, args=ARGUMENTS)
            context = browser.new_context(viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB",
                                          timezone_id="Europe/London", permissions=["screen-wake-lock"])  # fmt: skip
            context.add_init_script(
                'localStorage.setItem("offsetter.settings", JSON.stringify({theme: "light", length: "mm", heat: "C"}))'
            )
            context.add_cookies([{"name": "offsetter", "value": client.cookies["offsetter"], "url": address}])
            page = context.new_page()
            for name, view in views.items():
                page.goto(address + view)
                _shoot(page, name)
            browser.close()
    finally:
        demo.send_signal(signal.SIGTERM)
        demo.wait(30)
        shutil.rmtree(folder, ignore_errors=True)
    first_day()
    return 0


def _shared(client: httpx.Client) -> str:
    """A sheet of the small orders for film, laid as well as the search can."""
    film = next(b for b in client.get("/api/sheets").json()["ready"] if b["printer"] == "Petrel")
    lots = [
        {k: lot[k] for k in ("job", "print", "slot", "copies")}
        for lot in film["lots"]
        if not lot["waits"] and not lot["unseen"]
    ]
    sheet = client.post("/api/sheets", json={"lots": lots}).raise_for_status().json()
    while client.get(f"/api/sheets/{sheet['id']}").json()["is_searching"]:
        time.sleep(0.5)
    return sheet["id"]


def first_day() -> None:
    """The pictures of docs/first-day.md: a shop opened and filled as its owner does it."""
    folder, port = Path(tempfile.mkdtemp(prefix="offsetter-shots-")), free_port()
    address = f"http://127.0.0.1:{port}"
    shop = subprocess.Popen([sys.executable, str(ROOT / "tools" / "open.py"), "--port", str(port), "--data", str(folder)],
                            stdin=subprocess.DEVNULL, env=os.environ)  # fmt: skip
    target = ROOT / "docs" / "first-day"
    target.mkdir(exist_ok=True)
    try:
        _wait(address, shop)
        with sync_playwright() as playwright:
            path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
            browser = playwright.chromium.launch(executable_path=path, args=ARGUMENTS)
            page = browser.new_context(
                viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB"
            ).new_page()
            page.goto(address)
            page.get_by_label("The shop is called").fill("North Wall Prints")
            page.get_by_label("Your name").fill("Ada")
            page.get_by_label("Password").fill("three words do")
            page.get_by_role("button", name="Open the shop").click()
            page.get_by_role("button", name="Film coated polyester").click()
            page.get_by_role("button", name="Dye on hard goods").click()
            page.get_by_role("main").evaluate("at => at.scrollTo(0, 0)")
            page.screenshot(path=target / "1-ways.png")
            page.get_by_role("button", name="Go on").click()
            for kind, name in (("Film printer, roll 46 cm", "Petrel"), ("Desktop dye printer, A4", "Dunnock")):
                _add(page, kind, name)
            page.screenshot(path=target / "2-printers.png")
            page.get_by_role("button", name="Go on").click()
            for kind, name in (("Swing-away press, 38 x 38 cm", "Gannet"), ("Mug press", "Guillemot")):
                _add(page, kind, name)
            page.get_by_role("button", name="Go on").click()
            for colour in ("black", "white"):
                page.get_by_role("listitem").filter(has_text="cotton tee").get_by_role("button", name=colour).click()
            page.get_by_role("listitem").filter(has_text="coated ceramic").get_by_role("button", name="white").click()
            page.get_by_text("3 blanks").wait_for()
            page.screenshot(path=target / "3-blanks.png")
            page.goto(f"{address}/machines/petrel")
            page.get_by_text("come from memory").wait_for()
            page.screenshot(path=target / "4-to-check.png")
            browser.close()
    finally:
        shop.send_signal(signal.SIGTERM)
        shop.wait(30)
        shutil.rmtree(folder, ignore_errors=True)


def _add(page: Page, kind: str, name: str) -> None:
    """A machine of a kind, and its name, waited for until it stands there."""
    row = page.get_by_role("listitem").filter(has_text=kind).first
    row.get_by_role("button", name="We have one").click()
    row.get_by_label("What is it called in the shop?").fill(name)
    row.get_by_role("button", name="Add it").click()
    row.get_by_text(f"✓ {name}").wait_for()


def _shoot(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    for _ in range({"method": 1, "press": 2}.get(name, 0)):
        page.keyboard.press("f")
        page.wait_for_timeout(900)
    if name == "colour":
        page.mouse.move(250, 440)  # the glass lies over the comet's head
        page.get_by_label("The point under the glass").wait_for()
    if name == "press-mode":
        # Two pieces cool on the rack, the third is under the press: the moment a press is looked at.
        page.keyboard.press("Space")
        for wait in 2 * (4_300, 300, 15_300, 300) + (4_300, 300, 5_600):
            page.keyboard.press("Space")
            page.wait_for_timeout(wait)
    page.wait_for_timeout(300)
    page.screenshot(path=TARGET / f"{name}.png")


def _wait(address: str, demo: "subprocess.Popen[bytes]") -> None:
    end = time.monotonic() + 240
    while time.monotonic() < end and demo.poll() is None:
        try:
            urllib.request.urlopen(f"{address}/api/welcome", timeout=5).close()
            return
        except OSError:
            time.sleep(0.2)
    raise SystemExit("offsetter: the demo did not open")


if __name__ == "__main__":
    sys.exit(main())
