"""Prepare: what is done between printing and pressing, or to garments before they are printed."""

from offsetter.core.context import Context
from offsetter.core.facts import Oven, Press, Stage
from offsetter.core.ledger import Ledger
from offsetter.core.quantities import both_heats
from offsetter.core.results import StagesDrawing, State, StationResult
from offsetter.core.sentences import capitalised, lowered, say, say_many
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
        message=say("Lay out: ") + ", ".join(inputs.lay_out),
        why=say("Before the printer starts."),
    )
    if not stages:
        return StationResult(
            station="prepare", name="Prepare", state="done" if inputs.ledger.printed else "ready", telling=say("nothing to do"),
            verdict=say("Nothing is prepared between printing and pressing"), sub=say("the printed sheets go straight to the press"),
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
        findings.insert(0, Finding(code="wet", severity="caution", message=say_many(wet, "{count} wet transfer waits for {name}", "{count} wet transfers wait for {name}", name=stages[0].name.lower()), why=stages[0].window))  # fmt: skip
    state: State = "open" if ledger.printed == 0 else "needs you" if done < ledger.printed else "done"
    finished = say("cured") if last.hover else say("prepared")
    verdict = _told(stages)
    if ledger.printed and done >= ledger.printed:
        verdict = (
            say("All {counted} {finished}", counted=several(done, "transfer", "is"), finished=finished)
            if done > 1
            else say("The transfer is {finished}", finished=finished)
        )
    elif wet > 0:
        verdict = say_many(
            wet,
            "{count} transfer is wet: {name} it now",
            "{count} transfers are wet: {name} them now",
            name=stages[0].name.lower(),
        )
    where = (
        inputs.oven.name
        if last.hover and last.alone and inputs.oven
        else inputs.press.name
        if last.hover
        else say("by hand")
    )
    return StationResult(
        station="prepare", name="Prepare", state=state,
        telling=say("{done} of {printed} {finished}", done=done, printed=ledger.printed, finished=finished) if ledger.printed else ", ".join(s.name.lower() for s in stages[:2]),
        verdict=verdict, sub=f"{where} · {last.source}",
        findings=tuple(findings), drawing=StagesDrawing(stages=stages, cuts=inputs.cuts, counts="transfers"),
        waits_for="" if ledger.printed else say("Nothing is printed yet; lay things out now."),
    )  # fmt: skip


def _prepare_garments(inputs: Inputs, stages: tuple[Stage, ...], lay_out: Finding) -> StationResult:
    """Before it is printed, a garment is made ready."""
    left = inputs.ledger.to_prepare(stages[-1].id)
    done = inputs.ledger.prepared(stages[-1].id)
    verdict = say_many(
        left,
        "{count} garment to make ready before it is printed: {told}",
        "{count} garments to make ready before they are printed: {told}",
        told=lowered(_told(stages)),
    )
    return StationResult(
        station="prepare", name="Prepare", state="needs you" if left else "done", telling=say("{done} ready to print", done=done),
        verdict=verdict if left else say_many(done, "The garment is ready to print", "All {count} garments are ready to print"), sub=say("before Print, because {comes_first}", comes_first=inputs.comes_first),
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
        time = (
            say("{time_s} min {time2} s", time_s=hot.time_s // 60, time2=f"{hot.time_s % 60:02d}")
            if hot.time_s >= 60
            else f"{hot.time_s} s"
        )
        said += say(", at {temperature} for {time}", temperature=both_heats(hot.temperature_c), time=time)
    if stages[0].window_s:
        said = say("{said}: each length while it is wet", said=said)
    return capitalised(said)
