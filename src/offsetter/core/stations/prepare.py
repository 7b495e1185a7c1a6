"""Prepare: what is done between printing and pressing, or to garments before they are printed."""

from offsetter.core.context import Context
from offsetter.core.facts import Oven, Press, Stage
from offsetter.core.ledger import Ledger
from offsetter.core.quantities import both_heats
from offsetter.core.results import StagesDrawing, State, StationResult
from offsetter.core.values import Finding, Frozen
from offsetter.core.wording import several

VERSION = 6


class Inputs(Frozen):
    stages: tuple[Stage, ...]
    lay_out: tuple[str, ...]
    ledger: Ledger
    cuts: tuple[int, ...]
    """Copies on each cut length."""
    press: Press
    oven: Oven | None
    comes_first: str = ""
    """Why garments are prepared before they are printed."""
    medium: str = "transfer"


def inputs(ctx: Context) -> Inputs:
    return Inputs(
        stages=ctx.stages_here, lay_out=ctx.recipe.lay_out, ledger=ctx.ledger, cuts=ctx.cuts, press=ctx.press, oven=ctx.oven,
        comes_first=ctx.method.prepares_first, medium=ctx.method.medium,
    )  # fmt: skip


def judge(inputs: Inputs) -> StationResult:
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
        findings.insert(0, Finding(code="wet", severity="caution", message=f"{several(wet, 'wet transfer')} {'waits' if wet == 1 else 'wait'} for {stages[0].name.lower()}", why=stages[0].window))  # fmt: skip
    state: State = "open" if ledger.printed == 0 else "needs you" if done < ledger.printed else "done"
    finished = "cured" if last.hover else "prepared"
    verdict = _told(stages)
    if ledger.printed and done >= ledger.printed:
        verdict = f"All {several(done, 'transfer', 'is')} {finished}" if done > 1 else f"The transfer is {finished}"
    elif wet > 0:
        verdict = f"{several(wet, 'transfer', 'is')} wet: {stages[0].name.lower()} {'it' if wet == 1 else 'them'} now"
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


def _prepare_garments(inputs: Inputs, stages: tuple[Stage, ...], lay_out: Finding) -> StationResult:
    """Before it is printed, a garment is made ready."""
    left = inputs.ledger.to_prepare(stages[-1].id)
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
        said += f", at {both_heats(hot.temperature_c)} for {time}"
    if stages[0].window_s:
        said = f"{said}: each length while it is wet"
    return said[0].upper() + said[1:]
