"""Every finding the stations know: what provokes it, that it says why, and that its patch cures it."""

from datetime import UTC, datetime

import cv2
import numpy as np
import pytest

from offsetter.core.compute.artwork import measure_artwork
from offsetter.core.compute.fixes import apply_fixes
from offsetter.core.compute.plates import make_plates
from offsetter.core.compute.resample import resample
from offsetter.core.context import Context, LineInputs, Measured
from offsetter.core.decisions import BlankLine, Decisions, OrderDoc, PlaceDoc
from offsetter.core.derive import proposed_way
from offsetter.core.facts import Profile, profile_bytes
from offsetter.core.line import evaluate
from offsetter.core.prints import JobPrint
from offsetter.core.quantities import METRIC, told
from tests.core.shapes import bar, canvas, disc

DUE = datetime(2030, 5, 3, 15, tzinfo=UTC)
SMALL = 260
PLACES = {"coaster": "face", "mug": "wrap", "scarf": "panel"}
"""Where a print lies on what has no chest."""


def dark_on_black() -> np.ndarray:
    """A picture of which half is the cloth's own black."""
    rgba = disc(300, 700, (23, 24, 27))
    rgba[:, 350:, :3] = (240, 200, 60)
    return rgba


def heavy() -> np.ndarray:
    """Deep shades that want much ink."""
    rgba = disc(300, 700, (110, 10, 30))
    rgba[::2, :, :3] = (20, 70, 30)
    return rgba


def boxed() -> np.ndarray:
    """A logo on a white ground, as it comes in a file without transparency."""
    rgba = disc(300, 700, (60, 140, 220))
    return np.where(rgba[..., 3:] > 127, rgba, 255).astype(np.uint8)


def two_bars() -> np.ndarray:
    """Two bars with a gap of four pixels between them."""
    rgba = canvas(600, 600)
    rgba[200:400, 100:298, 3] = 255
    rgba[200:400, 302:500, 3] = 255
    return rgba


def glow() -> np.ndarray:
    y, x = np.mgrid[0:700, 0:700] + 0.5
    rgba = canvas(700, 700, (90, 160, 230))
    rgba[..., 3] = np.clip(255 * (1.2 - np.hypot(x - 350, y - 350) / 260), 0, 255)
    return rgba


PICTURES = {
    "disc": lambda: disc(300, 700, (60, 140, 220)), "thin bar": lambda: bar(4, 0, length_px=500), "two bars": two_bars, "glow": glow,
    "wide": lambda: np.full((300, 900, 4), 200, np.uint8), "tall": lambda: np.full((900, 500, 4), 200, np.uint8), "own black": dark_on_black, "boxed": boxed, "heavy": heavy, "box": lambda: np.full((400, 400, 4), 255, np.uint8),
}  # fmt: skip


@pytest.fixture(scope="module")
def pictures():
    made = {name: draw() for name, draw in PICTURES.items()}
    return {
        n: (p, measure_artwork(p, file=n, name=n, mode="8-bit RGB with alpha", profile=None)) for n, p in made.items()
    }


@pytest.fixture
def look(shop, levels, pictures):
    """The line for a picture and changed documents; `shop_of` may change the shop."""

    def made(
        picture="disc", *, by="film", shop_of=lambda s: s, blank="tee-black", levels_of=lambda x: x, facts_of=None, order=None, proof_wanted=False, **documents,
    ):  # fmt: skip
        rgba, facts = pictures[picture]
        at = shop_of(shop)
        counts = {"S": 4, "M": 8} if "S" in at.blanks[blank].sizes else {next(iter(at.blanks[blank].sizes)): 12}
        told_order = {
            "title": "Tees", "customer": "Someone", "due": DUE, "lines": (BlankLine(blank=blank, counts=counts),), **(order or {}),
        }  # fmt: skip
        decisions = Decisions(order=OrderDoc(**told_order), place=PlaceDoc(file=picture, width_um=50_000, place=PLACES.get(blank, "front chest")))  # fmt: skip
        way = proposed_way(at, "p", by)
        if by != "film":
            decisions = decisions.model_copy(update={"method": way})
        for station, changes in documents.items():
            base = getattr(decisions, station) or way
            decisions = decisions.model_copy(
                update={station: type(base).model_validate({**base.model_dump(), **changes})}
            )
        if not decisions.artwork.fixes.is_none:
            rgba = apply_fixes(rgba, decisions.artwork.fixes)
            facts = measure_artwork(
                rgba, file=f"{picture} put right", name=picture, mode="8-bit RGB with alpha", profile=None
            )
        facts = facts_of(facts) if facts_of else facts
        one = JobPrint(id="front", decisions=decisions, facts=facts)
        inputs = LineInputs(shop=at, profile="p", prints=(one,), levels=levels_of(levels), proof_wanted=proof_wanted)
        if facts is None or decisions.place.text is not None:
            return decisions, evaluate(inputs, {})
        spec = Context(inputs).spec
        left, top, right, bottom = spec.crop_px
        part = np.ascontiguousarray(rgba[top:bottom, left:right])
        scale = min(1.0, SMALL / max(part.shape[:2]))
        small = resample(part, max(1, round(part.shape[1] * scale)), max(1, round(part.shape[0] * scale)))
        measure = make_plates(small, spec, profile_bytes(), scale=min(0.999, small.shape[1] / spec.width_px)).measure
        return decisions, evaluate(
            inputs.model_copy(update={"measured": Measured(preview=measure, device=None, steps=())}), {}
        )

    return made


