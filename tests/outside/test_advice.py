"""Which method for which blank: what the trade says each goes on, and every never of it. Common practice, no source."""

import json
from decimal import Decimal

import pytest
from pydantic import ValidationError

from offsetter.core.compute.advice import Advice, advise
from offsetter.core.compute.fit import AdviceJob
from offsetter.core.facts import advice_facts, methods, recipes
from offsetter.core.quantities import METRIC
from offsetter.core.quantities import told as said_in
from offsetter.core.sentences import shown
from tests.outside.test_command_line import offsetter

COTTON, POLY, BLEND = {"cotton": 1.0}, {"polyester": 1.0}, {"polyester": 0.65, "cotton": 0.35}
WHITE, LIGHT, MID, BLACK, NAVY = "#FFFFFF", "#DDE6C8", "#9A9AA0", "#17181B", "#1C2A4A"


def cloth(fibres, colour=WHITE, *obstacles):
    return {"kind": "cloth", "fibres": fibres, "colour": colour, "obstacles": obstacles}


def hard(coated=True, colour=WHITE):
    return {"kind": "hard", "colour": colour, "coated": coated}


def asked(blank, kind="graphic", colours=4, width=150, height=120, quantity=20, full_bleed=False) -> AdviceJob:
    art = {"kind": kind, "colours": colours, "full_bleed": full_bleed}
    return AdviceJob.model_validate(
        {"blank": blank, "artwork": art, "width_mm": width, "height_mm": height, "quantity": quantity}
    )


def advice(*args, **more) -> Advice:
    return advise(asked(*args, **more), methods(), recipes(), advice_facts())


def verdict(found: Advice, method: str) -> tuple[str, str]:
    one = next(a for a in found.ranked if a.method == method)
    return one.verdict, said_in(" ".join(r.said for r in one.reasons), METRIC)


