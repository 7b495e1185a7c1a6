"""The ledger of a job: folded from acts, in whatever order and however often they arrive.

Transfers are counted by their physical signature: two prints that are alike share them. Prints are counted by slot, which is
what takes them: the pieces of one line and size, or one numbered piece. Good and spoiled are counted by piece.
"""

import math
from collections import Counter, defaultdict
from functools import cached_property

from offsetter.core.acts import Act, Fetched, Passed, Prepared, Pressed, Printed, Resolved, Spoiled, Stored, standing
from offsetter.core.decisions import kind_of, number_of
from offsetter.core.values import Frozen


class Demand(Frozen):
    """What a job wants."""

    ordered: dict[str, int]
    """Kind to pieces."""
    prints: dict[str, dict[str, str]]
    """Print, in the order of pressing, to slot to the signature it takes now (empty while unknown)."""
    items: dict[str, int] = {}
    """Kind to the things that make one piece, where that is not one: each takes the print."""
    belonged: dict[str, tuple[str, str]] = {}
    """Signature of a released run to a print and slot that it was made for."""

    def items_of(self, kind: str) -> int:
        return self.items.get(kind, 1)

    def asked(self, slot: str) -> int:
        """Prints that a slot asks for in all."""
        return (1 if number_of(slot) else self.ordered.get(slot, 0)) * self.items_of(kind_of(slot))

    def signatures(self) -> set[str]:
        return {s for slots in self.prints.values() for s in slots.values() if s}


class Pool(Frozen):
    """Transfers that are alike."""

    printed: int = 0
    prepared: dict[str, int] = {}
    """Stage to transfers that went through it."""
    fetched: int = 0
    """Out of the store: through every stage of preparing already."""
    pressed: int = 0
    spoiled: int = 0
    taken_out: int = 0
    """Put aside by a choice to print again."""
    stored: int = 0

    @property
    def gone(self) -> int:
        return self.pressed + self.spoiled + self.taken_out + self.stored

    @property
    def in_hand(self) -> int:
        return self.printed + self.fetched - self.gone

    def ready(self, last_stage: str) -> int:
        """Through the last stage of preparing and still in hand; all in hand where nothing is prepared after printing."""
        if not last_stage:
            return max(0, self.in_hand)
        return max(0, min(self.in_hand, self.prepared.get(last_stage, 0) + self.fetched - self.gone))


class Stale(Frozen):
    """Work made under another physical signature, not yet resolved."""

    signature: str
    replaced_by: str
    transfers: int
    """Printed and not pressed."""
    pieces: int
    """Pressed already."""