def hot(shop):
    """A press that does not get warm enough."""
    press = shop.presses["gannet"].model_copy(update={"highest_c": 150.0})
    return shop.model_copy(update={"presses": {"gannet": press}})


def with_inks(*more):
    """Every printer holds further inks."""

    def changed(shop):
        held = {i: p.model_copy(update={"inks": (*p.inks, *more)}) for i, p in shop.printers.items()}
        own = Profile(id="p", name="Film", space="CMYK", version="2.4", white_lab=(95.0, 0.0, 0.0), size_bytes=1)
        return shop.model_copy(update={"printers": held, "profiles": {"p": own}})

    return changed


def tender(shop):
    blank = shop.blanks["tee-black"].model_copy(update={"scorch_c": 150.0})
    return shop.model_copy(update={"blanks": {**shop.blanks, "tee-black": blank}})


def sandy(shop):
    blank = shop.blanks["tee-black"].model_copy(update={"colour": "#C8BBA0", "colour_name": "sand"})
    return shop.model_copy(update={"blanks": {**shop.blanks, "tee-black": blank}})


def newer(shop):
    recipe = shop.recipes["film-house"].model_copy(update={"version": 5})
    return shop.model_copy(update={"recipes": {"film-house": recipe}})


def small_platen(shop):
    press = shop.presses["gannet"].model_copy(update={"platen_width_mm": 200.0, "platen_height_mm": 500.0})
    return shop.model_copy(update={"presses": {"gannet": press}})


def without_oven(shop):
    return shop.model_copy(update={"ovens": {}})


def opens_little(shop):
    press = shop.presses["gannet"].model_copy(update={"opens_mm": 1.0})
    return shop.model_copy(update={"presses": {"gannet": press}})


def a_drawing(facts):
    """Of 200 mm, with a picture of 120 ppi placed in it."""
    return facts.model_copy(update={"is_vector": True, "raster_ppi": 120.0, "real_mm": (200.0, 200.0)})


def all_lines(facts):
    return facts.model_copy(update={"is_vector": True, "real_mm": (200.0, 200.0)})


def little(**changes):
    return lambda levels: levels.model_copy(update=changes)


def small_oven(shop):
    oven = shop.ovens["fulmar"].model_copy(update={"length_mm": 150.0})
    return shop.model_copy(update={"ovens": {"fulmar": oven}})


def narrow_tees(shop):
    tee = shop.blanks["tee-black"]
    sizes = {n: s.model_copy(update={"chest_mm": 300.0}) for n, s in tee.sizes.items()}
    return shop.model_copy(update={"blanks": {**shop.blanks, "tee-black": tee.model_copy(update={"sizes": sizes})}})


