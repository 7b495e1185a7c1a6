"""The simulated machines on one loopback socket, with a small panel on which they are switched, fed and made to fail."""

import html
import io
import json
import threading
import time
from collections.abc import Callable
from pathlib import Path

import uvicorn
from PIL import Image
from starlette.applications import Starlette
from starlette.datastructures import UploadFile
from starlette.requests import Request
from starlette.responses import HTMLResponse, JSONResponse, PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from offsetter.core.compute.nozzles import draw_sheet, sheet_for
from standins import cutter
from standins.engine import FAULTS, Engine
from standins.heat import Hall
from standins.ipp import IppPrinter
from standins.kinds import KINDS
from standins.probe import measured
from standins.scanner import scanned

LINES = 96
READY_WITHIN_S = 20
MOST_BYTES = 4_000_000


class Machines:
    """Printers by name at ipp://127.0.0.1:PORT/ipp/NAME, probes at http://127.0.0.1:PORT/probe/colour and /probe/heat, until closed.
    kept: folder of the printers' state; None: nothing is kept. weeks: that the printer before the colour probe has wandered."""

    def __init__(
        self, port: int = 0, kept: Path | None = None, *, speed: float = 1.0, names: tuple[str, ...] = tuple(KINDS),
        weeks: Callable[[], float] = lambda: 0.0,
    ) -> None:  # fmt: skip
        if kept:
            kept.mkdir(parents=True, exist_ok=True)
        self.engines = {
            n: Engine(KINDS[n](), kept / f"{n}.json" if kept else None, speed=speed, seed=at)
            for at, n in enumerate(names)
        }
        self.hall = Hall(speed)
        self.cutter_fault = ""
        self.weeks = weeks
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
            Route("/probe/colour", self._measure, methods=["POST"]),
            Route("/probe/heat", self._heat_log),
            Route("/cut", self._cut, methods=["POST"]),
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
        self.hall.live()
        return HTMLResponse(_page(self.engines, self.hall, self.cutter_fault))

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

    async def _measure(self, request: Request) -> Response:
        """A chart as CGATS text, answered with the same patches measured."""
        body = bytearray()
        async for part in request.stream():
            body += part
            if len(body) > MOST_BYTES:
                return Response(status_code=413)
        try:
            return PlainTextResponse(measured(body.decode(), self.weeks()))
        except (ValueError, IndexError):
            return Response(status_code=400)

    async def _heat_log(self, _: Request) -> Response:
        return Response(self.hall.csv(), media_type="text/csv")

    async def _cut(self, request: Request) -> Response:
        """A cut file, answered with what comes out of its test cut."""
        given = (await request.form()).get("file")
        data = await given.read(MOST_BYTES) if isinstance(given, UploadFile) else b""
        try:
            return Response(cutter.answer(data, self.cutter_fault), media_type="image/png")
        except ValueError as no:
            return PlainTextResponse(f"Nothing was cut: {no}.", 400)

    async def _do(self, request: Request) -> Response:
        asked = {k: str(v) for k, v in (await request.form()).items()}
        if asked.get("fault") in cutter.FAULTS:
            self.cutter_fault = "" if asked["fault"] == self.cutter_fault else asked["fault"]
        elif "heat" in asked:
            self.hall.set(asked.get("printer", ""), float(asked["heat"]) if asked["heat"].isdigit() else None)
        elif "hold" in asked:
            self.hall.hold(asked.get("printer", ""))
        if asked.get("printer", "") not in self.engines:
            return RedirectResponse("/", 303)
        engine = self.engines[asked["printer"]]
        if asked.get("fault") in FAULTS:
            engine.fail(asked["fault"], on=asked["fault"] not in engine.faults)
        elif "fill" in asked:
            engine.fill(asked["fill"])
        elif "load" in asked:
            engine.load(asked["load"])
        elif "clean" in asked:
            engine.clean()
        return RedirectResponse("/", 303)


def _page(engines: dict[str, Engine], hall: Hall, cutter_fault: str) -> str:
    rows = [_heated(hall), _cutter(cutter_fault)]
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


def _heated(hall: Hall) -> str:
    rows = []
    for name, one in hall.heated.items():
        is_held = name == hall.held_to
        rows.append(
            f"<section><h2>{one.said.capitalize()}</h2><p>{one.celsius:.1f} °C, "
            f"{'heater off' if one.set_c is None else f'set to {one.set_c:.0f} °C'}{', the heat probe is held to it' if is_held else ''}</p><p>"
            + "".join(_key(name, "heat", str(c), f"set to {c} °C") for c in (120, 160, 190))
            + _key(name, "heat", "off", "heater off")
            + _key(name, "hold", "yes", "begin its log anew" if is_held else "hold the heat probe to it")
            + "</p></section>"
        )
    return "".join(rows)


def _cutter(fault: str) -> str:
    return (
        f"<section><h2>Cutter</h2><p>{cutter.FAULTS.get(fault, 'well set')}</p><p>"
        + "".join(_key("", "fault", f, f"{'mend' if f == fault else 'make'}: {said}") for f, said in cutter.FAULTS.items())
        + '</p><form method="post" action="/cut" enctype="multipart/form-data"><input type="file" name="file" accept=".dxf" aria-label="Cut file">'
        "<button>make its test cut</button></form></section>"
    )  # fmt: skip


def _key(printer: str, what: str, value: str, said: str) -> str:
    return (
        f'<form method="post" action="/do"><input type="hidden" name="printer" value="{printer}">'
        f'<button name="{what}" value="{value}">{html.escape(said)}</button></form>'
    )
