"""A recipe's card as PDF: every stage with its values and the stack, the printed face hatched and named."""

import io

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from offsetter.core.facts import Layer, Recipe, Stage
from offsetter.core.quantities import both_heats
from offsetter.core.sentences import say
from offsetter.formats.page import INK, SOFT, wrapped, write
from offsetter.formats.reader import for_reader

HEAT, NEED = HexColor("#A8400F"), HexColor("#7A4B00")
FILL = {"platen": "#5F686D", "cover": "#CFC3A6", "carrier": "#8FB9C3", "blank": "#6B7480", "pad": "#8B7359", "tray": "#A9B1B5",
        "powder": "#ECE5D3", "air": "#FFFFFF"}  # fmt: skip
WANTED = {"temperature_c": say("heat"), "time_s": say("time"), "pressure": say("pressure"), "peel": say("peel")}
LAYER_MM, STAGE_TEXT_MM, FOOT_MM = 9.0, 30.0, 18.0
WIDE_MM, SKEW_MM, DEEP_MM, THICK_MM = 34.0, 9.0, 4.0, 1.8


def write_recipe(recipe: Recipe, stages: tuple[Stage, ...], method: str, chosen: tuple[str, ...], shop: str) -> bytes:
    """A4 pages; a stage is never cut in two."""
    out = io.BytesIO()
    page = Canvas(out, pagesize=A4, invariant=1)
    page.setTitle(for_reader(_name(recipe)))
    at = _head(page, recipe, method, chosen)
    for number, stage in enumerate(stages, 1):
        needs = needs_mm(stage)
        if at - needs * mm < FOOT_MM * mm:
            _foot(page, shop)
            page.showPage()
            at = A4[1] - 20 * mm
        draw_stage(page, stage, number, at)
        at -= needs * mm
    _foot(page, shop)
    page.save()
    return out.getvalue()


def _head(page: Canvas, recipe: Recipe, method: str, chosen: tuple[str, ...]) -> float:
    top = A4[1] - 22 * mm
    write(page, 20 * mm, top, _name(recipe), 16)
    write(
        page,
        20 * mm,
        top - 7 * mm,
        say("{method} · source: {source}", method=method, source=say(recipe.source))
        + (f" · {recipe.why}" if recipe.why else ""),
        10,
        SOFT,
    )
    at = top - 13 * mm
    for line in (*chosen, say("Lay out: {things}", things=", ".join(recipe.lay_out))):
        for part in wrapped(line, 170 * mm, 10):
            write(page, 20 * mm, at, part, 10)
            at -= 5 * mm
    return float(at - 4 * mm)


def _name(recipe: Recipe) -> str:
    return say("{name}, version {version}", name=recipe.name, version=recipe.version)


def needs_mm(stage: Stage) -> float:
    """How high a stage is drawn."""
    return max(STAGE_TEXT_MM, len(stage.stack) * LAYER_MM + 8) + (10 if stage.caution else 0)


def draw_stage(page: Canvas, stage: Stage, number: int, at: float) -> None:
    """One stage with its values and its stack, from at (in points) downwards."""
    page.setStrokeColor(HexColor("#C9C1B1"))
    page.line(20 * mm, at + 4 * mm, 190 * mm, at + 4 * mm)
    write(page, 20 * mm, at - 2 * mm, f"{number}  {for_reader(stage.name)}", 12)
    heat = "" if stage.temperature_c is None else both_heats(stage.temperature_c)
    time = f"{stage.time_s} s" if stage.time_s else say("by hand")
    if stage.missing:
        heat = say("not given yet: {values}", values=", ".join(WANTED.get(m, m) for m in stage.missing))
        time = "" if "time_s" in stage.missing else time
    pressure = say(stage.pressure) if stage.pressure != "none" else ""
    write(
        page,
        20 * mm,
        at - 8 * mm,
        " · ".join(x for x in (heat, time, pressure, say("open, touching nothing") if stage.hover else "") if x),
        11,
        HEAT,
    )
    y = at - 14 * mm
    for text, colour in (
        (stage.say, INK),
        (say("Then: {next}", next=stage.then), INK),
        (say("Caution: {caution}", caution=stage.caution) if stage.caution else "", NEED),
    ):
        for part in wrapped(text, 74 * mm, 9.5) if text else ():
            write(page, 20 * mm, y, part, 9.5, colour)
            y -= 4.4 * mm
    for i, layer in enumerate(stage.stack):
        _layer(page, layer, 98 * mm, at - 4 * mm - i * LAYER_MM * mm, hot=i == 0 and stage.temperature_c is not None)


def _layer(page: Canvas, layer: Layer, x: float, y: float, *, hot: bool) -> None:
    """A slab seen from above its edge: its upper face, and its front edge; hatched where it carries the print."""
    wide, skew, deep, thick = WIDE_MM * mm, SKEW_MM * mm, DEEP_MM * mm, THICK_MM * mm
    fill = "#B2481C" if hot and layer.kind == "platen" else FILL[layer.kind]
    page.setStrokeColor(HexColor("#8D979C"))
    page.setLineWidth(0.5)
    top = [(x, y - deep), (x + skew, y), (x + skew + wide, y), (x + wide, y - deep)]
    front = [(x, y - deep), (x + wide, y - deep), (x + wide, y - deep - thick), (x, y - deep - thick)]
    for corners, is_face in ((top, layer.printed_face == "up"), (front, layer.printed_face == "down")):
        path = page.beginPath()
        path.moveTo(*corners[0])
        for corner in corners[1:]:
            path.lineTo(*corner)
        path.close()
        page.setFillColor(HexColor("#FFFFFF" if is_face else fill))
        page.drawPath(path, stroke=1, fill=1)
        if is_face:
            page.saveState()
            page.clipPath(path, stroke=0)
            page.setStrokeColor(INK)
            page.setLineWidth(1)
            for step in range(-10, 60, 2):
                page.line(x + step * mm, y - 8 * mm, x + (step + 8) * mm, y)
            page.restoreState()
    said = layer.what
    if layer.printed_face != "none":
        said = (
            say("{what}: print UP", what=layer.what)
            if layer.printed_face == "up"
            else say("{what}: print DOWN", what=layer.what)
        )
    write(page, x + wide + skew + 3 * mm, y - deep + 0.5 * mm, said, 9.5)
    if layer.note:
        write(page, x + wide + skew + 3 * mm, y - deep - 3.2 * mm, layer.note, 8, SOFT)


def _foot(page: Canvas, shop: str) -> None:
    write(
        page,
        20 * mm,
        11 * mm,
        say("{shop} · local codes and the maker's sheet come first · printed faces are hatched", shop=shop),
        8.5,
        SOFT,
    )
