"""Inspect: what is good, what spoiled, and what belongs to the picture."""

from offsetter.core import derive
from offsetter.core.acts import Standing
from offsetter.core.context import Context
from offsetter.core.ledger import Ledger
from offsetter.core.results import GarmentDrawing, InspectDrawing, State, StationResult
from offsetter.core.sentences import say, say_many
from offsetter.core.stations.artwork import OWN_HOLES
from offsetter.core.values import Finding, Frozen

VERSION = 6


class Inputs(Frozen):
    ledger: Ledger
    garment: GarmentDrawing
    stands: Standing
    why: str = ""
    causes: dict[str, tuple[str, ...]] = {}
    """Stage to what can have gone wrong there by this method."""
    belongs: tuple[Finding, ...] = ()
    """What looks like a fault and belongs to the picture."""


def inputs(ctx: Context) -> Inputs:
    stands, why = ctx.stands
    can = derive.faults_of(ctx.shop, ctx.gone, ctx.decisions, ctx.blank)
    stages = ("print", *(s.id for s in ctx.stages), "handling")
    return Inputs(
        ledger=ctx.ledger, garment=ctx.garment, stands=stands, why=why, causes={s: tuple(f.seen for f in can if f.is_at(s)) for s in stages},
        belongs=tuple(f for f in ctx.done["artwork"].findings if f.code == OWN_HOLES),
    )  # fmt: skip


def judge(inputs: Inputs) -> StationResult:
    ledger = inputs.ledger
    ordered, good = sum(ledger.ordered.values()), sum(ledger.still_good.values())
    waiting, is_closed = sum(ledger.to_inspect.values()), inputs.stands == "closed"
    state: State = "open"
    if is_closed or good >= ordered:
        state = "done"
    elif waiting:
        state = "needs you"
    verdict = say("Nothing is complete yet") if ledger.pressed_sum() else say("Nothing is pressed yet")
    if inputs.stands in ("held", "cancelled"):
        verdict = f"{inputs.stands.capitalize()}: {inputs.why}"
    elif is_closed:
        verdict = say("Closed: {good} of {ordered} good, written to the logbook", good=good, ordered=ordered)
    elif good >= ordered:
        verdict = say("All {ordered} are good: close the job to write it to the logbook", ordered=ordered)
    elif waiting:
        verdict = say(
            "{pieces} for your eyes; {good} of {ordered} are good", pieces=_pieces(waiting), good=good, ordered=ordered
        )
    elif good:
        left = sum(ledger.pieces_to_go.values())
        verdict = say("{good} of {ordered} are good, {left} still to press", good=good, ordered=ordered, left=left) + (
            say(", {to_print} of them to print again", to_print=ledger.to_print) if ledger.to_print else ""
        )
    return StationResult(
        station="inspect", name="Inspect", state=state, telling=say("{good} of {ordered} good", good=good, ordered=ordered), verdict=verdict,
        sub=say("count what is good; say what spoiled, and at which stage"), findings=inputs.belongs,
        drawing=InspectDrawing(garment=inputs.garment, causes=inputs.causes),
    )  # fmt: skip


def _pieces(count: int) -> str:
    return say_many(count, "{count} pressed piece waits", "{count} pressed pieces wait")
