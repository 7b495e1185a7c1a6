"""Prepare, Press and Inspect: what the hands do, from the recipe, and how far the ledger says they are."""

from offsetter.core.acts import Standing
from offsetter.core.compute.stack import stage_findings
from offsetter.core.facts import Oven, Press, Stage
from offsetter.core.ledger import Ledger
from offsetter.core.stations.result import GarmentDrawing, InspectDrawing, StagesDrawing, State, StationResult
from offsetter.core.units import fahrenheit_of
from offsetter.core.values import Finding, Frozen

VERSION = 4


class Inputs(Frozen):
    stages: tuple[Stage, ...]
    lay_out: tuple[str, ...]
    ledger: Ledger
    print: str
    """Whose pass over the press this is."""
    cuts: tuple[int, ...]
    press: Press
    oven: Oven | None
    garment: GarmentDrawing
    stands: Standing
    is_face_down: bool = True
    why: str = ""
    turn: str = ""
    shield: str = ""
    last: str = ""
    """The last stage of preparing that a printed transfer goes through; empty: none."""
    comes_first: str = ""
    """Why garments are prepared before they are printed."""
    medium: str = "transfer"
    belongs: tuple[Finding, ...] = ()
    """What looks like a fault and belongs to the picture."""

    @property
    def is_closed(self) -> bool:
        return self.stands == "closed"


def prepare(inputs: Inputs) -> StationResult:
    stages = tuple(s for s in inputs.stages if s.part == "prepare")
    lay_out = Finding(
        code="lay-out",
        severity="note",
        message="Lay out: " + ", ".join(inputs.lay_out),
        why="Before the printer starts.",
    )
    if not stages:
        return StationResult(
            station="prepare", name="Prepare", state="done" if inputs.ledger.printed else "ready", telling="nothing to do",
            verdict="Nothing is prepared between printing and pressing", sub="the printed sheets go straight to the press",
            findings=(lay_out,), drawing=StagesDrawing(stages=(), cuts=inputs.cuts, counts=inputs.medium),
        )  # fmt: skip
    if inputs.comes_first:
        return _prepare_garments(inputs, stages, lay_out)
    ledger, last = inputs.ledger, stages[-1]
    done = ledger.prepared(last.id)
    findings = [lay_out]
    # Powder holds on wet ink alone: what is printed and not powdered is urgent.
    wet = ledger.printed - ledger.prepared(stages[0].id) if stages[0].window_s else 0
    if wet > 0:
        findings.insert(0, Finding(code="wet", severity="caution", message=f"{wet} wet transfers wait for {stages[0].name.lower()}", why=stages[0].window))  # fmt: skip
    state: State = "open" if ledger.printed == 0 else "needs you" if done < ledger.printed else "done"
    finished = "cured" if last.hover else "prepared"
    verdict = _told(stages)
    if ledger.printed and done >= ledger.printed:
        verdict = f"All {done} transfers are {finished}"
    elif wet > 0:
        verdict = f"{wet} transfers are wet: {stages[0].name.lower()} them now"
    where = (
        inputs.oven.name
        if last.hover and last.alone and inputs.oven
        else inputs.press.name
        if last.hover
        else "by hand"
    )
    return StationResult(
        station="prepare", name="Prepare", state=state,
        telling=f"{done} of {ledger.printed} {finished}" if ledger.printed else ", ".join(s.name.lower() for s in stages[:2]),
        verdict=verdict, sub=f"{where} · {last.source}",
        findings=tuple(findings), drawing=StagesDrawing(stages=stages, cuts=inputs.cuts, counts="transfers"),
        waits_for="" if ledger.printed else "Nothing is printed yet; lay things out now.",
    )  # fmt: skip


def to_prepare(ledger: Ledger, stage: str) -> int:
    """Garments that still want a stage of preparing: what is ordered and what spoiled since, less what went through it."""
    spoiled = sum(ledger.spoiled_blanks.values()) + sum(ledger.spoiled_pieces.values())
    return max(0, sum(ledger.ordered.values()) + spoiled - ledger.prepared(stage))


def _prepare_garments(inputs: Inputs, stages: tuple[Stage, ...], lay_out: Finding) -> StationResult:
    """Before it is printed, a garment is made ready."""
    left = to_prepare(inputs.ledger, stages[-1].id)
    done = inputs.ledger.prepared(stages[-1].id)
    verdict = f"{left} garments to make ready before they are printed: {_told(stages)[0].lower()}{_told(stages)[1:]}"
    return StationResult(
        station="prepare", name="Prepare", state="needs you" if left else "done", telling=f"{done} ready to print",
        verdict=verdict if left else f"All {done} garments are ready to print", sub=f"before Print, because {inputs.comes_first}",
        findings=(lay_out,),
        drawing=StagesDrawing(stages=stages, cuts=(), counts="garments", comes_first=inputs.comes_first, to_prepare=left,
                              prepared={s.id: inputs.ledger.prepared(s.id) for s in stages}),
    )  # fmt: skip


def _told(stages: tuple[Stage, ...]) -> str:
    """The stages as one sentence, heat and time of the last hot one with them."""
    names = [s.name.lower() for s in stages]
    hot = next((s for s in reversed(stages) if s.temperature_c is not None), None)
    said = " then ".join(names)
    if hot is not None and hot.temperature_c is not None:
        time = f"{hot.time_s // 60} min {hot.time_s % 60:02d} s" if hot.time_s >= 60 else f"{hot.time_s} s"
        said += f", at {hot.temperature_c:.0f} °C ({fahrenheit_of(hot.temperature_c):.0f} °F) for {time}"
    if stages[0].window_s:
        said = f"{said}: each length while it is wet"
    return said[0].upper() + said[1:]


def press(inputs: Inputs) -> StationResult:
    stages = tuple(s for s in inputs.stages if s.part == "press")
    ledger = inputs.ledger
    pressed, left = ledger.pressed_sum(inputs.print), sum(ledger.to_press(inputs.print).values())
    ready = ledger.ready_to_press(inputs.print, inputs.last)
    hot = [s for s in stages if s.temperature_c is not None]
    findings = [Finding(
        code="read-back", severity="note", message=f"Read {inputs.press.name} back against the card before piece one",
        why="A press keeps the last job's heat, timer and height; set the height with a blank on it.",
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
        else ("Nothing is ready to press yet" if left else f"All {pressed} pieces are pressed")
    )
    known = next((s.temperature_c for s in hot), None)
    at = (
        f" at {known:.0f} °C ({fahrenheit_of(known):.0f} °F) · pressure {shown}"
        if known is not None
        else ": its heat is not known yet"
    )
    return StationResult(
        station="press", name="Press", state=state, telling=f"{pressed} pressed" if pressed else f"{len(stages)} stages",
        verdict=verdict, sub=f"{inputs.press.name}{at}",
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
        sub="count what is good; say what spoiled, and at which stage", findings=inputs.belongs,
        drawing=InspectDrawing(garment=inputs.garment),
    )  # fmt: skip


def _pieces(count: int) -> str:
    return "1 pressed piece waits" if count == 1 else f"{count} pressed pieces wait"
