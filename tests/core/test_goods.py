"""Blanks as they lie, sheets and garments, the batch on its press, versions of a recipe, money by quantity."""

import math
from decimal import Decimal
from itertools import pairwise, product

import numpy as np
import pytest
from pydantic import ValidationError

from offsetter.core import derive, quote
from offsetter.core.batch_ways import batch_ways
from offsetter.core.compute import placement
from offsetter.core.compute.artwork import measure_artwork
from offsetter.core.compute.batch import ORDERS, Block, blocks_of, run_batch
from offsetter.core.compute.cost import Used, covers_of, minutes_for, piece_cost
from offsetter.core.compute.heat import PressHeat
from offsetter.core.compute.plate_spec import PlateMeasure
from offsetter.core.compute.platen import Laying, lay_on
from offsetter.core.compute.recipe_versions import StageValues, differences, read_recipe, with_values
from offsetter.core.compute.sheet import Want, lay_out
from offsetter.core.context import Context, LineInputs, Measured
from offsetter.core.decisions import BlankLine, Decisions, OrderDoc, PlaceDoc
from offsetter.core.facts import Blank, recipes
from offsetter.core.prints import JobPrint, passes_of
from offsetter.core.quantities import both_heats
from offsetter.core.sentences import shown
from offsetter.core.values import Refusal
from tests.core.test_line import DUE

HEAT = PressHeat(q_c_per_min=14, k_per_min=0.045, room_c=22)


def way_for(shop, method, blank):
    way = derive.proposed_way(shop, "p", method, shop.blanks[blank])
    assert way is not None
    return way


def order_of(blank, size, pieces, quoted=None):
    return Decisions(order=OrderDoc(title="Test", customer="Someone", due=DUE, quoted=quoted, lines=(BlankLine(blank=blank, counts={size: pieces}),)),
                     place=PlaceDoc(file="f" * 32, width_um=100_000))  # fmt: skip


def test_a_mug_is_its_wall_rolled_out_less_the_handle(shop):
    mug = shop.blanks["mug"]
    panel = placement.panel(mug, mug.sizes["one"], "wrap")
    assert panel.bounds_mm[2] - panel.bounds_mm[0] == pytest.approx(math.pi * 82)
    assert panel.widest_mm == pytest.approx(math.pi * 82 - 45)


def test_a_tube_takes_a_print_that_is_folded_over_both_edges(shop):
    socks = shop.blanks["socks"]
    assert placement.places_of(socks.sizes["39-42"]) == ("side one", "side two")
    assert placement.panel(socks, socks.sizes["39-42"], "side one").widest_mm == 88 + 2 * 6


def test_a_tubes_second_side_is_pressed_after_its_edge_is_folded_over(shop):
    order = order_of("socks", "39-42", 3).order.model_copy(update={"prints": ("one", "two")})
    sides = tuple(
        JobPrint(id=i, decisions=Decisions(order=order, place=PlaceDoc(place=p)))
        for i, p in (("one", "side one"), ("two", "side two"))
    )
    first, second = passes_of(order, sides)
    assert (first.turn, second.number) == ("", 2)
    assert "fold the pressed edge over" in second.turn


def test_things_lie_under_the_press_with_an_even_gap_and_pairs_stay_together():
    tags = lay_on((400, 500), (75, 75))
    assert len(tags.spots) == 4 * 5
    xs = sorted({s.x_mm for s in tags.spots})
    gaps = [b - a - 75 for a, b in pairwise(xs)]
    assert gaps == pytest.approx([xs[0]] * 3)
    assert xs[-1] + 75 + xs[0] == pytest.approx(400)
    assert Laying(at_once=20).loads(40) == 2
    socks = lay_on((400, 500), (88, 330), items=2)
    assert len(socks.spots) == 4
    assert Laying(items=2, at_once=4).loads(5) == 3
    assert all(s.x_mm + socks.thing_width_mm <= 400 and s.y_mm + socks.thing_height_mm <= 500 for s in socks.spots)
    assert len(lay_on((400, 500), (520, 720)).spots) == len(lay_on((400, 500), (90, 90), alone=True).spots) == 1


@pytest.mark.parametrize(("box", "under"), [
    (placement.Square(x_mm=-130, y_mm=95, width_mm=260, height_mm=60), ["zip"]),
    (placement.Square(x_mm=20, y_mm=95, width_mm=120, height_mm=60), []),
    (placement.Square(x_mm=20, y_mm=300, width_mm=150, height_mm=75), ["pocket"]),
    (placement.Square(x_mm=-130, y_mm=300, width_mm=300, height_mm=75), ["zip", "pocket"]),
])  # fmt: skip
def test_what_stands_up_under_a_print_is_found_by_where_it_lies(shop, box, under):
    assert [o.kind for o in placement.obstacles_under(shop.blanks["waistcoat"], "front chest", box)] == under
    assert placement.obstacles_under(shop.blanks["waistcoat"], "back", box) == ()