CASES = [
    # station, finding, severity, what provokes it
    ("order", "too-wide", "blocker", {"place": {"width_um": 460_000}}),
    ("order", "near-seams", "caution", {"place": {"width_um": 440_000}, "picture": "wide"}),
    ("order", "off-blank", "blocker", {"place": {"width_um": 120_000, "below_collar_um": 700_000}}),
    ("order", "off-blank", "blocker", {"place": {"width_um": 120_000, "offset_um": 260_000}}),
    ("order", "quarter-turn", "note", {"place": {"width_um": 260_000}, "shop_of": small_platen, "picture": "wide"}),
    ("order", "over-platen", "blocker", {"place": {"width_um": 260_000}, "shop_of": small_platen}),
    (
        "order",
        "near-seams",
        "caution",
        {"place": {"place": "left sleeve", "width_um": 150_000, "below_collar_um": 20_000}},
    ),
    ("order", "below-collar", "note", {"place": {"below_collar_um": 180_000}}),
    ("method", "scorch", "blocker", {"shop_of": tender, "method": {"schools": {"film-transfer": "standard"}}}),
    ("method", "press-too-cool", "blocker", {"shop_of": hot}),
    ("method", "dye-migration", "caution", {"blank": "tee-blend"}),
    ("method", "dye-wanders", "note", {"blank": "tee-blend", "method": {"schools": {"film-transfer": "low"}}}),
    ("method", "newer-recipe", "note", {"shop_of": newer, "method": {"recipe_version": 3}}),
    ("artwork", "coarse", "blocker", {"place": {"width_um": 400_000}, "picture": "two bars"}),
    ("artwork", "below-target", "note", {"place": {"width_um": 70_000}}),
    ("artwork", "empty-border", "note", {"artwork": {"crop": "none"}}),
    ("artwork", "drawn-coarser", "note", {"place": {"width_um": 1_200_000}, "facts_of": all_lines}),
    ("artwork", "no-transparency", "caution", {"picture": "box"}),
    ("artwork", "thin-strokes", "caution", {"picture": "thin bar", "place": {"width_um": 40_000}}),
    ("artwork", "narrow-gaps", "note", {"picture": "two bars", "place": {"width_um": 30_000}}),
    ("artwork", "faint", "caution", {"picture": "glow"}),
    ("artwork", "background-box", "caution", {"picture": "boxed"}),
    ("artwork", "fixed-harden", "note", {"picture": "glow", "artwork": {"fixes": {"harden": True}}}),
    ("artwork", "vanishing", "note", {"picture": "own black"}),
    ("colour", "over-limit", "note", {"picture": "heavy", "colour": {"ink_limit_pct": 120}}),
    ("colour", "limit-high", "caution", {"colour": {"ink_limit_pct": 280}}),
    ("white", "choke-small", "caution", {"white": {"choke_um": 50}}),
    ("white", "choke-holds", "note", {}),
    ("white", "guarded", "note", {"picture": "thin bar", "place": {"width_um": 40_000}}),
    (
        "white",
        "thin-lost",
        "caution",
        {"picture": "thin bar", "place": {"width_um": 40_000}, "white": {"guard": False}},
    ),
    ("white", "faint-kept", "caution", {"picture": "glow", "white": {"faint": "keep"}}),
    ("white", "faint-cut", "note", {"picture": "glow"}),
    ("white", "cloth-shows", "note", {"picture": "own black"}),
    ("sheet", "does-not-fit", "blocker", {"shop_of": small_oven, "place": {"width_um": 200_000}}),
    (
        "sheet",
        "does-not-fit",
        "blocker",
        {"shop_of": small_oven, "place": {"width_um": 100_000}, "picture": "tall", "sheet": {"turned": False}},
    ),
    (
        "sheet",
        "in-parts",
        "caution",
        {"shop_of": small_oven, "place": {"width_um": 200_000}, "sheet": {"in_parts": True}},
    ),
    (
        "sheet",
        "overlap-twice",
        "caution",
        {
            "by": "sub-toner",
            "blank": "scarf",
            "place": {"width_um": 300_000},
            "sheet": {"in_parts": True, "overlap_um": 10_000},
        },
    ),
    (
        "sheet",
        "no-cut-in-parts",
        "caution",
        {"by": "print-cut", "place": {"width_um": 1_400_000}, "sheet": {"in_parts": True}},
    ),
    ("colour", "inks-idle", "note", {"shop_of": with_inks("O", "V")}),
    ("colour", "light-inks", "note", {"shop_of": with_inks("LC")}),
    ("sheet", "one-more-across", "note", {"place": {"width_um": 225_000}}),
    ("sheet", "gap-small", "caution", {"sheet": {"gap_um": 2_000}}),
    ("order", "no-file", "blocker", {"facts_of": lambda facts: None, "place": {"file": None}}),
    ("order", "no-names", "blocker", {"place": {"file": None, "text": {}}}),
    (
        "order",
        "names-short",
        "caution",
        {
            "place": {"file": None, "text": {}},
            "order": {"names": ({"number": 1, "text": "MIRA", "size": "S", "line": "a"},)},
        },
    ),
    (
        "order",
        "bleed-small",
        "caution",
        {
            "by": "sub-ink-hard",
            "blank": "coaster",
            "place": {"width_um": 96_000, "below_collar_um": 0},
            "picture": "box",
        },
    ),
    (
        "order",
        "off-middle",
        "note",
        {"by": "sub-ink-hard", "blank": "coaster", "place": {"width_um": 40_000, "below_collar_um": 5_000}},
    ),
    (
        "method",
        "white-wanted",
        "caution",
        {"by": "direct", "shop_of": sandy, "picture": "box", "method": {"schools": {"pretreat": "none"}}},
    ),
    ("order", "press-shape", "blocker", {"by": "sub-ink-hard", "blank": "mug", "method": {"press": "gannet"}}),
    ("order", "too-thick", "blocker", {"by": "sub-ink-hard", "blank": "coaster", "shop_of": opens_little}),
    (
        "method",
        "no-oven",
        "blocker",
        {"shop_of": without_oven, "method": {"oven": "", "schools": {"film-cure": "oven"}}},
    ),
    ("artwork", "picture-in-drawing", "note", {"facts_of": a_drawing}),
    ("artwork", "real-size", "note", {"facts_of": a_drawing}),
    ("colour", "looks-like-graphic", "note", {"colour": {"intent": "perceptual"}}),
    ("colour", "judge-pressed", "note", {"by": "sub-ink-fabric", "blank": "scarf"}),
    ("colour", "dye-strength", "note", {"by": "sub-ink-fabric", "blank": "tee-blend"}),
    ("colour", "composite-black", "note", {"by": "toner-colour-sheet"}),
    ("white", "white-by-lights", "note", {"white": {"lights_from": 40}}),
    ("sheet", "turn-saves", "note", {"picture": "tall", "place": {"width_um": 120_000}, "sheet": {"turned": False}}),
    ("sheet", "no-labels", "note", {"by": "toner-two-sheet", "place": {"width_um": 158_000}, "picture": "tall"}),
    ("print", "film-short", "caution", {"levels_of": little(media_m={"petrel": 0.1})}),
    (
        "print",
        "sheets-short",
        "caution",
        {"by": "toner-two-sheet", "levels_of": lambda x: little(sheets=dict.fromkeys(x.sheets, 1))(x)},
    ),
    ("print", "proof-unsigned", "blocker", {"proof_wanted": True}),
    ("prepare", "lay-out", "note", {}),
    ("press", "read-back", "note", {}),
    ("press", "two-heats", "caution", {"by": "toner-two-sheet", "method": {"schools": {"finish-heat": "low"}}}),
    (
        "press",
        "press-parts",
        "caution",
        {"shop_of": small_oven, "place": {"width_um": 200_000}, "sheet": {"in_parts": True}},
    ),
    ("print", "platen-wide", "caution", {"by": "direct", "shop_of": narrow_tees}),
    ("print", "risers", "note", {"by": "direct", "blank": "apron-navy", "place": {"below_collar_um": 450_000}}),
]