NO, CARE, GOOD = "ruled-out", "caution", "good"
# Blank, more of the job, method, verdict, a word of its reason.
CASES = [
    # Dye: polyester or a coating, light colours only; never cotton, never dark.
    (cloth(POLY), {}, "sub-ink-fabric", GOOD, ""),
    (cloth(COTTON), {}, "sub-ink-fabric", NO, "polyester"),
    (cloth(POLY, BLACK), {}, "sub-ink-fabric", NO, "dark"),
    (cloth(POLY, MID), {}, "sub-ink-fabric", CARE, "shows through"),
    (cloth(BLEND), {}, "sub-ink-fabric", CARE, "65%"),
    (cloth({"polyester": 0.4, "cotton": 0.6}), {}, "sub-ink-fabric", NO, "40%"),
    (hard(), {}, "sub-ink-fabric", NO, "hard"),
    (hard(), {}, "sub-ink-hard", GOOD, ""),
    (hard(coated=False), {}, "sub-ink-hard", NO, "coating"),
    (hard(colour=BLACK), {}, "sub-ink-hard", NO, "dark"),
    (cloth(POLY), {}, "sub-ink-hard", NO, "cloth"),
    (hard(), {}, "sub-toner", GOOD, ""),
    (cloth(POLY), {}, "sub-toner", GOOD, ""),
    (cloth(COTTON), {}, "sub-toner", NO, "polyester"),
    (hard(coated=False), {}, "sub-toner", NO, "coating"),
    (cloth(POLY), {"width": 250, "height": 320}, "sub-toner", NO, "do not fit"),
    # White toner: any colour, on a flat press; the coated sheet for dark cloth.
    (cloth(COTTON, BLACK), {}, "toner-two-sheet", GOOD, ""),
    (cloth(POLY), {}, "toner-two-sheet", GOOD, ""),
    (hard(coated=False), {}, "toner-two-sheet", GOOD, ""),
    (cloth(COTTON, BLACK, "zip"), {}, "toner-two-sheet", NO, "zip"),
    (cloth(COTTON, BLACK), {}, "toner-white-coat", GOOD, ""),
    (cloth(COTTON), {}, "toner-white-coat", CARE, "does not need"),
    (hard(), {}, "toner-white-coat", NO, "hard"),
    # Papers without white: white and light cloth only; the trimmed one white only.
    (cloth(COTTON), {}, "toner-self-weed", GOOD, ""),
    (cloth(COTTON, LIGHT), {}, "toner-self-weed", GOOD, ""),
    (cloth(COTTON, BLACK), {}, "toner-self-weed", NO, "no white"),
    (cloth(COTTON), {}, "toner-trim", GOOD, ""),
    (cloth(COTTON, LIGHT), {}, "toner-trim", NO, "white"),
    (cloth(COTTON, NAVY), {}, "toner-trim", NO, "white"),
    (cloth(COTTON), {"kind": "lettering", "colours": 1}, "toner-trim", CARE, "letters"),
    (hard(coated=False), {"width": 80, "height": 200}, "toner-hard", GOOD, ""),
    (cloth(COTTON), {}, "toner-hard", NO, "cloth"),
    # A coloured sheet: one colour a sheet, never a photograph; any cloth.
    (cloth(POLY, NAVY), {"kind": "lettering", "colours": 1}, "toner-colour-sheet", GOOD, ""),
    (cloth(COTTON, NAVY), {"kind": "lettering", "colours": 2}, "toner-colour-sheet", CARE, "2 sheets"),
    (cloth(COTTON, NAVY), {"kind": "photo", "colours": 5000}, "toner-colour-sheet", NO, "one colour"),
    # Opaque sheets bring their white; what nobody gave is asked for.
    (cloth(COTTON, BLACK), {}, "toner-opaque", CARE, "temperature"),
    (cloth(COTTON), {}, "inkjet-light", CARE, "temperature"),
    (cloth(COTTON, BLACK), {}, "inkjet-light", NO, "no white"),
    (cloth(COTTON, BLACK), {}, "inkjet-opaque", GOOD, ""),
    (cloth(COTTON), {}, "inkjet-opaque", CARE, "does not need"),
    # Film: any cloth of any colour, a pad over a zip; never hard goods.
    (cloth(COTTON, BLACK), {}, "film", GOOD, ""),
    (cloth({"silk": 1.0}, NAVY), {}, "film", GOOD, ""),
    (cloth(POLY, BLACK), {}, "film", CARE, "dye"),
    (cloth(COTTON, BLACK, "zip"), {}, "film", CARE, "pad"),
    (cloth({"nylon": 1.0}, BLACK), {}, "film", NO, "Nylon stands 130"),
    (cloth({"softshell": 1.0}, NAVY), {}, "film", CARE, "as much as softshell stands"),
    (cloth({"softshell": 1.0}, NAVY), {}, "toner-two-sheet", NO, "Softshell stands 140"),
    (hard(), {}, "film", NO, "hard"),
    # Direct: cotton and cotton-rich, risers over a zip; never polyester.
    (cloth(COTTON, BLACK), {}, "direct", GOOD, ""),
    (cloth({"cotton": 0.8, "polyester": 0.2}, BLACK), {}, "direct", GOOD, ""),
    (cloth({"cotton": 0.65, "polyester": 0.35}, BLACK), {}, "direct", CARE, "face of cotton"),
    (cloth({"cotton": 0.5, "polyester": 0.5}), {}, "direct", NO, "50%"),
    (cloth(POLY), {}, "direct", NO, "cotton"),
    (cloth(COTTON, BLACK, "zip"), {}, "direct", CARE, "one-way"),
    # Printed vinyl: a pad clears zips and seams; fine letters are weeded one by one.
    (cloth(COTTON, BLACK), {}, "print-cut", GOOD, ""),
    (cloth(POLY, WHITE, "seam"), {}, "print-cut", CARE, "pad"),
    (cloth(COTTON), {"kind": "lettering", "colours": 1}, "print-cut", CARE, "weeded"),
    (cloth({"nylon": 1.0}, BLACK), {}, "print-cut", CARE, "must be entered"),
    (hard(), {}, "print-cut", NO, "cloth"),
]  # fmt: skip