class Ledger(Frozen):
    demand: Demand
    pools: dict[str, Pool]
    """By the signature that the transfers count for now."""
    pressed: dict[str, dict[str, int]]
    """Print to slot to times it was pressed."""
    lost: dict[str, dict[str, int]]
    """The same, of pieces spoiled or put aside since."""
    good: dict[str, int]
    good_out: dict[str, int]
    spoiled_pieces: dict[str, int]
    spoiled_blanks: dict[str, int]
    stale: tuple[Stale, ...] = ()

    @property
    def ordered(self) -> dict[str, int]:
        return self.demand.ordered

    @property
    def printed(self) -> int:
        return sum(p.printed for p in self.pools.values())

    @property
    def in_hand(self) -> int:
        return sum(p.in_hand for p in self.pools.values())

    def prepared(self, stage: str) -> int:
        return sum(p.prepared.get(stage, 0) for p in self.pools.values())

    def pressed_sum(self, print_id: str | None = None) -> int:
        chosen = self.pressed if print_id is None else {print_id: self.pressed.get(print_id, {})}
        return sum(sum(slots.values()) for slots in chosen.values())

    def live(self, print_id: str, slot: str) -> int:
        """Prints pressed on pieces that still count."""
        return max(0, self.pressed.get(print_id, {}).get(slot, 0) - self.lost.get(print_id, {}).get(slot, 0))

    def on_kind(self, print_id: str, kind: str) -> int:
        return sum(self.live(print_id, s) for s in self.demand.prints.get(print_id, {}) if kind_of(s) == kind)

    def to_press(self, print_id: str) -> dict[str, int]:
        """Slot to prints still to press; of several prints on a piece each has its own."""
        return {s: max(0, self.demand.asked(s) - self.live(print_id, s)) for s in self.demand.prints.get(print_id, {})}

    @cached_property
    def pieces_to_go(self) -> dict[str, int]:
        """Kind to pieces that are not complete yet."""
        return {k: max(0, n - self.complete(k)) for k, n in self.ordered.items()}

    def complete(self, kind: str) -> int:
        """Pieces of a kind that have all their prints."""
        takes = [p for p, slots in self.demand.prints.items() if any(kind_of(s) == kind for s in slots)]
        return min((self.on_kind(p, kind) for p in takes), default=0) // self.demand.items_of(kind)

    def begun(self, kind: str) -> int:
        """Pieces of a kind that have at least one print."""
        return math.ceil(
            max((self.on_kind(p, kind) for p in self.demand.prints), default=0) / self.demand.items_of(kind)
        )

    @cached_property
    def still_good(self) -> dict[str, int]:
        return {k: max(0, self.good.get(k, 0) - self.good_out.get(k, 0)) for k in self.ordered}

    @cached_property
    def to_inspect(self) -> dict[str, int]:
        good = self.still_good
        return {k: max(0, self.complete(k) - good[k]) for k in self.ordered}

    def wanted(self, signature: str) -> int:
        """Transfers of a signature that pieces still wait for."""
        return self.all_wanted.get(signature, 0)

    @cached_property
    def all_wanted(self) -> dict[str, int]:
        found: dict[str, int] = {}
        for print_id, slots in self.demand.prints.items():
            for slot, n in self.to_press(print_id).items():
                found[slots[slot]] = found.get(slots[slot], 0) + n
        return found

    def to_print_of(self, signature: str) -> int:
        pool = self.pools.get(signature, Pool())
        return max(0, self.wanted(signature) - pool.in_hand)

    @cached_property
    def to_print(self) -> int:
        return sum(self.to_print_of(s) for s in self.demand.signatures() or {""})

    @cached_property
    def left_over(self) -> dict[str, int]:
        """Signature to transfers in hand that no piece waits for."""
        spare = {s: p.in_hand - self.wanted(s) for s, p in self.pools.items()}
        return {s: n for s, n in spare.items() if n > 0}

    def to_prepare(self, stage: str) -> int:
        """Garments that still want a stage of preparing before they are printed: ordered and spoiled ones, less what went through it."""
        spoiled = sum(self.spoiled_blanks.values()) + sum(self.spoiled_pieces.values())
        return max(0, sum(self.ordered.values()) + spoiled - self.prepared(stage))

    def ready_to_press(self, print_id: str, last_stage: str) -> int:
        slots = self.demand.prints.get(print_id, {})
        alike = {slots[slot] for slot, n in self.to_press(print_id).items() if n}
        return sum(self.pools[s].ready(last_stage) for s in alike if s in self.pools)


def fold(acts: tuple[Act, ...], demand: Demand) -> Ledger:
    """The ledger, seen from the physical signatures that are current now."""
    pools: defaultdict[str, Counter[str]] = defaultdict(Counter)
    prepared: defaultdict[str, Counter[str]] = defaultdict(Counter)
    pressed: defaultdict[str, Counter[str]] = defaultdict(Counter)
    lost: defaultdict[str, Counter[str]] = defaultdict(Counter)
    good, good_out, pieces, blanks = Counter[str](), Counter[str](), Counter[str](), Counter[str]()
    resolved: dict[tuple[str, str], Resolved] = {}
    for act in sorted(standing(acts), key=lambda a: (a.at, a.id)):
        body = act.body
        if isinstance(body, Printed):
            for signature, n in (body.per or {act.signature: body.count}).items():
                pools[signature]["printed"] += n
        elif isinstance(body, Prepared):
            for signature, n in (body.per or {act.signature: body.count}).items():
                prepared[signature][body.stage] += n
        elif isinstance(body, Fetched):
            pools[act.signature]["fetched"] += body.count
        elif isinstance(body, Stored):
            pools[act.signature]["stored"] += body.count
        elif isinstance(body, Pressed):
            pressed[body.print][body.slot] += body.count
            pools[act.signature]["pressed"] += body.count
        elif isinstance(body, Passed):
            good[f"{body.line}/{body.size}"] += body.count
        elif isinstance(body, Spoiled):
            _spoil(act, body, demand, pools, lost, pieces, blanks)
        elif isinstance(body, Resolved):
            resolved[(body.old, body.new)] = body
    for choice in resolved.values():
        pools[choice.old]["taken_out"] += choice.transfers
        good_out.update({_kind(k): n for k, n in choice.good.items()})
        out = choice.out or {"front": Counter(choice.good) + Counter(choice.waiting)}
        for print_id, slots in out.items():
            lost[print_id].update({_kind(s): n for s, n in slots.items()})
    return _ledger(demand, pools, prepared, resolved, pressed=_plain(pressed), lost=_plain(lost), good=dict(good),
                   good_out=dict(good_out), spoiled_pieces=dict(pieces), spoiled_blanks=dict(blanks))  # fmt: skip


