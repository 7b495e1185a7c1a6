"""Several prints and pieces: passes over the press, placing, runs of several sorts, spares, cooling, what failures share."""

from datetime import UTC, datetime, timedelta
from decimal import Decimal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from offsetter.core import prints, stages_on_blank
from offsetter.core.acts import Act, Pressed, Printed, RanStage, SetUp, Spoiled, Stored, Voided
from offsetter.core.compute.sheet import RunLayout, lay_out
from offsetter.core.decisions import Decisions, NameStyle, OrderDoc, PlaceDoc
from offsetter.core.failures import what_failures_share
from offsetter.core.ledger import fold
from offsetter.core.places import placing_of
from offsetter.core.press_card import change_over, cooling_of, last_set_up, wanted_set_up
from offsetter.core.prints import JobPrint, TextArt, passes_of, placings_of, shown_slot, variants_of
from offsetter.core.proof import proof_of
from offsetter.core.quantities import METRIC, a_length, both_heats, told
from offsetter.core.runs_ahead import SpoilRate, next_run, spares_for, whole
from offsetter.core.sentences import shown
from offsetter.core.stations.order import Inputs, judge
from tests.core.test_sheet_and_cost import ask

AT = datetime(2026, 5, 4, 9, tzinfo=UTC)
NAMED = [
    {"number": 1, "line": "a", "size": "S", "text": "Orla"},
    {"number": 2, "line": "b", "size": "M", "text": "Marguerite"},
]
ORDER = OrderDoc.model_validate({
    "title": "Guides", "customer": "Someone", "due": "2030-05-03T15:00:00Z", "prints": ["front", "p2"], "names": NAMED,
    "lines": [{"id": "a", "blank": "tee-black", "counts": {"S": 3, "M": 5, "L": 2}}, {"id": "b", "blank": "tee-navy", "counts": {"M": 4}}],
})  # fmt: skip


def act(number: int, body, signature="", actor="Ada") -> Act:
    return Act(
        id=f"act-{number:05d}", job="j", at=AT + timedelta(seconds=number), actor=actor, signature=signature, body=body
    )


def one_print(print_id="front", facts=None, texts=None, **place) -> JobPrint:
    decisions = Decisions(order=ORDER, place=PlaceDoc(**{"file": "f" * 32, "width_um": 100_000, **place}))
    return JobPrint(id=print_id, decisions=decisions, facts=facts, texts=texts or {})


# Passes: the order of presses on one piece.


def passes(*places: str):
    made = tuple(one_print(f"p{i}", place=p) for i, p in enumerate(places))
    order = ORDER.model_copy(update={"prints": tuple(p.id for p in made)})
    return passes_of(order, made)


def test_a_piece_is_turned_only_when_another_side_comes_up():
    front, left, back, sleeve = passes("front chest", "left chest", "back", "left sleeve")
    assert (front.turn, left.turn) == ("", "")
    assert "back up" in back.turn
    assert "left sleeve" in sleeve.turn
    assert [p.number for p in (front, left, back, sleeve)] == [1, 2, 3, 4]


def test_a_finished_print_is_shielded_from_above_or_from_below():
    front, left, back = passes("front chest", "left chest", "back")
    assert front.shield == ""
    assert "parchment over the finished front chest" in shown(left.shield)
    assert "parchment below it: the finished front chest and left chest" in shown(back.shield)
    assert ("2 more times" in shown(front.heats), "1 more time." in shown(left.heats), back.heats) == (True, True, "")


def test_the_stack_names_the_side_that_lies_up(shop):
    stages = shop.recipes["film-house"].stages_for({})

    def whats(place):
        return {
            x.what
            for s in stages_on_blank.stages_on(stages, PlaceDoc(place=place), shop.blanks["tee-black"])
            for x in s.stack
            if x.kind == "blank"
        }

    assert "Garment, front" in whats("left chest")
    assert "Garment, front" not in whats("back")
    assert "Garment, back" in whats("back")
    assert "Garment, left sleeve" in whats("left sleeve")


# Placing: millimetres and words.


