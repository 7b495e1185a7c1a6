"""The ledger of one print: folded from acts, in whatever order and however often they arrive."""

from collections import Counter

from offsetter.core.acts import Act, Passed, Prepared, Pressed, Printed, Resolved, Spoiled, standing
from offsetter.core.values import Frozen


class Stale(Frozen):
    """Work made under another physical signature, not yet resolved."""

    signature: str
    transfers: int
    """Printed and not pressed."""
    pieces: int
    """Pressed already."""


class Ledger(Frozen):
    ordered: dict[str, int]
    printed: int
    prepared: dict[str, int]
    """Stage to transfers that went through it."""
    pressed: dict[str, int]
    good: dict[str, int]
    spoiled_pieces: dict[str, int]
    spoiled_transfers: int
    taken_out: int
    """Transfers that a choice to reprint put aside."""
    good_out: dict[str, int]
    """Good pieces that a choice to make everything again put aside."""
    waiting_out: dict[str, int]
    """The same of pieces that were pressed and not yet looked at."""
    stale: tuple[Stale, ...] = ()

    @property
    def in_hand(self) -> int:
        """Transfers printed and neither pressed, spoiled nor put aside."""
        return self.printed - sum(self.pressed.values()) - self.spoiled_transfers - self.taken_out

    @property
    def to_inspect(self) -> dict[str, int]:
        return {
            s: self.pressed.get(s, 0) - self.good.get(s, 0) - self.spoiled_pieces.get(s, 0) - self.waiting_out.get(s, 0)
            for s in self.ordered
        }

    @property
    def still_good(self) -> dict[str, int]:
        return {s: self.good.get(s, 0) - self.good_out.get(s, 0) for s in self.ordered}

    @property
    def to_press(self) -> dict[str, int]:
        return {s: max(0, n - self.still_good[s] - self.to_inspect[s]) for s, n in self.ordered.items()}

    @property
    def to_print(self) -> int:
        return max(0, sum(self.to_press.values()) - self.in_hand)

    def ready_to_press(self, last_stage: str) -> int:
        """Transfers through the last stage of preparing and still in hand."""
        gone = sum(self.pressed.values()) + self.spoiled_transfers + self.taken_out
        return max(0, self.prepared.get(last_stage, 0) - gone)


def fold(acts: tuple[Act, ...], ordered: dict[str, int], signature: str) -> Ledger:
    """The ledger of ordered pieces (size to count), seen from the physical signature that is current now."""
    printed_under: Counter[str] = Counter()
    pressed_under: Counter[str] = Counter()
    prepared: Counter[str] = Counter()
    pressed, good, spoiled = Counter[str](), Counter[str](), Counter[str]()
    good_out, waiting_out = Counter[str](), Counter[str]()
    spoiled_transfers = taken_out = 0
    resolved: dict[tuple[str, str], Resolved] = {}
    out_of: Counter[str] = Counter()
    for act in standing(acts):
        body = act.body
        if isinstance(body, Printed):
            printed_under[act.signature] += body.count
        elif isinstance(body, Prepared):
            prepared[body.stage] += body.count
        elif isinstance(body, Pressed):
            pressed[body.size] += 1
            pressed_under[act.signature] += 1
        elif isinstance(body, Passed):
            good[body.size] += body.count
        elif isinstance(body, Spoiled) and body.what == "piece" and body.size:
            spoiled[body.size] += body.count
        elif isinstance(body, Spoiled):
            spoiled_transfers += body.count
            out_of[act.signature] += body.count
        elif isinstance(body, Resolved):
            resolved[(body.old, body.new)] = body
            taken_out += body.transfers
            out_of[body.old] += body.transfers
            good_out.update(body.good)
            waiting_out.update(body.waiting)
    settled = {old for old, new in resolved if new == signature}
    settled |= {old for (old, _), r in resolved.items() if r.way != "use"}
    stale = tuple(
        Stale(signature=s, transfers=max(0, n - pressed_under[s] - out_of[s]), pieces=pressed_under[s])
        for s, n in sorted(printed_under.items())
        if s != signature and s not in settled
    )
    return Ledger(
        ordered=ordered, printed=sum(printed_under.values()), prepared=dict(prepared), pressed=dict(pressed),
        good=dict(good), spoiled_pieces=dict(spoiled), spoiled_transfers=spoiled_transfers, taken_out=taken_out,
        good_out=dict(good_out), waiting_out=dict(waiting_out),
        stale=tuple(s for s in stale if s.transfers + s.pieces > 0),
    )  # fmt: skip
