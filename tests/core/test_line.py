"""The line as a pure function: states, patches, what recomputes and what is found again."""

from datetime import UTC, datetime

import numpy as np
import pytest

from offsetter.core import derive
from offsetter.core.acts import Act, Printed
from offsetter.core.compute.artwork import measure_artwork
from offsetter.core.compute.plates import make_plates
from offsetter.core.compute.resample import resample
from offsetter.core.context import Context, LineInputs, Measured
from offsetter.core.decisions import BlankLine, Decisions, OrderDoc, PlaceDoc, SheetDoc, WhiteDoc
from offsetter.core.facts import profile_bytes
from offsetter.core.line import evaluate
from offsetter.core.prints import JobPrint
from offsetter.core.runs import physical_signature
from offsetter.core.sentences import shown
from tests.core.shapes import disc

DUE = datetime(2030, 5, 3, 15, tzinfo=UTC)
ORDER = OrderDoc(title="Test tees", customer="Someone", due=DUE, quoted=9.5,
                 lines=(BlankLine(blank="tee-black", counts={"S": 6, "M": 12}),))  # fmt: skip


@pytest.fixture(scope="module")
def picture():
    return disc(900, 2000, (60, 140, 220))


@pytest.fixture(scope="module")
def facts(picture):
    return measure_artwork(picture, file="f" * 32, name="disc.png", mode="8-bit RGB with alpha", profile=None)


@pytest.fixture
def inputs(shop, levels, facts, picture):
    def made(acts=(), **documents) -> LineInputs:
        decisions = Decisions(order=ORDER, place=PlaceDoc(file="f" * 32, width_um=150_000)).model_copy(update=documents)
        bare = LineInputs(
            shop=shop,
            profile="p",
            prints=(JobPrint(id="front", decisions=decisions, facts=facts),),
            acts=acts,
            levels=levels,
        )
        spec = Context(bare).spec
        left, top, right, bottom = spec.crop_px
        small = resample(picture[top:bottom, left:right], 300, 300)
        measure = make_plates(small, spec, profile_bytes(), scale=300 / spec.width_px).measure
        return bare.model_copy(update={"measured": Measured(preview=measure, device=None, steps=())})

    return made


class Counting(dict):
    written: list[str]

    def __init__(self):
        super().__init__()
        self.written = []

    def __setitem__(self, key, value):
        self.written.append(value.station)
        super().__setitem__(key, value)


def states(made) -> dict[str, str]:
    return {s.station: s.state for s in made.stations}


def test_without_artwork_the_line_says_what_it_waits_for(shop):
    made = evaluate(
        LineInputs(
            shop=shop,
            profile="p",
            prints=(JobPrint(id="front", decisions=Decisions(order=ORDER)),),
        ),
        {},
    )
    assert states(made)["order"] == "blocked"
    assert states(made)["white"] == "open"
    assert shown(made.station("white").waits_for) == "the artwork"
    assert made.readings == ()


def test_ten_stations_in_the_order_of_the_work(inputs):
    made = evaluate(inputs(), {})
    assert [s.station for s in made.stations] == [
        "order",
        "method",
        "artwork",
        "colour",
        "white",
        "sheet",
        "print",
        "prepare",
        "press",
        "inspect",
    ]
    assert states(made)["sheet"] == "ready"
    assert any("White ends at print" in shown(f.message) for f in made.station("print").findings), (
        "5 mL are left in store"
    )
    assert {r.key for r in made.readings} == {
        "resolution",
        "white",
        "most-ink",
        "ink",
        "film",
        "cost",
        "hands",
        "machines",
    }
    assert all(r.quality != "device" for r in made.readings), "a preview never passes for the real thing"


def test_only_what_depends_on_a_change_is_worked_out_again(inputs):
    memo = Counting()
    evaluate(inputs(), memo)
    memo.written.clear()
    evaluate(inputs(), memo)
    assert memo.written == []
    evaluate(inputs(sheet=SheetDoc(gap_um=12_000)), memo)
    assert memo.written == ["sheet", "prepare", "press"]
    memo.written.clear()
    evaluate(inputs(white=WhiteDoc(level_pct=90)), memo)
    assert "white" in memo.written
    assert not {"order", "artwork", "sheet"} & set(memo.written)