@pytest.mark.parametrize(
    ("place", "said"),
    [
        ({"below_collar_um": 85_000}, "85 mm below collar (3 fingers), ticks on the fold crease"),
        ({"below_collar_um": 100_000}, "100 mm below collar (4 fingers), ticks on the fold crease"),
        ({"below_collar_um": 20_000}, "20 mm below collar, ticks on the fold crease"),
        ({"below_collar_um": 300_000}, "300 mm below collar, ticks on the fold crease"),
        ({"offset_um": 95_000}, "85 mm below collar (3 fingers), ticks 95 mm to wearer's left of the crease"),
        ({"offset_um": -40_000}, "85 mm below collar (3 fingers), ticks 40 mm to wearer's right of the crease"),
        (
            {"place": "left sleeve", "below_collar_um": 60_000},
            "60 mm below shoulder seam (2 fingers), ticks on the fold crease",
        ),
    ],
)
def test_a_label_says_where_in_millimetres_and_fingers(place, said):
    assert told(placing_of(PlaceDoc(**place)), METRIC) == said


def variants(shop, facts, **place):
    one = one_print(facts=facts, **place)
    way = prints.way_of(shop, (one,), one.id, "p")
    return one, variants_of(shop, one, way, "Front chest")


@pytest.fixture(scope="module")
def facts():
    from offsetter.core.compute.artwork import measure_artwork
    from tests.core.shapes import disc

    return measure_artwork(
        disc(450, 1000, (60, 140, 220)), file="f" * 32, name="disc.png", mode="8-bit RGB with alpha", profile=None
    )


def test_sizes_of_one_width_and_cloth_share_transfers_and_no_others_do(shop, facts):
    _, found = variants(shop, facts, widths_um={"S": 80_000})
    assert [v.slots for v in found] == [("a/S",), ("a/M", "a/L"), ("b/M",)]
    assert len({v.signature for v in found}) == 3
    assert [v.spec.width_um for v in found] == [80_000, 100_000, 100_000]
    _, black = variants(shop, facts, lines=("a",))
    assert {s for v in black for s in v.slots} == {"a/S", "a/M", "a/L"}


def test_the_placing_card_measures_each_size_from_its_own_seams(shop, facts):
    one, found = variants(shop, facts, widths_um={"S": 80_000}, offset_um=10_000)
    blanks = {ln.id: shop.blanks[ln.blank] for ln in ORDER.lines}
    card = {p.label: p for p in placings_of(ORDER, blanks, found, one.decisions.place, {})}
    chest = {k: blanks[k[0]].sizes[k[2:]].chest_mm for k in card}
    assert {k: p.seam_mm for k, p in card.items()} == {
        k: round((chest[k] - (80 if k == "a/S" else 100)) / 2 - 10) for k in ("a/S", "a/M", "a/L", "b/M")
    }


# Names.


def names(shop, height_um=30_000, width_um=250_000):
    art = {
        1: TextArt(file="1" * 32, width_px=900, height_px=400, capital_px=354),
        2: TextArt(file="2" * 32, width_px=3000, height_px=420, capital_px=354),
    }
    one = one_print("p2", texts=art, text=NameStyle(height_um=height_um), place="back", width_um=width_um, file=None)
    way = prints.way_of(shop, (one,), one.id, "p")
    return one, variants_of(shop, one, way, "Front chest")


def test_names_are_as_high_as_asked_and_never_wider_than_allowed(shop):
    _, found = names(shop)
    assert [v.slots for v in found] == [("a/S#1",), ("b/M#2",)]
    assert found[0].spec.width_um == pytest.approx(30_000 * 900 / 354, rel=1e-3)
    assert found[1].spec.width_um == 250_000
    taller, _ = names(shop, height_um=40_000)[1]
    assert taller.spec.width_um == pytest.approx(40_000 * 900 / 354, rel=1e-3)


