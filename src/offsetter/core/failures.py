"""What pieces that failed have in common, and the ones that did not fail lack."""

from collections import Counter
from itertools import pairwise

from offsetter.core.acts import Act, Pressed, Spoiled, standing
from offsetter.core.sentences import say
from offsetter.core.values import Frozen

FEW, MOST_OF_ALL = 2, 0.6
FIRST_PIECES = 3
"""A press is said to settle over its first pieces: common practice, no source."""


class Shared(Frozen):
    sentence: str
    failed: int
    failed_with: int
    all: int
    all_with: int


def what_failures_share(acts: tuple[Act, ...], labels: dict[str, str]) -> tuple[Shared, ...]:
    """Traits that every failed piece has and most pieces have not.

    A failed piece is one pressed once more, or spoiled right after it was pressed. labels: slot to its name.
    """
    done = sorted((a for a in standing(acts) if isinstance(a.body, Pressed | Spoiled)), key=lambda a: (a.at, a.id))
    pressed = [a for a in done if isinstance(a.body, Pressed)]
    failed = {a.id for a in pressed if isinstance(a.body, Pressed) and any(r.again for r in a.body.stages)}
    for before, after in pairwise(done):
        if isinstance(before.body, Pressed) and isinstance(after.body, Spoiled) and after.body.what == "piece":
            failed.add(before.id)
    if len(failed) < FEW:
        return ()
    traits = {a.id: _traits(a, at, labels) for at, a in enumerate(pressed)}
    of_all = Counter(t for found in traits.values() for t in found)
    of_failed = Counter(t for i in failed for t in traits[i])
    return tuple(
        Shared(sentence=t, failed=len(failed), failed_with=n, all=len(pressed), all_with=of_all[t])
        for t, n in sorted(of_failed.items())
        if n == len(failed) and of_all[t] <= MOST_OF_ALL * len(pressed)
    )


def _traits(act: Act, at: int, labels: dict[str, str]) -> set[str]:
    body = act.body
    assert isinstance(body, Pressed)
    kind = f"{body.line}/{body.size}"
    found = {
        say("size {labels}", labels=labels.get(kind, body.size)),
        say("pressed by {actor}", actor=act.actor),
        say("of one run ({run})", run=body.run[:6]),
    }
    if body.press:
        found.add(say("on press {press}", press=body.press))
    if at < FIRST_PIECES:
        found.add(say("among the first {first_pieces} pieces", first_pieces=FIRST_PIECES))
    found |= {say("“{stage}” ended early", stage=r.stage) for r in body.stages if r.ended_early}
    found |= {
        say("“{stage}” ran over by more than a quarter", stage=r.stage)
        for r in body.stages
        if r.planned_s and r.temperature_c and r.ran_s > 1.25 * r.planned_s
    }
    return found