def _spoil(
    act: Act, body: Spoiled, demand: Demand, pools: defaultdict[str, Counter[str]], lost: defaultdict[str, Counter[str]],
    pieces: Counter[str], blanks: Counter[str],
) -> None:  # fmt: skip
    kind = f"{body.line}/{body.size}" if body.size else ""
    if body.what == "transfer":
        pools[act.signature]["spoiled"] += body.count
        return
    if body.what == "blank":
        blanks[kind] += body.count
        return
    pieces[kind] += body.count
    for print_id in body.had or tuple(demand.prints):
        numbered = any(number_of(s) for s in demand.prints.get(print_id, {}))
        lost[print_id][f"{kind}#{body.number}" if numbered and body.number else kind] += body.count


def _ledger(
    demand: Demand, pools: dict[str, Counter[str]], prepared: dict[str, Counter[str]],
    resolved: dict[tuple[str, str], Resolved], **counted: dict[str, dict[str, int]] | dict[str, int],
) -> Ledger:  # fmt: skip
    current = demand.signatures()
    used = {old: new for (old, new), r in resolved.items() if r.way == "use" and new in current}
    settled = set(used) | {old for (old, _), r in resolved.items() if r.way != "use"}
    merged: defaultdict[str, Counter[str]] = defaultdict(Counter)
    went_through: defaultdict[str, Counter[str]] = defaultdict(Counter)
    stale = []
    for signature in sorted(set(pools) | set(prepared)):
        counts = pools.get(signature, Counter())
        target = signature if signature in current else used.get(signature) or _replacement(signature, demand)
        merged[target].update(counts)
        went_through[target].update(prepared.get(signature, Counter()))
        left = (
            counts["printed"]
            + counts["fetched"]
            - sum(counts[n] for n in ("pressed", "spoiled", "taken_out", "stored"))
        )
        is_work = counts["printed"] + counts["fetched"] > 0 and max(0, left) + counts["pressed"] > 0
        if current and signature and signature not in current and signature not in settled and is_work:
            stale.append(
                Stale(signature=signature, replaced_by=target, transfers=max(0, left), pieces=counts["pressed"])
            )
    made = {s: Pool(**counts, prepared=dict(went_through[s])) for s, counts in merged.items()}
    return Ledger.model_validate({"demand": demand, "pools": made, "stale": tuple(stale), **counted})


def _replacement(signature: str, demand: Demand) -> str:
    """The signature that took the place of one that nothing asks for now."""
    print_id, slot = demand.belonged.get(signature, ("", ""))
    slots = demand.prints.get(print_id, {})
    first = next((s for slots in demand.prints.values() for s in slots.values() if s), signature)
    return slots.get(slot) or next(iter(slots.values()), "") or first


def _kind(key: str) -> str:
    """Old acts name a bare size, of the one line there was."""
    return key if "/" in key else f"a/{key}"


def _plain(counts: dict[str, Counter[str]]) -> dict[str, dict[str, int]]:
    return {p: dict(c) for p, c in counts.items()}