def test_names_wider_than_the_garment_takes_are_said_with_a_height_that_fits(shop):
    one, found = names(shop, height_um=60_000, width_um=600_000)
    inputs = Inputs(
        order=ORDER, place=one.decisions.place, focus="b/M", blanks={ln.id: shop.blanks[ln.blank] for ln in ORDER.lines}, height_um=60_000,
        text_widths_um={s: v.spec.width_um for v in found for s in v.slots}, has_file=True, printers=tuple(shop.printers.values()),
        presses=tuple(shop.presses.values()), ovens=tuple(shop.ovens.values()), way=None,
    )  # fmt: skip
    finding = next(f for f in judge(inputs).findings if f.code == "name-too-wide")
    assert finding.severity == "blocker"
    assert "1 of 2 names" in shown(finding.message)
    height = finding.patch.changes["text"]["height_um"]
    _, cured = names(shop, height_um=height, width_um=600_000)
    again = inputs.model_copy(update={"text_widths_um": {s: v.spec.width_um for v in cured for s in v.slots}})
    assert "name-too-wide" not in {f.code for f in judge(again).findings}


def test_what_is_shown_is_what_was_asked_for_or_the_usual():
    front, text = PlaceDoc(), PlaceDoc(text=NameStyle())
    assert shown_slot(ORDER, front, "") == "a/M"
    assert shown_slot(ORDER, front, "b/M") == "b/M"
    assert shown_slot(ORDER, front, "b/M#2") == "b/M"
    assert shown_slot(ORDER, front, "x/XXL") == "a/M"
    assert shown_slot(ORDER, PlaceDoc(lines=("b",)), "") == "b/M"
    assert shown_slot(ORDER, text, "b/M#2") == "b/M#2"
    assert shown_slot(ORDER, text, "") == "a/S#1"


@pytest.mark.parametrize(
    "changed",
    [
        {"names": [NAMED[0], {**NAMED[1], "number": 1}]},
        {"names": [{**NAMED[0], "size": "XL"}]},
        {"prints": ["front", "front"]},
        {"lines": [{"id": "a", "blank": "x", "counts": {"S": 1}}, {"id": "a", "blank": "y", "counts": {"S": 1}}]},
        {"lines": [{"id": "a", "blank": "x", "counts": {"S": 0}}]},
        {"lines": []},
    ],
)
def test_an_order_that_contradicts_itself_is_refused(changed):
    with pytest.raises(ValueError, match=r".+"):
        OrderDoc.model_validate({**ORDER.model_dump(mode="json"), "names": [], **changed})


def test_orders_and_runs_of_the_first_version_are_read():
    old = ORDER.model_dump(mode="json", exclude={"lines", "prints", "names"}) | {
        "line": {"blank": "tee-black", "counts": {"S": 2}}
    }
    read = OrderDoc.model_validate(old)
    assert (read.lines[0].id, read.prints, read.ordered) == ("a", ("front",), {"a/S": 2})
    laid = lay_out(ask(copies=3)).model_dump(mode="json")
    sort = laid.pop("sorts")[0]
    one = {side: sort[side] for side in ("width_um", "height_um")}
    assert RunLayout.model_validate({**laid, **one}) == lay_out(ask(copies=3))


# Runs of several sorts.


@given(
    st.lists(
        st.tuples(st.integers(15_000, 440_000), st.integers(15_000, 500_000), st.integers(1, 9)), min_size=1, max_size=6
    )
)
@settings(max_examples=150, deadline=None)
def test_prints_of_several_sizes_lie_inside_apart_and_all_there(wanted):
    asked = ask(wants=wanted)
    layout = lay_out(asked)
    assert layout is not None
    assert [sum(p.sort == i for p in layout.places) for i in range(len(wanted))] == [n for _, _, n in wanted]
    boxes = [
        (p.cut, p.x_um, p.y_um, layout.sorts[p.sort].width_um, layout.sorts[p.sort].height_um) for p in layout.places
    ]
    border = (asked.media_um - asked.printable_um) // 2
    for at, (cut, x, y, wide, high) in enumerate(boxes):
        assert border <= x <= asked.media_um - border - wide
        assert asked.margin_um + layout.label_um <= y <= layout.cut_lengths_um[cut - 1] - asked.margin_um - high
        for cut_2, x_2, y_2, wide_2, high_2 in boxes[at + 1 :]:
            beside = x + wide + asked.gap_um <= x_2 or x_2 + wide_2 + asked.gap_um <= x
            label = layout.label_um + asked.gap_um
            above = y + high + label <= y_2 or y_2 + high_2 + label <= y
            assert cut != cut_2 or beside or above
    assert all(n <= asked.longest_cut_um for n in layout.cut_lengths_um)
    assert [p.number for p in layout.places] == list(range(1, len(boxes) + 1))


