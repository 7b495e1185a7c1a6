"""The simulated machines on one loopback socket, with a small panel on which their faults are switched."""

import html
import io
import json
import threading
import time
from pathlib import Path

import uvicorn
from PIL import Image
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.routing import Route

from offsetter.core.compute.nozzles import draw_sheet, sheet_for
from standins.engine import FAULTS, Engine
from standins.ipp import IppPrinter
from standins.kinds import KINDS
from standins.scanner import scanned

LINES = 96
READY_WITHIN_S = 20


class Machines:
    """Printers by name at ipp://127.0.0.1:PORT/ipp/NAME until closed. kept: folder of their state; None: nothing is kept."""

    def __init__(
        self, port: int = 0, kept: Path | None = None, *, speed: float = 1.0, names: tuple[str, ...] = tuple(KINDS)
    ) -> None:  # fmt: skip
        if kept:
            kept.mkdir(parents=True, exist_ok=True)
        self.engines = {
            n: Engine(KINDS[n](), kept / f"{n}.json" if kept else None, speed=speed, seed=at)
            for at, n in enumerate(names)
        }
        printers = {n: IppPrinter(e, lambda n=n: self.uri(n)) for n, e in self.engines.items()}  # type: ignore[misc]

        async def ipp(request: Request) -> Response:
            printer = printers.get(request.path_params["name"])
            return await printer.answer(request) if printer else Response(status_code=404)

        routes = [
            Route("/ipp/{name}", ipp, methods=["POST"]),
            Route("/ipp/{name}/{job:int}", ipp, methods=["POST"]),
            Route("/", self._panel),
            Route("/state", self._state),
            Route("/scan/{name}.png", self._scan),
            Route("/do", self._do, methods=["POST"]),
        ]
        settings = uvicorn.Config(Starlette(routes=routes), "127.0.0.1", port, log_level="error", lifespan="off")
        self._server = uvicorn.Server(settings)
        self._thread = threading.Thread(target=self._server.run, daemon=True)
        self._thread.start()
        end = time.monotonic() + READY_WITHIN_S
        while not self._server.started:
            if time.monotonic() > end or not self._thread.is_alive():
                raise OSError(f"the simulated machines cannot listen on port {port}")
            time.sleep(0.02)
        self.port: int = self._server.servers[0].sockets[0].getsockname()[1]

    def uri(self, name: str) -> str:
        return f"ipp://127.0.0.1:{self.port}/ipp/{name}"

    def close(self) -> None:
        for engine in self.engines.values():
            engine.close()
        self._server.should_exit = True
        self._thread.join(5)

    async def _panel(self, _: Request) -> Response:
        return HTMLResponse(_page(self.engines))

    async def _state(self, _: Request) -> Response:
        """Which nozzles are out, by printer: what a scan of its sheet would show."""
        return JSONResponse(
            {n: {"dropouts": e.dropouts(), "faults": sorted(e.faults)} for n, e in self.engines.items()}
        )

    async def _scan(self, request: Request) -> Response:
        """The printer's nozzle sheet as it comes off the scanner beside it, with the nozzles that are really out."""
        engine = self.engines.get(request.path_params["name"])
        channels = tuple(c.channel for c in engine.kind.containers if c.channel) if engine else ()
        if engine is None or engine.kind.is_toner:
            return Response(status_code=404)
        out = {c: tuple(n) for c, n in engine.dropouts().items()}
        sheet = sheet_for(channels, LINES, engine.kind.name)  # type: ignore[arg-type]
        seen = scanned(draw_sheet(sheet, 600, out), 600, 300, seed=engine.pages, skew_deg=0.6, bent_mm=0.2, blur_px=0.6, noise=5)  # fmt: skip
        made = io.BytesIO()
        Image.fromarray(seen).save(made, "PNG", dpi=(300, 300))
        return Response(made.getvalue(), media_type="image/png")

    async def _do(self, request: Request) -> Response:
        asked = {k: str(v) for k, v in (await request.form()).items()}
        engine = self.engines.get(asked.get("printer", ""))
        if engine is None:
            return Response(status_code=404)
        if asked.get("fault") in FAULTS:
            engine.fail(asked["fault"], on=asked["fault"] not in engine.faults)
        elif "fill" in asked:
            engine.fill(asked["fill"])
        elif "load" in asked:
            engine.load(asked["load"])
        elif "clean" in asked:
            engine.clean()
        return RedirectResponse("/", 303)


def _page(engines: dict[str, Engine]) -> str:
    rows = []
    for name, e in engines.items():
        told = ", ".join(f"{html.escape(c.name)} {round(c.left / c.holds * 100)} %" for c in e.kind.containers)
        paper = ", ".join(f"{p.id} {p.left:.1f} of {p.most:g}" for p in e.kind.papers)
        rows.append(
            f"<section><h2>{name.capitalize()}: {html.escape(e.kind.said)}</h2><p>{', '.join(e.reasons)}; {told}; {paper}; nozzles out: "
            f"{html.escape(json.dumps(e.dropouts()))}</p><p>"
            + "".join(_key(name, "fault", f, f"{'mend' if f in e.faults else 'make'}: {said}") for f, said in FAULTS.items())
            + "".join(_key(name, "fill", c.channel, f"fill {c.name.lower()}") for c in e.kind.containers if c.channel)
            + "".join(_key(name, "load", p.id, f"load {p.id}") for p in e.kind.papers)
            + _key(name, "clean", "yes", "clean its nozzles")
            + ("" if e.kind.is_toner else f'<a href="/scan/{name}.png" download>its nozzle sheet, scanned</a>')
            + "</p></section>"
        )  # fmt: skip
    style = "body{font:16px sans-serif;max-width:70em;margin:2em auto}form{display:inline}button{margin:2px;min-height:32px}"
    return f"<!doctype html><html lang=en><title>Simulated machines</title><style>{style}</style><h1>Simulated machines</h1>{''.join(rows)}"


def _key(printer: str, what: str, value: str, said: str) -> str:
    return (
        f'<form method="post" action="/do"><input type="hidden" name="printer" value="{printer}">'
        f'<button name="{what}" value="{value}">{html.escape(said)}</button></form>'
    )