def test_fibres_of_120_per_cent_are_no_blank(shop):
    body = shop.blanks["tee-blend"].model_dump() | {"fibres": {"cotton": 0.8, "polyester": 0.4}}
    with pytest.raises(ValidationError, match="120 %, not 100 %"):
        Blank.model_validate(body)


def test_sheets_are_filled_one_by_one_and_three_mug_wraps_lie_on_one(shop):
    # Three wraps on a sheet: common practice, no source.
    decisions, way = order_of("mug", "one", 7), way_for(shop, "toner-hard", "mug")
    layout = lay_out(derive.layout_ask(shop, decisions, way, (Want(width_um=200_000, height_um=80_000, copies=7),)))
    assert layout is not None
    assert [sum(p.cut == c for p in layout.places) for c in (1, 2, 3)] == [3, 3, 1]
    assert layout.cut_lengths_um == (297_000,) * 3
    assert way.press == "guillemot", "a mug goes into the mug press"


def test_a_print_that_fits_only_turned_is_turned_by_itself_unless_somebody_decided(shop):
    decisions, way = order_of("apron-navy", "one", 2), way_for(shop, "toner-two-sheet", "apron-navy")
    wants = (Want(width_um=220_000, height_um=60_000, copies=2),)
    assert derive.layout_ask(shop, decisions, way, wants).turned
    said = decisions.model_copy(update={"sheet": decisions.sheet.model_copy(update={"turned": False})})
    assert lay_out(derive.layout_ask(shop, said, way, wants)) is None


def test_garments_are_printed_one_by_one_in_the_middle_of_the_platen(shop):
    decisions, way = order_of("apron-navy", "one", 3), way_for(shop, "direct", "apron-navy")
    layout = lay_out(derive.layout_ask(shop, decisions, way, (Want(width_um=200_000, height_um=100_000, copies=3),)))
    assert layout is not None
    assert [(p.cut, p.x_um, p.y_um) for p in layout.places] == [(n, 103_000, 204_000) for n in (1, 2, 3)]


def test_the_batch_does_every_piece_at_its_heat_and_never_warm():
    blocks = (Block(celsius=150, busy_min=0.7, wait_min=1.5), Block(celsius=120, busy_min=0.6))
    for order in ORDERS:
        trace = run_batch(blocks, 7, HEAT, order, settle_min=0.5)
        pressed = [s for s in trace.spans if s.kind == "press"]
        assert sorted((s.piece, s.from_c) for s in pressed) == sorted((n, c) for n in range(1, 8) for c in (150, 120))
        ends = {s.piece: s.end_min for s in pressed if s.from_c == 150}
        assert all(s.start_min >= ends[s.piece] + 1.5 - 1e-3 for s in pressed if s.from_c == 120)
        assert all(b.start_min >= a.end_min - 1e-3 for a, b in pairwise(trace.spans))
        assert trace.minutes == pytest.approx(trace.spans[-1].end_min, abs=1e-3)
    by_stage, one_by_one = (run_batch(blocks, 7, HEAT, o).changes for o in ("by stage", "piece by piece"))
    assert (by_stage, one_by_one) == (1, 13)


def test_hands_quicker_than_the_platen_wait_for_its_heat():
    stages = recipes()["trim-house"].stages_for({})
    plain, slow = blocks_of(stages), blocks_of(stages, recovery_min=2)
    assert [b.celsius for b in plain] == [182.22]
    hands = [s.hands_s for s in stages if s.temperature_c is not None]
    assert slow[0].busy_min - plain[0].busy_min == pytest.approx(sum(2 - h / 60 for h in hands))


def test_two_heats_are_worked_out_against_one_and_a_missing_value_is_left_out(shop):
    press = shop.presses["gannet"]
    coat = batch_ways(shop, way_for(shop, "toner-white-coat", "apron-navy"), press, HEAT, 20)
    assert [(w.choice, w.is_chosen, len(w.heats_c)) for w in coat] == [("house", True, 1), ("maker", False, 2)]
    house, maker = ({t.order: t.minutes for t in w.traces} for w in coat)
    assert maker["piece by piece"] > 3 * house["piece by piece"]
    assert maker["by stage"] - house["by stage"] < 20
    opaque = way_for(shop, "toner-opaque", "tee-navy")
    assert batch_ways(shop, opaque, press, HEAT, 20) == ()


def test_a_version_holds_only_what_was_entered_and_says_what_it_does_otherwise():
    first = recipes()["toner-opaque-house"]
    entered = {"transfer": StageValues(temperature_c=165, pressure="medium"), "mark": StageValues(temperature_c=165)}
    second = with_values(first, entered, "maker", "the packet", "Ada")
    assert (second.version, second.source, second.by) == (first.version + 1, "maker", "Ada")
    assert not any(s.missing for s in second.stages)
    told = {(d.stage, d.what): (d.left, d.right) for d in differences(first, second)}
    assert told[("Transfer", "heat")] == ("missing", both_heats(165))
    assert len(told) == 3
    with pytest.raises(Refusal, match="as it was"):
        with_values(second, {"transfer": StageValues(pressure="medium")}, "maker", "again", "Ada")
    with pytest.raises(Refusal, match="no stage"):
        with_values(second, {"bake": StageValues(time_s=3)}, "maker", "again", "Ada")