@pytest.mark.parametrize(("blank", "more", "method", "wanted", "word"), CASES)
def test_a_method_is_allowed_or_not_with_its_reason(blank, more, method, wanted, word):
    told, why = verdict(advice(blank, **more), method)
    assert told == wanted, why
    assert word in why


def test_the_cases_cover_every_method_and_every_verdict():
    assert len(CASES) >= 40
    assert {c[2] for c in CASES} == set(methods())
    for method in methods():
        assert NO in {c[3] for c in CASES if c[2] == method} or method in ("toner-opaque", "inkjet-opaque"), method


# The four orders on the counter: which way, and one that must not be it.
ORDERS = [
    (cloth(POLY), {"kind": "photo", "colours": 9000, "width": 400, "height": 400, "full_bleed": True, "quantity": 30}, "sub-ink-fabric", "direct"),
    (cloth(COTTON, NAVY), {"kind": "lettering", "colours": 2, "width": 180, "height": 60, "quantity": 24}, "film", "toner-self-weed"),
    (hard(), {"kind": "photo", "colours": 900, "width": 95, "height": 95, "quantity": 40}, "sub-ink-hard", "film"),
    (cloth(COTTON, BLACK, "zip"), {"kind": "graphic", "width": 300, "height": 250, "quantity": 8}, "film", "toner-two-sheet"),
]  # fmt: skip


@pytest.mark.parametrize(("blank", "more", "wanted", "never"), ORDERS)
def test_the_orders_on_the_counter(blank, more, wanted, never):
    found = advice(blank, **more)
    assert found.recommended == wanted
    assert verdict(found, never)[0] == NO
    assert found.runner_up not in (None, wanted)


def test_a_softshell_over_a_zip_goes_cool_and_padded_or_not_at_all():
    found = advice(cloth({"softshell": 1.0}, NAVY, "zip"))
    assert found.recommended in ("film", "print-cut")
    assert any("pad" in w for w in found.would_change)
    assert any("softshell stands" in shown(w) for w in found.would_change)
    assert {a.method for a in found.ranked if a.verdict != NO} == {"film", "print-cut"}


def test_where_nothing_is_left_it_says_so():
    found = advice(cloth({"nylon": 1.0}, NAVY, "zip"))
    assert (found.recommended, found.runner_up) == (None, None)
    assert "no method is left" in found.would_change[0]


@pytest.mark.parametrize("case", CASES[::5])
def test_all_fifteen_are_accounted_for_in_the_order_of_their_verdicts(case):
    found = advice(case[0], **case[1])
    assert {a.method for a in found.ranked} == set(methods())
    ranks = [("good", "caution", "ruled-out").index(a.verdict) for a in found.ranked]
    assert ranks == sorted(ranks)
    assert all(a.reasons for a in found.ranked)
    assert all((a.cost_per_piece is None) >= (a.verdict == NO) for a in found.ranked)
    costs = [
        a.cost_per_piece for a in found.ranked if a.verdict == found.ranked[0].verdict and a.cost_per_piece is not None
    ]
    assert costs == sorted(costs)


def test_more_pieces_share_the_setting_up_and_the_flip_is_where_it_says():
    costs = [
        next(a.cost_per_piece for a in advice(cloth(COTTON, BLACK), quantity=q).ranked if a.method == "film")
        for q in (1, 5, 25, 125)
    ]
    assert costs == sorted(costs, reverse=True)
    found = advice(cloth(COTTON, NAVY), kind="graphic", width=180, height=60, quantity=24)
    (said,) = [w for w in found.would_change if "cheaper" in w]
    flip = int("".join(c for c in said if c.isdigit()))
    there = {
        a.method: a.cost_per_piece
        for a in advice(cloth(COTTON, NAVY), kind="graphic", width=180, height=60, quantity=flip).ranked
    }
    assert there[found.runner_up] < there[found.recommended]
    towards = flip + (1 if flip < 24 else -1)
    before = {
        a.method: a.cost_per_piece
        for a in advice(cloth(COTTON, NAVY), kind="graphic", width=180, height=60, quantity=towards).ranked
    }
    assert before[found.runner_up] >= before[found.recommended]


