"""The ledger: the same whatever the order and however often acts arrive; pieces and transfers are conserved."""

from datetime import UTC, datetime

from hypothesis import given, settings
from hypothesis import strategies as st

from offsetter.core.acts import Act, Passed, Prepared, Pressed, Printed, Resolved, Spoiled, Voided
from offsetter.core.ledger import fold

ORDERED = {"S": 3, "M": 5}
AT = datetime(2026, 5, 4, 9, tzinfo=UTC)


def act(number: int, body, signature="now") -> Act:
    return Act(id=f"act-{number:05d}", job="j", at=AT, actor="Ada", signature=signature, body=body)


@st.composite
def days(draw) -> list[Act]:
    """A day that hands could have had: nothing pressed that was not printed, nothing good that was not pressed."""
    acts, in_hand, printed, waiting = [], 0, 0, {"S": 0, "M": 0}
    for number in range(draw(st.integers(1, 30))):
        size = draw(st.sampled_from("SM"))
        what = draw(st.sampled_from(["print", "powder", "press", "press", "good", "spoil", "spoil transfer", "void"]))
        if what == "print":
            count = draw(st.integers(1, 4))
            acts.append(act(number, Printed(run="r", count=count)))
            in_hand, printed = in_hand + count, printed + count
        elif what == "powder" and printed:
            acts.append(act(number, Prepared(run="r", stage="powder", count=1)))
        elif what == "press" and in_hand:
            acts.append(act(number, Pressed(run="r", size=size)))
            in_hand, waiting[size] = in_hand - 1, waiting[size] + 1
        elif what == "good" and waiting[size]:
            acts.append(act(number, Passed(size=size, count=1)))
            waiting[size] -= 1
        elif what == "spoil" and waiting[size]:
            acts.append(act(number, Spoiled(what="piece", size=size, count=1, stage="peel", cause="x")))
            waiting[size] -= 1
        elif what == "spoil transfer" and in_hand:
            acts.append(act(number, Spoiled(what="transfer", count=1, stage="cure", cause="x")))
            in_hand -= 1
        elif what == "void" and acts and isinstance(acts[-1].body, Pressed):
            undone = acts[-1].body
            acts.append(act(number, Voided(voids=acts[-1].id)))
            in_hand, waiting[undone.size] = in_hand + 1, waiting[undone.size] - 1
    return acts


@given(days(), st.randoms())
@settings(max_examples=150, deadline=None)
def test_order_and_repetition_do_not_matter(acts, chance):
    shuffled = acts + acts[: len(acts) // 2]
    chance.shuffle(shuffled)
    assert fold(tuple(shuffled), ORDERED, "now") == fold(tuple(acts), ORDERED, "now")


@given(days())
@settings(max_examples=150, deadline=None)
def test_pieces_and_transfers_are_conserved(acts):
    ledger = fold(tuple(acts), ORDERED, "now")
    pressed = sum(ledger.pressed.values())
    assert ledger.printed == ledger.in_hand + pressed + ledger.spoiled_transfers + ledger.taken_out
    for size, count in ORDERED.items():
        seen = ledger.still_good[size] + ledger.to_inspect[size] + ledger.spoiled_pieces.get(size, 0)
        assert ledger.pressed.get(size, 0) == seen
        assert ledger.to_press[size] >= count - seen
    assert ledger.in_hand >= 0
    assert ledger.to_print == max(0, sum(ledger.to_press.values()) - ledger.in_hand)


def worked() -> tuple[Act, ...]:
    """Eight printed under the old settings, three pressed, two of them good."""
    return (
        act(1, Printed(run="r", count=8), "old"),
        *(act(n, Pressed(run="r", size="S"), "old") for n in (2, 3, 4)),
        act(5, Passed(size="S", count=2)),
    )


def test_only_another_signature_makes_work_stale():
    assert fold(worked(), ORDERED, "old").stale == ()
    (stale,) = fold(worked(), ORDERED, "new").stale
    assert (stale.transfers, stale.pieces) == (5, 3)


def test_used_as_printed_holds_for_these_settings_alone():
    chosen = (*worked(), act(9, Resolved(old="old", new="new", way="use", reason="customer agrees"), "new"))
    assert fold(chosen, ORDERED, "new").stale == ()
    assert fold(chosen, ORDERED, "new").in_hand == 5
    assert len(fold(chosen, ORDERED, "newer").stale) == 1


def test_reprinting_the_rest_keeps_what_is_pressed():
    chosen = (*worked(), act(9, Resolved(old="old", new="new", way="rest", reason="wider", transfers=5), "new"))
    ledger = fold(chosen, ORDERED, "new")
    assert (ledger.in_hand, ledger.to_print, ledger.still_good["S"]) == (0, 5, 2)
    assert ledger.stale == ()


def test_reprinting_all_orders_everything_again():
    out = Resolved(old="old", new="new", way="all", reason="wrong blue", transfers=5, good={"S": 2}, waiting={"S": 1})
    ledger = fold((*worked(), act(9, out, "new")), ORDERED, "new")
    assert (ledger.in_hand, ledger.still_good["S"], ledger.to_inspect["S"]) == (0, 0, 0)
    assert ledger.to_print == sum(ORDERED.values())