@pytest.mark.parametrize(("spoil", "said"), [
    (lambda r: r | {"sparkle": 1}, "sparkle"),
    (lambda r: r | {"method": "magic"}, "no method here"),
    (lambda r: r | {"stages": []}, "stages"),
    (lambda r: r | {"stages": [r["stages"][0] | {"temperature_c": 900}]}, "temperature_c"),
    (lambda r: r | {"stages": [r["stages"][0] | {"time_s": -5}]}, "time_s"),
    (lambda r: [r], "no recipe"),
    (lambda r: "text", "no recipe"),
])  # fmt: skip
def test_a_recipe_from_outside_is_refused_by_what_is_wrong_with_it(shop, spoil, said):
    body = recipes()["self-weed-house"].model_dump(mode="json")
    with pytest.raises(Refusal, match=said) as refused:
        read_recipe(spoil(body), shop.methods, None)
    assert shown(refused.value.kept) == "No version was added."
    assert read_recipe({"recipe": body}, shop.methods, recipes()["self-weed-house"]).version == 2


def test_a_release_sheet_good_for_ten_costs_a_tenth_a_press(shop):
    # Release sheet 10 uses, finishing sheet 500: common practice, no source.
    stages = tuple(s for s in recipes()["toner-opaque-house"].stages_for({}) if s.id == "transfer")
    hot = tuple(s.model_copy(update={"temperature_c": 165.0, "missing": ()}) for s in stages)
    assert covers_of(hot[0]) == ("release sheet",)
    way = way_for(shop, "toner-opaque", "tee-navy")
    layout = lay_out(
        derive.layout_ask(shop, order_of("tee-navy", "M", 4), way, (Want(width_um=90_000, height_um=90_000, copies=4),))
    )
    assert layout is not None
    mode = shop.printers["dunlin"].modes[0]
    cost = piece_cost(shop.prices, shop.blanks["tee-navy"], 4, layout, Used(ink_ml={}, colour_m2=0.008, white_m2=0), hot,
                      minutes_for(hot, 4, layout, mode), shop.methods["toner-opaque"], derive.feed_of(shop, way))  # fmt: skip
    assert cost.covers == Decimal("0.120")


def test_money_by_quantity_falls_and_the_price_leaves_the_margin(shop):
    decisions, way = order_of("coaster", "one", 24, quoted=4.2), way_for(shop, "sub-ink-hard", "coaster")
    facts = measure_artwork(np.full((500, 500, 4), 200, np.uint8), file="f" * 32, name="moon", mode="RGB", profile=None)
    decisions = decisions.model_copy(
        update={"method": way, "place": PlaceDoc(file="f" * 32, width_um=100_000, place="front")}
    )
    measure = PlateMeasure(
        quality="device",
        coverage_pct={"C": 40, "M": 30, "Y": 20, "K": 5},
        area_mm2={},
        total_max_pct=190,
        over_limit_share=0,
    )
    one = JobPrint(id="front", decisions=decisions, facts=facts)
    measured = Measured(preview=measure, device=measure, steps=())
    rows = quote.price_rows(Context(LineInputs(shop=shop, profile="p", prints=(one,), measured=measured)))
    assert all(r.without_blank == r.cost - shop.blanks["coaster"].price for r in rows)
    assert [r.quantity for r in rows] == [1, 5, 10, 24, 25, 50, 100, 250]
    # Sheets come whole: a quantity that begins a new one may cost a cent more than the one before.
    assert all(a.cost + Decimal("0.02") >= b.cost for a, b in pairwise(rows))
    for r in rows:
        assert 1 - r.cost / r.price == pytest.approx(shop.prices.margin_share, abs=Decimal("0.005"))
    ordered = next(r for r in rows if r.is_ordered)
    assert ordered.margin_share == pytest.approx(1 - ordered.parts.whole / Decimal("4.2"), abs=Decimal("0.001"))


def test_one_pressure_holds_for_a_job_but_where_its_method_says_otherwise():
    """People set one pressure for a job (common practice, no source): from the empty piece's pressing to the transfer."""
    seen = set()
    for recipe in recipes().values():
        for chosen in product(*([(q.id, c.id) for c in q.choices] for q in recipe.schools)):
            pressed = [s for s in recipe.stages_for(dict(chosen)) if s.part == "press" and s.temperature_c and s.id.startswith(("pre-press", "transfer"))]  # fmt: skip
            assert len({s.pressure for s in pressed}) <= 1, (recipe.id, chosen)
            seen |= {s.pressure for s in pressed}
    assert {"medium", "firm", "very firm", "heavy"} <= seen