def test_worked_money_of_practice_comes_out_before_labour():
    """Printed vinyl 4 x 4 in: media and mask 0.17, ink 0.02. A two-sheet shirt: toner and sheets 3.00. Common practice, no source."""
    side = 101.6
    gap, vinyl = advice_facts().gap_mm, methods()["print-cut"].cost
    media = Decimal(str((side + gap) ** 2 / 1e6)) * vinyl.media_m2
    ink = Decimal(str(side**2 / 1e6)) * vinyl.colour_m2
    assert float(media) == pytest.approx(0.17, abs=0.01)
    assert float(ink) == pytest.approx(0.02, abs=0.003)
    two = methods()["toner-two-sheet"].cost
    covered = Decimal(str(0.21 * 0.297 * advice_facts().coverage["photo"]))
    assert float(two.sheet_price + covered * (two.colour_m2 + two.white_m2)) == pytest.approx(3.00, abs=0.15)


@pytest.mark.parametrize(
    "changed",
    [
        {"blank": {"kind": "cloth", "fibres": {"cotton": 0.7, "polyester": 0.5}}},
        {"blank": {"kind": "cloth", "fibres": {}}},
        {"blank": {"kind": "cloth", "fibres": {"cotton": 1.0}, "colour": "navy"}},
        {"blank": {"kind": "plasma"}},
        {"quantity": 0},
        {"width_mm": -4},
        {"artwork": {"kind": "hologram"}},
    ],
)
def test_a_job_that_cannot_be_is_refused_in_one_sentence(changed, tmp_path):
    job = {
        "blank": {"kind": "cloth", "fibres": {"cotton": 1.0}},
        "artwork": {"kind": "graphic"},
        "width_mm": 100,
        "height_mm": 80,
        "quantity": 5,
    } | changed
    with pytest.raises(ValidationError):
        AdviceJob.model_validate(job)
    (tmp_path / "job.json").write_text(json.dumps(job))
    done = offsetter("advise", tmp_path / "job.json", "--json")
    assert (done.returncode, done.stdout) == (2, "")
    assert len(done.stderr.strip().splitlines()) == 1


def test_the_command_line_answers_by_the_contract(tmp_path):
    job = {"blank": {"kind": "cloth", "fibres": {"cotton": 0.65, "polyester": 0.35}, "colour": NAVY, "coated": False, "obstacles": ["zip"]},
           "artwork": {"kind": "lettering", "colours": 1, "full_bleed": False}, "width_mm": 200, "height_mm": 90, "quantity": 12}  # fmt: skip
    (tmp_path / "job.json").write_text(json.dumps(job))
    told = json.loads(offsetter("advise", tmp_path / "job.json", "--json").stdout)
    assert len(told["ranked"]) == 15
    assert {"method", "verdict", "reasons", "cost_per_piece", "minutes_per_piece", "wash_life"} <= set(
        told["ranked"][0]
    )
    assert told["recommended"] == told["ranked"][0]["method"]
    for wrong in ("{", "[]", '{"blank": 3}'):
        (tmp_path / "job.json").write_text(wrong)
        assert offsetter("advise", tmp_path / "job.json", "--json").returncode == 2


def test_dye_goes_before_film_on_white_elastic_socks_and_a_tested_limit_beats_the_fibres():
    socks = cloth({"polyester": 0.92, "elastane": 0.08}, WHITE)
    elastic = {**socks, "stretch": "much"}
    ranked = [a.method for a in advice(elastic).ranked]
    assert ranked.index("sub-ink-fabric") < ranked.index("film")
    told = next(a for a in advice(elastic).ranked if a.method == "film")
    assert "elastic" in " ".join(r.said for r in told.reasons)
    # Nylon stands 130 °C as a fibre; this one was tested at 150.
    assert next(a for a in advice(cloth({"nylon": 1.0}, BLACK)).ranked if a.method == "film").verdict == NO
    tested = {**cloth({"nylon": 1.0}, BLACK), "scorch_c": 150}
    assert next(a for a in advice(tested).ranked if a.method == "film").verdict != NO