def test_what_is_printed_on_the_garment_itself_is_never_offered_in_parts(look):
    for wanted in (False, True):
        made = look(by="direct", blank="tee-black", place={"width_um": 700_000}, sheet={"in_parts": wanted})[1]
        found = {f.code: f for s in made.stations for f in s.findings}
        assert {"too-wide", "does-not-fit"} <= found.keys()
        assert "in-parts" not in found
        assert not any("in parts" in f.why for f in found.values())
        assert not any(f.patch and "in_parts" in f.patch.changes for f in found.values())


@pytest.mark.parametrize(
    ("station", "code", "severity", "provoked"), CASES, ids=[f"{n} {c[1]}" for n, c in enumerate(CASES)]
)
def test_a_finding_is_said_with_its_reason_and_its_patch_cures_it(look, station, code, severity, provoked):
    made = look(**provoked)[1]
    findings = {f.code: f for f in made.station(station).findings}
    assert code in findings, sorted(findings)
    found = findings[code]
    assert found.severity == severity
    assert found.message
    assert found.why, "a finding without a reason is an order"
    state = made.station(station).state
    assert state == "blocked" if severity == "blocker" else state != "blocked"
    if found.patch:
        documents = {
            k: v for k, v in provoked.items() if k in ("place", "white", "sheet", "artwork", "colour", "method")
        }
        documents[found.patch.station] = {**documents.get(found.patch.station, {}), **found.patch.changes}
        cured = look(**{**provoked, **documents})[1]
        assert code not in {f.code for f in cured.station(station).findings}
    # A harmless order says none of it.
    if code not in ("choke-holds", "lay-out", "read-back"):
        assert code not in {f.code for f in look()[1].station(station).findings}


