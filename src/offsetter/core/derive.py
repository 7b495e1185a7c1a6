"""What follows from the decisions before anything is judged: the way, the plates' specification, the run's layout."""

from offsetter.core.compute.artwork import ArtworkFacts
from offsetter.core.compute.plate_spec import ColourSpec, PlateSpec, WhiteSpec
from offsetter.core.compute.sheet import LayoutAsk, Want
from offsetter.core.decisions import Decisions, Way
from offsetter.core.facts import Blank, Method, Printer, Recipe, Shop, Stage
from offsetter.core.units import um_of


def proposed_way(shop: Shop, profile: str, method: str = "film") -> Way | None:
    """The way this shop would go for a method: its first printer, mode, press and oven; None when it owns none."""
    printer = next((p for p in shop.printers.values() if p.method == method), None)
    recipe = max((r for r in shop.recipes.values() if r.method == method), key=lambda r: r.version, default=None)
    if printer is None or recipe is None or not shop.presses or not shop.ovens:
        return None
    return Way(
        method=method, printer=printer.id, mode=printer.modes[0].id, press=next(iter(shop.presses)),
        oven=next(iter(shop.ovens)), schools={q.id: q.choices[0].id for q in recipe.schools}, recipe=recipe.id,
        recipe_version=recipe.version, profile=profile,
    )  # fmt: skip


def blank_of(shop: Shop, decisions: Decisions, kind: str) -> Blank:
    return shop.blanks[decisions.order.line_of(kind).blank]


def crop_of(decisions: Decisions, facts: ArtworkFacts) -> tuple[int, int, int, int]:
    if decisions.artwork.crop == "content" and decisions.place.text is None:
        return facts.content_px
    return (0, 0, *facts.pixels)


def print_height_um(decisions: Decisions, facts: ArtworkFacts | None, width_um: int) -> int:
    """Height of the print that keeps the picture's own shape; a square until there is a picture."""
    if facts is None:
        return width_um
    left, top, right, bottom = crop_of(decisions, facts)
    return round(width_um * (bottom - top) / (right - left))


def white_of(method: Method, decisions: Decisions, cloth: str) -> WhiteSpec | None:
    """The white plate's specification with the method's own defaults filled in; None where there is no white plate."""
    if method.white != "plate":
        return None
    doc = decisions.white
    return WhiteSpec(
        level_pct=doc.level_pct if doc.level_pct is not None else method.white_level_pct or 60.0,
        choke_um=doc.choke_um if doc.choke_um is not None else um_of(method.choke_mm or 0),
        cloth=cloth,
        knock_out_delta_e=method.knock_out_delta_e if doc.knock_out else None,
        faint_floor=(method.faint_floor or 0.0) if doc.faint == "cut" else 0.0,
        guard_um=um_of(method.min_stroke_mm or 0) if doc.guard else 0,
    )


def plate_spec(
    shop: Shop,
    decisions: Decisions,
    way: Way,
    artwork: str,
    crop_px: tuple[int, int, int, int],
    width_um: int,
    cloth: str,
) -> PlateSpec:
    """Everything that changes a dot of this print's plates, at one width and for one cloth."""
    method, printer = shop.methods[way.method], shop.printers[way.printer]
    mode = next(m for m in printer.modes if m.id == way.mode)
    limit = decisions.colour.ink_limit_pct or method.ink_limit_pct or 400
    return PlateSpec(
        artwork=artwork, crop_px=crop_px, width_um=width_um, dpi=mode.dpi,
        mirrored=method.mirror,
        colour=ColourSpec(profile=way.profile, intent=decisions.colour.intent,
                          black_point=decisions.colour.black_point, ink_limit_pct=limit),
        white=white_of(method, decisions, cloth),
        white_first=method.plate_order[0] == "white",
    )  # fmt: skip


def recipe_of(shop: Shop, way: Way) -> Recipe:
    return shop.recipes[way.recipe]


def stages_of(shop: Shop, way: Way) -> tuple[Stage, ...]:
    return recipe_of(shop, way).stages_for(way.schools)


def longest_cut_mm(shop: Shop, way: Way) -> tuple[float, float]:
    """Width and length that what cures the film takes: the oven, or the platen that hovers."""
    if way.schools.get("film-cure") == "hover":
        press = shop.presses[way.press]
        return max(press.platen_width_mm, press.platen_height_mm), min(press.platen_width_mm, press.platen_height_mm)
    oven = shop.ovens[way.oven]
    return oven.width_mm, oven.length_mm


def layout_ask(shop: Shop, decisions: Decisions, way: Way, wants: tuple[Want, ...]) -> LayoutAsk:
    """What the run has to carry, and what limits it."""
    printer: Printer = shop.printers[way.printer]
    widest, longest = longest_cut_mm(shop, way)
    return LayoutAsk(
        wants=wants, gap_um=decisions.sheet.gap_um, margin_um=um_of(printer.margin_mm), media_um=um_of(printer.media_mm),
        printable_um=um_of(printer.printable_mm), longest_cut_um=um_of(longest), widest_cut_um=um_of(widest),
        across=decisions.sheet.across, rows_per_cut=decisions.sheet.rows_per_cut, turned=decisions.sheet.turned,
    )  # fmt: skip
