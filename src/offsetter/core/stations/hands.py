"""Prepare, Press and Inspect: what the hands do, from the recipe, and how far the ledger says they are."""

from offsetter.core.acts import Standing
from offsetter.core.compute.stack import stage_findings
from offsetter.core.facts import Oven, Press, Stage
from offsetter.core.ledger import Ledger
from offsetter.core.stations.result import GarmentDrawing, InspectDrawing, StagesDrawing, State, StationResult
from offsetter.core.units import fahrenheit_of
from offsetter.core.values import Finding, Frozen

VERSION = 3


class Inputs(Frozen):
    stages: tuple[Stage, ...]
    lay_out: tuple[str, ...]
    ledger: Ledger
    print: str
    """Whose pass over the press this is."""
    cuts: tuple[int, ...]
    press: Press
    oven: Oven
    garment: GarmentDrawing
    stands: Standing
    is_face_down: bool = True
    why: str = ""
    turn: str = ""
    shield: str = ""

    @property
    def is_closed(self) -> bool:
        return self.stands == "closed"


def last_prepare(stages: tuple[Stage, ...]) -> str:
    return [s for s in stages if s.part == "prepare"][-1].id


def prepare(inputs: Inputs) -> StationResult:
    stages = tuple(s for s in inputs.stages if s.part == "prepare")
    ledger, last = inputs.ledger, last_prepare(inputs.stages)
    cured = ledger.prepared(last)
    # Powder holds on wet ink alone: what is printed and not powdered is urgent.
    wet = ledger.printed - ledger.prepared(stages[0].id)
    findings = [Finding(code="lay-out", severity="note", message="Lay out: " + ", ".join(inputs.lay_out), why="Before the printer starts: wet ink does not wait.")]  # fmt: skip
    if wet > 0:
        findings.insert(0, Finding(code="wet", severity="caution", message=f"{wet} wet transfers wait for powder", why=stages[0].window))  # fmt: skip
    state: State = "open" if ledger.printed == 0 else "needs you" if cured < ledger.printed else "done"
    cure = stages[-1]
    heat = f"{cure.temperature_c:.0f} °C ({fahrenheit_of(cure.temperature_c):.0f} °F)" if cure.temperature_c else ""
    verdict = (
        f"Powder each length while it is wet, then cure at {heat} for {cure.time_s // 60} min {cure.time_s % 60:02d} s"
    )
    if ledger.printed and cured >= ledger.printed:
        verdict = f"All {cured} transfers are cured"
    elif wet > 0:
        verdict = f"{wet} transfers are wet: powder them now"
    return StationResult(
        station="prepare", name="Prepare", state=state, telling=f"{cured} of {ledger.printed} cured" if ledger.printed else "powder, cure",
        verdict=verdict, sub=f"{inputs.oven.name if not cure.hover or cure.alone else inputs.press.name} · {cure.source}",
        findings=tuple(findings), drawing=StagesDrawing(stages=stages, cuts=inputs.cuts),
        waits_for="" if ledger.printed else "Nothing is printed yet; lay things out now.",
    )  # fmt: skip


def press(inputs: Inputs) -> StationResult:
    stages = tuple(s for s in inputs.stages if s.part == "press")
    ledger = inputs.ledger
    pressed, left = ledger.pressed_sum(inputs.print), sum(ledger.to_press(inputs.print).values())
    ready = ledger.ready_to_press(inputs.print, last_prepare(inputs.stages))
    hot = [s for s in stages if s.temperature_c is not None]
    findings = [Finding(
        code="read-back", severity="note", message=f"Read {inputs.press.name} back against the card before piece one",
        why="A press keeps the last job's heat, timer and height; set the height with a tee on it.",
    )]  # fmt: skip
    if len({s.temperature_c for s in hot}) > 1:
        findings.append(Finding(
            code="two-heats", severity="caution", message="This recipe changes the press's temperature within a piece",
            why="Each change takes minutes on one press.", fix_text="Choose schools with one heat at Method.",
        ))  # fmt: skip
    findings += stage_findings(stages, is_face_down=inputs.is_face_down)
    if inputs.turn or inputs.shield:
        findings.append(Finding(code="lay", severity="note", message=inputs.turn or "This side carries a finished print already",
                                why=inputs.shield or "Several prints on a piece are pressed one after the other."))  # fmt: skip
    has_any = ledger.printed > 0 or ready > 0
    state: State = "open" if not has_any else "done" if left == 0 else "needs you" if ready else "ready"
    if inputs.stands in ("held", "cancelled") or any(f.severity == "blocker" for f in findings):
        state = "blocked"
    gauge = {s.pressure: inputs.press.gauge.get(s.pressure, "") for s in hot}
    shown = ", ".join(f"{word} ({mark})" if mark else word for word, mark in gauge.items())
    verdict = (
        f"{ready} transfers are ready to press, {left} pieces to go"
        if ready
        else ("Nothing is cured yet" if left else f"All {pressed} pieces are pressed")
    )
    return StationResult(
        station="press", name="Press", state=state, telling=f"{pressed} pressed" if pressed else f"{len(stages)} stages",
        verdict=verdict, sub=f"{inputs.press.name} at {hot[0].temperature_c:.0f} °C "
        f"({fahrenheit_of(hot[0].temperature_c or 0):.0f} °F) · pressure {shown}",
        findings=tuple(findings), drawing=StagesDrawing(stages=stages, cuts=inputs.cuts, turn=inputs.turn, shield=inputs.shield),
    )  # fmt: skip


def inspect(inputs: Inputs) -> StationResult:
    ledger = inputs.ledger
    ordered, good = sum(ledger.ordered.values()), sum(ledger.still_good.values())
    waiting = sum(ledger.to_inspect.values())
    state: State = "open"
    if inputs.is_closed or good >= ordered:
        state = "done"
    elif waiting:
        state = "needs you"
    verdict = "Nothing is complete yet" if ledger.pressed_sum() else "Nothing is pressed yet"
    if inputs.stands in ("held", "cancelled"):
        verdict = f"{inputs.stands.capitalize()}: {inputs.why}"
    elif inputs.is_closed:
        verdict = f"Closed: {good} of {ordered} good, written to the logbook"
    elif good >= ordered:
        verdict = f"All {ordered} are good: close the job to write it to the logbook"
    elif waiting:
        verdict = f"{_pieces(waiting)} for your eyes; {good} of {ordered} are good"
    elif good:
        left = sum(ledger.pieces_to_go.values())
        verdict = f"{good} of {ordered} are good, {left} still to press" + (
            f", {ledger.to_print} of them to print again" if ledger.to_print else ""
        )
    return StationResult(
        station="inspect", name="Inspect", state=state, telling=f"{good} of {ordered} good", verdict=verdict,
        sub="count what is good; say what spoiled, and at which stage",
        drawing=InspectDrawing(garment=inputs.garment),
    )  # fmt: skip


def _pieces(count: int) -> str:
    return "1 pressed piece waits" if count == 1 else f"{count} pressed pieces wait"