def test_cooler_schools_cure_what_heat_would_spoil(look):
    low = {"schools": {"film-transfer": "low"}}
    assert look(shop_of=tender, method=low)[1].station("method").state != "blocked"
    said = {f.code: f for f in look(blank="tee-blend", method=low)[1].station("method").findings}
    assert "dye-migration" not in said, "a choice obeyed takes its caution away"
    assert "141 °C" in told(said["dye-wanders"].message, METRIC), "which is still over 130"


def test_a_settled_station_is_done_and_a_caution_asks_for_someone(look):
    assert look()[1].station("white").state == "ready"
    assert look(white={"choke_um": 50})[1].station("white").state == "needs you"
    assert look(white={"choke_um": 50, "settled": True})[1].station("white").state == "done"
    seen = [{"code": "choke-small", "severity": "caution", "degree": 0.15}]
    assert look(white={"choke_um": 50, "settled": True, "seen": seen})[1].station("white").state == "done"
    assert look(white={"choke_um": 0, "settled": True, "seen": seen})[1].station("white").state == "needs you"


def test_wider_prints_take_more_of_everything(look):
    narrow, wide = (({r.key: r.value for r in look(place={"width_um": w})[1].readings}) for w in (60_000, 120_000))
    for key in ("ink", "film", "cost"):
        assert wide[key] > narrow[key]
    assert wide["ink"] == pytest.approx(4 * narrow["ink"], rel=0.05)
    assert wide["resolution"] == pytest.approx(narrow["resolution"] / 2)


def test_the_garment_is_drawn_to_its_own_measures(look, shop):
    drawing = look()[1].station("order").drawing.garment
    size = shop.blanks["tee-black"].sizes[drawing.size]
    ends = [tuple(map(float, step.split()[-2:])) for step in drawing.outline[1:].rstrip("Z").split("C")]
    armpits = [x for x, y in ends if abs(abs(x) - size.chest_mm / 2) < 0.1]
    assert sorted(armpits) == [-size.chest_mm / 2, size.chest_mm / 2], "as wide as it was measured, under the arms"
    left, top, right, bottom = drawing.bounds_mm
    assert bottom - top == pytest.approx(size.length_mm)
    assert all(left - 0.1 <= x <= right + 0.1 and top <= y <= bottom for x, y in ends)
    assert drawing.box.x_mm + drawing.box.width_mm / 2 == 0
    assert drawing.box.y_mm == 85


def test_the_magnifier_looks_at_the_thinnest_stroke_or_the_darkest_edge(pictures):
    from offsetter.core.compute.edges import worst_edge
    from offsetter.core.compute.strokes import thin_spots

    rgba = disc(200, 500, (240, 240, 240))
    rgba[:, 300:, :3] = (20, 20, 20)
    dark = worst_edge(rgba, (), (0, 0, 500, 500))
    assert dark.x > 0.6
    line_picture = bar(5, 0)
    thin = thin_spots(line_picture[..., 3], 12).spots
    assert worst_edge(line_picture, thin, (0, 0, 600, 600)).y == pytest.approx(0.5, abs=0.02)
    assert cv2.countNonZero(rgba[..., 3]) > 0


def test_a_print_higher_than_a_mugs_wall_says_the_width_that_fits(look):
    placed = {"width_um": 52_000, "below_collar_um": 2_000}
    on_mug = {"by": "sub-ink-hard", "blank": "mug", "picture": "tall", "method": {"press": "guillemot"}}
    found = {f.code: f for f in look(**on_mug, place=placed)[1].station("order").findings}
    assert found["too-high"].degree == pytest.approx(52 * 900 / 500 - 90)  # of 96 mm, less 3 at rim and foot
    assert found["off-blank"].severity == "blocker"
    cured = look(**on_mug, place={**placed, **found["off-blank"].patch.changes})[1].station("order").findings
    assert not {"too-high", "off-blank"} & {f.code for f in cured}
