"""The ledger: the same whatever the order and however often acts arrive; pieces and transfers are conserved."""

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from offsetter.core.acts import (
    Act,
    Cancelled,
    Fetched,
    Held,
    Passed,
    Prepared,
    Pressed,
    Printed,
    Resolved,
    Resumed,
    Spoiled,
    Stored,
    Voided,
    job_standing,
)
from offsetter.core.ledger import Demand, fold

# A front and a back on every piece, two sizes with transfers of their own in front, and a name on the two of size S.
FRONT = {"a/S": "front-s", "a/M": "front-m"}
BACK = {"a/S": "back", "a/M": "back"}
NAMES = {"a/S#1": "ada", "a/S#2": "bo"}
ORDERED = {"a/S": 2, "a/M": 4}
DEMAND = Demand(ordered=ORDERED, prints={"front": FRONT, "back": BACK, "names": NAMES})
AT = datetime(2026, 5, 4, 9, tzinfo=UTC)


def act(number: int, body, signature="") -> Act:
    return Act(
        id=f"act-{number:05d}", job="j", at=AT + timedelta(seconds=number), actor="Ada", signature=signature, body=body
    )


def slots(demand: Demand) -> list[tuple[str, str, str]]:
    return [(p, s, sig) for p, found in demand.prints.items() for s, sig in found.items()]


def pressed(print_id: str, slot: str) -> Pressed:
    kind, _, number = slot.partition("#")
    return Pressed(run="r", line="a", size=kind[2:], print=print_id, number=int(number) if number else None)


@st.composite
def days(draw) -> list[Act]:
    """A day that hands could have had: every act is one that the ledger so far allows."""
    acts: list[Act] = []
    for number in range(draw(st.integers(1, 40))):
        ledger = fold(tuple(acts), DEMAND)
        print_id, slot, signature = draw(st.sampled_from(slots(DEMAND)))
        kind = slot.split("#")[0]
        pool = ledger.pools.get(signature)
        hand = pool.in_hand if pool else 0
        what = draw(
            st.sampled_from(
                [
                    "print",
                    "print",
                    "powder",
                    "press",
                    "press",
                    "press",
                    "good",
                    "spoil",
                    "transfer",
                    "store",
                    "fetch",
                    "void",
                ]
            )
        )
        if what == "print":
            acts.append(act(number, Printed(run="r", count=3, per={signature: draw(st.integers(1, 3))})))
        elif what == "powder" and hand:
            acts.append(act(number, Prepared(run="r", stage="powder", count=1, per={signature: 1})))
        elif what == "press" and hand and ledger.to_press(print_id)[slot]:
            acts.append(act(number, pressed(print_id, slot), signature))
        elif what == "good" and ledger.to_inspect[kind]:
            acts.append(act(number, Passed(size=kind[2:], count=1)))
        elif what == "spoil" and ledger.to_inspect[kind]:
            had = ("front", "back") if kind == "a/M" else ("front", "back", "names")
            name = next((int(s[4:]) for s in NAMES if ledger.live("names", s)), None) if kind == "a/S" else None
            acts.append(
                act(
                    number, Spoiled(what="piece", size=kind[2:], number=name, had=had, count=1, stage="peel", cause="x")
                )
            )
        elif what == "transfer" and hand:
            acts.append(act(number, Spoiled(what="transfer", count=1, stage="cure", cause="x"), signature))
        elif what == "store" and hand:
            acts.append(act(number, Stored(of=signature, count=1), signature))
        elif what == "fetch":
            acts.append(act(number, Fetched(stored="elsewhere", count=1), signature))
        elif what == "void" and acts and isinstance(acts[-1].body, Pressed):
            acts.append(act(number, Voided(voids=acts[-1].id)))
    return acts