def test_the_next_run_carries_what_is_wanted_and_a_name_once(shop, facts):
    _, front = variants(shop, facts)
    _, back = names(shop)
    both = (*front, *back)
    spares = spares_for(ORDER.pieces, 3, SpoilRate(), Decimal("0.05"))
    demand = prints.demand_of(shop, ORDER, (one_print(facts=facts), names(shop)[0]), both, ())
    every = {v.slots[0]: n for v, n in whole(demand, both, spares)}
    # 10 black and 4 navy pieces, 3 spares shared by their share of the order, and no spare of a name.
    assert every == {"a/S": 12, "b/M": 5, "a/S#1": 1, "b/M#2": 1}
    printed = act(1, Printed(run="r", count=1, per={v.signature: n for v, n in whole(demand, both, spares)}))
    spoiled = [act(n, Spoiled(what="transfer", count=1, stage="cure", cause="x"), back[0].signature) for n in (2,)]
    ledger = fold((printed, *spoiled), demand)
    assert [(v.slots, n) for v, n in next_run(both, ledger, spares)] == [(("a/S#1",), 1)]


def test_spares_follow_the_shops_own_spoiling_once_there_is_enough_of_it():
    planned = Decimal("0.05")
    assert spares_for(40, None, SpoilRate(tried=39, spoiled=20), planned).count == 2
    assert spares_for(40, None, SpoilRate(tried=100, spoiled=9), planned).count == 4
    assert spares_for(40, None, SpoilRate(tried=400, spoiled=0), planned).count == 1
    assert spares_for(40, 7, SpoilRate(tried=400, spoiled=0), planned).count == 7
    assert "9 of the last 100" in shown(spares_for(40, None, SpoilRate(tried=100, spoiled=9), planned).why)


# At the press.


def through(
    number: int,
    *,
    cold_s=60.0,
    warm_s=None,
    again=False,
    early=False,
    ran_s=15.0,
    size="M",
    actor="Ada",
    press="gannet",
) -> Act:
    ran = (
        RanStage(stage="transfer", temperature_c=160, planned_s=15, ran_s=ran_s, ended_early=early, again=again),
        RanStage(stage="cool", temperature_c=None, planned_s=75, ran_s=cold_s, warm_at_s=warm_s),
    )
    return act(number, Pressed(run="r1", size=size, press=press, stages=ran), "sig", actor)


def cool(shop):
    return next(s for s in shop.recipes["film-house"].stages if s.id == "cool")


def test_cooling_is_learned_from_touches_and_never_below_a_warm_one(shop):
    stage = cool(shop)
    few = cooling_of(tuple(through(n, cold_s=40) for n in range(4)), stage, "film-house")
    assert (few.learned_s, few.wait_s) == (None, stage.time_s)
    late = [55.0, 56.0, 58.0, 70.0, 90.0, 140.0, 200.0, 61.0, 64.0]
    learned = cooling_of(tuple(through(n, cold_s=s) for n, s in enumerate(late)), stage, "film-house")
    # A touch comes when hands are free: the quick ones say when it was cold.
    assert learned.learned_s == 58
    warm = cooling_of(
        tuple(through(n, cold_s=s, warm_s=66.0 if n == 3 else None) for n, s in enumerate(late)), stage, "film-house"
    )
    assert warm.learned_s == 66
    taken_back = through(9, cold_s=5.0)
    assert (
        cooling_of(
            (*(through(n, cold_s=60) for n in range(5)), taken_back, act(10, Voided(voids=taken_back.id))),
            stage,
            "film-house",
        ).learned_s
        == 60
    )
    # Another recipe cools another thing: its touches say nothing here.
    assert cooling_of(tuple(through(n, cold_s=s) for n, s in enumerate(late)), stage, "two-sheet-house").touches == 0


