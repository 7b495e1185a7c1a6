"""The ledger as it is read: per print and size, per piece, in words that name the pieces."""

from offsetter.core.decisions import OrderDoc, kind_of
from offsetter.core.facts import Blank
from offsetter.core.ledger import Ledger, Pool
from offsetter.core.prints import JobPrint, Variant, names_of
from offsetter.core.runs import Run
from offsetter.core.values import Frozen


class SlotRow(Frozen):
    slot: str
    label: str
    ordered: int
    pressed: int
    """On pieces that still count."""
    to_press: int


class TransferRow(Frozen):
    """Transfers that are alike, and the slots that take them."""

    signature: str
    print: str
    name: str
    width_mm: float
    laid: int
    printed: int
    cured: int
    fetched: int
    in_hand: int
    spoiled: int
    put_aside: int
    stored: int
    to_print: int
    left_over: int
    slots: tuple[SlotRow, ...]


class PieceRow(Frozen):
    """Pieces of one line and size."""

    kind: str
    label: str
    ordered: int
    begun: int
    complete: int
    to_inspect: int
    good: int
    spoiled_pieces: int
    spoiled_blanks: int
    blanks_to_find: int
    """To replace the spoiled ones."""


class Books(Frozen):
    transfers: tuple[TransferRow, ...]
    pieces: tuple[PieceRow, ...]
    labels: dict[str, str]
    """Slot or kind to what a person calls it."""
    print_names: dict[str, str]

    def name_of(self, variant: Variant) -> str:
        """What tells these transfers from the job's others."""
        sizes = ", ".join(self.labels.get(s, s) for s in variant.slots)
        return f"{variant.name}: {sizes}"


def books_of(
    order: OrderDoc, blanks: dict[str, Blank], ledger: Ledger, variants: tuple[Variant, ...], runs: tuple[Run, ...],
    prints: tuple[JobPrint, ...], last: str,
) -> Books:  # fmt: skip
    """last: the last stage of preparing that printed transfers go through."""
    labels = labels_of(order, blanks)
    rows = []
    for v in variants:
        pool, to_press = ledger.pools.get(v.signature, Pool()), ledger.to_press(v.print)
        rows.append(TransferRow(
            signature=v.signature, print=v.print, name=v.name, width_mm=v.spec.width_um / 1000,
            laid=sum(r.laid()[v.signature] for r in runs if r.state == "released"), printed=pool.printed,
            cured=pool.prepared.get(last, 0) if last else pool.printed, fetched=pool.fetched, in_hand=pool.in_hand, spoiled=pool.spoiled,
            put_aside=pool.taken_out, stored=pool.stored, to_print=ledger.to_print_of(v.signature),
            left_over=ledger.left_over.get(v.signature, 0),
            slots=tuple(
                SlotRow(slot=s, label=labels[s], ordered=ledger.demand.asked(s),
                        pressed=ledger.live(v.print, s), to_press=to_press.get(s, 0)) for s in v.slots
            ),
        ))  # fmt: skip
    pieces = tuple(
        PieceRow(
            kind=k, label=labels[k], ordered=n, begun=ledger.begun(k), complete=ledger.complete(k), to_inspect=ledger.to_inspect[k],
            good=ledger.still_good[k], spoiled_pieces=ledger.spoiled_pieces.get(k, 0), spoiled_blanks=ledger.spoiled_blanks.get(k, 0),
            blanks_to_find=min(max(0, n - ledger.begun(k)), ledger.spoiled_pieces.get(k, 0) + ledger.spoiled_blanks.get(k, 0)),
        )
        for k, n in order.ordered.items()
    )  # fmt: skip
    return Books(transfers=tuple(rows), pieces=pieces, labels=labels,
                 print_names=names_of(prints))  # fmt: skip


def labels_of(order: OrderDoc, blanks: dict[str, Blank]) -> dict[str, str]:
    """The size alone while there is one blank; with several, what tells them apart before it."""
    several = len(order.lines) > 1
    colours = [b.colour_name for b in blanks.values()]
    labels = {}
    for line in order.lines:
        blank = blanks[line.id]
        told = (
            blank.colour_name if colours.count(blank.colour_name) == 1 else f"{blank.colour_name} {blank.name.lower()}"
        )
        for size in line.counts:
            # What comes in one size is called by its name.
            alone = told if several else blank.name
            labels[f"{line.id}/{size}"] = (
                alone if list(blank.sizes) == ["one"] else f"{told} {size}" if several else size
            )
    for named in order.names:
        labels[named.slot] = f"{named.number} {named.text} ({labels[kind_of(named.slot)]})"
    return labels
