"""Runs on a roll, and what a piece costs."""

from decimal import Decimal

from hypothesis import given, settings
from hypothesis import strategies as st

from offsetter.core.compute.cost import Used, ink_ml, minutes_for, piece_cost, press_minutes
from offsetter.core.compute.sheet import LayoutAsk, Want, lay_out, one_more_across
from offsetter.core.facts import recipes


def ask(**changed) -> LayoutAsk:
    width, height = changed.pop("print_width_um", 210_000), changed.pop("print_height_um", 244_000)
    wants = changed.pop("wants", ((width, height, changed.pop("copies", 38)),))
    usual = {"wants": tuple(Want(width_um=w, height_um=h, copies=n) for w, h, n in wants), "gap_um": 8000, "margin_um": 10_000,
             "media_um": 460_000, "printable_um": 450_000, "longest_cut_um": 840_000, "widest_cut_um": 480_000}  # fmt: skip
    return LayoutAsk(**{**usual, **changed})


@given(
    st.integers(20_000, 460_000),
    st.integers(20_000, 600_000),
    st.integers(1, 60),
    st.integers(0, 20_000),
    st.booleans(),
)
@settings(max_examples=200, deadline=None)
def test_prints_lie_inside_the_printable_width_and_apart(width, height, copies, gap, turned):
    asked = ask(print_width_um=width, print_height_um=height, copies=copies, gap_um=gap, turned=turned)
    layout = lay_out(asked)
    if layout is None:
        wide, high = (height, width) if turned else (width, height)
        assert wide > 450_000 or high + layout_label() + 20_000 > 840_000
        return
    assert len(layout.places) == copies
    border = (asked.media_um - asked.printable_um) // 2
    for place in layout.places:
        assert place.x_um >= border
        assert place.x_um + layout.sorts[0].width_um <= asked.media_um - border
        assert place.y_um >= asked.margin_um + layout.label_um
        assert place.y_um + layout.sorts[0].height_um <= layout.cut_lengths_um[place.cut - 1] - asked.margin_um
    assert max(layout.cut_lengths_um) <= asked.longest_cut_um
    by_cut: dict[int, list] = {}
    for place in layout.places:
        by_cut.setdefault(place.cut, []).append(place)
    for places in by_cut.values():
        for i, a in enumerate(places):
            for b in places[i + 1 :]:
                beside = abs(a.x_um - b.x_um) >= layout.sorts[0].width_um + gap
                above = abs(a.y_um - b.y_um) >= layout.sorts[0].height_um + layout.label_um + gap
                assert beside or above
    assert layout.length_um == sum(layout.cut_lengths_um)


def layout_label() -> int:
    laid = lay_out(ask())
    assert laid is not None
    return laid.label_um


def test_the_demo_order_makes_the_run_that_a_hand_would_lay():
    layout = lay_out(ask())
    assert layout is not None
    # Two across, three rows of 244 + 7 label + 8 gap in 840 mm: six a length, the last with two.
    assert (layout.across, layout.rows_per_cut) == (2, 3)
    assert layout.cut_lengths_um == (*(789_000,) * 6, 271_000)


def test_ink_is_share_times_area_times_laydown():
    # 200 x 100 mm at 50 % of 20 mL/m2: 0.02 m2 x 0.5 x 20 = 0.2 mL.
    assert ink_ml({"W": 50.0, "C": 0.0}, 200, 100, {"W": 20.0, "C": 9.0}) == {"W": 0.2, "C": 0.0}


def test_the_pieces_of_a_cost_make_the_whole_and_more_copies_cost_more(shop):
    layout, more = lay_out(ask()), lay_out(ask(copies=44))
    assert layout is not None
    assert more is not None
    stages = recipes()["film-house"].stages_for({})
    mode = shop.printers["petrel"].modes[0]
    blank = shop.blanks["tee-black"]

    def cost(laid):
        used = Used(ink_ml={"W": 0.5, "C": 0.1}, colour_m2=0.02, white_m2=0.02)
        minutes = minutes_for(stages, 36, laid, mode)
        return piece_cost(
            shop.prices,
            blank,
            36,
            laid,
            used,
            stages,
            minutes,
            shop.methods["film"],
            shop.printers["petrel"].feed("film"),
        )

    parts = cost(layout)
    assert parts.blank == Decimal("2.25")
    # 5.005 m of film at 3.20 for 36 pieces.
    assert parts.media == Decimal("0.445")
    # Three presses under a parchment that is good for 20 and costs 0.30.
    assert parts.covers == Decimal("0.045")
    assert parts.whole == sum(getattr(parts, n) for n in type(parts).model_fields)
    assert cost(more).whole > parts.whole


def test_the_last_piece_alone_waits_to_cool():
    stages = recipes()["film-house"].stages_for({})
    one, ten = press_minutes(stages, 1), press_minutes(stages, 10)
    each = sum(s.time_s + s.hands_s for s in stages if s.part == "press" and not s.alone) / 60
    assert ten - one == round(9 * each, 2)


def test_a_print_a_little_too_wide_is_told_what_a_little_less_would_save():
    # 221 + 8 + 221 = 450 mm: from 222 mm on only one print lies across.
    wide = ask(print_width_um=225_000, print_height_um=261_000)
    laid = lay_out(wide)
    assert laid is not None
    width, shorter = one_more_across(wide, laid)
    assert (laid.across, width, shorter.across) == (1, 221_000, 2)
    assert shorter.length_um < 0.6 * laid.length_um
    assert one_more_across(ask(), lay_out(ask())) is None, "three across would be far too narrow"