def test_the_press_is_changed_only_where_it_differs(shop):
    press, blank = shop.presses["gannet"], shop.blanks["tee-black"]
    wanted = wanted_set_up(
        press, tuple(s for s in shop.recipes["film-house"].stages_for({}) if s.part == "press"), blank
    )
    assert (wanted.temperature_c, wanted.time_s, wanted.pressure) == (160, 15, "medium")
    assert change_over(wanted, wanted, press.gauge) == ()
    unknown = change_over(None, wanted, press.gauge)
    assert [r.what for r in unknown] == ["Heat", "Timer", "Pressure", "Height"]
    assert {shown(r.left) for r in unknown} == {"not known"}
    thicker = wanted.model_copy(update={"thickness_mm": 3.2, "temperature_c": 140.56})
    assert [(r.what, shown(r.left)) for r in change_over(thicker, wanted, press.gauge)] == [
        ("Heat", both_heats(140.56)),
        ("Height", f"for {a_length(3.2, None)} of blank"),
    ]


def test_the_newest_standing_set_up_of_this_press_counts():
    first, last = SetUp(press="gannet", time_s=15), SetUp(press="gannet", time_s=40)
    acts = (act(1, first), act(3, last), act(2, SetUp(press="other", time_s=9)))
    assert last_set_up(acts, "gannet") == last
    assert last_set_up((*acts, act(4, Voided(voids="act-00003"))), "gannet") == first
    assert last_set_up(acts, "unknown") is None


def test_what_failed_pieces_share_and_others_lack():
    good = [through(n, size="M" if n % 2 else "L") for n in range(1, 9)]
    short = [through(20, early=True, again=True, size="M"), through(21, early=True, again=True, size="L")]
    (found,) = what_failures_share((*good, *short), {})
    assert shown(found.sentence) == "“transfer” ended early"
    assert (found.failed, found.all, found.all_with) == (2, 10, 2)
    # Spoiled right after it was pressed counts as failed too; one alone shares nothing.
    spoiled = act(22, Spoiled(what="piece", size="M", count=1, stage="peel", cause="x"))
    assert what_failures_share((*good, through(21, ran_s=40.0), spoiled), {}) == ()
    both = (*good, through(20, ran_s=40.0, again=True, size="L"), through(21, ran_s=40.0), spoiled)
    assert [shown(s.sentence) for s in what_failures_share(both, {})] == ["“transfer” ran over by more than a quarter"]
    noor = (*good, through(20, again=True, actor="Noor", size="L"), through(21, again=True, actor="Noor"))
    assert [shown(s.sentence) for s in what_failures_share(noor, {})] == ["pressed by Noor"]


def test_a_proof_is_signed_for_these_prints_alone(shop, facts):
    from offsetter.core.acts import Signed

    _, now = variants(shop, facts)
    _, wider = variants(shop, facts, width_um=120_000)
    signed = act(1, Signed(by="E. Lindqvist", signatures={"front": tuple(v.signature for v in now)}))
    assert proof_of((), now, wanted=True).state == "unsigned"
    assert proof_of((), now, wanted=False).state == "not wanted"
    assert (proof_of((signed,), now, wanted=True).state, proof_of((signed,), now[:1], wanted=True).state) == (
        "signed",
        "signed",
    )
    changed = proof_of((signed,), wider, wanted=True)
    assert (changed.state, changed.by, changed.changed) == ("changed", "E. Lindqvist", ("Front chest",))
    assert proof_of((signed, act(2, Voided(voids=signed.id))), now, wanted=True).state == "unsigned"


def test_stored_transfers_are_no_longer_in_hand(shop, facts):
    _, found = variants(shop, facts)
    demand = prints.demand_of(shop, ORDER, (one_print(facts=facts),), found, ())
    signature = found[0].signature
    acts = (act(1, Printed(run="r", count=20, per={signature: 20})),)
    assert fold(acts, demand).left_over == {signature: 10}
    ledger = fold((*acts, act(2, Stored(of=signature, count=10), signature)), demand)
    assert (ledger.left_over, ledger.pools[signature].in_hand) == ({}, 10)