def test_a_patch_is_a_decision_that_cures_its_finding(inputs):
    small = inputs(white=WhiteDoc(choke_um=100))
    (finding,) = [f for f in evaluate(small, {}).station("white").findings if f.code == "choke-small"]
    cured = small.here.decisions.with_draft(
        finding.patch.station, {**small.here.decisions.white.model_dump(), **finding.patch.changes}
    )
    assert cured.white.choke_um == 250
    codes = {f.code for f in evaluate(inputs(white=cured.white), {}).station("white").findings}
    assert "choke-small" not in codes


def test_too_wide_blocks_and_offers_the_widest(inputs):
    made = evaluate(inputs(place=PlaceDoc(file="f" * 32, width_um=480_000)), {})
    blocker = next(f for f in made.station("order").findings if f.code == "too-wide")
    assert states(made)["order"] == "blocked"
    assert blocker.patch.changes == {"width_um": 450_000}
    assert states(made)["print"] == "blocked"


def test_out_of_date_is_judged_by_what_changes_a_dot(inputs, shop):
    first = evaluate(inputs(), {})
    printed = Act(
        id="act-00001", job="j", at=DUE, actor="Ada", signature=first.signature, body=Printed(run="r", count=20)
    )
    assert states(evaluate(inputs(acts=(printed,)), {}))["print"] == "done"
    wider = inputs(acts=(printed,), place=PlaceDoc(file="f" * 32, width_um=160_000))
    assert states(evaluate(wider, {}))["print"] == "out of date"
    renamed = ORDER.model_copy(update={"title": "Another name", "quoted": 12.0})
    lower = PlaceDoc(file="f" * 32, width_um=150_000, below_collar_um=95_000)
    for harmless in ({"order": renamed}, {"place": lower}, {"sheet": SheetDoc(gap_um=20_000)}):
        assert states(evaluate(inputs(acts=(printed,), **harmless), {}))["print"] == "done"


def test_the_physical_signature_knows_dots_and_media(inputs, shop):
    made = inputs()
    way, spec = Context(made).way, Context(made).spec
    assert physical_signature(spec, way, "film-a") != physical_signature(spec, way, "film-b")
    settled = way.model_copy(update={"settled": True})
    assert physical_signature(spec, settled, "film-a") == physical_signature(spec, way, "film-a")


def test_short_blanks_are_said_without_entering_the_result(inputs, shop, levels):
    poor = levels.model_copy(update={"blanks": {"tee-black": {"S": 1, "M": 20}}})
    memo = Counting()
    evaluate(inputs(), memo)
    memo.written.clear()
    made = evaluate(inputs().model_copy(update={"levels": poor}), memo)
    assert any(shown(f.message) == "The store lacks 5 of size S" for f in made.station("order").findings)
    assert memo.written == []


def test_facts_of_a_picture(facts, art_folder):
    assert facts.transparency == "hard"
    assert facts.symmetric
    assert facts.content_px == pytest.approx((100, 100, 1900, 1900), abs=1)
    assert facts.vanishing_share("#3C8CDC") == pytest.approx(1, abs=0.02)
    assert facts.vanishing_share("#17181B") == 0
    import cv2

    comet = cv2.cvtColor(cv2.imread(str(art_folder / "comet.png"), cv2.IMREAD_UNCHANGED), cv2.COLOR_BGRA2RGBA)
    soft = measure_artwork(np.ascontiguousarray(comet), file="c", name="c", mode="", profile=None)
    assert soft.transparency == "soft"
    assert not soft.symmetric
    assert 0.02 < soft.faint_share(0.1) < 0.2


def test_the_recipe_refuses_a_school_it_does_not_know(shop):
    from offsetter.core.values import Refusal

    with pytest.raises(Refusal, match=r"film-cure=oven.*finish=no"):
        shop.recipes["film-house"].stages_for({"film-cure": "sunshine"})
    hover = derive.longest_cut_mm(
        shop, derive.proposed_way(shop, "p", "film").model_copy(update={"schools": {"film-cure": "hover"}})
    )
    assert hover == (500, 400), "a hovering press takes its platen, not the oven's length"