@given(days(), st.randoms())
@settings(max_examples=120, deadline=None)
def test_order_and_repetition_do_not_matter(acts, chance):
    shuffled = acts + acts[: len(acts) // 2]
    chance.shuffle(shuffled)
    assert fold(tuple(shuffled), DEMAND) == fold(tuple(acts), DEMAND)


@given(days())
@settings(max_examples=120, deadline=None)
def test_pieces_and_transfers_are_conserved(acts):
    ledger = fold(tuple(acts), DEMAND)
    for pool in ledger.pools.values():
        assert pool.printed + pool.fetched == pool.in_hand + pool.pressed + pool.spoiled + pool.taken_out + pool.stored
        assert pool.in_hand >= 0
    assert sum(p.pressed for p in ledger.pools.values()) == ledger.pressed_sum()
    for kind, ordered in ORDERED.items():
        complete = ledger.complete(kind)
        assert complete == ledger.still_good[kind] + ledger.to_inspect[kind] <= ordered
        assert ledger.begun(kind) >= complete
        assert ledger.pieces_to_go[kind] == ordered - complete
        # What was pressed in front is on a piece that still counts, or went with a spoiled one.
        assert ledger.pressed.get("front", {}).get(kind, 0) == ledger.live("front", kind) + ledger.spoiled_pieces.get(
            kind, 0
        )
    for signature in DEMAND.signatures():
        hand = ledger.pools[signature].in_hand if signature in ledger.pools else 0
        # Made now, the prints asked for would let every piece be finished.
        assert hand + ledger.to_print_of(signature) >= ledger.wanted(signature)


def test_two_prints_that_are_alike_share_their_transfers():
    alike = Demand(ordered={"a/M": 3}, prints={"left": {"a/M": "badge"}, "right": {"a/M": "badge"}})
    done = (act(1, Printed(run="r", count=4), "badge"), act(2, pressed("left", "a/M"), "badge"))
    ledger = fold(done, alike)
    assert (ledger.in_hand, ledger.wanted("badge"), ledger.to_print) == (3, 5, 2)


def test_a_spoiled_piece_loses_every_print_it_had_and_no_other():
    done = (
        act(1, Printed(run="r", count=8, per={"front-m": 4, "back": 4})),
        *(act(n, pressed("front", "a/M"), "front-m") for n in (2, 3)),
        act(4, pressed("back", "a/M"), "back"),
        act(5, Spoiled(what="piece", size="M", had=("front",), count=1, stage="transfer", cause="slipped")),
        act(6, Spoiled(what="blank", size="M", count=1, stage="pre-press", cause="scorched")),
    )
    ledger = fold(done, DEMAND)
    assert (ledger.to_press("front")["a/M"], ledger.to_press("back")["a/M"]) == (3, 3)
    assert (ledger.complete("a/M"), ledger.begun("a/M")) == (1, 1)
    assert (ledger.spoiled_pieces, ledger.spoiled_blanks) == ({"a/M": 1}, {"a/M": 1})
    assert (ledger.to_print_of("front-m"), ledger.to_print_of("back")) == (1, 2)


def test_a_name_is_pressed_on_its_own_piece_alone():
    done = (act(1, Printed(run="r", count=2, per={"ada": 1, "bo": 1})), act(2, pressed("names", "a/S#1"), "ada"))
    ledger = fold(done, DEMAND)
    assert ledger.to_press("names") == {"a/S#1": 0, "a/S#2": 1}
    spoiled = (
        *done,
        act(3, Spoiled(what="piece", size="S", number=1, had=("names",), count=1, stage="peel", cause="x")),
    )
    assert fold(spoiled, DEMAND).to_print_of("ada") == 1


ONE = {"S": 3, "M": 5}


def one(signature: str, belonged=None) -> Demand:
    ordered = {f"a/{s}": n for s, n in ONE.items()}
    return Demand(ordered=ordered, prints={"front": dict.fromkeys(ordered, signature)}, belonged=belonged or {})


def worked() -> tuple[Act, ...]:
    """Eight printed under the old settings, three pressed, two of them good."""
    return (
        act(1, Printed(run="r", count=8), "old"),
        *(act(n, Pressed(run="r", size="S"), "old") for n in (2, 3, 4)),
        act(5, Passed(size="S", count=2)),
    )


def test_only_another_signature_makes_work_stale():
    assert fold(worked(), one("old")).stale == ()
    (stale,) = fold(worked(), one("new")).stale
    assert (stale.transfers, stale.pieces, stale.replaced_by) == (5, 3, "new")


def test_used_as_printed_holds_for_these_settings_alone():
    chosen = (*worked(), act(9, Resolved(old="old", new="new", way="use", reason="customer agrees"), "new"))
    assert fold(chosen, one("new")).stale == ()
    assert fold(chosen, one("new")).in_hand == 5
    assert len(fold(chosen, one("newer")).stale) == 1


def test_reprinting_the_rest_keeps_what_is_pressed():
    chosen = (*worked(), act(9, Resolved(old="old", new="new", way="rest", reason="wider", transfers=5), "new"))
    ledger = fold(chosen, one("new"))
    assert (ledger.in_hand, ledger.to_print, ledger.still_good["a/S"]) == (0, 5, 2)
    assert ledger.stale == ()


def test_reprinting_all_orders_everything_again():
    out = Resolved(old="old", new="new", way="all", reason="wrong blue", transfers=5, good={"S": 2}, waiting={"S": 1})
    ledger = fold((*worked(), act(9, out, "new")), one("new"))
    assert (ledger.in_hand, ledger.still_good["a/S"], ledger.to_inspect["a/S"]) == (0, 0, 0)
    assert ledger.to_print == sum(ONE.values())


def test_acts_of_the_first_version_stay_readable_and_count_the_same():
    """Written by the version before a job could hold several prints; never rewritten."""
    kept = json.loads((Path(__file__).parent / "acts_of_version_1.json").read_text())
    acts = tuple(Act.model_validate(a) for a in kept)
    ledger = fold(acts, one("sig-1"))
    assert (ledger.printed, ledger.in_hand, ledger.prepared("powder")) == (10, 5, 10)
    assert (ledger.still_good, ledger.spoiled_pieces) == ({"a/S": 2, "a/M": 1}, {"a/M": 1})
    assert ledger.to_press("front") == {"a/S": 1, "a/M": 4}


def test_a_job_is_held_taken_up_again_and_cancelled():
    held = (act(1, Held(reason="the customer is away")),)
    assert job_standing(held) == ("held", "the customer is away")
    assert job_standing((*held, act(2, Resumed()))) == ("open", "")
    assert job_standing((*held, act(3, Cancelled(reason="not paid")))) == ("cancelled", "not paid")
    assert job_standing((*held, act(4, Voided(voids="act-00001")))) == ("open", "")
