"""Press: the stages under heat, what is ready for them, and how the piece is laid."""

from typing import Literal

from offsetter.core import derive
from offsetter.core.acts import Standing
from offsetter.core.compute.platen import PlatenLayout
from offsetter.core.compute.stack import stage_findings
from offsetter.core.context import Context
from offsetter.core.facts import Press, Stage
from offsetter.core.ledger import Ledger
from offsetter.core.press_card import beside
from offsetter.core.quantities import both_heats
from offsetter.core.results import StagesDrawing, State, StationResult
from offsetter.core.sentences import say
from offsetter.core.values import Finding, Frozen
from offsetter.core.wording import several

VERSION = 9


class Inputs(Frozen):
    stages: tuple[Stage, ...]
    ledger: Ledger
    print: str
    """Whose pass over the press this is."""
    cuts: tuple[int, ...]
    press: Press
    stands: Standing
    is_face_down: bool = True
    turn: str = ""
    shield: str = ""
    makes: Literal["transfer", "garment"] = "transfer"
    """What the printer made."""
    platen: PlatenLayout
    things: str
    """What several of the blank are called."""
    parts: int = 1
    """That each print is laid together from."""
    overlap_um: int = 0
    """Of its parts."""
    last: str = ""
    """The last stage of preparing that a printed transfer goes through; empty: none."""


def inputs(ctx: Context) -> Inputs:
    here = ctx.pass_here
    return Inputs(
        stages=ctx.stages_here, ledger=ctx.ledger, print=ctx.here.id, cuts=ctx.cuts, press=ctx.press, stands=ctx.stands[0],
        is_face_down=ctx.method.mirror, turn=here.turn if here else "", shield=here.shield if here else "", last=ctx.last_prepared, makes=ctx.method.makes,
        platen=derive.platen_of(ctx.press, ctx.blank, ctx.size), things=ctx.blank.called(2),
        parts=ctx.planned.parts if ctx.has_picture and ctx.planned else 1, overlap_um=ctx.decisions.sheet.overlap_um,
    )  # fmt: skip


def judge(inputs: Inputs) -> StationResult:
    stages = tuple(s for s in inputs.stages if s.part == "press")
    ledger = inputs.ledger
    pressed, left = ledger.pressed_sum(inputs.print), sum(ledger.to_press(inputs.print).values())
    ready = ledger.ready_to_press(inputs.print, inputs.last)
    hot = [s for s in stages if s.temperature_c is not None]
    findings = [Finding(
        code="read-back", severity="note", message=say("Read {name} back against the card before piece one", name=inputs.press.name),
        why=say("A press keeps the last job's heat, timer and height; set the height with a blank on it."),
    )]  # fmt: skip
    if len({s.temperature_c for s in hot}) > 1:
        findings.append(Finding(
            code="two-heats", severity="caution", message=say("This recipe changes the press's temperature within a piece"),
            why=say("Each change takes minutes on one press."), fix_text=say("Choose schools with one heat at Method."),
        ))  # fmt: skip
    findings += stage_findings(stages, is_face_down=inputs.is_face_down)
    if inputs.turn or inputs.shield:
        findings.append(Finding(code="lay", severity="note", message=inputs.turn or say("This side carries a finished print already"),
                                why=inputs.shield or say("Several prints on a piece are pressed one after the other.")))  # fmt: skip
    if inputs.parts > 1:
        findings.append(Finding(
            code="press-parts", severity="caution", message=say("Each print is in {parts} parts: the clock runs once for every part, and a piece counts when its last is on", parts=inputs.parts),
            why=say("Parts that are pressed in one go shift against each other; what lies already is covered while its neighbour is pressed (common practice, no source)."),
            fix_text=say("Lay the first part by its ticks in the middle, the others {beside}.", beside=beside(inputs.overlap_um)),
        ))  # fmt: skip
    at_once = len(inputs.platen.spots)
    if at_once > 1 and left > 1:
        findings.append(Finding(
            code="together", severity="note", message=say("{at_once} {things} go under {name} in one pressing", at_once=min(at_once, left), things=inputs.things, name=inputs.press.name),
            why=say("As many as the platen takes with an even gap; lay fewer in press mode when hands are slow."),
        ))  # fmt: skip
    has_any = ledger.printed > 0 or ready > 0
    state: State = "open" if not has_any else "done" if left == 0 else "needs you" if ready else "ready"
    if inputs.stands in ("held", "cancelled") or any(f.severity == "blocker" for f in findings):
        state = "blocked"
    gauge = {s.pressure: inputs.press.gauge.get(s.pressure, "") for s in hot}
    shown = ", ".join(f"{say(word)} ({mark})" if mark else say(word) for word, mark in gauge.items() if word)
    verdict = (
        say(
            "{counted} ready to press, {counted2} to go",
            counted=several(ready, inputs.makes, "is"),
            counted2=several(left, "piece"),
        )
        if ready
        else (
            say("Nothing is ready to press yet")
            if left
            else say("All {counted} pressed", counted=several(pressed, "piece", "is"))
            if pressed > 1
            else say("The piece is pressed")
        )
    )
    known = next((s.temperature_c for s in hot), None)
    at = (
        say(" at {known} · pressure {shown}", known=both_heats(known), shown=shown)
        if known is not None
        else say(": its heat is not known yet")
    )
    return StationResult(
        station="press", name="Press", state=state, telling=say("{pressed} pressed", pressed=pressed) if pressed else several(len(stages), "stage"),
        verdict=verdict, sub=f"{inputs.press.name}{at}",
        findings=tuple(findings), drawing=StagesDrawing(stages=stages, cuts=inputs.cuts, turn=inputs.turn, shield=inputs.shield,
                                                         platen=inputs.platen, parts=inputs.parts),
    )  # fmt: skip
